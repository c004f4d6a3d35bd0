"""The mark of a part's state: its shape, fill and sign say it without colour."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from markupsafe import Markup, escape


def text(name: str, x: float, y: float, words: str, more: str = "") -> str:
    """A text element at (x, y)."""
    return f'<text class="{name}" x="{x:.1f}" y="{y:.1f}"{more}>{escape(words)}</text>'


def circle(name: str, x: float, y: float, r: float) -> str:
    """A circle element."""
    return f'<circle class="{name}" cx="{x:.1f}" cy="{y:.1f}" r="{r:.1f}"/>'


def marker(state: str, x: float, y: float, r: float) -> str:
    """One part's mark at (x, y)."""
    return _SHAPES.get(state, _unseen)(x, y, r)


def _unseen(x: float, y: float, r: float) -> str:
    return circle("body", x, y, r * 0.85)


def _good(x: float, y: float, r: float) -> str:
    tick = _path(x - r * 0.45, y, f"l{r * 0.35:.1f} {r * 0.4:.1f}l{r * 0.6:.1f} {-r * 0.8:.1f}")
    return f'{circle("body", x, y, r)}<path class="sign" d="{tick}"/>'


def _failed(x: float, y: float, r: float) -> str:
    e, a = r * 1.25, r * 0.42
    diamond = _path(x, y - e, f"l{e:.1f} {e:.1f}l{-e:.1f} {e:.1f}l{-e:.1f} {-e:.1f}z")
    turn = f"m0 {-2 * a:.1f}l{-2 * a:.1f} {2 * a:.1f}"
    cross = _path(x - a, y - a, f"l{2 * a:.1f} {2 * a:.1f}{turn}")
    return f'<path class="body" d="{diamond}"/><path class="sign" d="{cross}"/>'


def _worn(x: float, y: float, r: float) -> str:
    e = r * 0.92
    whole = _path(x - e, y - e, f"h{2 * e:.1f}v{2 * e:.1f}h{-2 * e:.1f}z")
    half = _path(x - e, y, f"h{2 * e:.1f}v{e:.1f}h{-2 * e:.1f}z")
    return f'<path class="body" d="{whole}"/><path class="half" d="{half}"/>'


def _unproven(x: float, y: float, r: float) -> str:
    e = r * 1.2
    triangle = _path(x, y - e, f"l{e:.1f} {e * 1.8:.1f}h{-2 * e:.1f}z")
    return f'<path class="body" d="{triangle}"/>{text("sign", x, y + r * 0.5, "?")}'


def _replaced(x: float, y: float, r: float) -> str:
    return circle("body", x, y, r) + circle("core", x, y, r * 0.5)


_SHAPES: dict[str, Callable[[float, float, float], str]] = {
    "good": _good,
    "failed": _failed,
    "worn": _worn,
    "unproven": _unproven,
    "replaced": _replaced,
}


def _path(x: float, y: float, rest: str) -> str:
    return f"M{x:.1f} {y:.1f}{rest}"


@lru_cache(maxsize=16)
def badge(state: str) -> Markup:
    """The mark alone, for tables and panels."""
    drawn = marker(state, 12, 12, 8)
    return Markup(
        f'<svg class="badge-mark station {escape(state)}" viewBox="0 0 24 24" aria-hidden="true">'
        f"{drawn}</svg>"
    )
