"""The demo's wave records: circuits integrated in time, as three oscilloscopes would save them.

`TRUTH` says what was put into each; the tests hold the lab to it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hale_rail.core.simulate.linear import RawFilter, raw_filter, regulated
from hale_rail.core.simulate.scope import Scope, record
from hale_rail.core.simulate.switching import ForwardStage, forward, spikes

Samples = NDArray[np.float64]
#: the Pattern Editor's output frequency, twice that of one transistor
_HZ = 65.4e3
_SLOW_DT, _FAST_DT, _LINEAR_DT = 2e-6, 50e-9, 50e-6
_SLOW, _FAST, _LINEAR = 50_000, 6_000, 4_000


@dataclass(frozen=True)
class Truth:
    """What was put into a record: the cause that weighs most, and its number (SI)."""

    cause: str
    value: float | None = None


@dataclass(frozen=True)
class DemoWave:
    """A record as the technician brings it: its file's name and bytes, and what is said of it."""

    rail: str
    name: str
    data: bytes
    said: dict[str, Any]
    truth: Truth


def _stage(esr_ohm: float, delta_a: float, dt: float, count: int) -> Samples:
    made = ForwardStage(_HZ, delta_a, 6600e-6, esr_ohm, 0.38, uneven=0.04)
    return forward(made, dt, count)


def _bulk(height_v: float, dt: float, count: int) -> Samples:
    """What is left at the output of the bulk capacitors' ripple."""
    raw = raw_filter(RawFilter(50, 310, 165e-6, load_a=0.55, source_ohm=5), 20e-6, 5000)
    shape = (raw - raw.mean()) * height_v / float(np.ptp(raw))
    out: Samples = np.interp(np.arange(count) * dt, np.arange(len(shape)) * 20e-6, shape)
    return out


def _editor(
    nominal_v: float, esr_ohm: float, delta_a: float, *, is_fast: bool, seed: int
) -> Samples:
    dt, count = (_FAST_DT, _FAST) if is_fast else (_SLOW_DT, _SLOW)
    volt = nominal_v + _stage(esr_ohm, delta_a, dt, count)
    if is_fast:
        volt = volt + spikes(_HZ, 0.025 * nominal_v / 5, dt, count, duty=0.38)
    else:
        volt = volt + _bulk(0.012 * nominal_v / 5, dt, count)
    return record(Scope(0.004, 0.002, is_ac=True, seed=seed), volt, dt)


def _points(volt: Samples, dt: float) -> bytes:
    """Point and comma, a header of metadata and a units row."""
    head = f"Model,Bench scope\nSample Interval,{dt:.3e}\nCoupling,AC\n\nTime,CH1\ns,V\n"
    rows = (f"{i * dt:.7e},{v:.4f}" for i, v in enumerate(volt.tolist()))
    return (head + "\n".join(rows) + "\n").encode()


def _commas(volt: Samples, dt: float) -> bytes:
    """Decimal comma and semicolon, milliseconds, as a handheld saves it."""
    rows = (f"{i * dt * 1e3:.3f};{v:.3f}".replace(".", ",") for i, v in enumerate(volt.tolist()))
    return ("Zeit;Kanal A\r\n(ms);(V)\r\n" + "\r\n".join(rows) + "\r\n").encode()


def _bare(volt: Samples, dt: float) -> bytes:
    """Volts alone, the sample rate above."""
    rows = (f"{v:.4f}" for v in volt.tolist())
    return (f"Sample rate: {1 / dt:.0f} Sa/s\nCH1 (V)\n" + "\n".join(rows) + "\n").encode()


Saver = Callable[[Samples, float], bytes]


def editor_before() -> list[DemoWave]:
    """The Pattern Editor warm, before the recap: both output banks dried up."""
    machine = {"load": "machine", "is_ac": True}
    five = machine | {"load_a": 9.0}
    twelve = machine | {"load_a": 2.1}
    return [
        DemoWave("+5 V", "editor-5v-20ms.csv",
                 _points(_editor(5, 0.036, 4.5, is_fast=False, seed=1), _SLOW_DT), five,
                 Truth("output-esr-high")),  # sampled too seldom for a number
        DemoWave("+5 V", "editor-5v-5us.csv",
                 _points(_editor(5, 0.036, 4.5, is_fast=True, seed=2), _FAST_DT), five,
                 Truth("output-esr-high", 0.036)),
        DemoWave("+12 V", "editor-12v-5us.csv",
                 _points(_editor(12, 0.210, 1.35, is_fast=True, seed=3), _FAST_DT), twelve,
                 Truth("output-esr-high", 0.210)),
    ]  # fmt: skip


def editor_after() -> list[DemoWave]:
    """+12 V with its new bank."""
    said = {"load": "machine", "is_ac": True, "load_a": 2.1}
    volt = _editor(12, 0.024, 1.35, is_fast=True, seed=4)
    return [DemoWave("+12 V", "editor-12v-5us-after.csv", _points(volt, _FAST_DT), said,
                     Truth("clean"))]  # fmt: skip


def draftmaster_raw() -> list[DemoWave]:
    """The raw filter before the Draftmaster's +12 V regulator, C2, at half its value."""
    raw = raw_filter(RawFilter(50, 20.5, 1150e-6, load_a=0.38, esr_ohm=0.12), _LINEAR_DT, _LINEAR)
    volt = record(Scope(0.02, 0.01, seed=5), raw, _LINEAR_DT)
    said = {"load": "machine", "load_a": 0.38, "is_raw": True, "nominal_v": 18.0}
    return [DemoWave("+12 V", "draftmaster-raw.csv", _commas(volt, _LINEAR_DT), said,
                     Truth("filter-capacitance-low", 1150e-6))]  # fmt: skip


def terminal(farad: float, name: str, seed: int) -> list[DemoWave]:
    """The Shed Terminal's +5 V regulator behind its raw filter C1 of so many farads."""
    raw = raw_filter(RawFilter(50, 10.4, farad, load_a=1.0, diode_v=0.9), _LINEAR_DT, _LINEAR)
    out = regulated(raw, 5.02, 2.2)
    volt = record(Scope(0.004, 0.002, seed=seed), out, _LINEAR_DT)
    depth = float(np.ptp(out))
    truth = Truth("regulator-dropout", depth) if depth > 0.05 else Truth("clean")
    said = {"load": "machine", "load_a": 1.0}
    return [DemoWave("+5 V", name, _bare(volt, _LINEAR_DT), said, truth)]
