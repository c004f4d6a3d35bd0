"""Every screen's blueprint, listed once."""

from __future__ import annotations

from flask import Blueprint

from hale_rail.web.screens import (
    bench,
    boards,
    capacitors,
    cold,
    diagnosis,
    drawings,
    files,
    hand_back,
    intake,
    log,
    look,
    new_case,
    order,
    panel,
    rails,
    recap,
    rework,
    safe,
    shorts,
    sources,
    tray,
    workshop,
)

SCREENS: tuple[Blueprint, ...] = (
    bench.blueprint,
    new_case.blueprint,
    files.blueprint,
    workshop.blueprint,
    sources.blueprint,
    order.blueprint,
    intake.blueprint,
    drawings.blueprint,
    safe.blueprint,
    look.blueprint,
    cold.blueprint,
    shorts.blueprint,
    boards.isolate_blueprint,
    boards.trace_blueprint,
    boards.blueprint,
    capacitors.blueprint,
    recap.blueprint,
    recap.position_blueprint,
    rework.blueprint,
    rails.blueprint,
    hand_back.blueprint,
    diagnosis.blueprint,
    log.blueprint,
    tray.blueprint,
    panel.blueprint,
)
