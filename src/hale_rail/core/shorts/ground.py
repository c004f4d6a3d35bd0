"""Rail to ground, cold: is it a short, and on which side of the connector.

Sources: docs/formulas.md, “Rail to ground”. Items in parallel add as conductances; low injection
below a silicon junction gives R = V/I. Ohms below 2 Ω may hold half an ohm of leads.
"""

from __future__ import annotations

import math
from enum import Enum

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import LEADS_OHM
from hale_rail.core.quantities import Unit, show

SHORT_OHM = 1.0
SUSPICIOUS_SHARE = 0.2
#: +5 V of a full logic board, attached
LOGIC_NORMAL_OHM = (5.0, 100.0)
#: the highest nominal volts of a rail that feeds logic
LOGIC_V = 5.5
#: an isolated rail reads kilohms; an ordinary bleeder of this many ohms is not a fault
BLEEDER_OHM = 100.0
#: injected below what opens a junction, less than this is copper or a leaky part
LEAKY_OHM = 5.0
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

    @property
    def shape(self) -> str:
        """The shape that it takes, by the code of a part's state."""
        return {"suspicious": "worn", "short": "failed"}.get(self.value, self.value)


class Expectation(Struct, frozen=True):
    """What a reading is held against, in ohms, and where that comes from, in words."""

    ohm: float
    source: str

    @property
    def words(self) -> str:
        """The figure with its source."""
        return f"{show(self.ohm, Unit.OHM)} by the {self.source}"


class GroundJudgement(Struct, frozen=True):
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
    load_max_a: float | None = None,
    *,
    is_ac: bool = False,
) -> GroundJudgement:
    """Judge a settled rail-to-ground reading in ohms (inf for OL).

    Below 1 Ω short. Against the same rail's record, else the sheet: below a fifth suspicious. By
    rule: attached below V/I_max suspicious, +5 V of a full logic board at 5–100 Ω normal, OL on a
    rail that feeds logic suspicious; isolated below an ordinary bleeder's 100 Ω suspicious.
    `is_ac`: a rail of alternating volts, to which a winding's own ohms lead.
    """
    expected = _expectation(record_ohm, sheet_ohm)
    shown = show(ohm, Unit.OHM)
    if is_ac and expected is None:
        text = f"{shown}: a transformer's winding reads few ohms by nature; the sheet would tell."
        return GroundJudgement(GroundVerdict.UNPROVEN, text)
    if ohm < SHORT_OHM:
        return GroundJudgement(GroundVerdict.SHORT, f"{shown}: below 1 Ω, a short.", expected)
    if ohm < SHORT_OHM + LEADS_OHM[1]:
        text = f"{shown}: with 0.2 to 0.5 Ω of leads perhaps a short. Null them and read again."
        return GroundJudgement(GroundVerdict.SUSPICIOUS, text, expected)
    is_logic = 0 < nominal_v <= LOGIC_V
    if math.isinf(ohm) and attached and is_logic:
        text = "OL with the boards attached, on a rail that feeds logic: open on the way to it."
        return GroundJudgement(GroundVerdict.SUSPICIOUS, text, expected)
    if expected is not None and ohm < SUSPICIOUS_SHARE * expected.ohm:
        text = f"{shown}: below a fifth of {expected.words}."
        return GroundJudgement(GroundVerdict.SUSPICIOUS, text, expected)
    if not attached:
        return _isolated(ohm, shown, expected)
    return _attached(ohm, shown, nominal_v, expected, load_max_a)


def _expectation(record_ohm: float | None, sheet_ohm: float | None) -> Expectation | None:
    if record_ohm is not None and record_ohm > 0 and not math.isinf(record_ohm):
        return Expectation(record_ohm, "record of a like unit")
    return Expectation(sheet_ohm, "sheet") if sheet_ohm is not None else None


def _isolated(ohm: float, shown: str, expected: Expectation | None) -> GroundJudgement:
    if expected is not None:
        text = f"{shown} against {expected.words}: no short."
        return GroundJudgement(GroundVerdict.GOOD, text, expected)
    rule = f"kilohms are usual, {BLEEDER_OHM:g} Ω and up may be its bleeder"
    if ohm < BLEEDER_OHM:
        return GroundJudgement(GroundVerdict.SUSPICIOUS, f"{shown} with the connector off: {rule}.")
    return GroundJudgement(GroundVerdict.GOOD, f"{shown}: no short; {rule}.")


def _attached(
    ohm: float,
    shown: str,
    nominal_v: float,
    expected: Expectation | None,
    load_max_a: float | None,
) -> GroundJudgement:
    least = abs(nominal_v) / load_max_a if load_max_a else None
    if least is not None and ohm < least and not (expected and expected.ohm <= least):
        text = f"{shown}: below the {show(least, Unit.OHM)} that draw all the rail can give "
        text += f"({show(load_max_a or 0.0, Unit.AMPERE)})."
        return GroundJudgement(GroundVerdict.SUSPICIOUS, text, expected)
    if expected is not None:
        text = f"{shown} against {expected.words}: no short."
        return GroundJudgement(GroundVerdict.GOOD, text, expected)
    if 4.5 <= nominal_v <= LOGIC_V:
        low, high = LOGIC_NORMAL_OHM
        normal = f"{low:g} to {high:g} Ω is normal for a full logic board"
        if ohm < low:
            return GroundJudgement(GroundVerdict.SUSPICIOUS, f"{shown}: {normal}.")
        return GroundJudgement(GroundVerdict.GOOD, f"{shown}: no short; {normal}.")
    if least is None:
        text = f"{shown} with the boards attached: no record or sheet to hold it against."
        return GroundJudgement(GroundVerdict.UNPROVEN, text)
    text = f"{shown}: no short; above the {show(least, Unit.OHM)} of its full load."
    return GroundJudgement(GroundVerdict.GOOD, text)


#: from the mildest to the hardest
_MILDEST = (
    GroundVerdict.GOOD,
    GroundVerdict.UNPROVEN,
    GroundVerdict.SUSPICIOUS,
    GroundVerdict.SHORT,
)


def both_ends(low: GroundJudgement, high: GroundJudgement, shown: str) -> GroundJudgement:
    """What is known of a rail whose reading jumps, or of which only a bound was read.

    `shown` is the reading in words. Where one end is free and the other is not, it is unproven; of
    two faults the milder holds.
    """
    milder, harder = sorted((low, high), key=lambda one: _MILDEST.index(one.verdict))
    if milder.verdict is harder.verdict or _MILDEST.index(milder.verdict) > 1:
        return GroundJudgement(milder.verdict, f"{shown}. {milder.text}", milder.expected)
    text = f"{shown}: free at one end, low at the other. Read the figure that the meter shows."
    return GroundJudgement(GroundVerdict.UNPROVEN, text, milder.expected)


def worse(usual: GroundJudgement, turned: GroundJudgement) -> GroundJudgement:
    """A rail read both ways round: a short the other way round is a short."""
    hard = (GroundVerdict.SHORT, GroundVerdict.SUSPICIOUS)
    is_worse = _MILDEST.index(turned.verdict) > _MILDEST.index(usual.verdict)
    if turned.verdict not in hard or not is_worse:
        return usual
    text = f"{usual.text} With the leads turned {turned.text}"
    return GroundJudgement(turned.verdict, text, usual.expected)


def polarity_text(normal_ohm: float, reversed_ohm: float) -> str:
    """What both polarities say together."""
    if normal_ohm < SHORT_OHM and reversed_ohm < SHORT_OHM:
        return "The same both ways: copper, or a part burnt through, not a junction."
    low, high = sorted((normal_ohm, reversed_ohm))
    if math.isinf(low):
        return "OL both ways: open, nothing hangs on it."
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


def which_side(
    isolated: tuple[float, GroundVerdict],
    attached: tuple[float, GroundVerdict],
    connector: str = "",
) -> str:
    """Whether what is low is in the supply or behind its connector, "" where neither is.

    Each side is its ohms and their verdict. Where both read low neither is free: the lower of the
    supply's own and of what hangs behind it is named.
    """
    low = (GroundVerdict.SHORT, GroundVerdict.SUSPICIOUS)
    behind_name = connector or "its connector"
    is_in, is_behind = isolated[1] in low, attached[1] in low
    behind = removed_ohm(attached[0], isolated[0])
    if math.isinf(attached[0]) or not (is_in or is_behind):
        return ""
    if is_in and is_behind and not math.isinf(behind):
        named = f"behind {behind_name}" if behind < isolated[0] else "the supply's own"
        return (
            f"Low on both sides, neither is free: {show(isolated[0], Unit.OHM)} with the connector "
            f"off, {show(behind, Unit.OHM)} behind it. The lower is {named}."
        )
    if is_in:
        what = "Short" if isolated[1] is GroundVerdict.SHORT else "Low"
        return f"{what} with the connector off: it is in the supply itself."
    return (
        f"Gone with the connector off: it hangs behind {behind_name}, {show(behind, Unit.OHM)}; "
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
    is_proof = volt <= INJECT_PROOF_V
    if ohm < SHORT_OHM:
        return GroundJudgement(GroundVerdict.SHORT, f"{shown}, a short.")
    if ohm < LEAKY_OHM and is_proof:
        text = f"{shown}: nothing of silicon conducts here, so copper or a leaky part does."
        return GroundJudgement(GroundVerdict.SUSPICIOUS, text)
    if ohm < LEAKY_OHM:
        text = f"{shown}: above {INJECT_PROOF_V:g} V junctions may add. Inject less, read again."
        return GroundJudgement(GroundVerdict.UNPROVEN, text)
    if is_proof:
        text = f"{shown}, below what opens a junction: not a short."
        return GroundJudgement(GroundVerdict.GOOD, text)
    text = f"{shown}: not a short; above {INJECT_PROOF_V:g} V junctions may add to the current."
    return GroundJudgement(GroundVerdict.GOOD, text)
