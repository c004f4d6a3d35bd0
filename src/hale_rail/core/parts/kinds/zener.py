"""Zener: a silicon junction one way; its breakdown is proven through a resistor."""

from __future__ import annotations

from hale_rail.core.parts.junctions import BIPOLAR_V
from hale_rail.core.parts.kinds.diodes import rectifier
from hale_rail.core.parts.markings import ClampMarking
from hale_rail.core.quantities import Unit

KIND = rectifier(
    "zener",
    "zener",
    lambda _: BIPOLAR_V,
    "Brown board round it, cracked glass.",
    "Same breakdown voltage within 5 % and the same power or more.",
    letters=("ZD", "DZ"),
    marking=ClampMarking,
    value_unit=Unit.VOLT,
)
