"""Draws a list of connections: both sides as outlines with their pins, the pair to touch ringed."""

from __future__ import annotations

from markupsafe import Markup

from hale_rail.case.bring_up.continuity import PairFacts
from hale_rail.stages.bring_up.continuity import ContinuityPage, shape_of
from hale_rail.web.frame import svg

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
    drawn = [svg.rect("box soft", x, _TOP - 8, _BOX, tall - _TOP, rx=4) for x in (_LEFT, _RIGHT)]
    for pair in pairs:
        ends = left[pair.pair.one], right[pair.pair.other]
        drawn.append(_line(pair, *ends, pair is page.pair))
    ringed = (page.pair.pair.one, page.pair.pair.other) if page.pair else ("", "")
    for end, y in left.items():
        drawn.append(_end(_LEFT + _BOX - 14, y, end, "end", end == ringed[0]))
    for end, y in right.items():
        drawn.append(_end(_RIGHT + 14, y, end, "start", end == ringed[1]))
    more = len(page.here.pairs) - len(pairs)
    head = page.here.board + (f", {more} more pairs in the table" if more else "")
    drawn.append(svg.text("faint", _LEFT, 15, head))
    label = f"{page.here.name}: {len(page.here.pairs)} pairs"
    return svg.drawing("joints", (_WIDE, tall), label, *drawn)


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


def _line(pair: PairFacts, y0: float, y1: float, is_here: bool) -> Markup:
    shape = shape_of(pair)[0]
    x0, x1 = _LEFT + _BOX, _RIGHT
    kind = (
        f"joint {shape}" + (" here" if is_here else "") + ("" if pair.pair.is_joined else " apart")
    )
    if shape == "failed" and pair.pair.is_joined:  # broken in its middle
        mx, my = (x0 + x1) / 2, (y0 + y1) / 2
        halves = ("M", x0, y0, "L", mx - 14, my - 2, "M", mx + 14, my + 2, "L", x1, y1)
        return svg.path(kind, *halves, "M", mx - 8, my - 8, "l16 16m0 -16l-16 16")
    return svg.path(kind, "M", x0, y0, "L", x1, y1)


def _end(x: float, y: float, name: str, anchor: str, is_here: bool) -> Markup:
    side = 1 if anchor == "start" else -1
    middle = x - 14 * side
    dot = svg.circle("dot box here" if is_here else "dot box", middle, y, 5)
    words = svg.text(anchor, x + 2 * side, y + 5, name)
    return (svg.circle("ring", middle, y, 11) if is_here else Markup("")) + dot + words
