"""The topologies, each a module that lists its blocks in the order of power."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks.block import Block, UnitSheet
from hale_rail.core.diagnosis.effects import NOTHING, Effect
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.diagnosis.topologies import dc_fed, flyback, half_bridge, linear
from hale_rail.core.supply.sheet import Topology

_BLOCKS: dict[Topology, Block] = {
    Topology.LINEAR: linear.BLOCKS,
    Topology.FLYBACK: flyback.BLOCKS,
    Topology.HALF_BRIDGE: half_bridge.BLOCKS,
    Topology.DC_FED: dc_fed.BLOCKS,
}


def effect(unit: UnitSheet, fault: Fault) -> Effect:
    """What a fault makes the unit do: the first rule that knows it."""
    rules = _BLOCKS[unit.sheet.topology]
    return next((own for rule in rules if (own := rule(unit, fault))), NOTHING)
