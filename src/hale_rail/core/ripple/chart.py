"""A wave record as a chart."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.core.charts import Chart, Plot, Point
from hale_rail.core.quantities import Unit, show


def wave_chart(
    traces: Sequence[tuple[str, Sequence[Point]]],
    limit_v: float | None,
    label: str,
    wide: float = 640.0,
    tall: float = 150.0,
) -> Chart:
    """A record around its mean, in ms and mV, the one before under it; the limit as a band."""
    every = [point for _, points in traces for point in points]
    seconds, volts = [at for at, _ in every], [volt for _, volt in every]
    half = (limit_v or 0.0) / 2
    low, high = min(*volts, -half), max(*volts, half)
    room = max(0.05 * (high - low), 1e-6)
    begin, end = min(seconds), max(seconds)
    across = (begin * 1e3, max(end, begin + 1e-9) * 1e3)
    plot = Plot(wide, tall, across, (low - room, high + room))
    if limit_v:
        plot.level("limit", half, "")
        plot.level("limit", -half, show(limit_v, Unit.VOLT, 3))
    plot.level("grid", low, show(low, Unit.VOLT, 2))
    plot.level("grid", high, show(high, Unit.VOLT, 2))
    for kind, points in traces:
        plot.line(kind, [(at * 1e3, volt) for at, volt in points])
    plot.ticks("ms")
    return plot.chart(label)
