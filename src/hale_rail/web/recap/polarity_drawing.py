"""Draws a polarised capacitor over its two pads, plus on the left, with the board's own mark."""

from __future__ import annotations

from functools import lru_cache

from markupsafe import Markup

from hale_rail.core.parts.polarity import BoardMark, Mark, Mounting
from hale_rail.web.frame import svg

_PLUS_X, _MINUS_X, _PAD_Y = 24, 96, 84
#: where the pad with a square, and the half-disc under a pad, stand
_SQUARE = {BoardMark.SQUARE_POSITIVE: _PLUS_X, BoardMark.SQUARE_NEGATIVE: _MINUS_X}
_HALF = {BoardMark.HALF_POSITIVE: _PLUS_X, BoardMark.HALF_NEGATIVE: _MINUS_X}


@lru_cache
def draw_polarity(mark: Mark, board: BoardMark | None = None) -> Markup:
    """The part above its pads: the marked end stands over the pad it belongs to.

    With `board`, the pads carry what this board prints.
    """
    body = {
        Mounting.RADIAL: _radial,
        Mounting.AXIAL: _axial,
        Mounting.SURFACE: _surface,
        Mounting.DIPPED: _dipped,
    }[mark.mounting](mark)
    on_board = f" The board: {board.words}." if board else ""
    label = f"{mark.mounting.value}: {mark.words}{on_board}"
    signs = svg.text("", _PLUS_X, 112, "+") + svg.text("", _MINUS_X, 112, "−")
    return svg.drawing("polarity", (120, 116), label, *_pads(board), signs, body)


def _pads(board: BoardMark | None) -> list[Markup]:
    """Both pads, and the board's print at one of them."""
    drawn = []
    if board in _HALF:
        drawn.append(svg.path("silk", "M", _HALF[board], _PAD_Y - 14, "a14 14 0 0 1 0 28z"))
    for x in (_PLUS_X, _MINUS_X):
        if board and _SQUARE.get(board) == x:
            drawn.append(svg.rect("pad ring", x - 8, _PAD_Y - 8, 16, 16))
        else:
            drawn.append(svg.circle("pad ring", x, _PAD_Y, 8))
    if board is BoardMark.PLUS_SIGN:
        drawn.append(svg.path("silk-line", "M", 2, _PAD_Y, "h9 M", 6.5, _PAD_Y - 4.5, "v9"))
    if board is BoardMark.DOT_POSITIVE:
        drawn.append(svg.circle("silk", 7, _PAD_Y, 3.5))
    return drawn


def _leads(x0: float, x1: float, top: float) -> Markup:
    """From the body's underside to the pads."""
    return svg.path("lead line", "M", x0, top, "L", _PLUS_X, 78, "M", x1, top, "L", _MINUS_X, 78)


def _radial(_: Mark) -> Markup:
    body = svg.rect("body box", 28, 6, 64, 48, rx=5) + svg.rect("mark solid", 72, 6, 20, 48)
    signs = svg.path("sign", "M76 18h12M76 30h12M76 42h12")
    return body + signs + _leads(44, 78, 54)


def _axial(mark: Mark) -> Markup:
    leads = svg.path("lead line", "M26 33H24V78M94 33h2V78")
    if mark.is_positive:
        body = svg.rect("body box", 26, 18, 68, 30, rx=12) + svg.rect("mark solid", 36, 18, 9, 30)
        return body + leads
    arrow = svg.path("mark solid", "M46 30h24v-7l16 10-16 10v-7H46z")
    groove = svg.path("groove line", "M34 18v30")
    return svg.rect("body box", 26, 18, 68, 30, rx=3) + groove + arrow + leads


def _surface(mark: Mark) -> Markup:
    leads = svg.path("lead line", "M34 60L24 78M86 60l10 18")
    if mark.is_positive:
        return svg.rect("body box", 24, 20, 72, 40) + svg.rect("mark solid", 30, 20, 12, 40) + leads
    return (
        svg.circle("body box", 60, 34, 28)
        + svg.path("mark solid", "M78 12.5a28 28 0 0 1 0 43z")
        + leads
    )


def _dipped(_: Mark) -> Markup:
    body = svg.path("body box", "M60 4c22 0 34 14 34 30S82 58 60 58 26 50 26 34 38 4 60 4z")
    stripe = svg.path("mark solid", "M38 10v46a34 24 0 0 1-8-10V20z")
    return body + stripe + svg.path("sign dark", "M46 34h12M52 28v12") + _leads(44, 76, 55)
