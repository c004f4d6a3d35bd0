"""Splits a record into bands that add up to it again, each of which can be shown alone.

Source: docs/formulas.md, “Ripple”. What repeats with the mains, and with the switching cycle, is
found by averaging in phase; a moving average over one mains period takes out every multiple of the
mains exactly and leaves what is slow. Spikes are what is left.
"""

from __future__ import annotations

from functools import cached_property

from msgspec import Struct

from hale_rail.core.arrays import Floats, np
from hale_rail.core.ripple.cycle import Cycle, find_cycle, follow
from hale_rail.core.ripple.mains import LowBands, mains_part
from hale_rail.core.ripple.template import (
    Folded,
    fold,
    looked_up,
    nothing,
    resampled,
    steps_of,
    straight_between,
    times_over,
    unspiked,
    without_steps,
)
from hale_rail.core.ripple.wave import Wave

Samples = Floats
BANDS = ("mains", "rectified", "switching", "subharmonic", "spikes", "slow", "post_regulator")
#: samples a second at which all is looked at that is slower than switching
_LOW_HZ = 25e3
#: switching cycles in one block that the slow part is told from
_BLOCK_CYCLES = 4
#: a cycle must explain at least this share of what is fast
_EXPLAINS = 0.1
#: cycles that a word on every second one needs
_FOR_SUBHARMONIC = 4
_CHUNK = 1 << 19
#: how many samples one cell of the overview spans
CELL = 64
_FINE = 8192


class Sweep(Struct, frozen=True, eq=False):
    """One pass over a record: least and greatest volts in cells of `CELL` samples, (2, cells), of
    the record and of its spikes, and the spikes' second and fourth moment.
    """

    raw: Samples
    spikes: Samples
    second: float
    fourth: float


class Split(Struct, frozen=True, eq=False, dict=True):
    """The parts of a record.

    `low`: the bands that are slower than switching, known by the means of blocks of `block`
    samples; `cycle` the switching cycle or None, and its shape as `folded`; `swept` the pass over
    all samples where it was kept.
    """

    wave: Wave
    mean_v: float
    block: int
    low: LowBands
    cycle: Cycle | None
    folded: Folded
    swept: Sweep | None = None

    def band(self, name: str, low: int, high: int) -> Samples:
        """One band's volts of samples `low` to `high`, (high − low,); KeyError for no band."""
        if name in ("switching", "spikes", "subharmonic"):
            return self._quick(low, high)[name]
        return straight_between(self.low.band(name), self.block, low, high)

    def _quick(self, low: int, high: int) -> dict[str, Samples]:
        """What is left without the slow bands, as switching, sub-harmonic and spikes.

        Where the cycle has a step, an edge that comes a little early or late is not a spike: there
        the cycle's volts are those between foot and top that come nearest.
        """
        left = self.wave.volt[low:high] - self.mean_v
        left -= straight_between(self._low_sum, self.block, low, high)
        none = np.zeros(high - low)
        if self.cycle is None:
            return {"switching": none, "subharmonic": none, "spikes": left}
        phase = self.cycle.phase(low, high)
        half = looked_up(self._half, phase / 2)
        one = looked_up(self._one, phase)
        if self._edges is not None:
            least, most = self._edges
            bare = left - half
            foot, top = looked_up(least, phase), looked_up(most, phase)
            np.copyto(one, np.clip(bare, foot, top), where=top > foot)
        return {"switching": one, "subharmonic": half, "spikes": left - half - one}

    @cached_property
    def _low_sum(self) -> Samples:
        return self.low.slow + self.low.mains + self.low.rectified + self.low.rest

    @cached_property
    def _one(self) -> Samples:
        return resampled(self.folded.one, _FINE)

    @cached_property
    def _half(self) -> Samples:
        return resampled(self.folded.two, _FINE)

    @cached_property
    def _edges(self) -> tuple[Samples, Samples] | None:
        """Foot and top of the cycle's steps, cell by cell (equal elsewhere); None without steps."""
        least, most, is_step = steps_of(self.folded.one)
        if not is_step.any():
            return None
        each = _FINE // len(is_step) + 1
        cells = np.arange(len(is_step) * each) // each
        return (
            np.where(is_step, least, 0.0)[cells],
            np.where(is_step, most, 0.0)[cells],
        )

    @property
    def hiccup_s(self) -> float:
        """The period in seconds of a rail that comes and collapses, else 0.0."""
        return self.low.hiccup_s

    @cached_property
    def vpp(self) -> dict[str, float]:
        """Each band's peak to peak in volts."""
        low, rest = self.low, self.overview["spikes"]
        return {
            "mains": _span(low.part.mains) if low.part else 0.0,
            "rectified": _span(low.part.rectified) if low.part else 0.0,
            "switching": _span(self.folded.one),
            "subharmonic": _span(self.folded.two),
            "spikes": float(rest[1].max() - rest[0].min()),
            "slow": _span(low.slow),
            "post_regulator": _span(low.rest),
        }

    @property
    def kurtosis(self) -> float:
        """Of what is left as spikes: 3 for noise, far above for bursts."""
        sweep = self.sweep
        return sweep.fourth / sweep.second**2 if sweep.second > 0 else 0.0

    @property
    def overview(self) -> dict[str, Samples]:
        """Least and greatest volts in cells of `CELL` samples, (2, cells): record and spikes."""
        return {"raw": self.sweep.raw, "spikes": self.sweep.spikes}

    @cached_property
    def sweep(self) -> Sweep:
        """The pass over all samples, made when none was kept."""
        return self.swept or self._sweep()

    def _sweep(self) -> Sweep:
        count = len(self.wave.volt)
        cells = -(-count // CELL)
        raw, rest = np.empty((2, cells)), np.empty((2, cells))
        second = fourth = 0.0
        for low in range(0, count, _CHUNK):
            high = min(count, low + _CHUNK)
            left = self._quick(low, high)["spikes"]
            cell = slice(low // CELL, -(-high // CELL))
            raw[:, cell] = extremes(self.wave.volt[low:high])
            rest[:, cell] = extremes(left)
            square = left * left
            second += float(square.sum())
            fourth += float(square @ square)
        return Sweep(raw, rest, second / count, fourth / count)


def split(
    wave: Wave,
    mains_hz: float | None = None,
    switching_hz: float | None = None,
    nominal_v: float | None = None,
) -> Split:
    """A record's bands; `mains_hz` and `switching_hz` where a person gives them."""
    mean = float(wave.volt.mean())
    volt = wave.volt - mean
    cycle = find_cycle(volt, wave.dt_s, switching_hz)
    folded = nothing() if cycle is None else _folded(volt, wave.dt_s, cycle)
    times = times_over(folded.one) if cycle is not None and switching_hz is None else 1
    if cycle is not None and times > 1:
        cycle = follow(volt, wave.dt_s, times * cycle.hz)
        folded = _folded(volt, wave.dt_s, cycle)
    if cycle is not None and switching_hz is None and folded.explained < _EXPLAINS:
        cycle, folded = None, nothing()
    block = _block(len(volt), wave.dt_s, cycle)
    means = _means(volt, block, cycle, folded)
    low = mains_part(
        means, block * wave.dt_s, (block - 1) / 2 * wave.dt_s, mains_hz, mean, nominal_v,
        wave.length_s,
    )  # fmt: skip
    return Split(wave, mean, block, low, cycle, folded)


def _folded(volt: Samples, dt_s: float, cycle: Cycle) -> Folded:
    """The switching cycle's smooth shape, the slow part taken out with what was told before."""
    block = max(1, round(_BLOCK_CYCLES / (cycle.hz * dt_s)))
    first = fold(volt, dt_s, cycle, block, nothing())
    folded = fold(volt, dt_s, cycle, block, first)
    one, two = unspiked(folded.one), unspiked(without_steps(folded.two, folded.one))
    if len(volt) * dt_s * cycle.hz < _FOR_SUBHARMONIC:
        two = np.zeros_like(two)
    return Folded(one - one.mean(), two - two.mean(), folded.noise_v, folded.explained)


def _block(count: int, dt_s: float, cycle: Cycle | None) -> int:
    """Samples in one block: no fewer than some switching cycles, so that none is taken for slow."""
    size = max(1, round(1 / (_LOW_HZ * dt_s)))
    if cycle is not None:
        size = max(size, round(_BLOCK_CYCLES / (cycle.hz * dt_s)))
    return min(size, max(1, count // 2))


def _means(volt: Samples, block: int, cycle: Cycle | None, folded: Folded) -> Samples:
    """Means of what is left without switching, block by block; the last block may be longer."""
    blocks = len(volt) // block
    means = np.empty(blocks)
    chunk = max(1, _CHUNK // block)
    for begin in range(0, blocks, chunk):
        end = min(blocks, begin + chunk)
        low, high = begin * block, end * block
        part = volt[low:high]
        if cycle is not None:
            part = part - folded.at(cycle.phase(low, high))
        means[begin:end] = part.reshape(-1, block).mean(axis=1)
    return means


def extremes(volt: Samples) -> Samples:
    """Least and greatest of each cell of `CELL` samples, shape (2, cells)."""
    starts = np.arange(0, len(volt), CELL)
    return np.stack((np.minimum.reduceat(volt, starts), np.maximum.reduceat(volt, starts)))


def _span(shape: Samples) -> float:
    return float(shape.max() - shape.min()) if len(shape) else 0.0
