"""What an oscilloscope makes of volts: coupling, noise, and the steps of its converter."""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.arrays import Floats, np

Samples = Floats


class Scope(Struct, frozen=True):
    """An oscilloscope's input: steps of `step_v`, noise of `noise_v` RMS, coupled AC or DC."""

    step_v: float = 0.0
    noise_v: float = 0.0
    is_ac: bool = False
    corner_hz: float = 5.0
    seed: int = 1


def record(scope: Scope, volt: Samples, dt_s: float) -> Samples:
    """The volts as the instrument keeps them; shape as given."""
    seen = volt - volt.mean() if scope.is_ac else volt.copy()
    if scope.is_ac:
        seen = _high_passed(seen, 1 - math.exp(-2 * math.pi * scope.corner_hz * dt_s))
    if scope.noise_v:
        seen = seen + np.random.default_rng(scope.seed).normal(0.0, scope.noise_v, len(seen))
    return np.round(seen / scope.step_v) * scope.step_v if scope.step_v else seen


def _high_passed(volt: Samples, gain: float) -> Samples:
    """A single pole's high pass; the slow part is followed in blocks, which is exact enough there.

    A block is a hundredth of the pole's time constant.
    """
    block = max(1, int(0.01 / gain))
    count = len(volt) // block
    if count < 2:
        return volt
    means = volt[: count * block].reshape(count, block).mean(axis=1)
    level, slow = 0.0, np.empty(count)
    for index, mean in enumerate(means):
        level += (mean - level) * (1 - (1 - gain) ** block)
        slow[index] = level
    at = (np.arange(count) + 0.5) * block
    out: Samples = volt - np.interp(np.arange(len(volt)), at, slow)
    return out
