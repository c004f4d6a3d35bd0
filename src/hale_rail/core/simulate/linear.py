"""The mains side of a linear supply in time: rectifier, filter with ESR, regulator.

Source: Kirchhoff's laws at the filter, stepped explicitly. While a diode conducts the source drives
(v_in − V_D − v)/R_s into the node; v = v_C + ESR·(i_s − i_load); C·dv_C/dt = i_s − i_load.
"""

from __future__ import annotations

import math

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

    def load_current(self, volt: float) -> float:
        """What the load draws at a voltage, in amperes; nothing below 0 V."""
        return (self.load_a if volt > 0 else 0.0) + volt / self.load_ohm


def raw_filter(unit: RawFilter, dt_s: float, count: int, settle_s: float = 0.3) -> Samples:
    """Volts at the filter, `count` samples `dt_s` apart, after it settled; shape (count,)."""
    settling = round(settle_s * unit.mains_hz) / unit.mains_hz
    skipped = round(settling / dt_s)
    angle = 2 * math.pi * unit.mains_hz * dt_s
    out = np.empty(count)
    held = unit.peak_v - unit.diode_v
    volt = held
    share = 1 + unit.esr_ohm / unit.source_ohm
    for step in range(skipped + count):
        wave = math.sin(angle * (step - skipped))
        drive = (max(wave, 0.0) if unit.missing else abs(wave)) * unit.peak_v - unit.diode_v
        drawn = unit.load_current(volt)
        volt = (held + unit.esr_ohm * (drive / unit.source_ohm - drawn)) / share
        source = (drive - volt) / unit.source_ohm
        if source <= 0:
            source, volt = 0.0, held - unit.esr_ohm * drawn
        held += (source - drawn) * dt_s / unit.farad
        if step >= skipped:
            out[step - skipped] = volt
    return out


def regulated(
    raw_v: Samples, set_v: float, dropout_v: float = 2.0, rejection: float = 1e-3
) -> Samples:
    """A linear regulator's output: the set volts while its input leaves headroom, else input less
    drop-out; `rejection` is the share of the input's ripple that passes. Shape as given."""
    passed = rejection * (raw_v - raw_v.mean())
    out: Samples = np.minimum(set_v + passed, raw_v - dropout_v)
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
