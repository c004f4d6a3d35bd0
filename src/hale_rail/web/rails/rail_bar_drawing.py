"""Draws a rail's bar: its band in the middle, hatched outside, readings as ticks."""

from __future__ import annotations

from markupsafe import Markup

from hale_rail.stages.rails.rail_bars import SCALE, Loss, RailBar, Tick
from hale_rail.web.frame import svg

_WIDE, _BAR, _TOP = 460.0, 28.0, 20.0
_ROW = 16.0


def _x(share: float) -> float:
    return _WIDE * (max(-SCALE, min(SCALE, share)) + SCALE) / (2 * SCALE)


def draw_rail_bar(bar: RailBar) -> Markup:
    """The bar of one rail; every bar has the same scale, ±15 % of nominal across."""
    low, high = bar.band
    rows = len(bar.ticks)
    tall = _TOP + _BAR + 6 + _ROW * max(rows, 1) + (10 if bar.losses else 0)
    middle = _TOP + _BAR / 2
    drawn = [svg.rect("outside", 0, _TOP, _WIDE, _BAR)]
    drawn += [svg.path("rule", "M", x, _TOP, "l", -12, _BAR) for x in range(0, int(_WIDE) + 20, 10)]
    drawn.append(svg.rect("inside", _x(low), _TOP, _x(high) - _x(low), _BAR))
    for edge in (low, high):
        words = f"{100 * edge:+.0f} %".replace("-", "−")
        drawn.append(svg.path("edge", "M", _x(edge), _TOP - 4, "v", _BAR + 8))
        drawn.append(svg.text("faint centred", _x(edge), _TOP - 7, words))
    drawn.append(svg.path("rule dashed", "M", _x(0), _TOP, "v", _BAR))
    drawn += [_loss(loss, middle) for loss in bar.losses]
    drawn += [_tick(tick, middle, _TOP + _BAR + 16 + _ROW * i) for i, tick in enumerate(bar.ticks)]
    told = "; ".join(f"{t.label} {100 * t.low:+.1f} %" for t in bar.ticks) or "not read"
    box = (-4, 0, _WIDE + 8, tall)
    return svg.drawing("rail-bar", box, f"{bar.rail.key}: {told}", *drawn)


def _tick(tick: Tick, middle: float, below: float) -> Markup:
    """The reading with its whiskers; a jumping one as the stretch between its ends."""
    x = _x(tick.middle)
    size = 11 if tick.is_latest else 7
    left, right = _x(tick.low - tick.error), _x(tick.high + tick.error)
    drawn = [svg.path("whisker", "M", left, middle, "H", right)]
    drawn += [svg.path("whisker", "M", end, middle - 5, "v", 10) for end in (left, right)]
    if tick.high > tick.low:
        drawn.append(svg.path("jump", "M", _x(tick.low), middle, "H", _x(tick.high)))
    diamond = ("l", size, size, "l", -size, size, "l", -size, -size, "z")
    drawn.append(svg.path("body", "M", x, middle - size, *diamond))
    drawn.append(svg.path("rule", "M", x, middle + size, "V", below - 9))
    beyond = " ▸" if tick.is_beyond and tick.low > 0 else ("◂ " if tick.is_beyond else "")
    words = f"{beyond}{tick.label}" if beyond.startswith("◂") else f"{tick.label}{beyond}"
    side, shift = ("end", -6) if x > _WIDE * 0.72 else ("start", 6)
    kind = f"tick {tick.shape}" + (" latest" if tick.is_latest else "")
    return svg.group(kind, *drawn, svg.text(f"faint {side}", x + shift, below, words))


def _loss(loss: Loss, middle: float) -> Markup:
    kind = "loss line bad" if loss.is_too_much else "loss line"
    return svg.path(kind, "M", _x(loss.begin), middle - 9, "H", _x(loss.end), "m0 -4l0 8")
