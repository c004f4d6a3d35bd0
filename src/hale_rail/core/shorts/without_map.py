"""Finding a short without a map: one number a suspect, the least wins.

A current in at the rail's supply end and out at ground drops volts on the way to the short and none
beyond it: the suspect at which least stands is it, or next to it. Source: docs/formulas.md,
“Tracing a shorted rail”.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.quantities import Unit, show

#: readings that a verdict needs
_FEWEST = 2


class Spot(Struct, frozen=True):
    """What was read at one suspect: its name, volts or ohms from rail to ground, and the error."""

    name: str
    value: float
    error: float
    unit: Unit = Unit.VOLT


class SpotVerdict(Struct, frozen=True):
    """The suspect at which least stands ("" while none is told), and what to do, in words."""

    name: str
    text: str


def least(spots: Sequence[Spot], unread: Sequence[str] = ()) -> SpotVerdict:
    """Which suspect the short is at, by what was read at each.

    `unread`: suspects where nothing was read yet, the nearest first. Volts are held against volts
    alone, ohms against ohms: what was read at more of them counts.
    """
    volts, ohms = ([s for s in spots if s.unit is unit] for unit in (Unit.VOLT, Unit.OHM))
    read = sorted(ohms if len(ohms) > len(volts) else volts, key=lambda spot: spot.value)
    if len(read) < _FEWEST:
        return SpotVerdict("", _next(unread))
    best, second = read[0], read[1]
    shown = f"{best.name} {show(best.value, best.unit)}, {second.name} "
    shown += show(second.value, second.unit)
    if second.value - best.value <= best.error + second.error:
        near = [s.name for s in read if s.value - best.value <= best.error + s.error]
        text = f"{shown}: the meter is too coarse to tell {', '.join(near)} apart. More current, "
        text += "a meter of 10 µV, or warmth would tell; or lift one of them."
        return SpotVerdict("", text)
    rest = f" Not read yet: {', '.join(unread)}." if unread else ""
    return SpotVerdict(best.name, f"{shown}: the least stands at {best.name}. Lift its leg.{rest}")


def _next(unread: Sequence[str]) -> str:
    if not unread:
        return "Two suspects at least are needed to compare."
    return f"Read {unread[0]} next: the suspects stand nearest the supply first."
