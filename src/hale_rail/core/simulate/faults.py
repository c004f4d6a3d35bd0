"""The faults that a unit can be given: how a part fails, and which.

A code is `how:where`: a designator of the sheet, or `feedback`, `adapter`, `unit`.
"""

from __future__ import annotations

from collections import Counter
from enum import Enum

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Regulation, Sheet, Topology


class FailureForm(Enum):
    """How something fails; the value is the first word of its code."""

    SHORT = "short"
    OPEN = "open"
    DRY = "dry"
    LEAKY = "leaky"
    TURNS = "turns"
    DEAD = "dead"
    DRIFT = "drift"
    WORN = "worn"
    JOINT = "joint"
    OVERLOAD = "overload"
    NO_LOAD = "no-load"


_WORDS = {
    FailureForm.SHORT: "shorted",
    FailureForm.OPEN: "open",
    FailureForm.DRY: "dried out",
    FailureForm.LEAKY: "leaking",
    FailureForm.TURNS: "with shorted turns",
    FailureForm.DEAD: "dead",
    FailureForm.WORN: "contacts worn",
    FailureForm.JOINT: "a cracked joint",
    FailureForm.OVERLOAD: "drawing too much",
}
#: what is at fault beside the parts
FEEDBACK, ADAPTER, UNIT = "feedback", "adapter", "unit"
#: between the designators of a bank
TOGETHER = "+"
_PLACES = {
    FEEDBACK: "reference or feedback drifted",
    ADAPTER: "the adapter outside dead",
    UNIT: "nothing broken: its minimum load is missing",
}
#: how the parts of a kind fail, every kind but capacitors, which fail by their family
WAYS: dict[str, tuple[FailureForm, ...]] = {
    "inlet": (FailureForm.OPEN,),
    "fuse": (FailureForm.OPEN,),
    "switch": (FailureForm.OPEN,),
    "filter": (FailureForm.OPEN,),
    "thermistor": (FailureForm.OPEN,),
    "varistor": (FailureForm.SHORT,),
    "bridge": (FailureForm.SHORT, FailureForm.OPEN, FailureForm.JOINT),
    "diode": (FailureForm.SHORT, FailureForm.OPEN, FailureForm.JOINT),
    "schottky": (FailureForm.SHORT, FailureForm.OPEN, FailureForm.JOINT),
    "zener": (FailureForm.SHORT, FailureForm.OPEN),
    "transistor": (FailureForm.SHORT, FailureForm.OPEN),
    "mosfet": (FailureForm.SHORT, FailureForm.OPEN),
    "scr": (FailureForm.SHORT,),
    "optocoupler": (FailureForm.OPEN, FailureForm.SHORT),
    "controller": (FailureForm.DEAD,),
    "regulator": (FailureForm.SHORT, FailureForm.OPEN),
    "resistor": (FailureForm.OPEN,),
    "choke": (FailureForm.OPEN,),
    "transformer": (FailureForm.OPEN, FailureForm.TURNS, FailureForm.JOINT),
    "connector": (FailureForm.WORN, FailureForm.JOINT),
    "board": (FailureForm.SHORT, FailureForm.OVERLOAD),
    # no fault is drawn of these
    **dict.fromkeys(("tube", "chip", "socket", "crystal", "battery"), ()),
    **dict.fromkeys(("trimmer", "relay", "lamp", "lead", "coil"), ()),
}


class SimulatedFault(Struct, frozen=True):
    """How something failed, and its designator or place."""

    how: FailureForm
    where: str

    @property
    def code(self) -> str:
        """As the fault is written: `short:Q1`."""
        return f"{self.how.value}:{self.where}"

    @property
    def parts(self) -> tuple[str, ...]:
        """The designators that it is in: a bank's dry up together."""
        return tuple(self.where.split(TOGETHER))

    @property
    def name(self) -> str:
        """As one says it: `Q1 shorted`."""
        return _PLACES.get(self.where) or f"{self.where} {_WORDS[self.how]}"


def ways(part: Part) -> tuple[FailureForm, ...]:
    """How a part can fail."""
    marked = part.capacitor
    if marked is None:
        return WAYS[part.kind.code]
    if part.family is not None and not (part.family.is_wet or part.family.is_suppressor):
        return (FailureForm.SHORT, FailureForm.OPEN, FailureForm.LEAKY)
    if part.safety_class or (part.family and part.family.is_suppressor):
        return (FailureForm.SHORT, FailureForm.OPEN, FailureForm.LEAKY)
    return (FailureForm.SHORT, FailureForm.OPEN, FailureForm.DRY, FailureForm.LEAKY)


def faults(sheet: Sheet) -> tuple[SimulatedFault, ...]:
    """Every single fault that a unit can be given, in the order in which power passes its parts.

    A designator that is listed twice on the sheet is given as `C60#2`.
    """
    names = {part.id: name for part, name in named(sheet)}
    faults = [SimulatedFault(how, ref) for part, ref in named(sheet) for how in ways(part)]
    faults += [
        SimulatedFault(FailureForm.DRY, TOGETHER.join(names[part.id] for part in bank))
        for bank in sheet.banks
        if len(bank) > 1 and all(FailureForm.DRY in ways(part) for part in bank)
    ]
    faults.append(SimulatedFault(FailureForm.DRIFT, FEEDBACK))
    if sheet.topology is Topology.DC_FED:
        faults.append(SimulatedFault(FailureForm.DEAD, ADAPTER))
    if sheet.topology.is_switching and main_rail_needs_load(sheet):
        faults.append(SimulatedFault(FailureForm.NO_LOAD, UNIT))
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
        if (fault.how.value, fault.where.lower()) == wanted:
            return fault
    words = " ".join(h.value for h in FailureForm)
    raise InputError(
        f"this unit has no fault “{code[:60]}”: write how and which, such as short:Q1 "
        f"({words}); --fault list names them all."
    )
