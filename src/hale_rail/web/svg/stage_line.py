"""Draws how far a case has come: a short line with a stop a stage."""

from __future__ import annotations

from functools import lru_cache

from markupsafe import Markup

from hale_rail.actions.dossier import STAGES

_LEFT, _LONG, _MIDDLE = 6.0, 220.0, 9.0


@lru_cache(maxsize=len(STAGES) + 1)
def stage_line(stage: str) -> Markup:
    """The line up to a stage; a case handed back has passed them all."""
    reached = STAGES.index(stage) if stage in STAGES else len(STAGES)
    step = _LONG / (len(STAGES) - 1)
    end = _LEFT + step * min(reached, len(STAGES) - 1)
    parts = [f'<path class="track" d="M{_LEFT} {_MIDDLE}H{_LEFT + _LONG}"/>']
    parts.append(f'<path class="done" d="M{_LEFT} {_MIDDLE}H{end:.1f}"/>')
    for number in range(len(STAGES)):
        name = "past" if number < reached else "here" if number == reached else "ahead"
        radius = 6 if number == reached else 4
        x = _LEFT + step * number
        parts.append(f'<circle class="{name}" cx="{x:.1f}" cy="{_MIDDLE}" r="{radius}"/>')
    return Markup(f'<svg viewBox="0 0 232 18" aria-hidden="true">{"".join(parts)}</svg>')
