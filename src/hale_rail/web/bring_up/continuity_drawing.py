"""Draws a list of connections: both sides as outlines with their pins, the pair to touch ringed."""

from __future__ import annotations

from markupsafe import Markup, escape

from hale_rail.case.bring_up.continuity import PairFacts
from hale_rail.stages.bring_up.continuity import ContinuityPage, shape_of

_WIDE, _ROW, _TOP = 640.0, 26.0, 30.0
_LEFT, _RIGHT, _BOX = 20.0, 430.0, 190.0
#: pins beyond this many a side are drawn around the pair in hand only
_MOST = 24


def draw_continuity(page: ContinuityPage) -> Markup:
    """The two sides; results as lines, an open one broken; `page.pair` is ringed on both."""
    if page.here is None:
        return Markup("")
    pairs = _shown(page)
    ones = list(dict.fromkeys(pair.pair.one for pair in pairs))
    others = list(dict.fromkeys(pair.pair.other for pair in pairs))
    rows = max(len(ones), len(others), 1)
    tall = _TOP + rows * _ROW + 12
    left, right = _places(ones, tall), _places(others, tall)
    drawn = ""
    for x in (_LEFT, _RIGHT):
        drawn += f'<rect class="outline" x="{x}" y="{_TOP - 8}" width="{_BOX}" '
        drawn += f'height="{tall - _TOP}" rx="4"/>'
    for pair in pairs:
        drawn += _line(pair, left[pair.pair.one], right[pair.pair.other], pair is page.pair)
    ringed = (page.pair.pair.one, page.pair.pair.other) if page.pair else ("", "")
    for x, places, name, anchor in (
        (_LEFT + _BOX - 14, left, ringed[0], "end"), (_RIGHT + 14, right, ringed[1], "start"),
    ):  # fmt: skip
        for end, y in places.items():
            drawn += _end(x, y, end, anchor, end == name)
    more = len(page.here.pairs) - len(pairs)
    head = f"{page.here.board}" + (f", {more} more pairs in the table" if more else "")
    drawn += f'<text class="head" x="{_LEFT}" y="15">{escape(head)}</text>'
    label = escape(f"{page.here.name}: {len(page.here.pairs)} pairs")
    return Markup(
        f'<svg class="joints" viewBox="0 0 {_WIDE:g} {tall:.0f}" role="img" '
        f'aria-label="{label}">{drawn}</svg>'
    )


def _shown(page: ContinuityPage) -> list[PairFacts]:
    """The pairs that are drawn: all, or those around the one in hand."""
    pairs = list(page.here.pairs) if page.here else []
    if len(pairs) <= _MOST:
        return pairs
    place = pairs.index(page.pair) if page.pair in pairs else 0
    begin = max(0, min(place - _MOST // 2, len(pairs) - _MOST))
    return pairs[begin : begin + _MOST]


def _places(ends: list[str], tall: float) -> dict[str, float]:
    step = (tall - _TOP - 12) / max(len(ends), 1)
    return {end: round(_TOP + step * index + step / 2 - 4, 1) for index, end in enumerate(ends)}


def _line(pair: PairFacts, y0: float, y1: float, is_here: bool) -> str:
    shape = shape_of(pair)[0]
    x0, x1 = _LEFT + _BOX, _RIGHT
    kind = (
        f"joint {shape}" + (" here" if is_here else "") + ("" if pair.pair.is_joined else " apart")
    )
    if shape == "failed" and pair.pair.is_joined:  # broken in its middle
        mx, my = (x0 + x1) / 2, (y0 + y1) / 2
        return (
            f'<path class="{kind}" d="M{x0} {y0}L{mx - 14} {my - 2:.1f}"/>'
            f'<path class="{kind}" d="M{mx + 14} {my + 2:.1f}L{x1} {y1}"/>'
            f'<path class="{kind}" d="M{mx - 8} {my - 8:.1f}l16 16m0 -16l-16 16"/>'
        )
    return f'<path class="{kind}" d="M{x0} {y0}L{x1} {y1}"/>'


def _end(x: float, y: float, name: str, anchor: str, is_here: bool) -> str:
    side = 1 if anchor == "start" else -1
    ring = f'<circle class="ring" cx="{x - 14 * side}" cy="{y}" r="11"/>' if is_here else ""
    kind = "end here" if is_here else "end"
    return (
        f'{ring}<circle class="{kind}" cx="{x - 14 * side}" cy="{y}" r="5"/>'
        f'<text class="{anchor}" x="{x + 2 * side}" y="{y + 5}">{escape(name)}</text>'
    )
