"""A small converter inside a DC-fed unit: its switch, rectifier and choke make one rail."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks.block import Block, UnitSheet
from hale_rail.core.diagnosis.effects import CLEAN, DEAD, HARD, MISSING, OWN_RAIL, Effect
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.parts.modes import FaultMode

_PARTS = ("transistor", "mosfet", "diode", "schottky", "choke")


def converter(_: UnitSheet, fault: Fault) -> Effect | None:
    """Its switch shorted lies across the input through the choke; anything open ends its rail."""
    if not fault.has(*_PARTS) or not fault.is_on_rail:
        return None
    rails = {fault.line: MISSING}
    if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED) and fault.has("transistor", "mosfet"):
        because = "a shorted switch of the converter lies across the input"
        return Effect("converter-short", because, HARD, {CLEAN: 0.5, DEAD: 0.45}, rails)
    if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED):
        because = "a shorted rectifier stops its converter alone"
        converter = {"rail-missing": 0.6}
        return Effect(
            "rectifier-short", because, OWN_RAIL, {CLEAN: 0.1, DEAD: 0.1}, rails, symptoms=converter
        )
    if fault.mode is FaultMode.OPEN:
        converter = {"rail-missing": 0.85}
        return Effect(
            "way-open", "its own rail alone ends there", OWN_RAIL, {}, rails, symptoms=converter
        )
    return None


BLOCK: Block = (converter,)
