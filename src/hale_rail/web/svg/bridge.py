"""Draws a bridge's four junctions with what each reads; a missing one is seen at a glance."""

from __future__ import annotations

from markupsafe import Markup, escape

from hale_rail.actions.facts import StationFacts, junctions
from hale_rail.core.parts.capacitors import Taken
from hale_rail.core.parts.others import JUNCTIONS, junction_state
from hale_rail.core.quantities import Unit, show

#: where each junction's diode stands: the terminal it leaves, the one it enters
_ENDS = {
    JUNCTIONS[0]: ((14.0, 80.0), (130.0, 16.0)),
    JUNCTIONS[1]: ((246.0, 80.0), (130.0, 16.0)),
    JUNCTIONS[2]: ((130.0, 144.0), (14.0, 80.0)),
    JUNCTIONS[3]: ((130.0, 144.0), (246.0, 80.0)),
}
_MIDDLE = (130.0, 80.0)
_NAMES = (("AC1", 2, 68, "start"), ("AC2", 258, 68, "end"), ("+", 130, 11, "middle"),
          ("−", 130, 159, "middle"))  # fmt: skip


def draw_bridge(facts: StationFacts) -> Markup:
    """The four junctions: a diode each, its volts forward, and a sign for its state."""
    read = junctions(facts.station.kind, facts.readings)
    parts = []
    for name, (start, end) in _ENDS.items():
        forward, reverse = read.get(name, (None, None))
        reason = junction_state(facts.station, forward, reverse)
        state = reason.argues.value if reason.argues else "unseen"
        parts.append(_diode(start, end, state, forward, reverse))
    for text, x, y, anchor in _NAMES:
        parts.append(f'<text class="terminal" x="{x}" y="{y}" text-anchor="{anchor}">{text}</text>')
    return Markup(
        '<svg class="bridge" viewBox="0 0 260 162" role="img" '
        f'aria-label="{escape(_label(facts, read))}">{"".join(parts)}</svg>'
    )


def _diode(
    start: tuple[float, float],
    end: tuple[float, float],
    state: str,
    forward: Taken | None,
    reverse: Taken | None,
) -> str:
    (x0, y0), (x1, y1) = start, end
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    length = ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5
    ux, uy = (x1 - x0) / length, (y1 - y0) / length
    tip = (x + 9 * ux, y + 9 * uy)
    base = [(x - 9 * ux - s * 9 * uy, y - 9 * uy + s * 9 * ux) for s in (1, -1)]
    bar = [(tip[0] - s * 10 * uy, tip[1] + s * 10 * ux) for s in (1, -1)]
    points = " ".join(f"{px:.1f},{py:.1f}" for px, py in (*base, tip))
    words = [show(t.value, Unit.VOLT) if t else "?" for t in (forward, reverse)]
    tx, anchor = (84.0, "start") if x < _MIDDLE[0] else (176.0, "end")
    ty = 64.0 if y < _MIDDLE[1] else 92.0
    lines = "".join(
        f'<text x="{tx:.1f}" y="{ty + 12 * row:.1f}" text-anchor="{anchor}">{word}</text>'
        for row, word in enumerate(words)
    )
    return (
        f'<g class="junction {state}"><path class="wire" d="M{x0} {y0}L{x1} {y1}"/>'
        f'<polygon points="{points}"/>'
        f'<path class="bar" d="M{bar[0][0]:.1f} {bar[0][1]:.1f}L{bar[1][0]:.1f} {bar[1][1]:.1f}"/>'
        f"{lines}</g>"
    )


def _label(facts: StationFacts, read: dict[str, tuple[Taken | None, Taken | None]]) -> str:
    said = [
        f"{name}: {junction_state(facts.station, *read.get(name, (None, None))).text}"
        for name in JUNCTIONS
    ]
    return f"Junctions of {facts.station.ref}, forward and reversed. " + " ".join(said)
