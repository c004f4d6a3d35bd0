"""The line map with every part's chance to be faulty: a ring that closes with it, and its share."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from markupsafe import Markup

from hale_rail.case.parts.line_map import CaseMap
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.linemap import Station
from hale_rail.web import addresses
from hale_rail.web.frame import svg
from hale_rail.web.frame.line_map_drawing import body_of, svg_of

#: how far the ring stands off the station, and from which share it is drawn and written
_OFF, _DRAWN, _WRITTEN = 4.5, 0.05, 0.15


def draw_suspects(
    number: str, page: CaseMap, shares: Mapping[int, float], selected: Part | None
) -> Markup:
    """The map of a case; each part leads to what speaks for and against it."""

    def place(part: Part, _: str, draw: Callable[[], Markup]) -> Markup:
        label = f"{part.ref}, {part.kind.name}: {_words(shares.get(part.id, 0.0))}"
        chosen = {"aria_current": "true"} if selected and selected.id == part.id else {}
        address = f"{addresses.stage(number, 'diagnosis', by=str(part.id))}#evidence"
        return svg.link(address, label, svg.title(label), draw(), **chosen)

    rings = svg.joined(_ring(s, shares.get(s.part.id, 0.0)) for s in page.picture.stations)
    return svg_of(page.picture, page.machine, body_of(page, place) + rings)


def _words(share: float) -> str:
    return f"{100 * share:.0f} % likely" if share >= _DRAWN else "hardly"


def _ring(station: Station, share: float) -> Markup:
    """A ring that closes with the share, its figure beside it; it begins to the right, since the
    designator stands above."""
    if share < _DRAWN:
        return Markup("")
    r = station.radius + _OFF
    length = 2 * math.pi * r
    dashes = svg.steps(length * min(share, 1.0), length)
    drawn = svg.circle("share ring", station.x, station.y, r, stroke_dasharray=dashes)
    if share < _WRITTEN:
        return drawn
    words = ">99 %" if share > 0.99 else f"{100 * share:.0f} %"
    return drawn + svg.text(
        "share-words digits halo start", station.x + r + 2, station.y - 5, words
    )
