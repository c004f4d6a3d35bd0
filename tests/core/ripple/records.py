"""Records with known truth, made by the circuits in time, as an oscilloscope would keep them."""

from __future__ import annotations

import numpy as np

from hale_rail.core.ripple.wave import Samples, Wave
from hale_rail.core.simulate.linear import RawFilter, hiccup, raw_filter, regulated
from hale_rail.core.simulate.scope import Scope, record
from hale_rail.core.simulate.switching import (
    FlybackStage,
    ForwardStage,
    flyback,
    forward,
    spikes,
)

SLOW, FAST = 20e-6, 0.4e-6
LONG, SHORT = 10_000, 250_000


def kept(volt: Samples, dt_s: float, *, is_ac: bool = False) -> Wave:
    """The record of an eight-bit instrument with some noise."""
    step = float(np.ptp(volt)) / 200
    return Wave(record(Scope(step, step / 2, is_ac), volt, dt_s), dt_s)


def raw(hz: float = 50.0, **unit: float) -> Samples:
    given = {"peak_v": 12.0, "farad": 2200e-6, "load_a": 0.8} | unit
    return raw_filter(RawFilter(hz, **given), SLOW, LONG)  # type: ignore[arg-type]


def dropped(missing: bool = False) -> Samples:
    farad = 4700e-6 if missing else 2200e-6
    before = raw_filter(RawFilter(50, 11.0, farad, load_a=1.0, missing=missing), SLOW, LONG)
    return regulated(before, 5.0, 2.5)


def of_forward(esr: float = 0.05, farad: float = 3300e-6, **more: float) -> Samples:
    return 5 + forward(ForwardStage(66e3, 4.5, farad, esr, **more), FAST, SHORT)


def of_flyback(esr: float = 0.04, farad: float = 2200e-6, **more: float) -> Samples:
    given = {"duty": 0.35} | more
    return 5 + flyback(FlybackStage(40e3, 3.0, farad, esr, **given), FAST, SHORT)


def with_spikes(esr: float = 0.02, height: float = 0.15) -> Wave:
    dt = 10e-9
    stage = ForwardStage(66e3, 4.5, 3300e-6, esr)
    volt = 5 + forward(stage, dt, 500_000) + spikes(66e3, height, dt, 500_000)
    return kept(volt, dt)


def bulk_ripple(height: float = 0.2) -> Samples:
    """What comes through a switcher of a bulk capacitor that is low, at the output."""
    before = raw_filter(RawFilter(50, 325, 60e-6, load_a=0.4, source_ohm=5), SLOW, LONG // 2)
    shape = (before - before.mean()) * height / float(np.ptp(before))
    return np.interp(np.arange(SHORT) * FAST, np.arange(len(shape)) * SLOW, shape)


def blips() -> Wave:
    return kept(hiccup(5.0, 0.4, 0.05, 1e-4, 30_000), 1e-4)
