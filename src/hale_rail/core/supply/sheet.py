"""A unit's sheet: its rails, its parts as stations in the order power passes them, connectors."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from hale_rail.core.parts.families import Family, Grade

TRUNK = "main"


class Topology(Enum):
    LINEAR = "linear"
    FLYBACK = "offline flyback"
    HALF_BRIDGE = "half-bridge forward"
    DC_FED = "DC-fed linear"

    @property
    def is_switching(self) -> bool:
        return self in (Topology.FLYBACK, Topology.HALF_BRIDGE)


class Kind(Enum):
    """What a station is; `series` kinds are passed through by the power, others stand across it."""

    INLET = "inlet"
    FUSE = "fuse"
    SWITCH = "mains switch"
    FILTER = "line filter"
    THERMISTOR = "inrush thermistor"
    BRIDGE = "bridge"
    DIODE = "diode"
    SCHOTTKY = "Schottky"
    TRANSISTOR = "bipolar transistor"
    MOSFET = "MOSFET"
    REGULATOR = "regulator"
    RESISTOR = "resistor"
    CHOKE = "choke"
    TRANSFORMER = "transformer"
    CAPACITOR = "capacitor"
    CONNECTOR = "connector"
    BOARD = "board"

    @property
    def is_series(self) -> bool:
        return self not in (Kind.CAPACITOR, Kind.RESISTOR, Kind.BOARD)


class Regulation(Enum):
    MAIN = "switching main loop"
    AUXILIARY = "switching auxiliary"
    LINEAR = "linear post-regulator"
    RAW = "raw"

    @property
    def is_switching(self) -> bool:
        return self in (Regulation.MAIN, Regulation.AUXILIARY)


@dataclass(frozen=True)
class Rail:
    """A rail's sheet: nominal volts, own tolerance as shares (None: the school's), load in amperes.

    `ohm_isolated` and `ohm_attached`: expected resistance to ground, cold, or None.
    """

    key: str
    nominal_v: float
    regulation: Regulation
    load_min_a: float | None = None
    load_max_a: float | None = None
    tolerance: tuple[float, float] | None = None
    ripple_mv: float | None = None
    ohm_isolated: float | None = None
    ohm_attached: float | None = None

    @property
    def is_stiff(self) -> bool:
        """True when the rail can feed a shorted part enough to burn it (an ampere or more)."""
        return (self.load_max_a or 0.0) >= 1.0


@dataclass(frozen=True)
class Station:
    """A part of the sheet.

    `line` is `main` or a rail's key; `order` its place on the line; `bank` the name of the node it
    shares (stations of one bank are read together); `board` the connector behind which it stands,
    or "". `value` is farads, ohms, henries or amperes by kind. `is_store` marks what can hold a
    charge after the plug is out.
    """

    id: int
    ref: str
    kind: Kind
    line: str
    order: int
    value: float | None = None
    volt: float | None = None
    family: Family | None = None
    role: str = ""
    bank: str = ""
    board: str = ""
    safety_class: str = ""
    tolerance: tuple[float, float] | None = None
    grade: Grade = Grade.GENERAL
    year: int | None = None
    is_primary: bool = False
    is_store: bool = False
    note: str = ""
    #: rails a connector or board carries
    rails: tuple[str, ...] = ()


@dataclass(frozen=True)
class Sheet:
    """A unit as drawn: its topology, rails in drawing order, and stations by line and order."""

    name: str
    topology: Topology
    rails: tuple[Rail, ...]
    stations: tuple[Station, ...]

    def rail(self, key: str) -> Rail | None:
        return next((rail for rail in self.rails if rail.key == key), None)

    def station(self, station_id: int) -> Station | None:
        return next((s for s in self.stations if s.id == station_id), None)

    def on_line(self, line: str) -> list[Station]:
        """Stations that stand on one line, in the order power passes them."""
        return sorted((s for s in self.stations if s.line == line), key=lambda s: (s.order, s.id))

    @property
    def in_power_order(self) -> list[Station]:
        """Every station: the trunk first, then each rail."""
        lines = [TRUNK, *(rail.key for rail in self.rails)]
        ordered = [station for line in lines for station in self.on_line(line)]
        known = {station.id for station in ordered}
        return ordered + [s for s in self.stations if s.id not in known]

    @property
    def capacitors(self) -> list[Station]:
        return [s for s in self.in_power_order if s.kind is Kind.CAPACITOR]

    @property
    def stores(self) -> list[Station]:
        return [s for s in self.in_power_order if s.is_store]


def bank_mates(sheet: Sheet, station: Station) -> list[Station]:
    """The stations that share the station's node, itself among them; just itself without a bank."""
    if not station.bank:
        return [station]
    return [s for s in sheet.in_power_order if s.bank == station.bank and s.line == station.line]


def group_banks(stations: Sequence[Station]) -> list[tuple[Station, ...]]:
    """Stations of a line in order, those of one bank together at the place of its first."""
    groups: dict[object, list[Station]] = {}
    for station in stations:
        key = (station.bank, station.board) if station.bank else station.id
        groups.setdefault(key, []).append(station)
    return [tuple(group) for group in groups.values()]
