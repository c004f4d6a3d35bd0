"""Judges parts by their ohms: what should conduct, what should hold a value, what should not short.

Source: docs/formulas.md, “Other parts”. In circuit a low reading proves only that the node is low.
A band holds by more than the meter's error; below 2 Ω the leads add 0.2 to 0.5 Ω, unless nulled.
"""

from __future__ import annotations

import math

from hale_rail.core.parts.families import LEADS_MATTER_OHM, LEADS_OHM, SHORT_OHM
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.verdicts import Action, Reason, Verdict
from hale_rail.core.procedures import OHMS, Procedure
from hale_rail.core.quantities import Unit, show

#: times its limit from which a part in the way is open: what is read goes round it
BESIDE = 100.0
_NULL = "Null the leads and read again."


def is_short(value: MeasuredValue) -> bool:
    """True for ohms below the limit of a short; leads can only make a reading higher."""
    return value.value < SHORT_OHM


def may_be_short(value: MeasuredValue) -> bool:
    """True for ohms that the leads and the meter's error may have lifted above that limit."""
    return not is_short(value) and least_ohm(value) < SHORT_OHM


def least_ohm(value: MeasuredValue) -> float:
    """The least that the part itself may have: the reading less the error and unnulled leads."""
    leads = LEADS_OHM[1] if value.value < LEADS_MATTER_OHM else 0.0
    return value.value - value.error(OHMS) - leads


def conducts_reason(value: MeasuredValue, limit_ohm: float, open_hint: str = "") -> Reason:
    """A part in the power's way: at most `limit_ohm` (Ω) is good, OL failed.

    So is what reads a hundred times that: in circuit a path beside it can only lower a reading.
    """
    text = show(value.value, Unit.OHM)
    if value.beeps:
        change = "Its ohms would show a bad contact."
        return Reason("conducts", "It beeps: it conducts.", Verdict.GOOD, change)
    if value.value <= limit_ohm:
        return Reason("conducts", f"{text}: conducts (below {limit_ohm:g} Ω).", Verdict.GOOD)
    if math.isinf(value.value):
        return Reason("open", f"{text}: open.", Verdict.FAILED, open_hint)
    if value.value > BESIDE * limit_ohm:
        conducts_reason = f"{text}: open; only what stands beside it conducts."
        return Reason("open", conducts_reason, Verdict.FAILED, open_hint)
    if least_ohm(value) <= limit_ohm:
        conducts_reason = (
            f"{text}: above {limit_ohm:g} Ω by no more than the leads and the meter's error."
        )
        return Reason("near-limit", conducts_reason, Verdict.UNPROVEN, _NULL, Action.MEASURE)
    return Reason("high", f"{text}: above {limit_ohm:g} Ω.", Verdict.WORN, "Clean, read again.")


def no_short_reason(value: MeasuredValue, where: str) -> Reason:
    """Ohms between pins that must not be shorted; `where` says which."""
    text = show(value.value, Unit.OHM)
    if may_be_short(value):
        no_short_reason = (
            f"{text} {where}: with 0.2 to 0.5 Ω of leads it may be below 1 Ω, a short."
        )
        return Reason("maybe-short", no_short_reason, Verdict.UNPROVEN, _NULL, Action.MEASURE)
    if not is_short(value):
        no_short_reason = f"{text} {where}: no short (below {SHORT_OHM:g} Ω is one)."
        return Reason("no-short", no_short_reason)
    if value.lifted:
        return Reason("shorted", f"{text} {where}, lifted: shorted.", Verdict.FAILED)
    no_short_reason = (
        f"{text} {where} in circuit, below 1 Ω: a short on this node, this part first suspect."
    )
    return Reason("short-on-node", no_short_reason, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def insulates_reason(value: MeasuredValue) -> Reason:
    """A part that reads OL until something overruns it."""
    text = show(value.value, Unit.OHM)
    if math.isinf(value.value):
        return Reason("insulates", f"{text}: insulates below its rating.", Verdict.GOOD)
    if value.lifted:
        return Reason("conducts", f"{text}, lifted: it conducts.", Verdict.FAILED)
    if is_short(value):
        return no_short_reason(value, "across it")
    insulates_reason = f"{text} in circuit: a parallel path may do that."
    return Reason("parallel-path", insulates_reason, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)


def band_reason(
    value: MeasuredValue, low: float, high: float, above: Verdict, *, is_alone: bool = False
) -> Reason:
    """Ohms against a band; `above` is what an excess proves.

    In circuit a parallel path can only lower a reading, so one inside or below proves nothing,
    unless the part `is_alone` in its line. Within the meter's error of an edge it is unproven, or
    lifted the milder verdict.
    """
    text, error = show(value.value, Unit.OHM), value.error(OHMS)
    shown = f"{show(low, Unit.OHM)} to {show(high, Unit.OHM)}"
    if value.is_rounded_over(OHMS, low, high):
        return rounded_reason(value, OHMS, shown)
    if value.value > high:
        if least_ohm(value) > high:
            what = "open" if math.isinf(value.value) else "drifted or open"
            change = "" if value.lifted else "Lifted, it can only read more."
            return Reason("drifted", f"{text}: above {shown}, {what}.", above, change)
        return _at_edge(value, f"{text}: above {shown} by no more than the meter's error.")
    if value.value >= low:
        is_proof = value.lifted or is_alone
        if is_proof and (value.lifted or min(value.value - low, high - value.value) > error):
            return Reason("in-tolerance", f"{text}: within {shown}.", Verdict.GOOD)
        if is_proof:
            return _at_edge(value, f"{text}: within {shown} by no more than the meter's error.")
        band_reason = f"{text}: within {shown}, in circuit."
        return Reason("in-tolerance", band_reason, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)
    if not value.lifted:
        band_reason = f"{text} in circuit: below {shown}, but a parallel path may do that."
        return Reason("parallel-path", band_reason, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)
    if value.value + error >= low:
        return _at_edge(value, f"{text}: below {shown} by no more than the meter's error.")
    return Reason("drifted", f"{text}: below {shown}.", Verdict.FAILED)


def rounded_reason(value: MeasuredValue, procedure: Procedure, wanted: str) -> Reason:
    """A reading of too few digits to tell on which side of a limit it lies."""
    half, unit = value.rounding(procedure), procedure.unit
    ends = f"{show(value.value - half, unit)} to {show(value.value + half, unit)}"
    text = f"{show(value.value, unit)} as typed is {ends}; wanted {wanted}."
    change = "Type the decimals that the meter shows."
    return Reason("rounded", text, Verdict.UNPROVEN, change, Action.MEASURE)


def _at_edge(value: MeasuredValue, text: str) -> Reason:
    """At the edge of a band: lifted the milder verdict, in circuit none yet."""
    if value.lifted:
        return Reason("near-limit", text, Verdict.GOOD)
    change = "A better meter would settle it."
    return Reason("near-limit", text, Verdict.UNPROVEN, change, Action.MEASURE)
