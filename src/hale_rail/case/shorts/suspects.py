"""The suspects of a shorted rail without a map: nearest the supply first, and what each read."""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.places.places import places
from hale_rail.core.parts.kinds import connector
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import SPOT, Point
from hale_rail.core.quantities import Unit
from hale_rail.core.shorts.without_map import Spot, SpotVerdict, least
from hale_rail.store.readings import Reading


class ShortSuspect(Struct, frozen=True):
    """A part that may short the rail, the point where it is read, and what was read there."""

    part: Part
    point: Point
    reading: Reading | None


@facet
def _by_line(case: CaseFile) -> dict[str, tuple[Part, ...]]:
    return {rail.key: _nearest_first(case, rail.key) for rail in case.sheet.rails}


def _nearest_first(case: CaseFile, rail: str) -> tuple[Part, ...]:
    """What is between a rail and ground as power reaches it; on a board where they have places, by
    how far they stand from the connector that power comes in by."""
    parts = [p for p in case.sheet.on_line(rail) if not p.kind.is_series and p.kind.is_measured]
    known = places(case)
    inlets = {
        part.ref: known[part.id]
        for part in case.sheet.in_power_order
        if part.kind is connector.KIND and part.id in known
    }

    if not inlets:
        return tuple(parts)

    def far(part: Part) -> float:
        inlet, place = inlets.get(part.board), known.get(part.id)
        if inlet is None or place is None or inlet.board != place.board:
            return 0.0
        return math.hypot(place.x_mm - inlet.x_mm, place.y_mm - inlet.y_mm)

    # parts of one board stay together where that board stands in the order
    order = list(dict.fromkeys(part.board for part in parts))
    return tuple(sorted(parts, key=lambda part: (order.index(part.board), far(part))))


def suspects_of(case: CaseFile, rail: str) -> tuple[Part, ...]:
    """What is between a rail and ground, in the order power reaches it."""
    return _by_line(case).get(rail, ())


def suspects(case: CaseFile, rail: str) -> tuple[ShortSuspect, ...]:
    """The suspects of a rail with what was read at each."""
    suspects = []
    for part in suspects_of(case, rail):
        point = part.point(SPOT)
        suspects.append(ShortSuspect(part, point, case.rows.standing.get(point.key)))
    return tuple(suspects)


def verdict(case: CaseFile, rail: str) -> SpotVerdict:
    """Which suspect it is, by what was read."""
    known = suspects(case, rail)
    spots = [
        Spot(s.part.ref, s.reading.value, s.reading.error,
             Unit.OHM if s.reading.figures.get("is_ohm") else Unit.VOLT)
        for s in known
        if s.reading
    ]  # fmt: skip
    return least(spots, [s.part.ref for s in known if not s.reading])
