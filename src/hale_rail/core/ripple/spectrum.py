"""A record's spectrum, narrow enough to be shown: the strongest line of each stretch of frequency.

Source: amplitude of a line 2·|X|/Σw with a Hann window; the slow part from the whole record in
blocks, the rest from pieces of it.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.arrays import Floats, np
from hale_rail.core.ripple.wave import Wave

Samples = Floats
_BINS = 420
_PIECE, _PIECES = 1 << 17, 8
#: where the slow part ends, in hertz
_SEAM_HZ = 5e3


class Spectrum(Struct, frozen=True, eq=False):
    """Frequencies in hertz, evenly apart by ratio, and the strongest line's volts peak; (k,)."""

    hz: Samples
    volt: Samples


def spectrum(wave: Wave) -> Spectrum:
    """The spectrum from the longest period that fits to half the sampling rate."""
    volt = wave.volt - wave.volt.mean()
    low, high = 2 / wave.length_s, wave.rate_hz / 2
    edges = np.geomspace(low, max(high, 2 * low), _BINS + 1)
    spectrum = np.zeros(_BINS)
    size = max(1, round(1 / (8 * _SEAM_HZ * wave.dt_s)))
    count = len(volt) // size
    if count >= 64:
        slow = volt[: count * size].reshape(count, size).mean(axis=1)
        _lay(spectrum, edges, slow, wave.dt_s * size, 0.0, _SEAM_HZ)
    else:
        size = 1
    start = _SEAM_HZ if size > 1 else 0.0
    for piece in _pieces(volt):
        _lay(spectrum, edges, piece, wave.dt_s, start, np.inf)
    return Spectrum(np.sqrt(edges[:-1] * edges[1:]), spectrum)


def _pieces(volt: Samples) -> list[Samples]:
    if len(volt) <= _PIECE:
        return [volt]
    starts = np.linspace(0, len(volt) - _PIECE, min(_PIECES, len(volt) // _PIECE + 1)).astype(int)
    return [volt[start : start + _PIECE] for start in starts]


def _lay(
    values: Samples, edges: Samples, volt: Samples, dt_s: float, low: float, high: float
) -> None:
    """Raise each bin to the strongest line of a piece that falls into it."""
    window = np.hanning(len(volt))
    lines = 2 * np.abs(np.fft.rfft((volt - volt.mean()) * window)) / window.sum()
    hz = np.fft.rfftfreq(len(volt), dt_s)
    kept = (hz >= max(low, edges[0])) & (hz < min(high, edges[-1]))
    place = np.searchsorted(edges, hz[kept], side="right") - 1
    np.maximum.at(values, np.clip(place, 0, len(values) - 1), lines[kept])
    # where bins are narrower than the lines lie apart, they lie on the line between them
    if kept.any():
        inside = (edges[:-1] >= hz[kept][0]) & (edges[1:] <= hz[kept][-1]) & (values == 0)
        middle = np.sqrt(edges[:-1] * edges[1:])
        values[inside] = np.interp(middle[inside], hz[kept], lines[kept])
