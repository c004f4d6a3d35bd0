"""A reading that contradicts the map twice: not the reading is doubted then, but the map.

Copper that is missing from the map, or that is not there, or another width, may explain it: the
change of one segment under which all readings are likeliest says where.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.arrays import np
from hale_rail.core.shorts.board import Board
from hale_rail.core.shorts.board_model import BoardModel, Kind, ShortHypothesis, TraceReading
from hale_rail.core.shorts.copper import CopperSegment, Net
from hale_rail.core.shorts.evidence import weigh

#: readings of one place whose figures differ by less than this share are the same twice
_SAME = 0.15
#: segments that are tried, and ends between which copper may be missing
_MOST_SEGMENTS, _MOST_ENDS = 40, 6
#: another width that is tried, as factors of the drawn ohms, and a segment that is not there
_WIDTHS, _OPEN = (0.25, 4.0), 1e4
#: how much likelier a changed map must make the readings to be named
_TELLS = 3.0


class Doubt(Struct, frozen=True):
    """Readings that the map contradicts although they were repeated, and what would explain them.

    `where`: the change of the map, in words, "" where no single one explains them.
    """

    readings: tuple[TraceReading, ...]
    where: str = ""


def place_of(reading: TraceReading) -> tuple[object, ...]:
    """What makes two readings the same one taken twice: the probes and the clamps."""
    return reading.kind, reading.plus, reading.minus, reading.inject, reading.drain


def of_the_map(board: Board, doubt: Doubt, readings: Sequence[TraceReading]) -> TraceReading | None:
    """A drop along the doubted copper alone, which is the same for every short on a right map.

    None once it was taken: then the map is put right, or it is told that the short is another.
    """
    done = {place_of(r) for r in (*readings, *doubt.readings)}
    for reading in doubt.readings:
        ends = (reading.plus, reading.minus)
        if board.is_rail(ends[0]) is not board.is_rail(ends[1]):
            continue
        trace_reading = TraceReading(Kind.DROP, *ends, *ends, amps=reading.amps)
        turned = replace(trace_reading, plus=ends[1], minus=ends[0], inject=ends[1], drain=ends[0])
        if place_of(trace_reading) not in done and place_of(turned) not in done:
            return trace_reading
    return None


def repeated(readings: Sequence[TraceReading]) -> set[int]:
    """Lines of the readings that were taken twice with one result."""
    repeated: set[int] = set()
    for one, other in combinations(readings, 2):
        alike = abs(one.value - other.value) <= max(
            _SAME * max(abs(one.value), abs(other.value)), one.noise + other.noise
        )
        if place_of(one) == place_of(other) and alike:
            repeated |= {one.line, other.line}
    return repeated | {reading.line for reading in readings if reading.again}


def explained(
    board: Board, held: Sequence[ShortHypothesis], readings: Sequence[TraceReading], log: np.ndarray
) -> str:
    """Where the map is another than the board, by all readings, in words; "" where none tells."""
    base = _likelihood(board, held, readings, log)
    best, where = base + _TELLS, ""
    for net, is_rail, words in _changes(board, readings):
        changed = replace(board, rail=net) if is_rail else replace(board, ground=net)
        explained = _likelihood(changed, held, readings, log)
        if explained > best:
            best, where = explained, words
    return where


def _likelihood(
    board: Board, held: Sequence[ShortHypothesis], readings: Sequence[TraceReading], log: np.ndarray
) -> float:
    """Log of how likely the readings are on a map, over all hypotheses."""
    pads = {p for r in readings for p in (r.plus, r.minus, r.inject, r.drain) if p}
    predicted = BoardModel(board, held, pads).predict(readings)
    values, noise = (np.array([getattr(r, name) for r in readings]) for name in ("value", "noise"))
    total = log + weigh(predicted, values, noise).log
    most = float(total.max())
    return most + float(np.log(np.exp(total - most).sum()))


def _changes(board: Board, readings: Sequence[TraceReading]) -> Iterator[tuple[Net, bool, str]]:
    """Nets with one segment changed, missing or added, and the change in words."""
    for net, is_rail in ((board.rail, True), (board.ground, False)):
        if net is None or net.helpers:
            continue
        touched = {p for r in readings for p in (r.plus, r.minus, r.inject, r.drain)}
        near = sorted(net.segments, key=lambda s: not {s.a, s.b} & touched)[:_MOST_SEGMENTS]
        for segment in near:
            for factor, words in ((_OPEN, "is not there"), *((w, _width(w)) for w in _WIDTHS)):
                yield _with(net, segment, factor), is_rail, f"{segment.a} to {segment.b} {words}"
        usual = float(np.median([s.ohm for s in net.segments])) if net.segments else 1e-3
        for one, other in combinations(_ends(net), 2):
            added = replace(net, segments=(*net.segments, CopperSegment(one, other, usual)))
            yield added, is_rail, f"copper from {one} to {other} is missing from it"


def _width(factor: float) -> str:
    return "is wider than drawn" if factor < 1 else "is narrower than drawn"


def _with(net: Net, changed: CopperSegment, factor: float) -> Net:
    segments = (replace(s, ohm=factor * s.ohm) if s is changed else s for s in net.segments)
    return replace(net, segments=tuple(segments))


def _ends(net: Net) -> list[str]:
    """Pads at which the drawn copper ends."""
    count: dict[str, int] = {}
    for segment in net.segments:
        for pad in (segment.a, segment.b):
            count[pad] = count.get(pad, 0) + 1
    return [pad for pad, times in count.items() if times == 1][:_MOST_ENDS]
