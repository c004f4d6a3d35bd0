"""Draws two paths over one scale of minutes: each step as wide as its time, as dark as it told."""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup

from hale_rail.case.practice.reviews import PracticeReview, ReviewStep
from hale_rail.web.frame import svg

_WIDE, _LEFT, _END, _LANE, _GAP = 1000.0, 96.0, 170.0, 62.0, 46.0
_TOP, _AXIS = 34.0, 26.0
#: bits from which a step is a shade darker
_SHADES = (0.02, 0.15, 0.5, 1.0)
_LETTER, _NOTCH = 7.4, 11.0
_STEPS = (1, 2, 5, 10, 15, 30, 60, 120, 240, 480)


def draw_lanes(review: PracticeReview) -> Markup:
    """One's own path above, the engine's below; the fault named at the end of both."""
    mine, engine = review.mine, review.engine
    most = max(review.minutes, review.engine_minutes, 1.0)
    scale = (_WIDE - _LEFT - _END) / most
    tall = _TOP + 2 * _LANE + _GAP + _AXIS
    label = f"Your path, {review.minutes:g} min, above the engine's, {review.engine_minutes:g} min"
    return svg.drawing(
        "lanes",
        (_WIDE, tall),
        label,
        *_lane("You", mine, _TOP, scale, review.named or "given up", review.right),
        *_lane("Engine", engine, _TOP + _LANE + _GAP, scale, review.engine_leader,
               review.engine_right),
        *_axis(most, scale, tall),
    )  # fmt: skip


def _lane(
    name: str, steps: Sequence[ReviewStep], y: float, scale: float, leader: str, is_right: bool
) -> list[Markup]:
    drawn = [svg.text("lane-name", 0, y + _LANE / 2 + 6, name)]
    x = _LEFT
    for number, step in enumerate(steps, start=1):
        wide = max(1.5, step.minutes * scale)
        drawn.append(_block(number, step, x, y, wide))
        x += wide
    drawn.append(svg.text("", x + 10, y + 25, "✓" if is_right else "×"))
    for place, words in enumerate(_lines(leader)):
        drawn.append(svg.text("", x + 28, y + 22 + 17 * place, words))
    return drawn


def _lines(text: str) -> list[str]:
    """A name on up to three short lines."""
    lines = [""]
    for word in text.split():
        if len(lines[-1]) + len(word) > 20 and lines[-1]:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines[:3]


def _block(number: int, step: ReviewStep, x: float, y: float, wide: float) -> Markup:
    shade = sum(step.bits >= bits for bits in _SHADES)
    edge: tuple[str | float, ...] = ("M", x, y)
    if step.unsafe:
        notch, deep = min(_NOTCH, wide / 2), 1.6 * _NOTCH
        edge += ("h", wide / 2 - notch, "l", notch, deep, "l", notch, -deep)
    edge += ("H", x + wide, "v", _LANE, "H", x, "z")
    unsafe = ", unsafe" if step.unsafe else ""
    what = svg.title(f"{step.label}: {step.minutes:g} min, {step.bits:.2f} bit{unsafe}")
    drawn = svg.element("path", f"lane-step shade-{shade}", what, d=svg.steps(*edge))
    if wide > _LETTER * len(str(number)) + 4:
        kind = f"lane-number told-{shade} digits centred"
        drawn += svg.text(kind, x + wide / 2, y + _LANE / 2 + 6, str(number))
    return drawn


def _axis(most: float, scale: float, tall: float) -> list[Markup]:
    step = next((s for s in _STEPS if most / s <= 9), _STEPS[-1])
    drawn = []
    for minute in range(0, int(most) + 1, step):
        x = _LEFT + minute * scale
        drawn.append(svg.path("rule", "M", x, _TOP - 8, "V", tall - _AXIS + 6))
        drawn.append(
            svg.text("digits faint centred", x, tall - 6, str(minute) if minute else "0 min")
        )
    return drawn
