"""The mains side of a linear supply in time: rectifier, filter with ESR, regulator.

Source: Kirchhoff's laws at the filter, stepped implicitly. While a diode conducts the source drives
(v_in − V_D − v)/R_s into the node; v = v_C + ESR·(i_s − i_load); C·dv_C/dt = i_s − i_load.
"""

from __future__ import annotations

import math
from functools import lru_cache

from msgspec import Struct

from hale_rail.core.arrays import Floats, np

Samples = Floats


class RawFilter(Struct, frozen=True):
    """A rectifier and its filter capacitor.

    `peak_v` of the winding, `source_ohm` of winding and diodes, `diode_v` all drops in the path,
    `load_a` a constant current or `load_ohm` a resistor; `missing`: one diode (or half of the
    winding) is open, so that every second half wave is missing.
    """

    mains_hz: float
    peak_v: float
    farad: float
    load_a: float = 0.0
    load_ohm: float = math.inf
    esr_ohm: float = 0.02
    source_ohm: float = 0.15
    diode_v: float = 1.4
    missing: bool = False


@lru_cache(maxsize=64)
def raw_filter(unit: RawFilter, dt_s: float, count: int, settle_s: float = 0.3) -> Samples:
    """Volts at the filter, `count` samples `dt_s` apart, after it settled; shape (count,).

    The load draws nothing below 0 V. Steps are implicit: an open filter, whose time constant is far
    below a step, merely follows the rectifier. The samples are not to be written to: who asks again
    has them.
    """
    settling = round(settle_s * unit.mains_hz) / unit.mains_hz
    skipped = round(settling / dt_s)
    angle = 2 * math.pi * unit.mains_hz * dt_s
    esr_ohm, source_ohm, load_ohm, farad = (
        unit.esr_ohm, unit.source_ohm, unit.load_ohm, unit.farad,
    )  # fmt: skip
    held = unit.peak_v - unit.diode_v
    # v = held + (i_s − i_l)·k, i_s = (drive − v)/R_s, i_l = I + v/R_l
    ohm = dt_s / farad + esr_ohm
    idle, fed = 1 + ohm / load_ohm, 1 + ohm / load_ohm + ohm / source_ohm
    volts = []
    for step in range(-skipped, count):
        wave = math.sin(angle * step)
        driven = wave if wave > 0 else 0.0 if unit.missing else -wave
        drive = driven * unit.peak_v - unit.diode_v
        volt = max(0.0, (held + ohm * (drive / source_ohm - unit.load_a)) / fed)
        if drive <= volt:
            volt = max(0.0, (held - ohm * unit.load_a) / idle)
        held += (volt - held) * dt_s / farad / ohm
        volts.append(volt)
    out = np.array(volts[skipped:])
    out.flags.writeable = False
    return out


def regulated(
    raw_v: Samples, set_v: float, dropout_v: float = 2.0, rejection: float = 1e-3
) -> Samples:
    """A linear regulator's output: the set volts while its input leaves headroom, else input less
    drop-out, never below 0; `rejection` is the share of the input's ripple that passes. Shape as
    given."""
    passed = rejection * (raw_v - raw_v.mean())
    out: Samples = np.maximum(np.minimum(set_v + passed, raw_v - dropout_v), 0.0)
    return out


def hiccup(
    volt: float, period_s: float, on_s: float, dt_s: float, count: int, rise_s: float = 0.004
) -> Samples:
    """A supply that starts, finds an overload and stops, again and again; shape (count,).

    Each try charges the output towards `volt` with the time constant `rise_s` for `on_s`, then the
    load drains it with the same constant.
    """
    out = np.empty(count)
    level = 0.0
    gain = 1 - math.exp(-dt_s / rise_s)
    for step in range(count):
        is_on = (step * dt_s) % period_s < on_s
        level += ((volt if is_on else 0.0) - level) * gain
        out[step] = level
    return out
