"""Bipolar transistor: two junctions, C–E blocking; a resistor inside told from a short by ohms."""

from __future__ import annotations

import math

from hale_rail.core.parts.junctions import (
    BIPOLAR_V,
    DARLINGTON_V,
    GERMANIUM_V,
    SHORT_BESIDE_RESISTORS_V,
    SHORT_V,
    SILICON_V,
    Band,
    blocking_reason,
    junction_reason,
)
from hale_rail.core.parts.kinds.common import (
    NOT_SHORT,
    SEMICONDUCTOR,
    advising,
    junction_asks,
    looking_for,
)
from hale_rail.core.parts.kinds.pairs import by_pairs, pair_ohms
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import RATED_TYPE
from hale_rail.core.parts.verdicts import Reason, Verdict
from hale_rail.core.procedures import DIODE, OHMS, Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.targets import Pair

BASE, COLLECTOR, ACROSS = Pair("B", "E"), Pair("B", "C"), Pair("C", "E")
PAIRS = (BASE, COLLECTOR, ACROSS)
#: ohms of a resistor inside across base and emitter, and of those inside a Darlington
BASE_OHM, DARLINGTON_OHM = (20.0, 60.0), (20.0, 500.0)
#: the code of the question that only ohms across B–E answer
BASE_OPEN_QUESTION = "base-both-ways"


def band(part: Part, pair: Pair) -> Band:
    """The drop of a sound junction, by what the sheet says the part is made of."""
    material = getattr(part.marking, "material", "")
    if material == "germanium":
        return GERMANIUM_V
    return DARLINGTON_V if material == "darlington" and pair == BASE else BIPOLAR_V


def state(part: Part, pair: Pair, readings: PartReadings) -> Reason:
    """What one pair's readings say."""
    ways = readings.both_ways(DIODE, pair)
    way = polarity(readings)
    if pair == ACROSS:
        return blocking_reason(*ways, damper=_damper(way, *ways))
    short_v = SHORT_BESIDE_RESISTORS_V if _is_darlington(part) else SHORT_V
    if way == "PNP":
        ways = (ways[1], ways[0])
    reason = junction_reason(band(part, pair), *ways, is_new=readings.is_new, short_v=short_v)
    if pair == BASE and reason.code == "both-ways":
        return _base(part, reason, readings)
    return reason


def _damper(way: str, forward: MeasuredValue | None, reverse: MeasuredValue | None) -> Band | None:
    """The drop of a damper diode inside, where what conducts is the way that a damper does."""
    against = {"NPN": forward, "PNP": reverse}.get(way)
    is_against = against is not None and not math.isinf(against.value)
    return None if is_against else SILICON_V


def _is_darlington(part: Part) -> bool:
    return getattr(part.marking, "material", "") == "darlington"


def polarity(readings: PartReadings) -> str:
    """NPN or PNP where every junction that was read both ways agrees on it, else ""."""
    ways = [_way(*readings.both_ways(DIODE, pair)) for pair in (BASE, COLLECTOR)]
    told = {way for way in ways if way}
    return told.pop() if len(told) == 1 else ""


def _way(forward: MeasuredValue | None, reverse: MeasuredValue | None) -> str:
    """The polarity that one junction tells, where it conducts one way alone."""
    if forward is None or reverse is None:
        return ""
    is_forward, is_reverse = not math.isinf(forward.value), not math.isinf(reverse.value)
    if is_forward == is_reverse:
        return ""
    return "NPN" if is_forward else "PNP"


def _base(part: Part, both_ways: Reason, readings: PartReadings) -> Reason:
    """Base and emitter that conduct both ways: a resistor inside, or a short."""
    ohm = readings.get(OHMS, BASE)
    if ohm is None:
        if both_ways.argues is not Verdict.FAILED:
            return both_ways
        return Reason(
            BASE_OPEN_QUESTION, "Conducts both ways, lifted: a resistor inside, or a short.",
            Verdict.UNPROVEN, f"Read {BASE.words} in ohms.",
        )  # fmt: skip
    if not ohm.lifted:
        return both_ways
    text = f"{show(ohm.value, Unit.OHM)} both ways"
    low, high = base_ohm(part)
    if low <= ohm.value <= high:
        return Reason("base-resistor", f"{text}: a resistor inside.", Verdict.GOOD)
    return Reason("both-ways", f"{text}, lifted: shorted or leaking.", Verdict.FAILED)


def base_ohm(part: Part) -> tuple[float, float]:
    """Ohms between which a resistor inside lies."""
    return DARLINGTON_OHM if _is_darlington(part) else BASE_OHM


def expect(part: Part, ask: Ask, _: Condition) -> str:
    """One drop one way; C–E blocks, or shows a damper's drop."""
    if ask.procedure is OHMS:
        low, high = base_ohm(part)
        return f"{low:g} to {high:g} Ω with a resistor inside" if ask.pair == BASE else NOT_SHORT
    if ask.pair in (ACROSS, ACROSS.turned):
        return "OL; or one drop, with a damper inside"
    if ask.pair is None or ask.pair not in PAIRS:
        return "OL"
    low, high = band(part, ask.pair)
    return f"{low:g} to {high:g} V"


KIND = PartKind(
    code="transistor",
    name="bipolar transistor",
    model="transistor",
    judge=by_pairs(
        PAIRS,
        ACROSS,
        state,
        "B to E and B to C conduct one way, C to E blocks.",
    ),
    asks=junction_asks(ACROSS, *PAIRS),
    extras=pair_ohms(PAIRS, ACROSS),
    look_for=looking_for("Cracked case, its screw loose, insulation under it; ringed joints."),
    expect=expect,
    advice=advising(SEMICONDUCTOR + " Check its base resistors and drive before power."),
    letters=("Q", "TR"),
    marking=JunctionMarking,
    pairs=PAIRS,
    blocking=frozenset({ACROSS, ACROSS.turned}),
    across=ACROSS,
    map_word="transistor",
    rules=RATED_TYPE,
    passes_input=True,
    fails=failing(FaultMode.SHORT, FaultMode.OPEN),
)
