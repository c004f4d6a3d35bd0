"""Judges one capacitor from what was read, lifted or in circuit.

In circuit a reading is one-sided, since other parts stand in parallel: it can prove a loss, a high
ESR or a short on the node, but not health, unless the part stands alone on its node and its ESR is
in order. Source of every limit: `hale_rail.core.parts.families` and docs/formulas.md.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from hale_rail.core.parts import families as fam
from hale_rail.core.parts.families import Family, Grade, Limits
from hale_rail.core.parts.taken import Taken
from hale_rail.core.parts.verdicts import AGE, Action, Judgement, Reason, Verdict, conclude
from hale_rail.core.quantities import Unit, show, show_exact

VISUAL_CODES = ("none", "bulge", "leak", "crack", "craze", "burnt", "corroded")
DEFAULT_TOLERANCE = 0.2
#: an ESR below this share of typical is more likely a short than a splendid part
_SUSPICIOUSLY_LOW = 0.1


@dataclass(frozen=True)
class Capacitor:
    """A capacitor as marked: farads, volts (None: not known), tolerance as shares, year made.

    `fresh_farad` and `fresh_esr_ohm`: a data-sheet figure, or a fresh part on the same meter.
    """

    family: Family
    farad: float
    volt: float | None = None
    tolerance: tuple[float, float] | None = None
    grade: Grade = Grade.GENERAL
    year: int | None = None
    fresh_farad: float | None = None
    fresh_esr_ohm: float | None = None

    @property
    def tolerance_low(self) -> float:
        """The share below nominal that the marking allows."""
        return self.tolerance[0] if self.tolerance else DEFAULT_TOLERANCE

    @property
    def tolerance_high(self) -> float:
        """The share above nominal that the marking allows."""
        return self.tolerance[1] if self.tolerance else DEFAULT_TOLERANCE

    @property
    def esr_limits(self) -> Limits:
        """Multiples of the expected ESR: narrower where a fresh part was read."""
        return fam.ESR_FRESH if self.fresh_esr_ohm else fam.ESR_TYPICAL

    def expected_esr(self) -> fam.TypicalEsr | None:
        """ESR expected in ohms: a fresh part's figure, else its family's; None when not known."""
        if self.fresh_esr_ohm:
            return fam.TypicalEsr(self.fresh_esr_ohm, False)
        return fam.typical_esr(self.family, self.farad, self.volt, self.grade)

    @property
    def good_esr_ohm(self) -> float | None:
        """Ohms up to which its ESR is good: the expected one times its limit; None if not known."""
        expected = self.expected_esr()
        return self.esr_limits.good * expected.ohm if expected else None

    def began_farad(self) -> float:
        """Capacitance the part is taken to have begun with.

        A fresh part's figure; else nominal, raised by half the skew of an aluminium part's marked
        tolerance (one marked −10/+50 % began about 20 % high).
        """
        if self.fresh_farad:
            return self.fresh_farad
        if self.tolerance and self.family.is_wet:
            low, high = self.tolerance
            return self.farad * (1 + max(0.0, (high - low) / 2))
        return self.farad


@dataclass(frozen=True)
class Readings:
    """What was read of a part, the latest of each; None where it was not."""

    farad: Taken | None = None
    esr: Taken | None = None
    leak: Taken | None = None
    ohm: Taken | None = None
    visual: tuple[str, ...] = field(default=())

    @property
    def is_measured(self) -> bool:
        """True when a meter read it."""
        return bool(self.farad or self.esr or self.leak or self.ohm)

    @property
    def is_empty(self) -> bool:
        """True when nothing was read and nothing seen."""
        return not (self.is_measured or self.seen)

    @property
    def seen(self) -> tuple[str, ...]:
        """The findings' codes, without the one that says it looks sound."""
        return tuple(code for code in self.visual if code != "none")


def judge(
    cap: Capacitor,
    readings: Readings,
    this_year: int,
    esr_min_farad: float = fam.ESR_METER_MIN_F,
) -> Judgement:
    """Judge a capacitor that stands alone on its node, or is lifted.

    `esr_min_farad`: below this the meter's ESR reading is no reading.
    """
    reasons = [*look(cap, readings), *_ohm(readings), *_esr(cap, readings, esr_min_farad)]
    esr_or_leak_good = any(r.argues is Verdict.GOOD for r in reasons)
    leak = _leak(cap, readings)
    esr_or_leak_good |= any(r.argues is Verdict.GOOD for r in leak)
    reasons += [*leak, *_capacitance(cap, readings, esr_or_leak_good)]
    reasons += age(cap, reasons, this_year)
    if readings.is_empty:
        reasons.append(Reason("not-measured", "Nothing has been read yet."))
    typical = cap.expected_esr()
    esr_ohm = typical.ohm if typical else None
    return conclude(reasons, cap.fresh_farad or cap.farad, esr_ohm, cap.good_esr_ohm)


def ratio_verdict(ratio: float, limits: Limits) -> Verdict:
    """Good up to the first limit, worn up to the second, failed above."""
    if ratio <= limits.good:
        return Verdict.GOOD
    return Verdict.WORN if ratio <= limits.worn else Verdict.FAILED


def look(cap: Capacitor, readings: Readings) -> list[Reason]:
    """What the eye saw."""
    found = []
    for code in readings.seen:
        if code == "repaired":
            found.append(Reason("seen-repaired", "Seen: an earlier repair."))
            continue
        if code in ("bulge", "leak", "crack", "burnt") or (
            code == "craze" and cap.family is Family.SUPPRESSION_PAPER
        ):
            verdict = Verdict.FAILED
        else:
            verdict = Verdict.WORN
        word = {"bulge": "bulged", "leak": "leaking", "crack": "cracked", "craze": "crazed"}
        text = f"Seen: {word.get(code, code)}."
        found.append(Reason(f"seen-{code}", text, verdict, "No reading makes up for that."))
    return found


def age(cap: Capacitor, reasons: Sequence[Reason], this_year: int) -> list[Reason]:
    """Paper suppressors past 25 years are replaced whatever they measure."""
    years = this_year - cap.year if cap.year else None
    if cap.family is not Family.SUPPRESSION_PAPER or years is None or years <= fam.PAPER_YEARS:
        return []
    measured = any(r.argues in (Verdict.GOOD, Verdict.WORN) for r in reasons)
    return [
        Reason(
            AGE,
            f"Paper suppressor {years} years old: past {fam.PAPER_YEARS} they craze, take in "
            "moisture and fail on the mains, whatever they measure.",
            Verdict.WORN if measured else Verdict.UNPROVEN,
            action=Action.REPLACE,
        )
    ]


def _ohm(readings: Readings) -> list[Reason]:
    taken = readings.ohm
    if taken is None:
        return []
    text = show(taken.value, Unit.OHM)
    if taken.value < fam.SHORT_OHM and taken.lifted:
        said, change = (
            f"Lifted, it reads {text}: below 1 Ω, shorted.",
            "Ohms that climb would not be.",
        )
        return [Reason("shorted", said, Verdict.FAILED, change)]
    if taken.value < fam.SHORT_OHM:
        return [
            Reason(
                "short-on-node",
                f"{text} in circuit, below 1 Ω: a short on this node, perhaps not this part.",
                Verdict.UNPROVEN,
                "Lift one leg and read both sides again.",
                Action.LIFT,
            )
        ]
    where = "lifted" if taken.lifted else "in circuit"
    return [Reason("no-dead-short", f"{text} {where}: no dead short.")]


def _esr(cap: Capacitor, readings: Readings, esr_min_farad: float) -> list[Reason]:
    taken, typical = readings.esr, cap.expected_esr()
    if taken is None:
        return []
    if cap.farad < esr_min_farad and not cap.fresh_esr_ohm:
        text = f"Below {show(esr_min_farad, Unit.FARAD)} this meter's ESR reading is no reading."
        return [Reason("esr-below-range", text, change="Read its capacitance.")]
    if math.isinf(taken.value):
        text = "The ESR meter shows over-range: open, or dried right out."
        return [Reason("esr-open", text, Verdict.FAILED, "Its capacitance should be gone too.")]
    if typical is None:
        text = "No typical ESR is known for this part"
        text += "." if cap.volt or not cap.family.is_wet else " without its voltage."
        return [Reason("esr-no-figure", text, change="A fresh part's reading would give one.")]
    ratio = taken.value / typical.ohm
    verdict = ratio_verdict(ratio, cap.esr_limits)
    change = ""
    if verdict is not Verdict.GOOD and not cap.fresh_esr_ohm:
        change = "A fresh part of the same value, read on this meter, would settle it."
    reasons = [Reason(f"esr-{verdict.value}", esr_text(cap, taken, typical), verdict, change)]
    if ratio < _SUSPICIOUSLY_LOW and readings.ohm is None and readings.farad is None:
        text = (
            f"{show(taken.value, Unit.OHM)} is far below a new part; a short reads like that too."
        )
        reasons.append(Reason("esr-very-low", text, change="Its resistance tells."))
    if typical.clamped:
        text = "The table of typical ESR ends before this value; its last figure is used."
        reasons.append(Reason("esr-table-clamped", text))
    return reasons


def esr_text(cap: Capacitor, taken: Taken, typical: fam.TypicalEsr) -> str:
    """The sentence that compares an ESR with its expectation, thresholds named."""
    limits = cap.esr_limits
    what = "a fresh part's" if cap.fresh_esr_ohm else "a new part's typical"
    where = "lifted" if taken.lifted else "in circuit, alone on its node"
    return (
        f"ESR {show(taken.value, Unit.OHM)} {where}: {taken.value / typical.ohm:.2g} × {what} "
        f"{show(typical.ohm, Unit.OHM)} (good to {limits.good:g} ×, worn to {limits.worn:g} ×)."
    )


def _leak(cap: Capacitor, readings: Readings) -> list[Reason]:
    taken = readings.leak
    if taken is None:
        return []
    limit = fam.leakage_limit_a(cap.family, cap.farad, cap.volt) if cap.volt else None
    if limit is None:
        return [Reason("leak-no-limit", "No leakage limit is known for this part.")]
    text = f"Leakage {show(taken.value, Unit.AMPERE)} against {show(limit, Unit.AMPERE)} allowed"
    ratio = taken.value / limit
    if ratio <= 1:
        return [Reason("leak-good", f"{text}.", Verdict.GOOD)]
    if not taken.lifted:
        text += ", in circuit: the rest of the node leaks too."
        return [Reason("leak-in-circuit", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)]
    wait = "If it still falls, read again after two more minutes at rated voltage."
    if ratio <= fam.LEAK_WORN:
        return [Reason("leak-worn", f"{text}: up to 3 times is worn.", Verdict.WORN, wait)]
    if ratio <= fam.LEAK_REFORM:
        change = "Reform it through a resistor, then read again after two minutes."
        return [Reason("leak-reform", f"{text}: 3 to 10 times.", Verdict.UNPROVEN, change)]
    return [Reason("leak-failed", f"{text}: above 10 times.", Verdict.FAILED, wait)]


def _capacitance(cap: Capacitor, readings: Readings, otherwise_good: bool) -> list[Reason]:
    taken = readings.farad
    if taken is None:
        return []
    if math.isinf(taken.value):
        text = "The capacitance meter shows over-range: shorted, leaking, or too large for it."
        return [Reason("cap-over", text, Verdict.UNPROVEN, "Read its resistance.")]
    if not taken.lifted:
        return _capacitance_in_circuit(cap, taken)
    excess = taken.value / cap.farad - 1
    if excess > fam.excess_limit(cap.family):
        most = f"more than {100 * fam.excess_limit(cap.family):.0f} % above nominal"
        text = f"{_of_nominal(cap, taken)}: {most}, it may be leakage that reads."
        if otherwise_good:
            return [Reason("cap-high", text)]
        return [Reason("cap-high", text, Verdict.UNPROVEN, "Read leakage or ESR.")]
    began, limits = cap.began_farad(), fam.capacitance_limits(cap.family)
    loss = round(1 - taken.value / began, 9)
    verdict = ratio_verdict(loss, limits)
    text = f"{_of_nominal(cap, taken)}, lifted: "
    text += "no loss" if loss <= 0 else f"{100 * loss:.0f} % lost"
    if began != cap.farad:
        text += f" of the {show(began, Unit.FARAD)} it began with"
    text += f" (good to {100 * limits.good:.0f} %, worn to {100 * limits.worn:.0f} %)."
    change = "" if verdict is Verdict.GOOD else "Discharge it and read once more."
    return [Reason(f"cap-{verdict.value}", text, verdict, change)]


def _capacitance_in_circuit(cap: Capacitor, taken: Taken) -> list[Reason]:
    floor = cap.farad * (1 - cap.tolerance_low)
    if taken.value < floor:
        loss = 1 - taken.value / cap.farad
        worn = fam.capacitance_limits(cap.family).worn
        verdict = Verdict.FAILED if loss > worn or cap.tolerance_low >= worn else Verdict.WORN
        text = (
            f"{_of_nominal(cap, taken)} in circuit, below the {show(floor, Unit.FARAD)} its "
            "tolerance allows: neighbours can only add, so the loss is proven."
        )
        return [Reason("cap-lost", text, verdict, "Lifted, it can only read less.")]
    text = f"{_of_nominal(cap, taken)} in circuit: neighbours add and leakage reads high, so it "
    text += "proves nothing good."
    if cap.expected_esr():
        change, action = "Read its ESR, or lift one leg.", Action.MEASURE
    else:
        change, action = "Lift one leg.", Action.LIFT
    return [Reason("cap-in-circuit", text, change=change, action=action)]


def _of_nominal(cap: Capacitor, taken: Taken) -> str:
    share = 100 * taken.value / cap.farad
    return (
        f"{show(taken.value, Unit.FARAD, 4)}, {share:.0f} % of {show_exact(cap.farad, Unit.FARAD)}"
    )
