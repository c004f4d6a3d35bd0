"""Draws two paths over one scale of minutes: each step as wide as its time, as dark as it told."""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup, escape

from hale_rail.case.practice.reviews import PracticeReview, ReviewStep

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
    drawn = _lane("You", mine, _TOP, scale, review.named or "given up", review.right)
    drawn += _lane(
        "Engine", engine, _TOP + _LANE + _GAP, scale, review.engine_leader,
        review.engine_right,
    )  # fmt: skip
    drawn += _axis(most, scale, tall)
    label = f"Your path, {review.minutes:g} min, above the engine's, {review.engine_minutes:g}"
    return Markup(
        f'<svg class="lanes" viewBox="0 0 {_WIDE:g} {tall:g}" role="img" '
        f'aria-label="{escape(label)} min">{drawn}</svg>'
    )


def _lane(
    name: str, steps: Sequence[ReviewStep], y: float, scale: float, leader: str, is_right: bool
) -> str:
    drawn = f'<text class="lane-name" x="0" y="{y + _LANE / 2 + 6:g}">{name}</text>'
    x = _LEFT
    for number, step in enumerate(steps, start=1):
        wide = max(1.5, step.minutes * scale)
        drawn += _block(number, step, x, y, wide)
        x += wide
    mark = "✓" if is_right else "×"
    drawn += f'<text class="lane-end" x="{x + 10:g}" y="{y + 25:g}">{mark}</text>'
    for place, words in enumerate(_lines(leader)):
        drawn += (
            f'<text class="lane-fault" x="{x + 28:g}" y="{y + 22 + 17 * place:g}">'
            f"{escape(words)}</text>"
        )
    return drawn


def _lines(text: str) -> list[str]:
    """A name on up to three short lines."""
    lines = [""]
    for word in text.split():
        if len(lines[-1]) + len(word) > 20 and lines[-1]:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines[:3]


def _block(number: int, step: ReviewStep, x: float, y: float, wide: float) -> str:
    shade = sum(step.bits >= bits for bits in _SHADES)
    edge = f"M{x:.1f} {y:g}"
    if step.unsafe:
        notch = min(_NOTCH, wide / 2)
        deep = 1.6 * _NOTCH
        edge += f"h{wide / 2 - notch:.1f}l{notch:.1f} {deep:g}l{notch:.1f} {-deep:g}"
    drawn = f'<path class="lane-step shade-{shade}" d="{edge}H{x + wide:.1f}v{_LANE:g}H{x:.1f}z">'
    what = f"{step.label}: {step.minutes:g} min, {step.bits:.2f} bit"
    drawn += f"<title>{escape(what)}{', unsafe' if step.unsafe else ''}</title></path>"
    if wide > _LETTER * len(str(number)) + 4:
        drawn += (
            f'<text class="lane-number told-{shade}" x="{x + wide / 2:.1f}" '
            f'y="{y + _LANE / 2 + 6:g}">{number}</text>'
        )
    return drawn


def _axis(most: float, scale: float, tall: float) -> str:
    step = next((s for s in _STEPS if most / s <= 9), _STEPS[-1])
    drawn, minute = "", 0
    while minute <= most:
        x = _LEFT + minute * scale
        words = f"{minute} min" if minute == 0 else str(minute)
        drawn += f'<path class="lane-tick" d="M{x:.1f} {_TOP - 8:g}V{tall - _AXIS + 6:g}"/>'
        drawn += f'<text class="lane-minute" x="{x:.1f}" y="{tall - 6:g}">{words}</text>'
        minute += step
    return drawn
