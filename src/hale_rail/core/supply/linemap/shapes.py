"""What a line map is made of.

Geometry is in units of a picture about `WIDTH` wide; `y` grows downwards.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct, field

from hale_rail.core.parts.part import Part

WIDTH, HEIGHT = 860.0, 480.0
MARGIN = 12.0
#: what a single station takes above and below its line, its labels included
UP, DOWN = 31.0, 41.0
#: widest gap between two stops of a roomy map
MOST_GAP = 95.0

XY = tuple[float, float]


class Station(Struct, frozen=True):
    """Where a part is: centre, radius, its labels' lines (`below` "" in a bank).

    `tag_drop`: how far below the marker's edge a word for its state has room; 0 where it has none.
    """

    part: Part
    x: float
    y: float
    radius: float
    above: str
    below: str
    tag_drop: float = 0.0


class TrackSegment(Struct, frozen=True):
    """A stretch of track into stop `stop` of `line` (0 = the first), as a polyline."""

    line: str
    stop: int
    points: tuple[XY, ...]
    is_loop: bool = False


class Box(Struct, frozen=True):
    """A rectangle: a rail's plate, a connector's capsule, or a board."""

    key: str
    label: str
    x: float
    y: float
    w: float
    h: float
    part: Part | None = None


class LineMap(Struct, frozen=True):
    """The finished picture. `stops` gives, per line, the part ids of each stop in order."""

    width: float
    height: float
    stations: tuple[Station, ...]
    segments: tuple[TrackSegment, ...]
    plates: tuple[Box, ...]
    capsules: tuple[Box, ...]
    boards: tuple[Box, ...]
    stops: dict[str, tuple[tuple[int, ...], ...]]


class Canvas(Struct):
    """A picture while it is drawn."""

    stations: list[Station] = field(default_factory=list)
    segments: list[TrackSegment] = field(default_factory=list)
    plates: list[Box] = field(default_factory=list)
    capsules: list[Box] = field(default_factory=list)
    boards: list[Box] = field(default_factory=list)
    stops: dict[str, list[tuple[int, ...]]] = field(default_factory=dict)

    def link(self, line: str, points: Sequence[XY]) -> None:
        """Plain track towards the next stop of `line`."""
        stop = len(self.stops.setdefault(line, []))
        self.segments.append(TrackSegment(line, stop, tuple(points)))

    @property
    def right(self) -> float:
        """The right edge of what is drawn."""
        edges = [station.x + 40 for station in self.stations]
        edges += [x for track in self.segments for x, _ in track.points]
        return max(edges, default=0.0)
