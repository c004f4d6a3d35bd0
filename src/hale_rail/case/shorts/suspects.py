"""The suspects of a shorted rail without a map: nearest the supply first, and what each read."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
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
    return {
        rail.key: tuple(
            part
            for part in case.sheet.on_line(rail.key)
            if not part.kind.is_series and part.kind.is_measured
        )
        for rail in case.sheet.rails
    }


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
