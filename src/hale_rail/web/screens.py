"""Every screen's blueprint, listed once."""

from __future__ import annotations

from flask import Blueprint

from hale_rail.web.ask import routes as ask
from hale_rail.web.auth import routes as auth
from hale_rail.web.behind import routes as behind
from hale_rail.web.bring_up import routes as bring_up
from hale_rail.web.diagnosis import routes as diagnosis
from hale_rail.web.frame import bench, log, panel, tray
from hale_rail.web.instruments import routes as instruments
from hale_rail.web.intake import drawings, files, new_case, waiting
from hale_rail.web.intake import routes as intake
from hale_rail.web.ledger import routes as ledger
from hale_rail.web.parts import routes as parts
from hale_rail.web.places import routes as places
from hale_rail.web.power import routes as power
from hale_rail.web.practice import routes as practice
from hale_rail.web.rails import routes as rails
from hale_rail.web.recap import order, rework, sources
from hale_rail.web.recap import routes as recap
from hale_rail.web.report import routes as report
from hale_rail.web.ripple import routes as ripple
from hale_rail.web.safety import routes as safety
from hale_rail.web.shorts import routes as shorts
from hale_rail.web.soak import routes as soak
from hale_rail.web.workshop import routes as workshop

SCREENS: tuple[Blueprint, ...] = (
    bench.blueprint,
    ask.blueprint,
    auth.blueprint,
    new_case.blueprint,
    files.blueprint,
    workshop.blueprint,
    sources.blueprint,
    order.blueprint,
    ledger.blueprint,
    practice.blueprint,
    instruments.blueprint,
    intake.blueprint,
    drawings.blueprint,
    waiting.blueprint,
    safety.blueprint,
    parts.blueprint,
    parts.cold_blueprint,
    places.blueprint,
    shorts.shorts_blueprint,
    shorts.isolate_blueprint,
    shorts.trace_blueprint,
    shorts.blueprint,
    parts.capacitors_blueprint,
    recap.blueprint,
    recap.position_blueprint,
    rework.blueprint,
    power.blueprint,
    rails.blueprint,
    ripple.blueprint,
    behind.blueprint,
    behind.apart_blueprint,
    bring_up.blueprint,
    bring_up.harness_blueprint,
    bring_up.continuity_blueprint,
    soak.blueprint,
    report.blueprint,
    diagnosis.blueprint,
    log.blueprint,
    tray.blueprint,
    panel.blueprint,
)
