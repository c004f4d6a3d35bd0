"""What the kinds judged pair of pins by pair of pins share."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from hale_rail.core.parts.conduction import no_short_reason
from hale_rail.core.parts.junctions import Band, blocking_reason, junction_reason, pair_reasons
from hale_rail.core.parts.kinds.common import NOT_SHORT, concluded
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.parts.verdicts import Judgement, Reason
from hale_rail.core.procedures import DIODE, OHMS, Condition
from hale_rail.core.targets import Pair

State = Callable[[Part, Pair, PartReadings], Reason]


def by_pairs(
    pairs: Sequence[Pair], across: Pair | None, state: State, sound: str
) -> Callable[[Part, PartReadings], Judgement]:
    """A judgement by each pair's `state` and no short `across`; `sound` is said when all are."""

    def judge(part: Part, readings: PartReadings) -> Judgement:
        value = readings.get(OHMS, across) if across else None
        reasons = [no_short_reason(value, across.words)] if value and across else []
        for pair in other_pairs(pairs, across):
            ohm = readings.get(OHMS, pair)
            reason = no_short_reason(ohm, pair.words) if ohm else None
            reasons += [reason] if reason and reason.argues else []
        told = pair_reasons(pairs, readings, partial(state, part), sound)
        return concluded([*reasons, *told], readings)

    return judge


def other_pairs(pairs: Sequence[Pair], across: Pair | None) -> tuple[Pair, ...]:
    """The pairs whose ohms are not those `across`, whichever way round."""
    return tuple(p for p in pairs if across not in (p, p.turned))


def pair_ohms(pairs: Sequence[Pair], across: Pair | None) -> Callable[[Part], tuple[Ask, ...]]:
    """Ohms at each further pair, for whoever reads them."""
    asks = tuple(Ask(OHMS, pair) for pair in other_pairs(pairs, across))
    return lambda _: asks


def one_junction(junction: Pair, band: Band) -> State:
    """The state of a pair where one pair is a junction (its drop in volts) and all others block."""

    def state(_: Part, pair: Pair, readings: PartReadings) -> Reason:
        ways = readings.both_ways(DIODE, pair)
        if pair != junction:
            return blocking_reason(*ways)
        return junction_reason(band, *ways, is_new=readings.is_new)

    return state


def expecting(junctions: Sequence[Pair], band: Band) -> Callable[[Part, Ask, Condition], str]:
    """A junction's drop in its conducting way, OL everywhere else, no short in ohms."""

    def expect(_: Part, ask: Ask, __: Condition) -> str:
        if ask.procedure is not DIODE:
            return NOT_SHORT
        low, high = band
        return f"{low:g} to {high:g} V" if ask.pair in junctions else "OL"

    return expect
