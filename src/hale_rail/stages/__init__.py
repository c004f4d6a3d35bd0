"""The stages of a case in the order of work, and the pages beside them. Listed once, here."""

from __future__ import annotations

from hale_rail.stages import (
    capacitors,
    cold,
    diagnosis,
    first_power,
    hand_back,
    intake,
    isolate,
    log,
    look,
    machine,
    position,
    rails,
    recap,
    rework,
    ripple,
    safe,
    shorts,
    trace,
)
from hale_rail.stages import map as board_map
from hale_rail.stages.stage import Stage

STAGES: tuple[Stage, ...] = (
    intake.STAGE,
    safe.STAGE,
    look.STAGE,
    cold.STAGE,
    shorts.STAGE,
    capacitors.STAGE,
    recap.STAGE,
    rework.STAGE,
    first_power.STAGE,
    rails.STAGE,
    machine.STAGE,
    hand_back.STAGE,
)
#: pages of a case that are no step of the work
BESIDE: tuple[Stage, ...] = (
    isolate.STAGE,
    trace.STAGE,
    board_map.STAGE,
    position.STAGE,
    ripple.STAGE,
    *machine.BESIDE,
    diagnosis.STAGE,
    log.STAGE,
)


def stage(key: str) -> Stage | None:
    """The stage or page of a key, or None."""
    return next((s for s in (*STAGES, *BESIDE) if s.key == key), None)
