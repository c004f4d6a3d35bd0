"""Draws a chart's plain shapes as SVG; what a kind looks like is the stylesheet's."""

from __future__ import annotations

from markupsafe import Markup

from hale_rail.core.charts import Chart
from hale_rail.web.frame import svg


def draw_chart(chart: Chart, name: str) -> Markup:
    """A chart; `name` is what it is of, for those who cannot see it."""
    shapes = [
        svg.path(
            f"chart-{shape.kind}", svg.through(shape.points) + ("z" if shape.is_filled else "")
        )
        for shape in chart.shapes
    ]
    words = [
        svg.text(f"chart-{word.kind} faint", *word.at, word.text, text_anchor=word.anchor)
        for word in chart.words
    ]
    label = f"{name}: {chart.label}"
    return svg.drawing("chart", (chart.wide, chart.tall), label, *shapes, *words)
