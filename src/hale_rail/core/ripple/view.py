"""What a screen can show of a record: the least and the greatest volts of each of its columns.

No peak is lost at any zoom, and no more is looked at than the columns need: far out the overview's
cells, near by the samples themselves.
"""

from __future__ import annotations

from hale_rail.core.arrays import Floats, np
from hale_rail.core.ripple.bands import CELL, Split
from hale_rail.core.ripple.template import looked_up

Samples = Floats
#: samples that are looked at one by one
_FEW = 300_000
#: points of the cycle that are looked at in a column too wide for its samples
_POINTS = 24


def window(split: Split, name: str, low: int, high: int, columns: int) -> Samples:
    """Least and greatest of each column of samples `low` to `high`, shape (2, columns or fewer).

    `name`: a band, or `raw` for the record about its mean.
    """
    count = len(split.wave.volt)
    low, high = max(0, min(low, count - 1)), max(1, min(high, count))
    high = max(high, low + 1)
    columns = max(1, min(columns, high - low))
    if high - low <= _FEW:
        return _reduced(_band(split, name, low, high), columns)
    if name in ("raw", "spikes"):
        cells = split.overview[name]
        first, last = low // CELL, -(-high // CELL)
        least = _reduced(cells[0, first:last], columns)[0]
        most = _reduced(cells[1, first:last], columns)[1]
        shift = split.mean_v if name == "raw" else 0.0
        return np.stack((least, most)) - shift
    if name in ("switching", "subharmonic"):
        return _of_cycle(split, name, low, high, columns)
    at = np.linspace(low, high - 1, min(high - low, columns * _POINTS)).astype(int)
    series = split.low.band(name)
    block = np.clip(at // split.block, 0, len(series) - 1)
    return _reduced(series[block], columns)


def _band(split: Split, name: str, low: int, high: int) -> Samples:
    if name == "raw":
        out: Samples = np.asarray(split.wave.volt[low:high], dtype=np.float64) - split.mean_v
        return out
    return split.band(name, low, high)


def _of_cycle(split: Split, name: str, low: int, high: int, columns: int) -> Samples:
    """Points spread over each column: a cycle that lies within one shows from foot to top."""
    if split.cycle is None:
        return np.zeros((2, columns))
    at = np.linspace(low, high - 1, columns * _POINTS)
    phase = np.interp(at, split.cycle.at, split.cycle.cycles)
    whole = name == "switching"
    shape = split.folded.one if whole else split.folded.two
    points = looked_up(shape, phase if whole else phase / 2)
    values = _reduced(points, columns)
    periods = (high - low) / columns * split.wave.dt_s * split.cycle.hz
    if periods >= (1 if whole else 2):
        values[0], values[1] = shape.min(), shape.max()
    return values


def _reduced(values: Samples, columns: int) -> Samples:
    columns = min(columns, len(values))
    edges = np.linspace(0, len(values), columns + 1).astype(int)[:-1]
    return np.stack((np.minimum.reduceat(values, edges), np.maximum.reduceat(values, edges)))
