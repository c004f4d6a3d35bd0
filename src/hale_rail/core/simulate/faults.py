"""The faults that a unit can be given: how a part fails, and which.

A code is `how:where`: a designator of the sheet, or `feedback`, `adapter`, `unit`.
"""

from __future__ import annotations

from collections import Counter

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Regulation, Sheet, Topology

#: what is at fault beside the parts
FEEDBACK, ADAPTER, UNIT = "feedback", "adapter", "unit"
#: between the designators of a bank
TOGETHER = "+"
_PLACES = {
    FEEDBACK: "reference or feedback drifted",
    ADAPTER: "the adapter outside dead",
    UNIT: "nothing broken: its minimum load is missing",
}
#: where scripts have been told other words than the mode's
_WORDS = {FaultMode.JOINT: "a cracked joint", FaultMode.WORN: "contacts worn"}
_BREAKS, _OPENS = (FaultMode.SHORT, FaultMode.OPEN), (FaultMode.OPEN,)
#: how a part can fail, by what it is made of here; what the diagnosis knows of it is a kind's own
MODES: dict[str, tuple[FaultMode, ...]] = {
    "nothing": (),
    "insulator": (FaultMode.SHORT,),
    "load": (FaultMode.SHORT, FaultMode.OVERLOAD),
    "contacts": (FaultMode.WORN, FaultMode.JOINT),
    **dict.fromkeys(("conductor", "filter", "choke"), _OPENS),
    "transformer": (*_OPENS, FaultMode.TURNS, FaultMode.JOINT),
    "capacitor": (*_BREAKS, FaultMode.DRY, FaultMode.LEAKY),
    **dict.fromkeys(("junction", "schottky", "bridge"), (*_BREAKS, FaultMode.JOINT)),
    **dict.fromkeys(("zener", "transistor", "mosfet", "regulator"), _BREAKS),
    "optocoupler": (FaultMode.OPEN, FaultMode.SHORT),
    "scr": (FaultMode.SHORT,),
    "controller": (FaultMode.DEAD,),
    "chip": (FaultMode.STUCK, FaultMode.DEAD, FaultMode.BRIDGE, FaultMode.OPEN_SOCKET),
}


class SimulatedFault(Struct, frozen=True):
    """How something failed, and its designator or place."""

    how: FaultMode
    where: str

    @property
    def code(self) -> str:
        """As the fault is written: `short:Q1`."""
        return f"{self.how.code}:{self.where}"

    @property
    def parts(self) -> tuple[str, ...]:
        """The designators that it is in: a bank's dry up together."""
        return tuple(self.where.split(TOGETHER))

    @property
    def name(self) -> str:
        """As one says it: `Q1 shorted`."""
        words = _WORDS.get(self.how, self.how.words)
        return _PLACES.get(self.where) or f"{self.where} {words}"


def ways(part: Part) -> tuple[FaultMode, ...]:
    """How a part can fail; a capacitor that is not wet does not dry out."""
    modes = MODES[part.kind.model]
    is_dry = part.family is not None and not part.family.is_wet
    if is_dry or (part.capacitor and part.safety_class):
        return tuple(mode for mode in modes if mode is not FaultMode.DRY)
    return modes


def faults(sheet: Sheet) -> tuple[SimulatedFault, ...]:
    """Every single fault that a unit can be given, in the order in which power passes its parts.

    A designator that is listed twice on the sheet is given as `C60#2`.
    """
    names = {part.id: name for part, name in named(sheet)}
    faults = [SimulatedFault(how, ref) for part, ref in named(sheet) for how in ways(part)]
    faults += [
        SimulatedFault(FaultMode.DRY, TOGETHER.join(names[part.id] for part in bank))
        for bank in sheet.banks
        if len(bank) > 1 and all(FaultMode.DRY in ways(part) for part in bank)
    ]
    faults.append(SimulatedFault(FaultMode.DRIFT, FEEDBACK))
    if sheet.topology is Topology.DC_FED:
        faults.append(SimulatedFault(FaultMode.DEAD, ADAPTER))
    if sheet.topology.is_switching and main_rail_needs_load(sheet):
        faults.append(SimulatedFault(FaultMode.NO_LOAD, UNIT))
    return tuple(faults)


def main_rail_needs_load(sheet: Sheet) -> bool:
    """True where the switching main loop has a least load."""
    return any(r.regulation is Regulation.MAIN and r.load_min_a for r in sheet.rails)


def named(sheet: Sheet) -> list[tuple[Part, str]]:
    """The parts with a name of their own each: `C60#2` for the second of one designator."""
    often, met = Counter(p.ref.upper() for p in sheet.parts), Counter[str]()
    named = []
    for part in sheet.in_power_order:
        met[part.ref.upper()] += 1
        mark = f"#{met[part.ref.upper()]}" if often[part.ref.upper()] > 1 else ""
        named.append((part, part.ref + mark))
    return named


def find_fault(sheet: Sheet, code: str) -> SimulatedFault:
    """The fault of a code, for this unit; raises InputError."""
    how, _, where = code.strip().partition(":")
    wanted = (how.strip().lower(), where.strip().lower())
    for fault in faults(sheet):
        if (fault.how.code, fault.where.lower()) == wanted:
            return fault
    words = " ".join(dict.fromkeys(fault.how.code for fault in faults(sheet)))
    raise InputError(
        f"this unit has no fault “{code[:60]}”: write how and which, such as short:Q1 "
        f"({words}); --fault list names them all."
    )
