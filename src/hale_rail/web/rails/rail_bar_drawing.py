"""Draws a rail's bar: its band in the middle, hatched outside, readings as ticks."""

from __future__ import annotations

from markupsafe import Markup, escape

from hale_rail.stages.rails.rail_bars import SCALE, Loss, RailBar, Tick

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
    drawn = f'<rect class="outside" x="0" y="{_TOP}" width="{_WIDE:g}" height="{_BAR}"/>'
    for at in range(0, int(_WIDE) + 20, 10):
        drawn += f'<path class="hatch" d="M{at} {_TOP}l-12 {_BAR}"/>'
    drawn += (
        f'<rect class="inside" x="{_x(low):.1f}" y="{_TOP}" width="{_x(high) - _x(low):.1f}" '
        f'height="{_BAR}"/>'
    )
    for edge in (low, high):
        drawn += f'<path class="edge" d="M{_x(edge):.1f} {_TOP - 4}v{_BAR + 8}"/>'
        words = f"{100 * edge:+.0f} %".replace("-", "−")
        drawn += f'<text class="edge-text" x="{_x(edge):.1f}" y="{_TOP - 7}">{words}</text>'
    drawn += f'<path class="nominal" d="M{_x(0):.1f} {_TOP}v{_BAR}"/>'
    for loss in bar.losses:
        drawn += _loss(loss, middle)
    for index, tick in enumerate(bar.ticks):
        drawn += _tick(tick, middle, _TOP + _BAR + 16 + index * _ROW)
    told = "; ".join(f"{t.label} {100 * t.low:+.1f} %" for t in bar.ticks) or "not read"
    label = escape(f"{bar.rail.key}: {told}")
    return Markup(
        f'<svg class="rail-bar" viewBox="-4 0 {_WIDE + 8:g} {tall:g}" role="img" '
        f'aria-label="{label}">{drawn}</svg>'
    )


def _tick(tick: Tick, middle: float, below: float) -> str:
    """The reading with its whiskers; a jumping one as the stretch between its ends."""
    x = _x(tick.middle)
    size = 11 if tick.is_latest else 7
    kind = f"tick {tick.shape}" + (" latest" if tick.is_latest else "")
    text = f'<g class="{kind}">'
    left, right = _x(tick.low - tick.error), _x(tick.high + tick.error)
    text += f'<path class="whisker" d="M{left:.1f} {middle}H{right:.1f}"/>'
    for end in (left, right):
        text += f'<path class="whisker" d="M{end:.1f} {middle - 5}v10"/>'
    if tick.high > tick.low:
        text += f'<path class="jump" d="M{_x(tick.low):.1f} {middle}H{_x(tick.high):.1f}"/>'
    text += f'<path class="body" d="M{x:.1f} {middle - size}l{size} {size}l-{size} {size}'
    text += f'l-{size} -{size}z"/>'
    text += f'<path class="leader" d="M{x:.1f} {middle + size}V{below - 9:.1f}"/>'
    beyond = " ▸" if tick.is_beyond and tick.low > 0 else ("◂ " if tick.is_beyond else "")
    words = f"{beyond}{tick.label}" if beyond.startswith("◂") else f"{tick.label}{beyond}"
    side = "end" if x > _WIDE * 0.72 else "start"
    shift = -6 if side == "end" else 6
    return text + (
        f'<text class="{side}" x="{x + shift:.1f}" y="{below:.1f}">{escape(words)}</text></g>'
    )


def _loss(loss: Loss, middle: float) -> str:
    kind = "loss too-much" if loss.is_too_much else "loss"
    return (
        f'<path class="{kind}" d="M{_x(loss.begin):.1f} {middle - 9}H{_x(loss.end):.1f}m0 -4l0 8"/>'
    )
