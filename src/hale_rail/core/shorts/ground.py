"""Rail to ground, cold: is it a short, and on which side of the connector.

Sources: docs/formulas.md, “Rail to ground”. Items in parallel add as conductances; low injection
below a silicon junction gives R = V/I.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, show

SHORT_OHM = 1.0
SUSPICIOUS_SHARE = 0.2
#: +5 V of a full logic board, attached
LOGIC_NORMAL_OHM = (5.0, 100.0)
#: isolated rails are expected at a kilohm or more when nothing else is known
ISOLATED_RULE_OHM = 1000.0
#: below this no silicon junction opens, so what conducts is copper
INJECT_PROOF_V = 0.5
#: the school that injects higher accepts that logic begins to draw a little
INJECT_SCHOOL_V = 1.3


class GroundVerdict(Enum):
    """What a resistance to ground says of a rail; the values are the states' words."""

    GOOD = "good"
    SUSPICIOUS = "suspicious"
    SHORT = "short"
    UNPROVEN = "unproven"


@dataclass(frozen=True)
class Expectation:
    """What a reading is held against, in ohms, and where that comes from, in words."""

    ohm: float
    source: str


@dataclass(frozen=True)
class GroundJudgement:
    """A verdict, the sentence that says why, and what the reading was held against."""

    verdict: GroundVerdict
    text: str
    expected: Expectation | None = None


def judge_ohm(
    ohm: float,
    attached: bool,
    nominal_v: float,
    record_ohm: float | None = None,
    sheet_ohm: float | None = None,
) -> GroundJudgement:
    """Judge a settled rail-to-ground reading in ohms (inf for OL).

    Against the same rail's record, else the sheet, else by rule: below 1 Ω short, below a fifth of
    expected suspicious, +5 V of a full logic board at 5–100 Ω attached normal.
    """
    expected = _expectation(attached, record_ohm, sheet_ohm)
    shown = show(ohm, Unit.OHM)
    if ohm < SHORT_OHM:
        return GroundJudgement(GroundVerdict.SHORT, f"{shown}: below 1 Ω, a short.", expected)
    if expected is None and 4.5 <= nominal_v <= 5.5:
        low, high = LOGIC_NORMAL_OHM
        normal = f"{low:g} to {high:g} Ω is normal for a full logic board"
        if ohm < low:
            return GroundJudgement(GroundVerdict.SUSPICIOUS, f"{shown}: {normal}.")
        return GroundJudgement(GroundVerdict.GOOD, f"{shown}: no short; {normal}.")
    if expected is None:
        text = f"{shown} with the boards attached: no record or sheet to hold it against."
        return GroundJudgement(GroundVerdict.UNPROVEN, text)
    beside = f"{show(expected.ohm, Unit.OHM)} by the {expected.source}"
    if ohm < SUSPICIOUS_SHARE * expected.ohm:
        text = f"{shown}: below a fifth of {beside}."
        return GroundJudgement(GroundVerdict.SUSPICIOUS, text, expected)
    text = f"{shown} against {beside}: no short."
    return GroundJudgement(GroundVerdict.GOOD, text, expected)


def _expectation(
    attached: bool, record_ohm: float | None, sheet_ohm: float | None
) -> Expectation | None:
    if record_ohm is not None and record_ohm > 0 and not math.isinf(record_ohm):
        return Expectation(record_ohm, "record of a like unit")
    if sheet_ohm is not None:
        return Expectation(sheet_ohm, "sheet")
    if not attached:
        return Expectation(ISOLATED_RULE_OHM, "rule for an isolated rail")
    return None


def polarity_text(normal_ohm: float, reversed_ohm: float) -> str:
    """What both polarities say together."""
    if normal_ohm < SHORT_OHM and reversed_ohm < SHORT_OHM:
        return "The same both ways: copper, or a part burnt through, not a junction."
    low, high = sorted((normal_ohm, reversed_ohm))
    if high > 3 * low:
        return "Lower one way: a junction conducts, as it should on most rails."
    return "Much the same both ways: resistive."


def removed_ohm(before_ohm: float, after_ohm: float) -> float:
    """Resistance of what was unplugged between two readings: G = 1/before − 1/after.

    inf when the readings cannot tell it from nothing. Raises InputError below 0 Ω.
    """
    if before_ohm < 0 or after_ohm < 0:
        raise InputError("A resistance to ground cannot be below 0 Ω.")
    if before_ohm == 0:
        return 0.0 if after_ohm > 0 else math.inf
    conductance = 1 / before_ohm - (0.0 if math.isinf(after_ohm) else 1 / after_ohm)
    return 1 / conductance if conductance > 1e-12 else math.inf


def which_side(isolated_ohm: float, attached_ohm: float) -> str:
    """Whether the short is in the supply or behind its connector."""
    if attached_ohm >= SHORT_OHM and isolated_ohm >= SHORT_OHM:
        return ""
    if isolated_ohm < SHORT_OHM:
        return "Short with the connector off: it is in the supply itself."
    behind = removed_ohm(attached_ohm, isolated_ohm)
    return (
        f"Gone with the connector off: what hangs behind it is {show(behind, Unit.OHM)}; "
        "the supply side is free of it."
    )


def judge_injection(volt: float, ampere: float) -> GroundJudgement:
    """Judge a low injection: R = V/I from a current-limited supply.

    Raises InputError for volts that would open junctions or a current of nothing.
    """
    if not 0 < volt <= INJECT_SCHOOL_V:
        raise InputError(
            f"Inject above 0 V and at most {INJECT_SCHOOL_V:g} V; {INJECT_PROOF_V:g} V proves."
        )
    if ampere < 0:
        raise InputError("The current cannot be negative: turn the leads round.")
    ohm = volt / ampere if ampere > 0 else math.inf
    shown = f"{show(volt, Unit.VOLT)} and {show(ampere, Unit.AMPERE)}: {show(ohm, Unit.OHM)}"
    if ohm < SHORT_OHM:
        return GroundJudgement(GroundVerdict.SHORT, f"{shown}, a short.")
    if volt <= INJECT_PROOF_V:
        return GroundJudgement(
            GroundVerdict.GOOD, f"{shown}, below what opens a junction: not a short."
        )
    return GroundJudgement(
        GroundVerdict.GOOD,
        f"{shown}: not a short; above {INJECT_PROOF_V:g} V junctions may add to the current.",
    )
