"""Draws a harness: the source's rails, the face of the board's connector, wires in their order."""

from __future__ import annotations

from markupsafe import Markup

from hale_rail.case.bring_up.harness import PinFacts
from hale_rail.core.bring_up.wiring import PinKind, Wire
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.stages.bring_up.harness import HarnessPage
from hale_rail.web.frame import svg

_WIDE, _ROW, _TOP = 860.0, 34.0, 44.0
_SOURCE, _TARGET, _CELL = 14.0, 430.0, 30.0
_SHAPES = {RailVerdict.PASS: "good", RailVerdict.MARGINAL: "worn", RailVerdict.FAIL: "failed"}


def draw_harness(page: HarnessPage) -> Markup:
    """Both faces with pin 1 marked, and the wires between; what is missing hangs loose."""
    facts = page.facts
    if facts.plan is None:
        return Markup("")
    feeds = {index: _TOP + _ROW * index + 6 for index in range(len(facts.feeds))}
    tall = _TOP + _ROW * max(len(facts.feeds), len(facts.pins) * 0.86, 3) + 24
    step = (tall - _TOP - 24) / max(len(facts.pins), 1)
    wires = {wire.pin.name: wire for wire in facts.plan.wires}
    drawn = [
        svg.text("faint", _SOURCE, 18, "Source"),
        svg.text("faint", _TARGET - 6, 18, _face(page)),
        *_source(page, feeds),
    ]
    for index, pin in enumerate(facts.pins):
        y = _TOP + step * index + step / 2
        is_here = page.here is not None and page.here.pin.name == pin.pin.name
        drawn.append(_wire(wires.get(pin.pin.name), feeds, y))
        drawn.append(_pin(pin, y, is_here))
        if index == 0:
            drawn.append(svg.path("solid", "M", _TARGET - 1, y - 20, "l6 6 -6 6 -6 -6z"))
        drawn.append(_pin_words(pin, y, pin.pin.name in wires))
    count = f"{len(facts.plan.wires)} wires of {facts.length_m:g} m"
    label = f"Harness, {count}; the connector from its {page.side_words}, pin 1 marked"
    return svg.drawing("harness", (_WIDE, tall), label, *drawn)


def _face(page: HarnessPage) -> str:
    return f"Board’s connector, {page.side_words}, pin 1 ◆"


def _source(page: HarnessPage, feeds: dict[int, float]) -> list[Markup]:
    source = []
    for index, feed in enumerate(page.facts.feeds):
        y = feeds[index]
        amps = f"{feed.amps:g} A" if feed.amps is not None else ""
        gauge = "conductors" if feed.awg is None else f"AWG {feed.awg}"
        words = f"{amps} · {feed.conductors} × {gauge}".removeprefix(" · ")
        source.append(svg.rect("box soft", _SOURCE, y - 13, 150, 26, rx=3))
        source.append(svg.text("", _SOURCE + 8, y + 5, feed.name))
        source.append(svg.text("faint end", _SOURCE + 142, y + 5, words))
    return source


def _wire(wire: Wire | None, feeds: dict[int, float], y: float) -> Markup:
    if wire is None:
        return Markup("")
    begin = feeds[wire.feed]
    left, right = _SOURCE + 150, _TARGET - 8
    middle = (_SOURCE + 150 + _TARGET) / 2
    curve = ("M", left, begin, "C", middle, begin, middle, y, right, y)
    thick = min(1.5 + wire.conductors, 7)
    words = f"{wire.conductors} ×" if wire.conductors > 1 else ""
    if wire.drop_v is not None:
        words = f"{words} {wire.drop_v * 1e3:.0f} mV".strip()
    drawn = svg.path("wire" if wire.rail_v else "wire ground", *curve, stroke_width=thick)
    return drawn + svg.text("faint end", _TARGET - 14, y - 5, words)


def _pin(facts: PinFacts, y: float, is_here: bool) -> Markup:
    shape = _SHAPES.get(facts.verdict, "unseen")
    drawn = [svg.rect("box", _TARGET, y - 11, _CELL, 22, rx=2)]
    if is_here:
        drawn.append(svg.rect("ring", _TARGET - 5, y - 16, 40, 32))
    name = svg.text("centred", _TARGET + _CELL / 2, y + 5, facts.pin.name)
    return svg.group(f"pin {shape}{' here' if is_here else ''}", *drawn, name)


def _pin_words(facts: PinFacts, y: float, is_wired: bool) -> Markup:
    """What a pin is for, what it read, its wire's colour; that a wire it needs is missing."""
    pin = facts.pin
    drawn = Markup("")
    if pin.kind is PinKind.RAIL and not is_wired:
        drawn += svg.path("line bad dashed", "M", _TARGET - 8, y, "h-34m0 -6v12")
        drawn += svg.text("bad end", _TARGET - 48, y + 5, "missing")
    what = {PinKind.SIGNAL: "signal", PinKind.NC: "not connected"}.get(pin.kind) or pin.rail_name
    amps = f" {pin.amps:g} A" if pin.amps else ""
    kind = f"digits {_SHAPES[facts.verdict]}" if facts.reading else "faint"
    drawn += svg.text("", _TARGET + 42, y + 5, f"{what}{amps}")
    drawn += svg.text(kind, _TARGET + 160, y + 5, _read(facts))
    return drawn + svg.text("faint", _TARGET + 322, y + 5, facts.colour)


def _read(facts: PinFacts) -> str:
    if facts.reading is None:
        return "unread"
    word = {"good": "right", "failed": "wrong", "worn": "marginal"}[_SHAPES[facts.verdict]]
    return f"{show(facts.reading.value, Unit.VOLT, 4)} {word}"
