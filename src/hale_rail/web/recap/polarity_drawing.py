"""Draws a polarised capacitor over its two pads, plus on the left, with the board's own mark."""

from __future__ import annotations

from functools import lru_cache

from markupsafe import Markup, escape

from hale_rail.core.parts.polarity import BoardMark, Mark, Mounting

_PLUS_X, _MINUS_X, _PAD_Y = 24, 96, 84
_SIGNS = '<text x="24" y="112">+</text><text x="96" y="112">−</text>'
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
    label = escape(f"{mark.mounting.value}: {mark.words}{on_board}")
    return Markup(
        f'<svg class="polarity" viewBox="0 0 120 116" role="img" aria-label="{label}">'
        f"{_pads(board)}{_SIGNS}{body}</svg>"
    )


def _pads(board: BoardMark | None) -> str:
    """Both pads, and the board's print at one of them."""
    drawn = ""
    if board in _HALF:
        x = _HALF[board]
        drawn += f'<path class="silk" d="M{x} {_PAD_Y - 14}a14 14 0 0 1 0 28z"/>'
    for x in (_PLUS_X, _MINUS_X):
        if board and _SQUARE.get(board) == x:
            drawn += f'<rect class="pad" x="{x - 8}" y="{_PAD_Y - 8}" width="16" height="16"/>'
        else:
            drawn += f'<circle class="pad" cx="{x}" cy="{_PAD_Y}" r="8"/>'
    if board is BoardMark.PLUS_SIGN:
        drawn += f'<path class="silk-line" d="M2 {_PAD_Y}h9M6.5 {_PAD_Y - 4.5}v9"/>'
    if board is BoardMark.DOT_POSITIVE:
        drawn += f'<circle class="silk" cx="7" cy="{_PAD_Y}" r="3.5"/>'
    return drawn


def _lead(x0: float, x1: float, top: float) -> str:
    return f'<path class="lead" d="M{x0} {top}L{x1} 78"/>'


def _radial(_: Mark) -> str:
    signs = "".join(f'<path class="sign" d="M76 {y}h12"/>' for y in (18, 30, 42))
    return (
        '<rect class="body" x="28" y="6" width="64" height="48" rx="5"/>'
        f'<rect class="mark" x="72" y="6" width="20" height="48"/>{signs}'
        f"{_lead(44, 24, 54)}{_lead(78, 96, 54)}"
    )


def _axial(mark: Mark) -> str:
    if mark.is_positive:
        return (
            '<rect class="body" x="26" y="18" width="68" height="30" rx="12"/>'
            '<rect class="mark" x="36" y="18" width="9" height="30"/>'
            '<path class="lead" d="M26 33H24V78M94 33h2V78"/>'
        )
    return (
        '<rect class="body" x="26" y="18" width="68" height="30" rx="3"/>'
        '<path class="groove" d="M34 18v30"/>'
        '<path class="mark" d="M46 30h24v-7l16 10-16 10v-7H46z"/>'
        '<path class="lead" d="M26 33H24V78M94 33h2V78"/>'
    )


def _surface(mark: Mark) -> str:
    leads = '<path class="lead" d="M34 60L24 78M86 60l10 18"/>'
    if mark.is_positive:
        return (
            '<rect class="body" x="24" y="20" width="72" height="40"/>'
            f'<rect class="mark" x="30" y="20" width="12" height="40"/>{leads}'
        )
    return (
        '<circle class="body" cx="60" cy="34" r="28"/>'
        f'<path class="mark" d="M78 12.5a28 28 0 0 1 0 43z"/>{leads}'
    )


def _dipped(_: Mark) -> str:
    return (
        '<path class="body" d="M60 4c22 0 34 14 34 30S82 58 60 58 26 50 26 34 38 4 60 4z"/>'
        '<path class="mark" d="M38 10v46a34 24 0 0 1-8-10V20z"/>'
        '<path class="sign dark" d="M46 34h12M52 28v12"/>'
        f"{_lead(44, 24, 55)}{_lead(76, 96, 55)}"
    )
