"""Writes a wave record as CSV of seconds and volts."""

from __future__ import annotations

from hale_rail.core.arrays import np
from hale_rail.core.ripple.wave import Samples


def wave_text(volt: Samples, dt_s: float) -> str:
    """A heading, a row of units, and a row a sample."""
    rows = (f"{n * dt_s:.7e},{v:.4f}" for n, v in enumerate(np.asarray(volt).tolist()))
    return "Time,CH1\ns,V\n" + "\n".join(rows) + "\n"
