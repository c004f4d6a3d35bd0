"""Draws a harness: the source's rails, the face of the board's connector, wires in their order."""

from __future__ import annotations

from markupsafe import Markup, escape

from hale_rail.case.bring_up.harness import PinFacts
from hale_rail.core.bring_up.wiring import PinKind, Wire
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.stages.bring_up.harness import HarnessPage

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
    drawn = _text(_SOURCE, 18, "Source", "head") + _text(_TARGET - 6, 18, _face(page), "head")
    drawn += _source(page, feeds)
    for index, pin in enumerate(facts.pins):
        y = _TOP + step * index + step / 2
        is_here = page.here is not None and page.here.pin.name == pin.pin.name
        drawn += _wire(wires.get(pin.pin.name), feeds, y)
        drawn += _pin(page, pin, index, y, is_here)
    count = f"{len(facts.plan.wires)} wires of {facts.length_m:g} m"
    label = escape(f"Harness, {count}; the connector from its {page.side_words}, pin 1 marked")
    return Markup(
        f'<svg class="harness" viewBox="0 0 {_WIDE:g} {tall:.0f}" role="img" '
        f'aria-label="{label}">{drawn}</svg>'
    )


def _face(page: HarnessPage) -> str:
    return f"Board’s connector, {page.side_words}, pin 1 ◆"


def _source(page: HarnessPage, feeds: dict[int, float]) -> str:
    source = ""
    for index, feed in enumerate(page.facts.feeds):
        y = feeds[index]
        amps = f"{feed.amps:g} A" if feed.amps is not None else ""
        source += f'<rect class="feed" x="{_SOURCE}" y="{y - 13}" width="150" height="26" rx="3"/>'
        source += _text(_SOURCE + 8, y + 5, feed.name, "rail")
        gauge = "conductors" if feed.awg is None else f"AWG {feed.awg}"
        words = f"{amps} · {feed.conductors} × {gauge}".removeprefix(" · ")
        source += _text(_SOURCE + 142, y + 5, words, "small end")
    return source


def _wire(wire: Wire | None, feeds: dict[int, float], y: float) -> str:
    if wire is None:
        return ""
    begin = feeds[wire.feed]
    thick = min(1.5 + wire.conductors, 7)
    kind = "wire ground" if not wire.rail_v else "wire"
    middle = (_SOURCE + 150 + _TARGET) / 2
    path = (
        f"M{_SOURCE + 150} {begin:.1f}C{middle} {begin:.1f} {middle} {y:.1f} {_TARGET - 8} {y:.1f}"
    )
    words = f"{wire.conductors} ×" if wire.conductors > 1 else ""
    if wire.drop_v is not None:
        words = f"{words} {wire.drop_v * 1e3:.0f} mV".strip()
    return f'<path class="{kind}" stroke-width="{thick}" d="{path}"/>' + _text(
        _TARGET - 14, y - 5, words, "small end"
    )


def _pin(page: HarnessPage, facts: PinFacts, index: int, y: float, is_here: bool) -> str:
    pin = facts.pin
    shape = _SHAPES.get(facts.verdict, "unseen")
    text = f'<g class="pin {shape}{" here" if is_here else ""}">'
    text += f'<rect x="{_TARGET}" y="{y - 11:.1f}" width="{_CELL}" height="22" rx="2"/>'
    if is_here:
        text += f'<rect class="ring" x="{_TARGET - 5}" y="{y - 16:.1f}" width="40" height="32"/>'
    text += _text(_TARGET + _CELL / 2, y + 5, pin.name, "name") + "</g>"
    if index == 0:
        text += f'<path class="first" d="M{_TARGET - 1} {y - 20:.1f}l6 6 -6 6 -6 -6z"/>'
    what = {PinKind.SIGNAL: "signal", PinKind.NC: "not connected"}.get(pin.kind)
    what = what or pin.rail_name
    is_missing = pin.kind is PinKind.RAIL and page.facts.plan is not None and pin.name not in {
        wire.pin.name for wire in page.facts.plan.wires
    }  # fmt: skip
    if is_missing:
        text += f'<path class="loose" d="M{_TARGET - 8} {y:.1f}h-34m0 -6v12"/>'
        text += _text(_TARGET - 48, y + 5, "missing", "missing end")
    amps = f" {pin.amps:g} A" if pin.amps else ""
    text += _text(_TARGET + 42, y + 5, f"{what}{amps}", "rail")
    text += _text(_TARGET + 160, y + 5, _read(facts), f"figure {shape}")
    return text + _text(_TARGET + 322, y + 5, facts.colour, "small")


def _read(facts: PinFacts) -> str:
    if facts.reading is None:
        return "unread"
    word = {"good": "right", "failed": "wrong", "worn": "marginal"}[_SHAPES[facts.verdict]]
    return f"{show(facts.reading.value, Unit.VOLT, 4)} {word}"


def _text(x: float, y: float, words: str, kind: str) -> str:
    return f'<text class="{kind}" x="{x:.1f}" y="{y:.1f}">{escape(words)}</text>' if words else ""
