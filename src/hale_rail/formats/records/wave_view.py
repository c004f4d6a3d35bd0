"""A window of a record as JSON for the screen, and a record as CSV."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from hale_rail.core.ripple.bands import Split
from hale_rail.core.ripple.view import window

_ROWS = 20_000


def window_json(
    split: Split, from_s: float, to_s: float, columns: int, bands: Sequence[str]
) -> dict[str, Any]:
    """The window's columns: `low` and `high` of the record about its mean, and of each band, in
    volts; `from_s` and `to_s` as they are, seconds from the record's first sample."""
    wave = split.wave
    count = len(wave.volt)
    low = max(0, min(int(from_s / wave.dt_s), count - 2))
    high = max(low + 2, min(round(to_s / wave.dt_s), count))
    return {
        "from_s": low * wave.dt_s,
        "to_s": (high - 1) * wave.dt_s,
        "length_s": wave.length_s,
        "dt_s": wave.dt_s,
        "traces": {
            name: _rounded(window(split, name, low, high, columns)) for name in ("raw", *bands)
        },
    }


def _rounded(result: Any) -> list[list[float]]:
    return [[float(f"{value:.5g}") for value in side] for side in result]


def wave_rows(split: Split) -> Iterator[str]:
    """The record as CSV, some thousand rows at a time: seconds and volts, point and comma."""
    wave = split.wave
    yield "Time,Volts\r\ns,V\r\n"
    for low in range(0, len(wave.volt), _ROWS):
        part = wave.volt[low : low + _ROWS]
        yield "".join(
            f"{wave.start_s + (low + i) * wave.dt_s:.10g},{volt:.7g}\r\n"
            for i, volt in enumerate(part.tolist())
        )
