"""What to heed when a part is replaced, and what a failed regulator or transistor may take along.

Source: docs/formulas.md, “Other parts”: replacement semiconductors of the same polarity, ratings at
or above, pin order checked; a regulator or transistor that let its input through makes everything
on its rail suspect.
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
    Kind.FUSE: "The same current, speed, voltage and breaking capacity; never a higher current. A "
    "lower one may be used for a test.",
    Kind.THERMISTOR: "The same cold resistance and current, stood off the board: it runs hot.",
    Kind.BRIDGE: _SEMICONDUCTOR,
    Kind.DIODE: _SEMICONDUCTOR + " A fast part stays a fast part.",
    Kind.SCHOTTKY: _SEMICONDUCTOR + " A Schottky stays a Schottky.",
    Kind.TRANSISTOR: _SEMICONDUCTOR + " Check its base resistors and drive before power.",
    Kind.MOSFET: _SEMICONDUCTOR + " Check its gate resistor and drive before power.",
    Kind.REGULATOR: _SEMICONDUCTOR,
    Kind.RESISTOR: "Same value and power or more; a fusible one stays fusible.",
}
#: what stands between the raw supply and a rail, and lets it through when shorted
PASS_KINDS = (Kind.REGULATOR, Kind.TRANSISTOR, Kind.MOSFET)


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
    """Everything on a rail whose pass element let its input through, most endangered first.

    Tantalums, since they short; then other capacitors, lowest rating first; then what else stands
    on the rail; then the boards behind it.
    """
    found = []
    for station in sheet.on_line(rail_key):
        if station.kind in PASS_KINDS or not _is_behind_pass(sheet, station):
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


def let_through(sheet: Sheet, station: Station) -> bool:
    """True for a part whose short puts the raw supply on a rail."""
    return station.kind in PASS_KINDS and sheet.rail(station.line) is not None


def _is_behind_pass(sheet: Sheet, station: Station) -> bool:
    """True when the rail's pass element stands before the station, or the rail shows none."""
    passes = [s.order for s in sheet.on_line(station.line) if s.kind in PASS_KINDS]
    return not passes or station.order > min(passes)
