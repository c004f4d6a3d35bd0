"""What a capacitor does where its sheet does not say: its place tells."""

from __future__ import annotations

from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import TRUNK, Topology

#: rated volts from which a can of the mains side is the bulk capacitor
_BULK_V = 160.0


def role_of(topology: Topology, part: Part) -> str:
    """The role of a capacitor: as its sheet has it, else by where it is."""
    return part.role or role_by_place(topology, part)


def role_by_place(topology: Topology, part: Part) -> str:
    """The role of a capacitor whose sheet names none, by where it is; "" where that is open."""
    if part.safety_class:
        return f"suppressor-{part.safety_class[0].lower()}"
    if part.line != TRUNK:
        return "decoupling" if part.board else "output-filter"
    is_fed = topology in (Topology.LINEAR, Topology.DC_FED)
    return "raw-filter" if is_fed else "bulk" if (part.volt or 0) >= _BULK_V else ""
