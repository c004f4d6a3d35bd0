"""Fits the shape of one switching cycle: how much of it ESR makes, how much capacitance.

Source: docs/formulas.md, “Ripple”. The node's volts are ESR·i + (1/C)·∫i dt, i the alternating
current of the choke (a triangle) or of the diode (a falling ramp, then nothing). Both terms are
laid under the averaged cycle by least squares, for every duty and phase.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.arrays import Complexes, Floats, np
from hale_rail.core.ripple.template import resampled

Samples = Floats
_CELLS = 200
_LEAST_DUTY, _MOST_DUTY, _DUTIES = 0.06, 0.94, 23
_FINE, _FINER = 0.03, 7
#: what the diode's current may have fallen to, as a share of its peak
_KEPT = (0.0, 0.25, 0.5, 0.75)
#: a current that does not fall to nothing must fit so much better to be believed
_CLEARLY = 0.5


class CycleFit(Struct, frozen=True):
    """A cycle's parts.

    `duty` of the choke's rise, or of the diode; `kept` of the diode's current at its end; `esr_v`
    and `cap_v` the p-p of both parts; `esr_unit` and `cap_unit` their factors under a current of
    1 p-p (volts; volts a period); `explained` 0 to 1.
    """

    is_flyback: bool
    duty: float
    kept: float
    esr_v: float
    cap_v: float
    esr_unit: float
    cap_unit: float
    explained: float

    def rc_periods(self) -> float:
        """ESR·C in periods; infinite where no capacitance shows."""
        return self.esr_unit / self.cap_unit if self.cap_unit > 0 else np.inf

    @property
    def longer(self) -> float:
        """The longer part of the period, in periods."""
        return max(self.duty, 1 - self.duty)


def fit(shape: Samples, *, is_flyback: bool) -> CycleFit:
    """The best fit of one stage's currents under a cycle's shape (m,), positive rails upward."""
    cells = resampled(shape, _CELLS)
    cells = cells - cells.mean()
    spectrum = np.fft.rfft(cells)
    best = _finely(cells, spectrum, is_flyback, 0.0)
    for kept in _KEPT[1:] if is_flyback else ():
        other = _finely(cells, spectrum, is_flyback, kept)
        if 1 - other.explained < _CLEARLY * (1 - best.explained):
            best = other
    return best


def _finely(cells: Samples, spectrum: Complexes, is_flyback: bool, kept: float) -> CycleFit:
    """The best duty, looked for coarsely, then finely around it."""
    coarse = _best(cells, spectrum, is_flyback, kept, np.linspace(_LEAST_DUTY, _MOST_DUTY, _DUTIES))
    fine = coarse.duty + np.linspace(-_FINE, _FINE, _FINER)
    return _best(cells, spectrum, is_flyback, kept, fine[(fine > 0.02) & (fine < 0.98)])


def _best(
    cells: Samples, spectrum: Complexes, is_flyback: bool, kept: float, duties: Samples
) -> CycleFit:
    fits = [_at(cells, spectrum, is_flyback, kept, float(duty)) for duty in duties]
    return max(fits, key=lambda one: one.explained)


def _current(is_flyback: bool, duty: float, kept: float) -> Samples:
    """One cycle of the current, 1 from peak to peak, zero mean; shape (_CELLS,)."""
    phase = (np.arange(_CELLS) + 0.5) / _CELLS
    if is_flyback:
        wave = np.where(phase < duty, 1 - (1 - kept) * phase / duty, 0.0)
    else:
        wave = np.where(phase < duty, phase / duty, (1 - phase) / (1 - duty))
    out: Samples = wave - wave.mean()
    return out


def _at(
    cells: Samples, spectrum: Complexes, is_flyback: bool, kept: float, duty: float
) -> CycleFit:
    """The fit at one duty, for every phase at once by circular correlation."""
    ramp = _current(is_flyback, duty, kept)
    held = np.cumsum(ramp) / _CELLS
    held = held - held.mean()
    with_ramp = np.fft.irfft(spectrum * np.conj(np.fft.rfft(ramp)), _CELLS)
    with_held = np.fft.irfft(spectrum * np.conj(np.fft.rfft(held)), _CELLS)
    a, b, c = float(ramp @ ramp), float(ramp @ held), float(held @ held)
    det = a * c - b * b
    esr = (c * with_ramp - b * with_held) / det
    cap = (a * with_held - b * with_ramp) / det
    # neither part may be negative; if one is, the other is used alone
    alone_esr, alone_cap = with_ramp / a, with_held / c
    esr, cap = (
        np.where(cap < 0, alone_esr, np.where(esr < 0, 0.0, esr)),
        np.where(cap < 0, 0.0, np.where(esr < 0, alone_cap, cap)),
    )
    esr, cap = np.maximum(esr, 0.0), np.maximum(cap, 0.0)
    gain = (
        2 * (esr * with_ramp + cap * with_held)
        - esr * esr * a - 2 * esr * cap * b - cap * cap * c
    )  # fmt: skip
    at = int(gain.argmax())
    total = float(cells @ cells)
    ramp_span, held_span = float(np.ptp(ramp)), float(np.ptp(held))
    return CycleFit(
        is_flyback, duty, kept,
        float(esr[at]) * ramp_span, float(cap[at]) * held_span,
        float(esr[at]), float(cap[at]),
        float(gain[at]) / total if total > 0 else 0.0,
    )  # fmt: skip
