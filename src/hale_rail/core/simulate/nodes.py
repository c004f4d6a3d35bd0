"""Names of a unit's nodes, and which pins of its parts are tied to them."""

from __future__ import annotations

from msgspec import Struct, field

from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.elements import ONE, TWO
from hale_rail.core.simulate.nodal import Element

LINE, NEUTRAL, EARTH, GROUND = "line", "neutral", "earth", "ground"
HIGH, LOW, MIDDLE, SWITCHED, SUPPLY = "bus+", "bus-", "bus-middle", "switched", "control-supply"
RAW = "raw"
#: kinds that power passes through
SERIES = ("inlet", "fuse", "switch", "filter", "thermistor", "choke")
#: kinds that rectify
RECTIFIERS = ("diode", "schottky", "bridge")
#: ohms of what no sheet names: an output winding, drives, an optocoupler's parts
OUTPUT_OHM, DRIVE_OHM, PULL_UP_OHM, LED_OHM = 0.02, 4700.0, 10e3, 330.0
OUTPUT_H, IMPLIED_DROP_V = 40e-6, 0.55
#: a resistor in the way of power is below this; above, it stands across
IN_THE_WAY_OHM = 10.0


class Wiring(Struct):
    """Nodes of each part's pins by its id; `more` what no part of the sheet is.

    `output`: a rail's node at the supply end, by key; `source`: its node before its regulator;
    `source_of`: the key of the rail that feeds it, or "".
    """

    pins: dict[int, dict[str, str]] = field(default_factory=dict)
    more: list[Element] = field(default_factory=list)
    output: dict[str, str] = field(default_factory=dict)
    source: dict[str, str] = field(default_factory=dict)
    source_of: dict[str, str] = field(default_factory=dict)

    def two(self, part: Part, a: str, b: str) -> None:
        """A part of two pins between two nodes."""
        self.pins[part.id] = {ONE: a, TWO: b}


def behind(key: str, connector: str) -> str:
    """The node of a rail on the boards' side of a connector."""
    return f"{key}@{connector}"
