"""One period's shape, averaged over all of them in phase; freed of narrow bursts."""

from __future__ import annotations

from functools import cached_property

from msgspec import Struct

from hale_rail.core.arrays import Flags, Floats, np
from hale_rail.core.ripple.cycle import Cycle

Samples = Floats
#: cells of one cycle, at most and at least
_MOST, _FEWEST = 400, 24
#: the part of a cycle a burst may be as wide as, and what stands above as one
_BURST, _STANDS_OUT = 0.08, 4.0
_LEAST_SHARE = 0.08
#: how far from half way a second top may stand, and how high above its valleys
_HALFWAY, _SECOND_TOP = 0.1, 0.2
#: the most cycles that are looked for in a shape, and the share of it that one multiple then has
_MOST_TIMES, _ALMOST_ALL = 8, 0.9
#: how far an edge of the cycle may come early or late, in cells; how high a step is, as a share of
#: all; and how much of the cycle may be steps
_EDGE_CELLS, _FEW_CELLS, _EDGE_SHARE, _MOST_STEPS = 2, 60, 0.3, 0.25
#: cells of the table that volts are looked up in, for two cycles
_FINE = 8192
_CHUNK, _FOLDED_CHUNKS = 1 << 19, 4


class Folded(Struct, frozen=True, eq=False, dict=True):
    """A cycle's shape averaged over pairs of cycles.

    `one` cycle's (m,), and of `two` cycles what turns its sign from one to the next (2m,);
    `noise_v`: how uncertain one cell is, in volts RMS; `explained` how much of what is quick
    repeats so, 0 to 1.
    """

    one: Samples
    two: Samples
    noise_v: float
    explained: float = 0.0

    @cached_property
    def table(self) -> Samples:
        """Both together over two cycles, so finely that the nearest cell will do; (_FINE,)."""
        whole = np.concatenate((self.one, self.one)) + self.two
        return resampled(whole, _FINE)

    def at(self, phase: Samples) -> Samples:
        """The shape's volts at phases in cycles; shape as `phase`."""
        return looked_up(self.table, phase / 2)


def resampled(shape: Samples, cells: int) -> Samples:
    """A period's shape in so many cells, straight between its own; (cells,)."""
    size = len(shape)
    at = (np.arange(cells) + 0.5) / cells * size - 0.5
    ring = np.concatenate((shape[-1:], shape, shape[:1]))
    return np.interp(at, np.arange(-1, size + 1), ring)


def looked_up(table: Samples, phase: Samples) -> Samples:
    """The cell of each phase in periods; shape as `phase`."""
    size = len(table)
    cell = (phase - np.floor(phase)) * size
    out: Samples = table[np.minimum(cell.astype(np.intp), size - 1)]
    return out


def nothing() -> Folded:
    """The shape of a record that is not folded yet."""
    return Folded(np.zeros(2), np.zeros(4), 0.0)


def fold(volt: Samples, dt_s: float, cycle: Cycle, block: int, known: Folded) -> Folded:
    """Average a record over pairs of cycles, its slow part (told in blocks) taken out.

    `known`: the shape as far as it is told, so that the slow part is told without it. Of a very
    long record parts are taken, evenly spread: an average needs no more.
    """
    each = int(min(_MOST, max(_FEWEST, 1 / (cycle.hz * dt_s))))
    cells = 2 * each
    sums, squares, counts = np.zeros(cells), np.zeros(cells), np.zeros(cells)
    chunk = max(block * 4, _CHUNK // block * block)
    starts = range(0, len(volt), chunk)
    step = max(1, len(starts) // _FOLDED_CHUNKS)
    for low in starts[::step]:
        high = min(len(volt), low + chunk)
        phase = cycle.phase(low, high)
        part = volt[low:high]
        quick = part - _slow(part - known.at(phase), block)
        turn = phase / 2
        cell = np.minimum(((turn - np.floor(turn)) * cells).astype(np.intp), cells - 1)
        sums += np.bincount(cell, quick, cells)
        squares += np.bincount(cell, quick * quick, cells)
        counts += np.bincount(cell, minlength=cells)
    filled = counts > 0
    means = sums / np.maximum(counts, 1)
    spread = np.maximum(squares[filled] / counts[filled] - means[filled] ** 2, 0.0)
    noise = float(np.sqrt(np.mean(spread / np.maximum(counts[filled] - 1, 1))))
    shape = without_holes(means, filled)
    one = (shape[:each] + shape[each:]) / 2
    half = (shape[:each] - shape[each:]) / 2
    total = float(squares.sum() / counts.sum())
    explained = float(np.mean(shape * shape)) / total if total > 0 else 0.0
    return Folded(one - one.mean(), np.concatenate((half, -half)), noise, explained)


def _slow(bare: Samples, block: int) -> Samples:
    """The slow part: straight between the means of blocks; a slope where there are too few."""
    count = len(bare)
    blocks = count // block
    if blocks >= 3:
        means = bare[: blocks * block].reshape(blocks, block).mean(axis=1)
        return straight_between(means, block, 0, count)
    index = np.arange(count)
    half = count // 2
    first, last = bare[:half].mean(), bare[count - half :].mean()
    slope = (last - first) / max(count - half, 1)
    out: Samples = bare.mean() + slope * (index - (count - 1) / 2)
    return out


def straight_between(means: Samples, block: int, low: int, high: int) -> Samples:
    """Samples `low` to `high` of a series known by the means of its blocks; (high − low,).

    Straight between the middles of the blocks, and on beyond the first and the last as inside.
    """
    if len(means) == 1:
        return np.full(high - low, means[0])
    around = np.concatenate(([2 * means[0] - means[1]], means, [2 * means[-1] - means[-2]]))
    # sample i lies `place` blocks behind the middle of the block before the first
    first = int(np.floor((low + 0.5) / block + 0.5))
    last = int(np.floor((high - 0.5) / block + 0.5))
    if last - first >= 4:
        return _by_rows(around, block, low, high, first, last)
    place = (np.arange(low, high) + 0.5) / block + 0.5
    left = np.clip(np.floor(place).astype(np.intp), 0, len(around) - 2)
    out: Samples = around[left] + (place - left) * (around[left + 1] - around[left])
    return out


def _by_rows(around: Samples, block: int, low: int, high: int, first: int, last: int) -> Samples:
    """The same for many blocks at once: a row a block, cut to what was asked for."""
    rows = np.clip(np.arange(first, last + 1), 0, len(around) - 2)
    start = int(np.ceil(block * (first - 0.5) - 0.5))
    offset = ((start + np.arange(block)) + 0.5) / block + 0.5 - first
    beyond = np.arange(first, last + 1) - rows
    step = around[rows + 1] - around[rows]
    table = around[rows][:, None] + step[:, None] * (offset[None, :] + beyond[:, None])
    out: Samples = table.ravel()[low - start : high - start]
    return out


def without_holes(means: Samples, filled: Flags) -> Samples:
    """Cells that no sample fell into lie between their neighbours, round the ring."""
    if filled.all():
        return means
    size = len(means)
    at = np.flatnonzero(filled)
    around = np.concatenate((at - size, at, at + size))
    level = np.tile(means[at], 3)
    return np.interp(np.arange(size), around, level)


def unspiked(shape: Samples) -> Samples:
    """The smooth shape: where narrow bursts stand out of their surroundings, these without them.

    Surroundings are the running median, and the lines that run towards a cell from both sides: the
    corner of a triangle lies below those, a step between them.
    """
    size = len(shape)
    half = max(2, int(_BURST * size))
    width = 2 * half + 1
    if size < 3 * width or not shape.any():
        return shape
    ring = np.concatenate((shape[-half:], shape, shape[:half]))
    middle = np.median(np.lib.stride_tricks.sliding_window_view(ring, width), axis=1)
    left = 2 * np.roll(middle, half) - np.roll(middle, 2 * half)
    right = 2 * np.roll(middle, -half) - np.roll(middle, -2 * half)
    usual = 1.4826 * float(np.median(np.abs(shape - middle)))
    allowed = max(_STANDS_OUT * usual, _LEAST_SHARE * float(np.ptp(middle)))
    stands = shape > np.maximum(np.maximum(left, right), middle) + allowed
    stands |= shape < np.minimum(np.minimum(left, right), middle) - allowed
    stands |= np.roll(stands, 1) | np.roll(stands, -1)
    stands = _narrow(stands, half + 2)
    return _bridged(shape, stands) if stands.any() else shape


def steps_of(shape: Samples) -> tuple[Samples, Samples, Flags]:
    """Least and greatest around each cell, and whether the shape steps there; (m,) each."""
    reach = _EDGE_CELLS if len(shape) > _FEW_CELLS else 1
    near = np.stack([np.roll(shape, n) for n in range(-reach, reach + 1)])
    least, most = near.min(axis=0), near.max(axis=0)
    is_step = most - least > _EDGE_SHARE * float(np.ptp(shape))
    if is_step.mean() > _MOST_STEPS:
        is_step = np.zeros_like(is_step)
    return least, most, is_step


def without_steps(two: Samples, one: Samples) -> Samples:
    """What differs from cycle to cycle, but where the cycle steps: there a sample's luck does."""
    is_step = np.tile(steps_of(one)[2], 2)
    return without_holes(np.where(is_step, 0.0, two), ~is_step) if is_step.any() else two


def is_double(shape: Samples) -> bool:
    """True for a shape with a second top half a period behind the first, well above both valleys:
    two cycles of the switching, of which every second differs."""
    size = len(shape)
    turned = np.roll(shape, -int(shape.argmax()))
    low, high = int(size * (0.5 - _HALFWAY)), int(size * (0.5 + _HALFWAY)) + 1
    at = low + int(turned[low:high].argmax())
    if not low < at < high - 1:
        return False
    valley = max(float(turned[:at].min()), float(turned[at:].min()))
    return float(turned[at]) - valley >= _SECOND_TOP * float(np.ptp(shape))


def times_over(shape: Samples) -> int:
    """How many cycles a shape really holds: two of which every second differs, or several alike,
    where next to all of it is one multiple of its frequency; 1 where it is one."""
    if is_double(shape):
        return 2
    power = np.abs(np.fft.rfft(shape)) ** 2
    total = float(power[1:].sum())
    for times in range(2, min(_MOST_TIMES, len(power) - 1) + 1):
        if total > 0 and power[times] > _ALMOST_ALL * total:
            return times
    return 1


def _runs(stands: Flags) -> tuple[int, list[tuple[int, int]]]:
    """Where the ring is cut open, and the runs behind it as (begin, end)."""
    turn = int(np.flatnonzero(~stands)[0])
    line = np.roll(stands, -turn)
    edges = np.flatnonzero(np.diff(np.concatenate(([False], line, [False])).astype(int)))
    return turn, list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def _bridged(shape: Samples, stands: Flags) -> Samples:
    """The shape without its bursts: both sides go on until they meet, or a straight line."""
    turn, runs = _runs(stands)
    line = np.roll(shape, -turn)
    size, bare = len(line), np.roll(~stands, -turn)
    for begin, end in runs:
        before = _side(line, bare, begin - 1, -1)
        after = _side(line, bare, end % size, 1)
        at = np.arange(begin, end)
        low = before[0] + before[1] * (at - (begin - 1))
        high = after[0] + after[1] * (at - end)
        inner = np.minimum(low, high) if before[1] > after[1] else np.maximum(low, high)
        straight = np.interp(at, (begin - 1, end), (before[0], after[0]))
        crossing = (low[0] - high[0]) * (low[-1] - high[-1])
        line[begin:end] = inner if crossing <= 0 else straight
    return np.roll(line, turn)


def _side(line: Samples, bare: Flags, at: int, way: int) -> tuple[float, float]:
    """The level at a cell and the slope per cell upwards, told from bare cells on one side."""
    size = len(line)
    index = (at + way * np.arange(max(4, size // 20))) % size
    kept = bare[index]
    away = way * np.arange(len(index))[kept]
    if len(away) < 3:
        return float(line[at % size]), 0.0
    slope, level = np.polyfit(away, line[index][kept], 1)
    return float(level), float(slope)


def _narrow(stands: Flags, most: int) -> Flags:
    """Only runs of at most so many cells, round the ring."""
    if stands.all() or not stands.any():
        return np.zeros_like(stands)
    turn, runs = _runs(stands)
    kept = np.zeros(len(stands), dtype=bool)
    for begin, end in runs:
        kept[begin:end] = end - begin <= most
    return np.roll(kept, turn)
