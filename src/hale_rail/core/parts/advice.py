"""What to heed when a part is replaced, and which parts a failed regulator may have taken along.

Source: docs/formulas.md, “Other parts”: replacement semiconductors of the same polarity, ratings at
or above, pin order checked; a regulator that passed its input through suspects everything on its
rail.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hale_rail.core.parts.families import Family
from hale_rail.core.supply.sheet import Kind, Sheet, Station

_SEMICONDUCTOR = (
    "Same polarity, ratings at or above the old part's, and the pin order checked before it is "
    "soldered; its insulation and heatsink fit as before."
)
_ADVICE = {
    Kind.FUSE: "The same current, speed, voltage and breaking capacity; never a higher current.",
    Kind.THERMISTOR: "The same cold resistance and current, stood off the board: it runs hot.",
    Kind.BRIDGE: _SEMICONDUCTOR,
    Kind.DIODE: _SEMICONDUCTOR + " A fast part stays a fast part.",
    Kind.SCHOTTKY: _SEMICONDUCTOR + " A Schottky stays a Schottky.",
    Kind.TRANSISTOR: _SEMICONDUCTOR + " Check its base resistors and drive before power.",
    Kind.MOSFET: _SEMICONDUCTOR + " Check its gate resistor and drive before power.",
    Kind.REGULATOR: _SEMICONDUCTOR,
    Kind.RESISTOR: "Same value and power or more; a fusible one stays fusible.",
}


@dataclass(frozen=True)
class Suspect:
    """A part that an overvoltage may have taken along, in the order to check, and why there."""

    station: Station
    why: str


def replacement_advice(station: Station) -> str:
    """What to heed when this part is replaced, or ""."""
    if station.family is not None and station.family.is_suppressor:
        wanted = station.safety_class or "X or Y"
        return f"Only an approved {wanted} safety part, never an ordinary film or ceramic one."
    if station.family is Family.TANTALUM:
        return "Never reversed; at twice the rail's voltage or more it lasts."
    if station.family is not None and station.family.is_wet:
        return "105 °C, voltage at or above the marked one, polarity against board and old part."
    return _ADVICE.get(station.kind, "")


def suspects(sheet: Sheet, rail_key: str) -> Sequence[Suspect]:
    """Everything on a rail whose regulator passed its input through, most endangered first.

    Tantalums, since they short; then other capacitors, lowest rating first; then what else stands
    on the rail; then the boards behind it.
    """
    found = []
    for station in sheet.on_line(rail_key):
        if station.kind is Kind.REGULATOR or not _is_behind_regulator(sheet, station):
            continue
        rank, why = 2, "stands on the rail"
        if station.family is Family.TANTALUM:
            rank, why = 0, "a tantalum shorts when overrun"
        elif station.kind is Kind.CAPACITOR:
            rank, why = 1, "its rating may have been passed"
        found.append((rank, station.volt or 0.0, Suspect(station, why)))
    boards = [s for s in sheet.stations if s.kind is Kind.BOARD and rail_key in s.rails]
    found += [(3, 0.0, Suspect(board, "its chips hang on the rail")) for board in boards]
    return [suspect for _, _, suspect in sorted(found, key=lambda item: item[:2])]


def _is_behind_regulator(sheet: Sheet, station: Station) -> bool:
    """True when the rail's regulator stands before the station, or the rail shows none."""
    regulators = [s.order for s in sheet.on_line(station.line) if s.kind is Kind.REGULATOR]
    return not regulators or station.order > min(regulators)
