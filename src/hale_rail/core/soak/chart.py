"""A soak as a chart."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.core.charts import Chart, Plot, Point, thinned
from hale_rail.core.quantities import Unit, show
from hale_rail.core.soak.soak import Sample, Soak, SoakLimits

#: a trend's wedge is followed this far beyond what was done, as a share of it
_AHEAD = 0.25


def soak_chart(
    samples: Sequence[Sample],
    limits: SoakLimits,
    soak: Soak,
    wide: float = 640.0,
    tall: float = 120.0,
) -> Chart:
    """A rail over the hours: limits as edges, gaps, warm-up, the rows, the trend as a wedge."""
    start = samples[0].at_s
    rows = [((sample.at_s - start) / 3600, sample.volt) for sample in samples]
    end = max(limits.hours, soak.hours * (1 + _AHEAD), 1e-3)
    volts = [limits.low_v, limits.high_v, *(volt for _, volt in rows)]
    room = 0.08 * (max(volts) - min(volts))
    plot = Plot(wide, tall, (0.0, end), (min(volts) - room, max(volts) + room))
    warm = min(limits.warm_up_s / 3600, end)
    if warm:
        plot.band("warm-up", 0.0, warm)
    for begin, until in soak.gaps:
        plot.band("gap", begin, until)
    plot.level("limit", limits.low_v, show(limits.low_v, Unit.VOLT, 4))
    plot.level("limit", limits.high_v, show(limits.high_v, Unit.VOLT, 4))
    line = soak.trend
    if line and line.is_proven:
        ahead = [end - soak.hours] * 2
        ends = [line.last_v + slope * hours
                for slope, hours in zip((line.low, line.high), ahead, strict=True)]  # fmt: skip
        inside = [min(max(volt, plot.y_range[0]), plot.y_range[1]) for volt in ends]
        plot.area("trend", [(soak.hours, line.last_v), (end, inside[0]), (end, inside[1])])
    for piece in _pieces(rows, soak.gaps):
        plot.line("trace", thinned(piece))
    plot.ticks("h")
    return plot.chart(f"{soak.verdict.words}, {soak.hours:.1f} of {limits.hours:g} hours")


def _pieces(rows: Sequence[Point], gaps: Sequence[tuple[float, float]]) -> list[list[Point]]:
    """The rows between gaps."""
    begins = {begin for begin, _ in gaps}
    pieces: list[list[Point]] = [[]]
    for row in rows:
        pieces[-1].append(row)
        if row[0] in begins:
            pieces.append([])
    return [piece for piece in pieces if piece]
