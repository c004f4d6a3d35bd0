"""Draws how far a case has come: a short line with a stop a stage."""

from __future__ import annotations

from functools import lru_cache

from markupsafe import Markup

import hale_rail.stages as stages
from hale_rail.web.frame import svg

_LEFT, _LONG, _MIDDLE = 8.0, 220.0, 9.0
_WIDTH = 2 * _LEFT + _LONG


@lru_cache(maxsize=32)
def stage_line(stage: str) -> Markup:
    """The line up to a stage, by its name; a case handed back has passed them all."""
    names = [s.name for s in stages.STAGES]
    reached = names.index(stage) if stage in names else len(names)
    step = _LONG / (len(names) - 1)
    end = _LEFT + step * min(reached, len(names) - 1)
    stops = []
    for number in range(len(names)):
        name = "past" if number < reached else "here" if number == reached else "ahead"
        radius = 5.5 if number == reached else 4
        stops.append(svg.circle(name, _LEFT + step * number, _MIDDLE, radius))
    track = svg.path("track", "M", _LEFT, _MIDDLE, "H", _LEFT + _LONG)
    done = svg.path("done", "M", _LEFT, _MIDDLE, "H", end)
    return svg.drawing("", (_WIDTH, 18), "", track, done, *stops)
