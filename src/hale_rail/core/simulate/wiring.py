"""How the parts of a sheet hang together: the nodes of their pins, by topology and power order.

A sheet lists parts in the order in which power passes them, not a net; the usual circuit of each
topology is laid through them. What a sheet leaves out but the circuit needs (a winding, a raw
supply) is put in without a name.
"""

from __future__ import annotations

from hale_rail.core.simulate.nodes import Wiring
from hale_rail.core.simulate.rail_line import RailLine, rectifies
from hale_rail.core.simulate.trunk import DcTrunk, MainsTrunk
from hale_rail.core.supply.sheet import Rail, Sheet, Topology


def wire(sheet: Sheet) -> Wiring:
    """The nodes of every part of a sheet."""
    wiring = Wiring()
    trunk = DcTrunk if sheet.topology is Topology.DC_FED else MainsTrunk
    trunk(sheet, wiring).walk()
    for rail in _in_feeding_order(sheet):
        RailLine(sheet, wiring, rail).walk()
    for part in sheet.parts:
        wiring.pins.setdefault(part.id, {})
    return wiring


def _in_feeding_order(sheet: Sheet) -> list[Rail]:
    """Rails with a rectifier of their own first: others may hang on them."""
    return sorted(sheet.rails, key=lambda rail: not rectifies(sheet, rail))
