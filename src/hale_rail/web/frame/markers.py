"""The mark of a part's state: its shape, fill and sign say it without colour."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from markupsafe import Markup

from hale_rail.web.frame import svg


def marker(state: str, x: float, y: float, r: float) -> Markup:
    """One part's mark at (x, y)."""
    return _SHAPES.get(state, _unseen)(x, y, r)


def _unseen(x: float, y: float, r: float) -> Markup:
    return svg.circle("body", x, y, r * 0.85)


def _good(x: float, y: float, r: float) -> Markup:
    tick = ("M", x - r * 0.45, y, "l", r * 0.35, r * 0.4, "l", r * 0.6, -r * 0.8)
    return svg.circle("body", x, y, r) + svg.path("sign", *tick)


def _failed(x: float, y: float, r: float) -> Markup:
    e, a = r * 1.25, r * 0.42
    diamond = ("M", x, y - e, "l", e, e, "l", -e, e, "l", -e, -e, "z")
    cross = ("M", x - a, y - a, "l", 2 * a, 2 * a, "m", 0, -2 * a, "l", -2 * a, 2 * a)
    return svg.path("body", *diamond) + svg.path("sign", *cross)


def _worn(x: float, y: float, r: float) -> Markup:
    e = r * 0.92
    whole = ("M", x - e, y - e, "h", 2 * e, "v", 2 * e, "h", -2 * e, "z")
    half = ("M", x - e, y, "h", 2 * e, "v", e, "h", -2 * e, "z")
    return svg.path("body", *whole) + svg.path("half", *half)


def _unproven(x: float, y: float, r: float) -> Markup:
    e = r * 1.2
    triangle = ("M", x, y - e, "l", e, e * 1.8, "h", -2 * e, "z")
    return svg.path("body", *triangle) + svg.text("sign", x, y + r * 0.5, "?")


def _replaced(x: float, y: float, r: float) -> Markup:
    return svg.circle("body", x, y, r) + svg.circle("core", x, y, r * 0.5)


_SHAPES: dict[str, Callable[[float, float, float], Markup]] = {
    "good": _good,
    "failed": _failed,
    "worn": _worn,
    "unproven": _unproven,
    "replaced": _replaced,
}


@lru_cache(maxsize=16)
def badge(state: str) -> Markup:
    """The mark alone, for tables and panels."""
    return svg.drawing(f"badge-mark station {state}", (24, 24), "", marker(state, 12, 12, 8))
