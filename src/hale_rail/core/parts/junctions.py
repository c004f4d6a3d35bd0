"""Judges semiconductor junctions from their drops both ways, in volts (inf for OL).

Source: docs/formulas.md, “Other parts”. In circuit a low reading proves only that the node is low.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from msgspec.structs import replace

from hale_rail.core.parts.conduction import rounded_reason
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.verdicts import Action, Reason, Verdict
from hale_rail.core.procedures import DIODE
from hale_rail.core.quantities import Unit, show
from hale_rail.core.targets import Pair

Band = tuple[float, float]
#: forward drop of a sound junction, volts
SILICON_V: Band = (0.35, 0.75)
BIPOLAR_V: Band = (0.45, 0.75)
BRIDGE_V: Band = (0.40, 0.75)
FAST_V: Band = (0.35, 0.65)
SCHOTTKY_V: Band = (0.12, 0.40)
LED_V: Band = (1.0, 1.3)
DARLINGTON_V: Band = (1.1, 1.4)
GERMANIUM_V: Band = (0.15, 0.35)
#: both ways below this is a short; where resistors stand inside, below the second
SHORT_V, SHORT_BESIDE_RESISTORS_V = 0.020, 0.010
#: from here on what conducts in reverse leaks, and is not a short
LEAK_V = 0.2
Ways = tuple[MeasuredValue | None, MeasuredValue | None]

UNREAD = Reason("unread", "Not read.")
#: the code of a junction that conducts the wrong way round
REVERSED = "reversed"


def is_junction_short(value: MeasuredValue | None, short_v: float = SHORT_V) -> bool:
    """True for a drop that only a short gives: below 20 mV, or what the kind says."""
    return value is not None and value.value < short_v


def short_reason(ways: Ways, short_v: float = SHORT_V) -> Reason | None:
    """A pair of pins that reads short: both ways below 20 mV, or the only way that was read."""
    read = [taken for taken in ways if taken is not None]
    if not read or not all(is_junction_short(taken, short_v) for taken in read):
        return None
    if all(taken.lifted for taken in read):
        return Reason("shorted", "Reads short, lifted: shorted.", Verdict.FAILED)
    text = "Reads short in circuit: a short on this pair of nodes, this part first suspect."
    return Reason("short-suspect", text, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def junction_reason(
    band: Band,
    forward: MeasuredValue | None,
    reverse: MeasuredValue | None,
    *,
    is_new: bool = False,
    short_v: float = SHORT_V,
) -> Reason:
    """What a junction's two readings say; argues nothing while one of them is missing.

    One that conducts the wrong way round is asked about, and has failed where the part `is_new`
    or the reading was taken again.
    """
    if forward is None and reverse is None:
        return UNREAD
    short = short_reason((forward, reverse), short_v)
    if short:
        return short
    if forward and reverse and math.isinf(forward.value):
        if math.isinf(reverse.value):
            return Reason("junction-open", "OL both ways: open.", Verdict.FAILED)
        return _wrong_way(reverse, is_new or (forward.again and reverse.again))
    if forward is None:
        return Reason("one-way", "Only the reversed way was read.", change="Turn the leads.")
    if reverse is not None and not math.isinf(reverse.value):
        return _both_ways(forward, reverse)
    low, high = band
    text = f"{show(forward.value, Unit.VOLT)} forward (sound: {low:g} to {high:g} V)"
    if reverse is None:
        return Reason("one-way", f"{text}, the other way not read.", change="Turn the leads.")
    return _one_way(band, forward, f"{text}, OL reversed.")


def _wrong_way(conducts: MeasuredValue, is_sure: bool) -> Reason:
    """A junction that blocks where it should conduct, and conducts where it should block."""
    text = f"OL in its conducting way, {show(conducts.value, Unit.VOLT)} in reverse"
    if is_sure:
        return Reason(REVERSED, f"{text}: reversed.", Verdict.FAILED, "Turn the part round.")
    change = "Leads turned? Read both ways again."
    return Reason(REVERSED, f"{text}.", Verdict.UNPROVEN, change, Action.MEASURE)


def _both_ways(forward: MeasuredValue, reverse: MeasuredValue) -> Reason:
    if forward.lifted and reverse.lifted:
        if reverse.value >= LEAK_V:
            text = f"{show(forward.value, Unit.VOLT)} forward and {show(reverse.value, Unit.VOLT)} "
            return Reason("both-ways", f"{text}in reverse, lifted: it leaks.", Verdict.FAILED)
        return Reason("both-ways", "Conducts both ways, lifted: shorted.", Verdict.FAILED)
    text = "Conducts both ways in circuit: a parallel path may do that."
    return Reason("both-ways", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)


def _one_way(band: Band, forward: MeasuredValue, text: str) -> Reason:
    low, high = band
    error = forward.error(DIODE)
    if forward.is_rounded_over(DIODE, low - error, high + error):
        return rounded_reason(forward, DIODE, f"{low:g} to {high:g} V")
    if low - error <= forward.value <= high + error:
        return Reason("junction", text, Verdict.GOOD)
    if forward.lifted and forward.value > high:
        return Reason("junction-high", text, Verdict.WORN, "A cracked joint reads like that.")
    if forward.lifted:
        change = "Read its type: a Schottky drops less."
        return Reason("junction-low", text, Verdict.UNPROVEN, change)
    return Reason("junction-off", text, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def blocking_reason(
    forward: MeasuredValue | None, reverse: MeasuredValue | None, damper: Band | None = None
) -> Reason:
    """A pair that blocks both ways; with `damper`, one drop one way is a diode inside."""
    if forward is None and reverse is None:
        return UNREAD
    short = short_reason((forward, reverse))
    if short:
        return short
    if forward is None or reverse is None:
        return Reason("one-way", "Only one way was read.", change="Turn the leads.")
    conducts = [t for t in (forward, reverse) if not math.isinf(t.value)]
    if not conducts:
        return Reason("blocks", "Blocks both ways.", Verdict.GOOD)
    if damper and len(conducts) == 1 and damper[0] <= conducts[0].value <= damper[1]:
        return Reason("damper", "One drop one way: a damper diode inside.", Verdict.GOOD)
    if all(t.lifted for t in conducts):
        return Reason("conducts", "Conducts, lifted: shorted.", Verdict.FAILED)
    text = "Conducts in circuit: a parallel path may do that."
    return Reason("conducts", text, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def pair_reasons(
    pairs: Sequence[Pair],
    readings: PartReadings,
    state: Callable[[Pair, PartReadings], Reason],
    all_sound: str,
) -> list[Reason]:
    """Each pair of pins by itself; the worst of them names the part's fault.

    `state` judges one pair; `all_sound` is said when every pair is.
    """
    reasons, sound, read = [], 0, 0
    for pair in pairs:
        read += any(readings.both_ways(DIODE, pair))
        reason = state(pair, readings)
        sound += reason.argues is Verdict.GOOD
        if reason.argues in (Verdict.FAILED, Verdict.WORN, Verdict.UNPROVEN):
            text = f"{pair.words}: {inside_a_sentence(reason.text)}"
            reasons.append(replace(reason, text=text, pair=pair))
    _ask_once(reasons)
    if sound == len(pairs):
        reasons.append(Reason("junctions", all_sound, Verdict.GOOD))
    elif read:
        reasons.append(Reason("junctions-read", f"{sound} of {len(pairs)} pairs read sound."))
    return reasons


def inside_a_sentence(text: str) -> str:
    """A sentence as it is now behind a colon; `OL` keeps its capitals."""
    return text if text[1:2].isupper() else text[:1].lower() + text[1:]


def _ask_once(reasons: list[Reason]) -> None:
    """One question about turned leads serves the whole part."""
    reversed_reasons = [r for r in reasons if r.code == REVERSED and r.argues is Verdict.UNPROVEN]
    for again in reversed_reasons[1:]:
        reasons[reasons.index(again)] = replace(again, change="")
