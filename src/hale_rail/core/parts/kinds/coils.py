"""Relay, lamp, lead and magnet coil: whole while they conduct."""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.parts.kinds.conductors import conductor
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.ratings import at_least, minded

RELAY = replace(
    conductor(
        "relay",
        "relay",
        5000.0,
        "Burnt contacts, a cracked base.",
        letters=("K", "RL", "RY"),
        model="nothing",
    ),
    is_series=False,
    fails=failing(FaultMode.OPEN, FaultMode.WORN),
)
LAMP = replace(
    conductor(
        "lamp", "lamp", 2000.0, "Black glass, broken thread.", letters=("LP", "DS", "LA"),
        model="nothing",
    ),
    is_series=False,
)  # fmt: skip
LEAD = replace(
    conductor(
        "lead",
        "lead",
        1.0,
        "Perished, nicked or bare; plug burnt?",
        letters=("W",),
        model="nothing",
        rules=(at_least("volt"), at_least("ampere"), minded("style", label="plugs")),
    ),
    findings=("perished", "no-earth", "broken-wire", "bare-wire", "burnt", "joint", "bad-repair"),
    fails=failing(FaultMode.OPEN),
)
COIL = replace(
    conductor(
        "coil", "magnet coil", 2000.0, "Charred wrap, a broken lead.", letters=("CL",),
        is_winding=True, model="nothing",
    ),
    is_series=False,
)  # fmt: skip
