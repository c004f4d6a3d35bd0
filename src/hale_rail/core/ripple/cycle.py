"""Finds the switching cycle in a record by itself, and follows its phase from end to end.

Source: the normalised autocorrelation 2·r(τ)/(e₁(τ) + e₂(τ)) is 1 where a signal repeats exactly
after τ; the first lag at which it comes near its best is the cycle. A loop that doubles its period
lowers the first such peak, it does not move it.
"""

from __future__ import annotations

from itertools import pairwise

from msgspec import Struct

from hale_rail.core.arrays import Floats, np

Samples = Floats
#: what is looked for, in hertz
LOWEST_HZ, HIGHEST_HZ = 5e3, 500e3
#: samples that are searched; more tell nothing new
_SEARCHED = 1 << 18
#: the first peak so near the best one is the cycle
_NEAR_BEST = 0.6
#: an autocorrelation below this, or below so many times the noise's, is none
_LEAST, _NOISE = 0.15, 6.0
_FEWEST_SAMPLES = 3.0
#: the longest lag, as a share of what is searched
_LONGEST_LAG = 0.6
#: blocks in which the phase is followed, cycles in each at least
_BLOCKS, _BLOCK_CYCLES, _BLOCK_SAMPLES = 500, 16, 8192
#: phases nearer to a straight line than this, in cycles RMS, are one
_STEADY = 0.02


class Cycle(Struct, frozen=True, eq=False):
    """The phase in cycles at sample numbers `at`, between which it runs straight; both (k,)."""

    hz: float
    at: Samples
    cycles: Samples

    def phase(self, low: int, high: int) -> Samples:
        """The phase of samples `low` to `high`, in cycles; shape (high − low,)."""
        index = np.arange(low, high, dtype=np.float64)
        if len(self.at) == 2:
            slope = (self.cycles[1] - self.cycles[0]) / (self.at[1] - self.at[0])
            out: Samples = self.cycles[0] + slope * (index - self.at[0])
            return out
        return np.interp(index, self.at, self.cycles)


def smooth(volt: Samples, width: int) -> Samples:
    """The moving average over `width` samples, fewer at the ends; shape as given."""
    width = min(max(width, 1), len(volt))
    total = np.concatenate(([0.0], np.cumsum(volt)))
    index = np.arange(len(volt))
    low = np.maximum(index - width // 2, 0)
    high = np.minimum(index - width // 2 + width, len(volt))
    out: Samples = (total[high] - total[low]) / (high - low)
    return out


def find_cycle(volt: Samples, dt_s: float, given_hz: float | None = None) -> Cycle | None:
    """The switching cycle of a record of volts with zero mean, or None where none is seen.

    `given_hz`: the frequency as a person says it; it is refined within 5 %.
    """
    part = _middle(volt)
    width = max(4, int(1 / (0.6 * LOWEST_HZ * dt_s)))
    part = part - (smooth(part, width) if len(part) > 3 * width else part.mean())
    likeness = _likeness(part, dt_s)
    lag = _given_lag(likeness, given_hz, dt_s) if given_hz else _first_lag(likeness, dt_s)
    if lag is None:
        return None
    hz = 1 / (_refined(likeness, lag) * dt_s)
    return follow(volt, dt_s, hz)


def _middle(volt: Samples) -> Samples:
    start = max(0, (len(volt) - _SEARCHED) // 2)
    return volt[start : start + _SEARCHED]


def _likeness(part: Samples, dt_s: float) -> Samples:
    """The normalised autocorrelation by lag, as far as two cycles fit or twenty of the slowest."""
    count = len(part)
    size = 1 << (2 * count - 1).bit_length()
    power = np.abs(np.fft.rfft(part, size)) ** 2
    last = min(int(_LONGEST_LAG * count) + 1, max(8, int(20 / (LOWEST_HZ * dt_s))))
    shared = np.fft.irfft(power, size)[:last]
    total = np.concatenate(([0.0], np.cumsum(part * part)))
    lags = np.arange(last)
    energy = total[count - lags] + total[count] - total[lags]
    out: Samples = np.divide(2 * shared, energy, out=np.zeros(last), where=energy > 0)
    return out


def _first_lag(likeness: Samples, dt_s: float) -> int | None:
    """The lag of the first peak that comes near the best one, after the one at no lag."""
    low = int(max(_FEWEST_SAMPLES, 1 / (HIGHEST_HZ * dt_s)))
    high = min(len(likeness), int(1 / (LOWEST_HZ * dt_s)) + 2)
    below = np.flatnonzero(likeness[:high] < 0.5 * _NEAR_BEST)
    if not len(below):
        return None
    low = max(low, int(below[0]))
    if high - low < 3:
        return None
    inner = likeness[low:high]
    best = float(inner[1:-1].max(initial=0.0))
    if best < max(_LEAST, _NOISE / np.sqrt(2 * len(likeness))):
        return None
    above = inner >= _NEAR_BEST * best
    begins = np.flatnonzero(above & ~np.concatenate(([False], above[:-1])))
    for begin in begins:
        ends = np.flatnonzero(~above[begin:])
        end = begin + (int(ends[0]) if len(ends) else len(inner) - begin)
        top = int(begin + inner[begin:end].argmax())
        if 0 < top < len(inner) - 1:
            return low + top
    return None


def _given_lag(likeness: Samples, hz: float, dt_s: float) -> int | None:
    middle = 1 / (hz * dt_s)
    low, high = int(0.95 * middle), int(1.05 * middle) + 2
    if middle < _FEWEST_SAMPLES or high >= len(likeness):
        return None
    return low + int(likeness[low:high].argmax())


def _refined(likeness: Samples, lag: int) -> float:
    """The cycle in samples, from the furthest multiple of it that still is a peak."""
    period, times = _top(likeness, lag), 1
    while True:
        more = 2 * times
        middle = round(period * more)
        reach = max(1, int(0.25 * period))
        if middle + reach + 1 >= len(likeness):
            return period
        best = int(likeness[middle - reach : middle + reach + 1].argmax())
        at = middle - reach + best
        # at an edge it is a slope and no peak: following it would shrink the cycle to nothing
        if not 0 < best < 2 * reach or likeness[at] < 0.5 * likeness[lag]:
            return period
        period, times = _top(likeness, at) / more, more


def _top(values: Samples, at: int) -> float:
    """Where a parabola through a peak and its neighbours has its top."""
    if not 0 < at < len(values) - 1:
        return float(at)
    left, here, right = values[at - 1 : at + 2]
    bend = left - 2 * here + right
    shift = 0.5 * (left - right) / bend if bend < 0 else 0.0
    return at + float(np.clip(shift, -0.5, 0.5))  # a peak has its top nearer than its neighbours


def follow(volt: Samples, dt_s: float, hz: float) -> Cycle:
    """The phase, block by block, of a record's own fundamental at about `hz`; volts with zero mean.

    It must be so near that within a block of some cycles less than half a cycle goes astray.
    """
    count = len(volt)
    cycles = count * dt_s * hz
    blocks = int(min(_BLOCKS, cycles / _BLOCK_CYCLES))
    step = hz * dt_s
    if blocks < 3:
        return Cycle(hz, np.array([0.0, count]), np.array([0.0, count * step]))
    edges = np.linspace(0, count, blocks + 1).astype(int)
    sums, centres = np.empty(blocks, dtype=complex), []
    for index, (low, edge) in enumerate(pairwise(edges)):
        # whole cycles only: a remainder would bias the phase
        most = min(edge - low, max(_BLOCK_SAMPLES, int(_BLOCK_CYCLES / step)))
        high = low + int(int(most * step) / step)
        part = volt[low:high]
        turn = np.exp(-2j * np.pi * step * np.arange(low, high))
        centres.append((low + high) / 2)
        sums[index] = (part - part.mean()) @ turn
    middles = np.array(centres)
    offset = np.unwrap(np.angle(sums)) / (2 * np.pi)
    slope, start = np.polyfit(middles, offset, 1)
    straight = start + slope * middles
    if np.sqrt(np.mean((offset - straight) ** 2)) < _STEADY:
        ends = np.array([0.0, count])
        return Cycle((step + slope) / dt_s, ends, start + (step + slope) * ends)
    ends = np.concatenate(([0.0], middles, [float(count)]))
    around = np.concatenate((offset[:1], offset, offset[-1:]))
    return Cycle((step + slope) / dt_s, ends, step * ends + around)
