"""A unit's sheet: its rails, its parts in the order power passes them, connectors and boards."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.measured import Beside
from hale_rail.core.parts.part import MAINS_LINE, Part
from hale_rail.core.safety.energy import ChargeStore
from hale_rail.core.supply.parallel import beside

TRUNK = MAINS_LINE
_LOGIC_V = 5.0


class Topology(Coded):
    """How a supply works."""

    LINEAR = ("linear", "linear")
    FLYBACK = ("flyback", "offline flyback")
    HALF_BRIDGE = ("half-bridge", "half-bridge forward")
    DC_FED = ("dc-fed", "DC-fed linear")

    @property
    def is_switching(self) -> bool:
        """True where the mains are switched at high frequency."""
        return self in (Topology.FLYBACK, Topology.HALF_BRIDGE)


class Regulation(Coded):
    """How a rail is held."""

    MAIN = ("main", "switching main loop")
    AUXILIARY = ("auxiliary", "switching auxiliary")
    LINEAR = ("linear", "linear post-regulator")
    RAW = ("raw", "raw")

    @property
    def is_switching(self) -> bool:
        """True where the switching stage itself makes the rail."""
        return self in (Regulation.MAIN, Regulation.AUXILIARY)


TOPOLOGIES = {topology.code: topology for topology in Topology}
REGULATIONS = {regulation.code: regulation for regulation in Regulation}


class Rail(Struct, frozen=True):
    """A rail's sheet: nominal volts, own tolerance as shares (None: the school's), load in amperes.

    `ohm_isolated` and `ohm_attached`: expected resistance to ground, cold, or None. `trimmer` the
    designator of its trimmer; `guards` the key of the rail that destroys what it feeds while this
    one is missing; "" where there is none. `is_ac`: alternating volts, whose nominal has no sign.
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
    uid: str = ""
    trimmer: str = ""
    guards: str = ""
    is_ac: bool = False

    @property
    def is_stiff(self) -> bool:
        """True when the rail can feed a shorted part enough to burn it (an ampere or more)."""
        return (self.load_max_a or 0.0) >= 1.0


class Sheet(Struct, frozen=True, dict=True):
    """A unit as drawn: topology, mains, year, rails in drawing order, and parts by line and order.

    `mains_v`, `mains_hz` and `year` are None where not known. `purpose`: `repair`, `preventive`, or
    "" where nobody said; `is_self_loaded`: supply and board are one, or the machine is the load.
    """

    name: str
    topology: Topology
    rails: tuple[Rail, ...]
    parts: tuple[Part, ...]
    mains_v: float | None = None
    mains_hz: float | None = None
    year: int | None = None
    purpose: str = ""
    is_self_loaded: bool = False

    def rail(self, key: str) -> Rail | None:
        """The rail of a key, or None."""
        return self._by_key.get(key)

    @cached_property
    def _by_key(self) -> dict[str, Rail]:
        return {rail.key: rail for rail in self.rails}

    def part(self, part_id: int | None) -> Part | None:
        """The part of an id, or None."""
        return self._by_id.get(part_id) if part_id is not None else None

    @cached_property
    def _by_id(self) -> dict[int, Part]:
        return {part.id: part for part in self.parts}

    def on_line(self, line: str) -> tuple[Part, ...]:
        """Parts that are on one line, in the order power passes them."""
        return self._by_line.get(line, ())

    @cached_property
    def _by_line(self) -> dict[str, tuple[Part, ...]]:
        lines: dict[str, list[Part]] = {}
        for part in sorted(self.parts, key=lambda p: (p.order, p.id)):
            lines.setdefault(part.line, []).append(part)
        return {line: tuple(found) for line, found in lines.items()}

    @cached_property
    def in_power_order(self) -> tuple[Part, ...]:
        """Every part: the trunk first, then each rail, then connectors and boards."""
        lines = [TRUNK, *(rail.key for rail in self.rails)]
        ordered = [part for line in lines for part in self.on_line(line)]
        known = {part.id for part in ordered}
        return (*ordered, *(p for p in self.parts if p.id not in known))

    @cached_property
    def banks(self) -> tuple[tuple[Part, ...], ...]:
        """Every part in power order, those of one bank together at the place of its first."""
        return tuple(
            group
            for line in dict.fromkeys(p.line for p in self.in_power_order)
            for group in group_banks(self.on_line(line))
        )

    def bank_of(self, part: Part) -> tuple[Part, ...]:
        """The parts of a part's bank in power order; itself alone where it has none."""
        return self._bank_by_id[part.id]

    @cached_property
    def _bank_by_id(self) -> dict[int, tuple[Part, ...]]:
        return {part.id: group for group in self.banks for part in group}

    @cached_property
    def beside(self) -> dict[int, Beside]:
        """What is beside each capacitor that is not alone, by its id."""
        return beside([self.on_line(rail.key) for rail in self.rails], self.parts)

    @cached_property
    def capacitors(self) -> tuple[Part, ...]:
        """The capacitors, in power order."""
        return tuple(p for p in self.in_power_order if p.kind is capacitor.KIND)

    @cached_property
    def stores(self) -> tuple[Part, ...]:
        """What can hold a charge after the plug is out, in power order."""
        return tuple(p for p in self.in_power_order if p.is_store)

    @cached_property
    def store_banks(self) -> tuple[tuple[Part, ...], ...]:
        """The stores in power order, those of one bank together: one reading serves them."""
        groups = (tuple(p for p in group if p.is_store) for group in self.banks)
        return tuple(group for group in groups if group)

    @cached_property
    def charges(self) -> tuple[ChargeStore, ...]:
        """The stores in the form that the energy state takes: rated volts, line, shared bank.

        A rating that is not known is taken at twice the rail's volts, on the mains side as none.
        """
        return tuple(
            ChargeStore(p.id, self._rated_v(p), p.line, self.bank_of(p)[0].id) for p in self.stores
        )

    def _rated_v(self, part: Part) -> float:
        rail = self.rail(part.line)
        if part.volt or rail is None:
            return part.volt or math.inf
        return 2 * abs(rail.nominal_v)


def logic_rail(rails: Sequence[Rail]) -> Rail | None:
    """The rail that a chip takes where nobody says which: above ground, the nearest to 5 V."""
    above = [rail for rail in rails if rail.nominal_v > 0 and not rail.is_ac]
    return min(above, key=lambda rail: abs(rail.nominal_v - _LOGIC_V), default=None)


def group_banks(parts: Sequence[Part]) -> list[tuple[Part, ...]]:
    """Parts of a line in order, those of one bank together at the place of its first.

    The one definition of a bank, for judging, walking and drawing: parts of one line, behind the
    same connector, that carry the same bank's name.
    """
    groups: dict[object, list[Part]] = {}
    for part in parts:
        is_banked = part.bank and part.kind.shares_node
        key = (part.line, part.board, part.bank) if is_banked else part.id
        groups.setdefault(key, []).append(part)
    return [tuple(group) for group in groups.values()]
