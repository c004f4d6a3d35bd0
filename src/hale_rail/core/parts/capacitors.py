"""What a capacitor is as marked, what was read of it, and what looks and age argue.

Source of every limit: `hale_rail.core.parts.families` and docs/formulas.md.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct, field

from hale_rail.core.parts import families as fam
from hale_rail.core.parts.families import Family, Grade, Limits
from hale_rail.core.parts.looks import BY_CODE
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.verdicts import AGE, Action, Reason, Verdict

VISUAL_CODES = ("none", "bulge", "leak", "crack", "craze", "burnt", "corroded")
DEFAULT_TOLERANCE = 0.2


class Capacitor(Struct, frozen=True):
    """A capacitor as marked: farads, volts (None: not known), tolerance as shares, year made.

    `fresh_farad` and `fresh_esr_ohm`: a data-sheet figure, or a fresh part on the same meter;
    `beside_ohm`: the least that the other capacitors of its node may show an ESR meter, None where
    it is alone; `bleeder_ohm`: a resistor in its own case.
    """

    family: Family
    farad: float
    volt: float | None = None
    tolerance: tuple[float, float] | None = None
    grade: Grade = Grade.GENERAL
    year: int | None = None
    fresh_farad: float | None = None
    fresh_esr_ohm: float | None = None
    beside_ohm: float | None = None
    bleeder_ohm: float | None = None

    @property
    def tolerance_low(self) -> float:
        """The share below nominal that the marking allows."""
        return self.tolerance[0] if self.tolerance else DEFAULT_TOLERANCE

    @property
    def tolerance_high(self) -> float:
        """The share above nominal that the marking allows."""
        return self.tolerance[1] if self.tolerance else DEFAULT_TOLERANCE

    @property
    def loss_limits(self) -> Limits:
        """Shares of its capacitance that it may have lost, lifted; a marking moves them."""
        marked = self.tolerance[0] if self.tolerance else None
        return fam.capacitance_limits(self.family, marked, self.farad)

    @property
    def floor_farad(self) -> float:
        """What a sound one reads at least; a marking tighter than the default counts as that."""
        default = fam.capacitance_limits(self.family, farad=self.farad).good
        return self.nominal_farad * (1 - max(self.tolerance_low, default))

    @property
    def nominal_farad(self) -> float:
        """Farads that a loss is counted from: a fresh part's, else as marked."""
        return self.fresh_farad or self.farad

    @property
    def excess_share(self) -> float:
        """Share above nominal from which leakage, not capacitance, is what a meter shows."""
        return self.tolerance[1] if self.tolerance else fam.excess_limit(self.family)

    @property
    def began_high(self) -> bool:
        """True for one marked far to the plus side: it began high, so ESR decides."""
        return bool(self.tolerance) and self.tolerance_high >= 2 * self.tolerance_low > 0

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


class Readings(Struct, frozen=True):
    """What was read of a part, the latest of each; None where it was not."""

    farad: MeasuredValue | None = None
    esr: MeasuredValue | None = None
    leak: MeasuredValue | None = None
    ohm: MeasuredValue | None = None
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


def ratio_verdict(ratio: float, limits: Limits) -> Verdict:
    """Good up to the first limit, worn up to the second, failed above."""
    if ratio <= limits.good:
        return Verdict.GOOD
    return Verdict.WORN if ratio <= limits.worn else Verdict.FAILED


def look(cap: Capacitor, readings: Readings) -> list[Reason]:
    """What the eye saw."""
    result = []
    for code in readings.seen:
        if code == "repaired":
            result.append(Reason("seen-repaired", "Seen: an earlier repair."))
            continue
        is_paper = cap.family is Family.SUPPRESSION_PAPER
        verdict = Verdict.FAILED if code == "craze" and is_paper else BY_CODE[code].argues
        word = {"leak": "leaking", "joint": "joint"}
        text = f"Seen: {word.get(code, BY_CODE[code].words)}."
        result.append(Reason(f"seen-{code}", text, verdict, "No reading makes up for that."))
    return result


def age(
    cap: Capacitor, reasons: Sequence[Reason], this_year: int, unit_year: int | None = None
) -> list[Reason]:
    """Paper suppressors past 25 years are replaced whatever they measure.

    One of unknown year is taken to be as old as its unit, and old where that is not known either.
    """
    if cap.family is not Family.SUPPRESSION_PAPER:
        return []
    made = cap.year or unit_year
    if made is not None and this_year - made <= fam.PAPER_YEARS:
        return []
    years = f"{this_year - made} years old" if made else "of unknown year"
    if made and not cap.year:
        years = f"of unknown year in a unit {years}"
    measured = any(r.argues in (Verdict.GOOD, Verdict.WORN) for r in reasons)
    return [
        Reason(
            AGE,
            f"Paper suppressor {years}: past {fam.PAPER_YEARS} they craze, take in moisture and "
            "fail on the mains, whatever they measure.",
            Verdict.WORN if measured else Verdict.UNPROVEN,
            action=Action.REPLACE,
        )
    ]
