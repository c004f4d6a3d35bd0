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


def is_short(taken: MeasuredValue) -> bool:
    """True for ohms below the limit of a short; leads can only make a reading higher."""
    return taken.value < SHORT_OHM


def may_be_short(taken: MeasuredValue) -> bool:
    """True for ohms that the leads and the meter's error may have lifted above that limit."""
    return not is_short(taken) and least_ohm(taken) < SHORT_OHM


def least_ohm(taken: MeasuredValue) -> float:
    """The least that the part itself may have: the reading less the error and unnulled leads."""
    leads = LEADS_OHM[1] if taken.value < LEADS_MATTER_OHM else 0.0
    return taken.value - taken.error(OHMS) - leads


def conducts_reason(taken: MeasuredValue, limit_ohm: float, open_hint: str = "") -> Reason:
    """A part in the power's way: at most `limit_ohm` (Ω) is good, OL failed.

    So is what reads a hundred times that: in circuit a path beside it can only lower a reading.
    """
    text = show(taken.value, Unit.OHM)
    if taken.beeps:
        change = "Its ohms would show a bad contact."
        return Reason("conducts", "It beeps: it conducts.", Verdict.GOOD, change)
    if taken.value <= limit_ohm:
        return Reason("conducts", f"{text}: conducts (below {limit_ohm:g} Ω).", Verdict.GOOD)
    if math.isinf(taken.value):
        return Reason("open", f"{text}: open.", Verdict.FAILED, open_hint)
    if taken.value > BESIDE * limit_ohm:
        said = f"{text}: open; only what stands beside it conducts."
        return Reason("open", said, Verdict.FAILED, open_hint)
    if least_ohm(taken) <= limit_ohm:
        said = f"{text}: above {limit_ohm:g} Ω by no more than the leads and the meter's error."
        return Reason("near-limit", said, Verdict.UNPROVEN, _NULL, Action.MEASURE)
    return Reason("high", f"{text}: above {limit_ohm:g} Ω.", Verdict.WORN, "Clean, read again.")


def no_short_reason(taken: MeasuredValue, where: str) -> Reason:
    """Ohms between pins that must not be shorted; `where` says which."""
    text = show(taken.value, Unit.OHM)
    if may_be_short(taken):
        said = f"{text} {where}: with 0.2 to 0.5 Ω of leads it may be below 1 Ω, a short."
        return Reason("maybe-short", said, Verdict.UNPROVEN, _NULL, Action.MEASURE)
    if not is_short(taken):
        said = f"{text} {where}: no short (below {SHORT_OHM:g} Ω is one)."
        return Reason("no-short", said)
    if taken.lifted:
        return Reason("shorted", f"{text} {where}, lifted: shorted.", Verdict.FAILED)
    said = f"{text} {where} in circuit, below 1 Ω: a short on this node, this part first suspect."
    return Reason("short-on-node", said, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def insulates_reason(taken: MeasuredValue) -> Reason:
    """A part that reads OL until something overruns it."""
    text = show(taken.value, Unit.OHM)
    if math.isinf(taken.value):
        return Reason("insulates", f"{text}: insulates below its rating.", Verdict.GOOD)
    if taken.lifted:
        return Reason("conducts", f"{text}, lifted: it conducts.", Verdict.FAILED)
    if is_short(taken):
        return no_short_reason(taken, "across it")
    said = f"{text} in circuit: a parallel path may do that."
    return Reason("parallel-path", said, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)


def band_reason(
    taken: MeasuredValue, low: float, high: float, above: Verdict, *, is_alone: bool = False
) -> Reason:
    """Ohms against a band; `above` is what an excess proves.

    In circuit a parallel path can only lower a reading, so one inside or below proves nothing,
    unless the part `is_alone` in its line. Within the meter's error of an edge it is unproven, or
    lifted the milder verdict.
    """
    text, error = show(taken.value, Unit.OHM), taken.error(OHMS)
    shown = f"{show(low, Unit.OHM)} to {show(high, Unit.OHM)}"
    if taken.is_rounded_over(OHMS, low, high):
        return rounded_reason(taken, OHMS, shown)
    if taken.value > high:
        if least_ohm(taken) > high:
            what = "open" if math.isinf(taken.value) else "drifted or open"
            change = "" if taken.lifted else "Lifted, it can only read more."
            return Reason("drifted", f"{text}: above {shown}, {what}.", above, change)
        return _at_edge(taken, f"{text}: above {shown} by no more than the meter's error.")
    if taken.value >= low:
        is_proof = taken.lifted or is_alone
        if is_proof and (taken.lifted or min(taken.value - low, high - taken.value) > error):
            return Reason("in-tolerance", f"{text}: within {shown}.", Verdict.GOOD)
        if is_proof:
            return _at_edge(taken, f"{text}: within {shown} by no more than the meter's error.")
        said = f"{text}: within {shown}, in circuit."
        return Reason("in-tolerance", said, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)
    if not taken.lifted:
        said = f"{text} in circuit: below {shown}, but a parallel path may do that."
        return Reason("parallel-path", said, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)
    if taken.value + error >= low:
        return _at_edge(taken, f"{text}: below {shown} by no more than the meter's error.")
    return Reason("drifted", f"{text}: below {shown}.", Verdict.FAILED)


def rounded_reason(taken: MeasuredValue, procedure: Procedure, wanted: str) -> Reason:
    """A reading of too few digits to tell on which side of a limit it lies."""
    half, unit = taken.rounding(procedure), procedure.unit
    ends = f"{show(taken.value - half, unit)} to {show(taken.value + half, unit)}"
    text = f"{show(taken.value, unit)} as typed is {ends}; wanted {wanted}."
    change = "Type the decimals that the meter shows."
    return Reason("rounded", text, Verdict.UNPROVEN, change, Action.MEASURE)


def _at_edge(taken: MeasuredValue, text: str) -> Reason:
    """At the edge of a band: lifted the milder verdict, in circuit none yet."""
    if taken.lifted:
        return Reason("near-limit", text, Verdict.GOOD)
    change = "A better meter would settle it."
    return Reason("near-limit", text, Verdict.UNPROVEN, change, Action.MEASURE)
