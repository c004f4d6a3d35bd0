"""Judges one capacitor from what was read, lifted or in circuit.

In circuit a reading is one-sided, since other parts stand in parallel: it can prove a loss, a high
ESR or a short on the node, but not health, unless the part is alone on its node and its ESR is
in order. A proof holds by more than the meter's error; a grade goes by its figure, and says so
where a limit lies inside the error. Source of every limit: `hale_rail.core.parts.families`.
"""

from __future__ import annotations

import math

from hale_rail.core.parts import families as fam
from hale_rail.core.parts.capacitors import Capacitor, Readings, age, look, ratio_verdict
from hale_rail.core.parts.conduction import is_short, may_be_short
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict, conclude
from hale_rail.core.procedures import CAPACITANCE, ESR, LEAKAGE, OHMS
from hale_rail.core.quantities import Unit, show, show_exact, times

#: share of a bleeder's ohms that a part with one inside reads at least
_BLEEDER_SHARE = 0.9
#: figures further apart than this rounding are told apart
_ROUNDING = 1e-9


def judge(
    cap: Capacitor,
    readings: Readings,
    this_year: int,
    esr_min_farad: float = fam.ESR_METER_MIN_F,
    unit_year: int | None = None,
) -> Judgement:
    """Judge a capacitor that is alone on its node, or is lifted.

    `esr_min_farad`: below this the meter's ESR reading is not a reading; `unit_year`: when the unit
    was made, for a part whose own year is not known.
    """
    reasons = [*look(cap, readings), *of_ohms(cap, readings)]
    reasons += [*of_esr(cap, readings, esr_min_farad), *of_leakage(cap, readings)]
    is_otherwise_good = any(r.argues is Verdict.GOOD for r in reasons)
    reasons += of_capacitance(cap, readings, is_otherwise_good)
    reasons += age(cap, reasons, this_year, unit_year)
    if readings.is_empty:
        reasons.append(Reason("not-measured", "Nothing has been read yet."))
    typical = cap.expected_esr()
    esr_ohm = typical.ohm if typical else None
    return conclude(reasons, cap.nominal_farad, esr_ohm, cap.good_esr_ohm)


def near_limit(value: float, error: float, limits: tuple[float, ...], what: str) -> list[Reason]:
    """Says that a limit lies inside the meter's error, where one does."""
    near = [limit for limit in limits if abs(value - limit) < error]
    if not near:
        return []
    text = f"A limit, {what} {near[0]:.3g}, lies inside the meter's error (±{error:.2g})."
    return [Reason("near-limit", text, change="A better meter would settle it.")]


def of_ohms(cap: Capacitor, readings: Readings) -> list[Reason]:
    """Ohms: a short, or lifted and settled a leakage reading."""
    value = readings.ohm
    if value is None:
        return []
    text = show(value.value, Unit.OHM)
    if is_short(value) and value.lifted:
        result = f"Lifted, it reads {text}: below 1 Ω, shorted."
        return [Reason("shorted", result, Verdict.FAILED, "Ohms that climb would not be.")]
    if is_short(value):
        result = f"{text} in circuit, below 1 Ω: a short on this node, perhaps not this part."
        change = "Lift one leg and read both sides again."
        return [Reason("short-on-node", result, Verdict.UNPROVEN, change, Action.LIFT)]
    where = "lifted" if value.lifted else "in circuit"
    if may_be_short(value) and not value.lifted:
        result = f"{text} {where}: with 0.2 to 0.5 Ω of leads it may be below 1 Ω, a short."
        return [Reason("maybe-short", result, Verdict.UNPROVEN, "Null the leads and read again.")]
    reasons = [Reason("no-dead-short", f"{text} {where}: no dead short.")]
    if value.lifted and not math.isinf(value.value):
        if cap.family.insulates:
            return _insulation(cap, value.value, f"{text} lifted")
        reasons += _by_resistance(cap, value)
    return reasons


def _insulation(cap: Capacitor, ohm: float, shown: str) -> list[Reason]:
    """Ohms of a lifted part whose family insulates: below 1 MΩ failed, below 10 MΩ worn."""
    if cap.bleeder_ohm and ohm >= _BLEEDER_SHARE * cap.bleeder_ohm:
        text = f"{shown}: no less than the {show(cap.bleeder_ohm, Unit.OHM)} in its case."
        return [Reason("own-bleeder", text)]
    limits = (
        f"{show(fam.INSULATION_FAILED_OHM, Unit.OHM)} failed, "
        f"{show(fam.INSULATION_WORN_OHM, Unit.OHM)} worn"
    )
    if ohm >= fam.INSULATION_WORN_OHM:
        return [Reason("insulates", f"{shown}: it insulates (below {limits}).")]
    verdict = Verdict.FAILED if ohm < fam.INSULATION_FAILED_OHM else Verdict.WORN
    text = f"{shown}: it leaks (below {limits})."
    return [Reason("insulation", text, verdict, "A part of this family insulates.")]


def _by_resistance(cap: Capacitor, value: MeasuredValue) -> list[Reason]:
    """DC ohms of a lifted part, settled: what leaks at its rated voltage, V/R."""
    volt = cap.volt or fam.LEAST_RATED_V
    leak = MeasuredValue(volt / value.value, True)
    error = leak.value * value.error(OHMS) / value.value
    how = f" by {show(value.value, Unit.OHM)} at {volt:g} V"
    return _leak_reasons(cap, leak, error, how)


def of_esr(cap: Capacitor, readings: Readings, esr_min_farad: float) -> list[Reason]:
    """ESR against a new part's, and what is too good to be true."""
    value, typical = readings.esr, cap.expected_esr()
    if value is None:
        return []
    if is_too_good(value, typical.ohm if typical else None) and not _is_no_short(readings):
        return [too_good(value, typical)]
    if cap.farad < esr_min_farad and not cap.fresh_esr_ohm:
        text = f"Below {show(esr_min_farad, Unit.FARAD)} this meter's ESR reading is not a reading."
        return [Reason("esr-below-range", text, change="Read its capacitance.")]
    if math.isinf(value.value):
        text = "The ESR meter shows over-range: open, or dried right out."
        return [Reason("esr-open", text, Verdict.FAILED, "Its capacitance should be gone too.")]
    if typical is None:
        text = "No typical ESR is known for this part."
        return [Reason("esr-no-figure", text, change="A fresh part's reading would give one.")]
    verdict = ratio_verdict(value.value / typical.ohm, cap.esr_limits)
    if verdict is Verdict.GOOD and not value.lifted and _may_be_hidden(cap, value, typical):
        return [_hidden(cap, value, typical), *_about_figure(typical)]
    change = ""
    if verdict is not Verdict.GOOD and not cap.fresh_esr_ohm:
        change = "A fresh part of the same value, read on this meter, would settle it."
    reasons = [Reason(f"esr-{verdict.value}", esr_text(cap, value, typical), verdict, change)]
    ratio, error = value.value / typical.ohm, value.error(ESR) / typical.ohm
    reasons += near_limit(ratio, error, (cap.esr_limits.good, cap.esr_limits.worn), "ratio")
    return reasons + _about_figure(typical)


def _may_be_hidden(cap: Capacitor, value: MeasuredValue, typical: fam.TypicalEsr) -> bool:
    """True where the other capacitors of the node could show this ESR with a worse part."""
    if cap.beside_ohm is None:
        return False
    own = 1 / value.value - 1 / cap.beside_ohm if value.value > 0 else math.inf
    return own * cap.esr_limits.good * typical.ohm < 1


def _hidden(cap: Capacitor, value: MeasuredValue, typical: fam.TypicalEsr) -> Reason:
    text = (
        f"ESR {show(value.value, Unit.OHM)} in circuit, {times(value.value / typical.ohm)} × a new "
        f"part's typical {show(typical.ohm, Unit.OHM)}; but other capacitors stand on its node, "
        f"down to {show(cap.beside_ohm or 0.0, Unit.OHM)} together, and may hide it."
    )
    return Reason("esr-hidden", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)


def is_too_good(value: MeasuredValue, typical_ohm: float | None) -> bool:
    """ESR below a tenth of a new part's, or that cannot be told from the leads."""
    if value.value <= value.error(ESR):
        return True
    return typical_ohm is not None and value.value < fam.TOO_GOOD_SHARE * typical_ohm


def _is_no_short(readings: Readings) -> bool:
    """True when ohms were read that no short shows."""
    value = readings.ohm
    return value is not None and not is_short(value) and not may_be_short(value)


def too_good(value: MeasuredValue, typical: fam.TypicalEsr | None) -> Reason:
    """The doubt about an ESR that only a shorted or bypassed part shows."""
    against = f", below a tenth of a new part's {show(typical.ohm, Unit.OHM)}" if typical else ""
    if value.value <= value.error(ESR):
        against = ", no more than the leads"
    text = f"ESR {show(value.value, Unit.OHM)}{against}: a shorted or bypassed part shows that too."
    return Reason("esr-too-good", text, Verdict.UNPROVEN, "Read its ohms.", Action.MEASURE)


def _about_figure(typical: fam.TypicalEsr) -> list[Reason]:
    """What the expected figure rests on."""
    about_figure = []
    if typical.assumed_v:
        text = (
            f"Its rating is not known: held against {typical.assumed_v:g} V, the worst plausible."
        )
        about_figure.append(Reason("esr-rating-assumed", text))
    if typical.clamped:
        text = "The table of typical ESR ends before this value; its last figure is used."
        about_figure.append(Reason("esr-table-clamped", text))
    return about_figure


def esr_text(cap: Capacitor, value: MeasuredValue, typical: fam.TypicalEsr) -> str:
    """The sentence that compares an ESR with its expectation, thresholds named."""
    limits = cap.esr_limits
    what = "a fresh part's" if cap.fresh_esr_ohm else "a new part's typical"
    beside = "alone on its node" if cap.beside_ohm is None else "its neighbours allowed for"
    where = "lifted" if value.lifted else f"in circuit, {beside}"
    return (
        f"ESR {show(value.value, Unit.OHM)} {where}: {times(value.value / typical.ohm)} × {what} "
        f"{show(typical.ohm, Unit.OHM)} (good to {limits.good:g} ×, worn to {limits.worn:g} ×)."
    )


def of_leakage(cap: Capacitor, readings: Readings) -> list[Reason]:
    """Leakage against what is allowed after two minutes at rated voltage."""
    if readings.leak is None:
        return []
    return _leak_reasons(cap, readings.leak, readings.leak.error(LEAKAGE))


def _leak_reasons(
    cap: Capacitor, value: MeasuredValue, error: float, how: str = ""
) -> list[Reason]:
    volt = cap.volt or fam.LEAST_RATED_V
    limit = fam.leakage_limit_a(cap.family, cap.farad, volt)
    if limit is None:
        return _leak_as_ohms(cap, value)
    text = f"Leakage {show(value.value, Unit.AMPERE)}{how} against "
    text += f"{show(limit, Unit.AMPERE)} allowed"
    ratio = value.value / limit
    if ratio > 1 and not value.lifted:
        text += ", in circuit: the rest of the node leaks too."
        return [Reason("leak-in-circuit", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)]
    wait, reform = _leak_advice(cap, value.value)
    grades = (
        (1.0, "good", Verdict.GOOD, ".", ""),
        (fam.LEAK_WORN, "worn", Verdict.WORN, ": up to 3 times is worn.", wait),
        (fam.LEAK_REFORM, "reform", Verdict.WORN, ": 3 to 10 times.", reform),
        (math.inf, "failed", Verdict.FAILED, ": above 10 times.", wait),
    )
    _, code, verdict, leak_reasons, change = next(g for g in grades if ratio <= g[0])
    reasons = [Reason(f"leak-{code}", f"{text}{leak_reasons}", verdict, change)]
    limits = (1.0, fam.LEAK_WORN, fam.LEAK_REFORM)
    return reasons + near_limit(ratio, error / limit, limits, "multiple")


def _leak_advice(cap: Capacitor, leak_a: float) -> tuple[str, str]:
    """What to do about a leak: of one that may still fall, and of three to ten times the limit.

    Only wet aluminium reforms, and nothing that draws more than 10 mA is left on its voltage.
    """
    if leak_a > fam.MOST_LEFT_ON_A:
        text = "Replace it; above 10 mA nothing is left on its rated voltage."
        return text, text
    if not cap.family.is_wet:
        return "Replace it: only wet aluminium reforms.", "Replace it: only wet aluminium reforms."
    wait = "If it still falls, read again after two more minutes at rated voltage."
    reform = "Replace it, or reform it through a resistor that limits to milliamperes and read "
    return wait, f"{reform}again after two minutes."


def _leak_as_ohms(cap: Capacitor, value: MeasuredValue) -> list[Reason]:
    """The leakage of a part that should insulate, as the ohms it is at the rated voltage."""
    shown = f"Leakage {show(value.value, Unit.AMPERE)}"
    if not cap.volt or value.value <= 0 or math.isinf(value.value):
        return [Reason("leak-no-limit", f"{shown}: no rated voltage to hold it against.")]
    ohm = cap.volt / value.value
    shown += f" at {cap.volt:g} V is {show(ohm, Unit.OHM)}"
    if value.lifted:
        return _insulation(cap, ohm, shown)
    if ohm >= fam.INSULATION_WORN_OHM:
        return [Reason("insulates", f"{shown} in circuit: it insulates.")]
    text = f"{shown} in circuit: the rest of the node leaks too."
    return [Reason("leak-in-circuit", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)]


def of_capacitance(cap: Capacitor, readings: Readings, is_otherwise_good: bool) -> list[Reason]:
    """Capacitance: lifted a grade, in circuit a proof of loss and nothing else."""
    value = readings.farad
    if value is None:
        return []
    if math.isinf(value.value):
        text = "The capacitance meter shows over-range: shorted, leaking, or too large for it."
        return [Reason("cap-over", text, Verdict.UNPROVEN, "Read its resistance.")]
    if not value.lifted:
        return _in_circuit(cap, value)
    error, most = value.error(CAPACITANCE), cap.farad * (1 + cap.excess_share)
    if value.value - error > most:
        text = f"{_of_nominal(cap, value)}: above {show(most, Unit.FARAD)} by more than the "
        text += "meter's error, it may be leakage that reads."
        if is_otherwise_good:
            return [Reason("cap-high", text)]
        return [Reason("cap-high", text, Verdict.UNPROVEN, "Read leakage or ESR.")]
    return _lifted(cap, value, error, has_esr=readings.esr is not None)


def _lifted(cap: Capacitor, value: MeasuredValue, error: float, *, has_esr: bool) -> list[Reason]:
    nominal, limits = cap.nominal_farad, cap.loss_limits
    loss = round(1 - value.value / nominal, 9)
    verdict = ratio_verdict(loss, limits)
    text = f"{_of_nominal(cap, value)}, lifted: "
    text += "no loss" if loss <= 0 else f"{loss_text(loss, limits)} lost"
    text += f" (good to {100 * limits.good:.0f} %, worn to {100 * limits.worn:.0f} %)."
    change = "" if verdict is Verdict.GOOD else "Discharge it and read once more."
    reasons = [Reason(f"cap-{verdict.value}", text, verdict, change)]
    reasons += _near_loss(loss, error / nominal, limits)
    if verdict is Verdict.GOOD and cap.began_high:
        high = f"−{100 * cap.tolerance_low:.0f}/+{100 * cap.tolerance_high:.0f} %"
        text = f"Marked {high}, it began high, so it may have lost more than shows: ESR decides."
        reasons.append(Reason("began-high", text, change="" if has_esr else "Read its ESR."))
    return reasons


def loss_text(loss: float, limits: fam.Limits) -> str:
    """A loss in per cent, with the digits that tell it from a limit that it is not."""
    for decimals in range(4):
        shown = f"{100 * loss:.{decimals}f}"
        others = (f"{100 * limit:.{decimals}f}" for limit in (limits.good, limits.worn))
        if shown not in others:
            break
    is_at = any(abs(loss - limit) < _ROUNDING for limit in (limits.good, limits.worn))
    return f"{100 * loss:.0f} %" if is_at else f"{shown} %"


def _near_loss(loss: float, error: float, limits: fam.Limits) -> list[Reason]:
    """Says that a limit of loss lies inside the meter's error, where one does."""
    near = [limit for limit in (limits.good, limits.worn) if abs(loss - limit) < error]
    if not near:
        return []
    text = f"A limit, {100 * near[0]:.3g} % lost, lies inside the meter's error "
    text += f"(±{100 * error:.2g} %)."
    return [Reason("near-limit", text, change="A better meter would settle it.")]


def _in_circuit(cap: Capacitor, value: MeasuredValue) -> list[Reason]:
    floor = cap.floor_farad
    error = value.error(CAPACITANCE) + value.rounding(CAPACITANCE)
    if value.value + error < floor * (1 - _ROUNDING):
        loss = 1 - value.value / cap.nominal_farad
        verdict = Verdict.FAILED if loss > cap.loss_limits.worn else Verdict.WORN
        text = (
            f"{_of_nominal(cap, value)} in circuit, below the {show(floor, Unit.FARAD)} its "
            "tolerance allows by more than the meter's error: neighbours can only add, so the loss "
            "is proven."
        )
        return [Reason("cap-lost", text, verdict, "Lifted, it can only read less.")]
    if value.value < floor:
        text = f"{_of_nominal(cap, value)} in circuit, below the {show(floor, Unit.FARAD)} its "
        text += "tolerance allows, but by no more than the meter's error: no loss is proven yet."
        proof = f"Below {show(floor - error, Unit.FARAD)} would prove it; or lift one leg."
        return [Reason("cap-near-floor", text, Verdict.UNPROVEN, proof, Action.LIFT)]
    text = f"{_of_nominal(cap, value)} in circuit: neighbours add and leakage reads high, so it "
    text += "proves nothing good."
    if cap.expected_esr():
        change, action = "Read its ESR, or lift one leg.", Action.MEASURE
    else:
        change, action = "Lift one leg.", Action.LIFT
    return [Reason("cap-in-circuit", text, change=change, action=action)]


def _of_nominal(cap: Capacitor, value: MeasuredValue) -> str:
    share = 100 * value.value / cap.farad
    return (
        f"{show(value.value, Unit.FARAD, 4)}, {share:.0f} % of {show_exact(cap.farad, Unit.FARAD)}"
    )
