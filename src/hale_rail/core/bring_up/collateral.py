"""What a rail event may have taken along: an over-voltage, or a rail missing while others stood.

Source: docs/formulas.md, “Bring-up”. A part whose rated volts were passed comes first, then
tantalums, then what else is on the rail, then boards behind it.
"""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.kinds import board
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.sheet import Rail, Sheet
from hale_rail.core.supply.suspects import OvervoltageSuspect, suspects


class RailEvent(Coded):
    """What happened to a rail."""

    OVER = ("over-voltage", "went too high")
    MISSING = ("missing", "was missing while others stood")


EVENTS = {event.code: event for event in RailEvent}
#: volts that logic of a rail bears, by its nominal volts
_BEARS = ((5.5, 1.4), (100.0, 1.25))


def bears_v(rail: Rail) -> float:
    """The volts that what hangs on a rail is usually made to bear: 7 V for +5 V logic."""
    nominal = abs(rail.nominal_v)
    return nominal * next(factor for limit, factor in _BEARS if nominal <= limit)


def collateral(
    sheet: Sheet, rail: Rail, event: RailEvent, peak_v: float | None
) -> list[OvervoltageSuspect]:
    """The parts to read after an event, most endangered first; `peak_v` None: not known."""
    if event is RailEvent.MISSING:
        return _of_missing(sheet, rail)
    overvoltage_suspects = list(suspects(sheet, rail.key))
    if peak_v is None:
        return overvoltage_suspects
    passed = [s for s in overvoltage_suspects if s.part.volt and s.part.volt < abs(peak_v)]
    told = [
        OvervoltageSuspect(
            s.part, f"rated {show(s.part.volt or 0, Unit.VOLT)}, had {show(peak_v, Unit.VOLT)}"
        )
        for s in passed
    ]
    return told + [s for s in overvoltage_suspects if s not in passed]


def _of_missing(sheet: Sheet, rail: Rail) -> list[OvervoltageSuspect]:
    """Boards that take the missing rail and another: their chips had one rail without the other."""
    result = []
    for part in sheet.parts:
        if part.kind is not board.KIND or rail.key not in part.rails or len(part.rails) < 2:
            continue
        others = ", ".join(key for key in part.rails if key != rail.key)
        why = f"its chips had {others} without {rail.key}"
        if rail.nominal_v < 0:
            why += ": memory and converters of three rails conduct through their substrate"
        result.append(OvervoltageSuspect(part, why))
    return result


def event_words(rail: Rail, event: RailEvent, peak_v: float | None, boards: Sequence[str]) -> str:
    """What is to be done after an event, in a sentence."""
    behind = f" {', '.join(boards)} behind it." if boards else ""
    if event is RailEvent.MISSING:
        guard = f" It guards {rail.guards}." if rail.guards else ""
        return f"{rail.key} was missing.{guard} Read memory before anything else.{behind}"
    bears = bears_v(rail)
    if peak_v is None:
        return f"{rail.key} went too high; logic there bears {show(bears, Unit.VOLT)}.{behind}"
    is_over = abs(peak_v) > bears
    much = "more than" if is_over else "within what"
    rest = "usually bears" if not is_over else "usually bears: expect dead chips"
    return (
        f"{rail.key} rose to {show(peak_v, Unit.VOLT)}, {much} {show(bears, Unit.VOLT)}"
        f"{' that its logic ' if is_over else ', which its logic '}{rest}.{behind}"
    )
