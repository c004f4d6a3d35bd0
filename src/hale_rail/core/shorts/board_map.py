"""A board's map as a person draws it: copper with lengths and widths, parts, a kind of ground."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import cached_property

from msgspec import Struct

from hale_rail.core.shorts.board import IDEAL_GROUND, SEGMENT_TOLERANCE, Board, BoardPart, Trouble
from hale_rail.core.shorts.copper import (
    COPPER_UM,
    USUAL_C,
    CopperSegment,
    Net,
    Pad,
    copper_ohm,
    sheet_net,
)


class Track(Struct, frozen=True):
    """A segment as drawn: `milliohm` as told, or a width and a length (None: from pad to pad)."""

    a: str
    b: str
    milliohm: float | None = None
    length_mm: float | None = None
    width_mm: float | None = None
    copper_um: float = COPPER_UM


class Layer(Struct, frozen=True, dict=True):
    """The drawn copper of one net."""

    pads: tuple[Pad, ...] = ()
    tracks: tuple[Track, ...] = ()

    @cached_property
    def by_id(self) -> Mapping[str, Pad]:
        """The pads by their ids."""
        return {pad.id: pad for pad in self.pads}


class MapPhoto(Struct, frozen=True):
    """The photo under a map: its hash, mm a pixel, where its corner stands in mm, how it shows."""

    sha256: str
    mm_per_pixel: float
    x_mm: float = 0.0
    y_mm: float = 0.0
    opacity: float = 0.5


class BoardMap(Struct, frozen=True):
    """What is drawn of a board.

    `ground` None: one ideal node; `sheet_um`: the ground's pads stand on a sheet so thick, in µm.
    `size_mm`: the board's outline, width and height; `drawing`: the hash of the paper that it was
    drawn after, "" where there is none.
    """

    rail: Layer = Layer()
    ground: Layer | None = None
    sheet_um: float | None = None
    parts: tuple[BoardPart, ...] = ()
    segment_tolerance: float = SEGMENT_TOLERANCE
    celsius: float = USUAL_C
    name: str = ""
    picture: MapPhoto | None = None
    size_mm: tuple[float, float] = (100.0, 80.0)
    drawing: str = ""

    def board(self) -> Board:
        """The map as the trace computes with it; tracks without ohms are left out and named."""
        rail, troubles = self._net(self.rail)
        ground: Net | None = None
        if self.ground is not None and self.sheet_um is not None:
            ground = sheet_net(self.ground.pads, self.sheet_um, self.celsius)
        elif self.ground is not None:
            ground, more = self._net(self.ground)
            troubles += more
        parts = self.parts
        if ground is None:
            parts = tuple(
                BoardPart(p.id, p.ref, p.family, p.rail_pad, IDEAL_GROUND, p.weight) for p in parts
            )
        return Board(rail, ground, parts, self.segment_tolerance, self.celsius, tuple(troubles))

    def _net(self, layer: Layer) -> tuple[Net, list[Trouble]]:
        segments, troubles = [], []
        for track in layer.tracks:
            ohm = self.track_ohm(layer, track)
            if ohm is None:
                text = f"segment {track.a} to {track.b} has no width, length or milliohms"
                troubles.append(Trouble(text, id=track.a))
            else:
                segments.append(CopperSegment(track.a, track.b, ohm))
        return Net(layer.pads, tuple(segments)), troubles

    def track_ohm(self, layer: Layer, track: Track) -> float | None:
        """Ohms of a track; None where too little is told."""
        if track.milliohm is not None:
            return track.milliohm / 1000
        length = track.length_mm or _distance(layer.by_id[track.a], layer.by_id[track.b])
        if not length or not track.width_mm:
            return None
        return copper_ohm(length, track.width_mm, track.copper_um, self.celsius)


def _distance(a: Pad, b: Pad) -> float | None:
    if a.x is None or a.y is None or b.x is None or b.y is None:
        return None
    return math.hypot(a.x - b.x, a.y - b.y)
