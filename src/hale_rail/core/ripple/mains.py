"""What repeats with the mains, what is slower, and bursts of a supply that starts again and again.

Source: docs/formulas.md, “Ripple”. The even multiples of the mains are what a shape and itself half
a period later have in common; the odd ones are what turns its sign.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.arrays import Floats, np
from hale_rail.core.ripple.template import without_holes

Samples = Floats
MAINS_HZ = (50.0, 60.0)
#: mains periods that a record needs for a word on mains ripple
PERIODS = 2.0
_SLACK = 0.995
#: samples a period that it needs
FEWEST = 8
#: how far off its nominal frequency mains may be
_DRIFT = 0.01
#: mains periods from which lines have neighbours, lines that a window smears one over, and how far
#: a line stands above its neighbours
_FOR_LINES, _LOBE, _ABOVE = 6, 2, 2.0
_CELLS = 400
_SEARCHED = 20_000
#: a hiccup's period in seconds, the share of the rail that it collapses by
HICCUP_S, _COLLAPSE = (0.05, 2.0), 0.5
#: a shorted rail's blip and what is nothing, as shares of nominal, and the time it lies there
_BLIP, _DOWN, _LYING = 0.12, 0.12, 0.6
_HICCUP_BLOCK_S = 1e-3


class MainsPart(Struct, frozen=True, eq=False):
    """One mains period's shape, odd multiples (`mains`) and even ones (`rectified`), (m,) each.

    `share`: how much of what was there (slow parts apart) both explain, 0 to 1; `stands`: a line of
    theirs stands above what is beside it, which noise, a load's steps and an alias do not.
    """

    hz: float
    mains: Samples
    rectified: Samples
    share: float
    stands: bool = True


class LowBands(Struct, frozen=True, eq=False):
    """A series' bands, (k,) each as the series, which they add up to; hiccup's period or 0.0."""

    slow: Samples
    mains: Samples
    rectified: Samples
    rest: Samples
    part: MainsPart | None = None
    hiccup_s: float = 0.0

    def band(self, name: str) -> Samples:
        """One band's series; KeyError for none of these."""
        return {
            "slow": self.slow, "mains": self.mains, "rectified": self.rectified,
            "post_regulator": self.rest,
        }[name]  # fmt: skip


def _only_slow(low: Samples, hiccup_s: float = 0.0) -> LowBands:
    none = np.zeros_like(low)
    return LowBands(low, none, none, none, None, hiccup_s)


def mains_part(
    low: Samples,
    dt_s: float,
    start_s: float,
    mains_hz: float | None,
    mean_v: float,
    nominal_v: float | None,
    length_s: float,
) -> LowBands:
    """Split a series without its switching; `start_s` the time of its first value.

    A record too short for the mains has but a slow part.
    """
    period = hiccup_period(low + mean_v, dt_s, nominal_v)
    if period:
        return _only_slow(low, period)
    tried = [
        _with(low, dt_s, start_s, hz)
        for hz in ((mains_hz,) if mains_hz else MAINS_HZ)
        if length_s * hz >= PERIODS * _SLACK and hz * dt_s * FEWEST <= 1
    ]
    if not tried:
        return _only_slow(low)
    return max(tried, key=lambda found: found.part.share if found.part else 0.0)


def hiccup_period(level: Samples, dt_s: float, nominal_v: float | None) -> float:
    """The period in seconds of a rail that comes and collapses, 0.0 where it does not.

    `level` in volts; without a nominal voltage it must collapse below half of what it reaches.
    """
    size = max(1, round(_HICCUP_BLOCK_S / dt_s))
    count = len(level) // size
    if count < 2 * HICCUP_S[0] / (size * dt_s):
        return 0.0
    means = level[: count * size].reshape(count, size).mean(axis=1)
    means = means * np.sign(nominal_v) if nominal_v else np.abs(means)
    low, high = float(means.min()), float(means.max())
    reach = abs(nominal_v) if nominal_v else high
    if reach == 0 or not (high - low >= _COLLAPSE * reach or _is_blip(means, low, high, reach)):
        return 0.0
    return _spacing(means, low, high, size * dt_s)


def _is_blip(means: Samples, low: float, high: float, reach: float) -> bool:
    """True for a rail that lies at nothing and lifts its head, shorted: 15 to 40 % of nominal."""
    lying = float(np.mean(means < (low + high) / 2))
    is_down = abs(float(np.median(means))) <= _DOWN * reach
    return is_down and lying >= _LYING and high - low >= _BLIP * reach


def _spacing(means: Samples, low: float, high: float, step_s: float) -> float:
    """The mean time from edge to like edge, counted with a hysteresis of a fifth of the span."""
    middle, half = (low + high) / 2, (high - low) / 10
    state = bool(means[0] > middle)
    edges: dict[bool, list[int]] = {True: [], False: []}
    for index, value in enumerate(means):
        if (value < middle - half) if state else (value > middle + half):
            state = not state
            edges[state].append(index)
    # a record that begins or ends in a blip has one edge of a kind more than of the other
    told = max(edges.values(), key=len)
    if len(told) < 2:
        return 0.0
    period = (told[-1] - told[0]) / (len(told) - 1) * step_s
    return period if HICCUP_S[0] * 0.98 <= period <= HICCUP_S[1] * 1.02 else 0.0


def _with(low: Samples, dt_s: float, start_s: float, nominal_hz: float) -> LowBands:
    hz = _exact(low, dt_s, nominal_hz)
    slow = _moving(low, 1 / (hz * dt_s))
    left = low - slow
    shape = _shape(left, dt_s, start_s, hz)
    half = len(shape) // 2
    even = (shape[:half] + shape[half:]) / 2
    odd = (shape[:half] - shape[half:]) / 2
    rectified = np.concatenate((even, even))
    mains = np.concatenate((odd, -odd))
    phase = np.asarray((start_s + np.arange(len(low)) * dt_s) * hz, dtype=np.float64)
    odd_part, even_part = _at(mains, phase), _at(rectified, phase)
    rest = left - odd_part - even_part
    total = float(np.sum((low - low.mean()) ** 2))
    share = float(left @ left - rest @ rest) / total if total > 0 else 0.0
    stands = _stands(left, dt_s, hz)
    part = MainsPart(hz, mains, rectified, share, stands)
    return LowBands(slow, odd_part, even_part, rest, part)


def _stands(left: Samples, dt_s: float, hz: float) -> bool:
    """True where the mains' lines stand above their neighbours by `_ABOVE` in amplitude.

    Told from whole periods; fewer than `_FOR_LINES` have no neighbours to tell by.
    """
    periods = int(len(left) * dt_s * hz * (1 + 1e-9))
    if periods < _FOR_LINES:
        return True
    count = round(periods / (hz * dt_s))
    lines = np.abs(np.fft.rfft(left[:count] * np.hanning(count)))
    own = [k * periods for k in (1, 2) if k * periods < len(lines)]
    beside = [
        at
        for at in range(periods // 2, min(3 * periods, len(lines)))
        if min(at % periods, periods - at % periods) > _LOBE
    ]
    if not own or not beside:
        return True
    strongest = max(float(lines[at - 1 : at + 2].max()) for at in own)
    return strongest > _ABOVE * float(np.sort(lines[beside])[-max(1, len(beside) // 20)])


def _at(shape: Samples, phase: Floats) -> Samples:
    size = len(shape)
    place = (phase % 1.0) * size - 0.5
    ring = np.concatenate((shape[-1:], shape, shape[:1]))
    out: Samples = np.interp(place, np.arange(-1, size + 1), ring)
    return out


def _exact(low: Samples, dt_s: float, nominal_hz: float) -> float:
    """The mains frequency near its nominal one at which most of the record repeats."""
    size = max(1, len(low) // _SEARCHED, int(1 / (20 * nominal_hz * dt_s) / 2))
    count = len(low) // size
    part = low[: count * size].reshape(count, size).mean(axis=1)
    part = part - part.mean()
    time = np.arange(count) * size * dt_s
    periods = count * size * dt_s * nominal_hz
    if periods < 4:
        return nominal_hz  # two or three periods give no better frequency than the nominal one
    window = np.hanning(count)
    steps = int(np.clip(np.ceil(_DRIFT * periods * 40), 10, 400))
    best, best_energy = nominal_hz, -1.0
    for shift in np.linspace(-_DRIFT, _DRIFT, 2 * steps + 1):
        hz = nominal_hz * (1 + shift)
        turn = np.exp(-2j * np.pi * hz * time)
        # rectified mains speak at twice the frequency, and more exactly so
        energy = abs((part * window) @ turn) ** 2 + abs((part * window) @ turn**2) ** 2
        if energy > best_energy * (1 + 1e-9):
            best, best_energy = hz, float(energy)
    return best


def _moving(values: Samples, width: float) -> Samples:
    """The average over exactly `width` samples around each; beyond the ends the series goes on as
    it did one period before, moved by its trend."""
    count, need, period = len(values), int(width) + 2, round(width)
    trend = _trend(values, width) * period
    before, after = np.arange(need, 0, -1), np.arange(1, need + 1)
    turns_before, turns_after = -(-before // period), -(-after // period)
    head = values[period * turns_before - before] - trend * turns_before
    tail = values[count - 1 + after - period * turns_after] + trend * turns_after
    total = np.concatenate(([0.0], np.cumsum(np.concatenate((head, values, tail)))))
    centre = np.arange(count) + need + 0.5
    grid = np.arange(len(total))
    upper = np.interp(centre + width / 2, grid, total)
    lower = np.interp(centre - width / 2, grid, total)
    out: Samples = (upper - lower) / width
    return out


def _trend(values: Samples, width: float) -> float:
    """Volts a sample, from the means of the first and the last whole period."""
    period = round(width)
    first, last = values[:period].mean(), values[-period:].mean()
    return float(last - first) / max(len(values) - period, 1)


def _shape(left: Samples, dt_s: float, start_s: float, hz: float) -> Samples:
    """The average over mains periods; an even number of cells."""
    cells = int(min(_CELLS, max(8, 1 / (hz * dt_s)))) // 2 * 2
    phase = (start_s + np.arange(len(left)) * dt_s) * hz
    cell = np.minimum((phase % 1.0 * cells).astype(np.intp), cells - 1)
    sums = np.bincount(cell, left, cells)
    counts = np.bincount(cell, minlength=cells)
    filled = counts > 0
    means = without_holes(sums / np.maximum(counts, 1), filled)
    out: Samples = means - means.mean()
    return out
