"""Survival of a group of parts as a chart."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.core.charts import Chart, Plot, Point
from hale_rail.core.ledger.lifetimes import LifetimeFit, SurvivalStep, survives


def survival_chart(
    steps: Sequence[SurvivalStep],
    alive: Sequence[float],
    fit: LifetimeFit,
    bounds: Sequence[tuple[float, float, float]] = (),
    wide: float = 640.0,
    tall: float = 240.0,
) -> Chart:
    """Survival by age as steps, ticks for units still good, the fitted curve and its bounds."""
    oldest = max([step.years for step in steps] + list(alive)) * 1.1 or 1.0
    plot = Plot(wide, tall, (0.0, oldest), (0.0, 1.05))
    if bounds:
        edge = [(years, high) for years, _, high in bounds]
        plot.area("bounds", [*edge, *((years, low) for years, low, _ in reversed(bounds))])
    for share, text in ((0.0, "0 %"), (0.5, "50 %"), (0.9, "90 %"), (1.0, "100 %")):
        plot.level("grid", share, text)
    corners: list[Point] = []
    for former, later in zip(
        steps, [*steps[1:], SurvivalStep(oldest, steps[-1].share)], strict=True
    ):
        corners += [(former.years, former.share), (later.years, former.share)]
    plot.line("trace", corners)
    for years in alive:
        share = [step.share for step in steps if step.years <= years][-1]
        plot.line("alive", [(years, share - 0.02), (years, share + 0.02)])
    if fit.shape and fit.scale_years:
        ages = [oldest * place / 100 for place in range(1, 101)]
        shape, scale = fit.shape.value, fit.scale_years.value
        plot.line("fit", [(0.0, 1.0), *((age, survives(shape, scale, age)) for age in ages)])
    plot.ticks("years")
    return plot.chart(f"{fit.failures} of {fit.n} failed")
