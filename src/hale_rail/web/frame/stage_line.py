"""Draws how far a case has come: a short line with a stop a stage."""

from __future__ import annotations

from functools import lru_cache

from markupsafe import Markup

import hale_rail.stages as stages

_LEFT, _LONG, _MIDDLE = 8.0, 220.0, 9.0
_WIDTH = 2 * _LEFT + _LONG


@lru_cache(maxsize=32)
@lru_cache(64)
def stage_line(stage: str) -> Markup:
    """The line up to a stage, by its name; a case handed back has passed them all."""
    names = [s.name for s in stages.STAGES]
    reached = names.index(stage) if stage in names else len(names)
    step = _LONG / (len(names) - 1)
    end = _LEFT + step * min(reached, len(names) - 1)
    parts = [f'<path class="track" d="M{_LEFT} {_MIDDLE}H{_LEFT + _LONG}"/>']
    parts.append(f'<path class="done" d="M{_LEFT} {_MIDDLE}H{end:.1f}"/>')
    for number in range(len(names)):
        name = "past" if number < reached else "here" if number == reached else "ahead"
        radius = 5.5 if number == reached else 4
        x = _LEFT + step * number
        parts.append(f'<circle class="{name}" cx="{x:.1f}" cy="{_MIDDLE}" r="{radius}"/>')
    return Markup(f'<svg viewBox="0 0 {_WIDTH:.0f} 18" aria-hidden="true">{"".join(parts)}</svg>')
