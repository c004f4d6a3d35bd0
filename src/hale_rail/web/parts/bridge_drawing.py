"""Draws a bridge's four junctions with what each reads; a missing one is seen at a glance."""

from __future__ import annotations

from markupsafe import Markup

from hale_rail.case.parts.nodes import PartFacts
from hale_rail.core.parts.kinds.bridge import PAIRS, state
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.procedures import DIODE, Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.web.frame import svg

#: where each junction's diode stands: the terminal it leaves, the one it enters
_ENDS = {
    PAIRS[0]: ((14.0, 80.0), (130.0, 16.0)),
    PAIRS[1]: ((246.0, 80.0), (130.0, 16.0)),
    PAIRS[2]: ((130.0, 144.0), (14.0, 80.0)),
    PAIRS[3]: ((130.0, 144.0), (246.0, 80.0)),
}
_MIDDLE = (130.0, 80.0)
_NAMES = (
    ("AC1", 2, 68, "start"),
    ("AC2", 258, 68, "end"),
    ("+", 130, 11, "middle"),
    ("−", 130, 159, "middle"),
)


def draw_bridge(facts: PartFacts) -> Markup:
    """The four junctions: a diode each, its volts forward, and a sign for its state."""
    readings = _readings(facts)
    parts, bridge = [], []
    for pair, (start, end) in _ENDS.items():
        reason = state(facts.part, pair, readings)
        shape = reason.argues.value if reason.argues else "unseen"
        parts.append(_diode(start, end, shape, readings.both_ways(DIODE, pair)))
        bridge.append(f"{pair.words}: {reason.text}")
    for words, x, y, anchor in _NAMES:
        parts.append(svg.text("terminal faint", x, y, words, text_anchor=anchor))
    label = f"Junctions of {facts.part.ref}, forward and reversed. {' '.join(bridge)}"
    return svg.drawing("bridge", (260, 162), label, *parts)


def _readings(facts: PartFacts) -> PartReadings:
    """The newest drop of each pair; a lifted one outranks one in circuit."""
    readings = {}
    for condition in (Condition.IN_CIRCUIT, Condition.LIFTED):
        for r in facts.readings:
            if r.procedure is DIODE and r.condition is condition:
                is_lifted = condition is Condition.LIFTED
                readings[(DIODE.code, r.target.pair)] = MeasuredValue(r.value, is_lifted, r.digit)
    return PartReadings(readings)


def _diode(
    start: svg.Point,
    end: svg.Point,
    shape: str,
    ways: tuple[MeasuredValue | None, MeasuredValue | None],
) -> Markup:
    (x0, y0), (x1, y1) = start, end
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    length = ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5
    ux, uy = (x1 - x0) / length, (y1 - y0) / length
    tip = (x + 9 * ux, y + 9 * uy)
    base = [(x - 9 * ux - s * 9 * uy, y - 9 * uy + s * 9 * ux) for s in (1, -1)]
    bar = [(tip[0] - s * 10 * uy, tip[1] + s * 10 * ux) for s in (1, -1)]
    return svg.group(
        f"junction {shape}",
        svg.path("wire line", svg.through([start, end])),
        svg.path("triangle", svg.through([*base, tip]) + "z"),
        svg.path("bar", svg.through(bar)),
        *_figures(x, y, ways),
    )


def _figures(
    x: float, y: float, ways: tuple[MeasuredValue | None, MeasuredValue | None]
) -> list[Markup]:
    words = [show(t.value, Unit.VOLT) if t else "?" for t in ways]
    tx, anchor = (84.0, "start") if x < _MIDDLE[0] else (176.0, "end")
    ty = 64.0 if y < _MIDDLE[1] else 92.0
    return [
        svg.text("", tx, ty + 12 * row, word, text_anchor=anchor) for row, word in enumerate(words)
    ]
