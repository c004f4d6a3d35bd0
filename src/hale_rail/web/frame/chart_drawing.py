"""Draws a chart's plain shapes as SVG; what a kind looks like is the stylesheet's."""

from __future__ import annotations

from markupsafe import Markup, escape

from hale_rail.core.charts import Chart, Point


def draw_chart(chart: Chart, name: str) -> Markup:
    """A chart; `name` is what it is of, for those who cannot see it."""
    drawn = ""
    for shape in chart.shapes:
        end = "z" if shape.is_filled else ""
        drawn += f'<path class="chart-{shape.kind}" d="{path_of(shape.points)}{end}"/>'
    for word in chart.words:
        x, y = word.at
        drawn += f'<text class="chart-{word.kind} {word.anchor}" x="{x:g}" y="{y:g}">'
        drawn += f"{escape(word.text)}</text>"
    label = escape(f"{name}: {chart.label}")
    return Markup(
        f'<svg class="chart" viewBox="0 0 {chart.wide:g} {chart.tall:g}" role="img" '
        f'aria-label="{label}">{drawn}</svg>'
    )


def path_of(points: tuple[Point, ...]) -> str:
    """A path through points."""
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in points)
