"""Output stages of switching supplies in time, with the ripple's true parts known.

Source: the capacitor's law at the output node, v = v_C + ESR·(i − I), C·dv_C/dt = i − I, integrated
in closed form over each straight piece of i: the current of the choke (forward, half-bridge: a
triangle of ΔI about I) or of the diode (flyback: a ramp falling from its peak while the diode
conducts, nothing after).
"""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.arrays import Floats, np

Samples = Floats


class ForwardStage(Struct, frozen=True):
    """A choke into a capacitor: `delta_a` the choke's ripple current, `duty` its rising part.

    `uneven`: share by which every second pulse's ripple current differs, as with a loop that
    doubles its period.
    """

    hz: float
    delta_a: float
    farad: float
    esr_ohm: float
    duty: float = 0.35
    uneven: float = 0.0


class FlybackStage(Struct, frozen=True):
    """A diode into a capacitor: `load_a` drawn, `duty` the share of time the diode conducts.

    `kept`: what the diode's current has fallen to when the switch turns on again, as a share of its
    peak (0: discontinuous).
    """

    hz: float
    load_a: float
    farad: float
    esr_ohm: float
    duty: float = 0.4
    kept: float = 0.0

    @property
    def peak_a(self) -> float:
        """The diode's peak current: its mean over a cycle is the load's."""
        return 2 * self.load_a / (self.duty * (1 + self.kept))


def forward(stage: ForwardStage, dt_s: float, count: int) -> Samples:
    """The alternating volts of a forward stage's output, zero mean; shape (count,)."""
    phase = np.arange(count) * dt_s * stage.hz
    within, duty = phase % 1.0, stage.duty
    is_on = within < duty
    after = within - duty
    current = np.where(is_on, within / duty - 0.5, 0.5 - after / (1 - duty))
    # charge so far, in units of ΔI/f: a parabola up, then one down
    held = np.where(
        is_on, within * within / (2 * duty) - within / 2, after / 2 - after**2 / (2 - 2 * duty)
    )
    if stage.uneven:
        turn = np.where(np.floor(phase) % 2 == 0, 0.5, -0.5) * stage.uneven
        current = current + turn * np.sin(np.pi * within)
        held = held - turn * np.cos(np.pi * within) / np.pi
    return _through(stage.delta_a * current, stage.delta_a * held / stage.hz, stage)


def flyback(stage: FlybackStage, dt_s: float, count: int) -> Samples:
    """The alternating volts of a flyback stage's output, zero mean; shape (count,)."""
    within, duty = (np.arange(count) * dt_s * stage.hz) % 1.0, stage.duty
    slope = (1 - stage.kept) / duty
    is_on = within < duty
    current = np.where(is_on, stage.peak_a * (1 - slope * within), 0.0) - stage.load_a
    through = stage.peak_a * (within - slope * within**2 / 2)
    held = np.where(is_on, through - stage.load_a * within, stage.load_a * (1 - within))
    return _through(current, held / stage.hz, stage)


def _through(current: Samples, charge: Samples, stage: ForwardStage | FlybackStage) -> Samples:
    """The volts of a current through ESR, and of its charge on C, in series; zero mean."""
    volt = stage.esr_ohm * current + charge / stage.farad
    out: Samples = volt - volt.mean()
    return out


def spikes(
    hz: float,
    height_v: float,
    dt_s: float,
    count: int,
    *,
    duty: float = 0.35,
    ring_hz: float = 6e6,
    fade_s: float = 120e-9,
) -> Samples:
    """Ringing bursts at both switching edges, the second of the other sign; shape (count,).

    `height_v` is the height of the first peak; the ring falls by e in `fade_s`.
    """
    within = (np.arange(count) * dt_s * hz) % 1.0
    out = np.zeros(count)
    for edge, sign in ((0.0, 1.0), (duty, -1.0)):
        since = ((within - edge) % 1.0) / hz
        ring = np.exp(-since / fade_s) * np.cos(2 * math.pi * ring_hz * since)
        out += sign * height_v * np.where(since < 8 * fade_s, ring, 0.0)
    return out
