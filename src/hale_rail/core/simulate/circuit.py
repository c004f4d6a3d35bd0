"""A whole unit as one network: its parts as they truly are, its windings, loads and boards."""

from __future__ import annotations

import random
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from msgspec import Struct

from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.elements import MODELS, ONE, TWO, elements
from hale_rail.core.simulate.faults import SimulatedFault
from hale_rail.core.simulate.nodal import Element, Network, NodalResistor
from hale_rail.core.simulate.nodes import GROUND, Wiring, behind
from hale_rail.core.simulate.rail_line import RailLine, rectifies
from hale_rail.core.simulate.trunk import DcTrunk, MainsTrunk
from hale_rail.core.simulate.truth import Truth, truths
from hale_rail.core.supply.sheet import Rail, Sheet, Topology

#: ohms to ground where the sheet has none: of a rail by itself, of what hangs on it
_OWN_OHM, _BOARD_OHM = {"logic": 150.0, "other": 900.0}, {"logic": 22.0, "other": 300.0}
_LOGIC_V = 5.5
_CONTACT_OHM = 0.004
_BOARD_SHORT_OHM = (0.15, 0.6)
#: what a board that draws too much reads, as a share of what it should
_OVERLOADED = 0.45
#: the share of its rail's volts that a worn contact loses under the machine's load
_LOST_SHARE = (0.10, 0.15)
_CALIBRATING_A = 1e-4


class BoardLoad(Struct, frozen=True):
    """What hangs on one rail behind one connector: ohms cold, and its contact's ohms."""

    rail: str
    connector: str
    ohm: float
    contact_ohm: float


@dataclass
class Circuit:
    """A unit with its truths by part id; replace one and the network follows."""

    sheet: Sheet
    fault: SimulatedFault | None
    seed: int
    other: SimulatedFault | None = None
    true: dict[int, Truth] = field(init=False)
    wiring: Wiring = field(init=False)
    #: results computed for the unit as it is now
    kept: dict[tuple[object, ...], Any] = field(default_factory=dict, init=False)
    #: what each rail by itself conducts to ground
    _own_siemens: dict[str, float] = field(default_factory=dict, init=False)

    def __post_init__(self) -> None:
        self.wiring = wire(self.sheet)
        self.true = truths(self.sheet, self.fault, self.seed, self.other)
        self._own = self._bleeding()

    @property
    def boards(self) -> tuple[BoardLoad, ...]:
        """What hangs on each rail, connector by connector."""
        key = ("boards",)
        if key not in self.kept:
            self.kept[key] = tuple(self._boards())
        loads: tuple[BoardLoad, ...] = self.kept[key]
        return loads

    def _boards(self) -> list[BoardLoad]:
        loads: list[BoardLoad] = []
        for rail in self.sheet.rails:
            joints = [p for p in self.sheet.parts if p.kind.code == "connector"]
            # who names no rails carries what no other does; without a connector it is soldered on
            carrying: list[Part | None] = [p for p in joints if rail.key in p.rails]
            carrying = carrying or [p for p in joints if not p.rails] or [None]
            attached = rail.ohm_attached or _usual(_BOARD_OHM, rail)
            own = self._own_siemens[rail.key]
            siemens = max(1 / attached - own, 0.1 * own) / len(carrying)
            loads += [self._board(rail, joint, 1 / siemens) for joint in carrying]
        return loads

    def _board(self, rail: Rail, joint: Part | None, ohm: float) -> BoardLoad:
        contact = _CONTACT_OHM
        if joint is None:
            return BoardLoad(rail.key, "", ohm, contact)
        if self.fault and self.fault.where == joint.ref and self.fault.how is FaultMode.WORN:
            rng = random.Random(f"{self.seed}/{joint.ref}/{rail.key}")
            amps = machine_a(rail)
            contact = rng.uniform(*_LOST_SHARE) * abs(rail.nominal_v) / amps
        if self._is_failing(rail, joint, FaultMode.OVERLOAD):
            ohm *= _OVERLOADED
        return BoardLoad(rail.key, joint.ref, ohm, contact)

    def _is_failing(self, rail: Rail, joint: Part, how: FaultMode) -> bool:
        """True where the board behind a connector fails so, on this rail: its first."""
        if self.fault is None or self.fault.how is not how:
            return False
        board = next((p for p in self.sheet.parts if p.ref == self.fault.where), None)
        if board is None or board.kind.code != "board" or board.board not in ("", joint.ref):
            return False
        keys = [r.key for r in self.sheet.rails if r.key in (board.rails or joint.rails)]
        return bool(keys) and keys[0] == rail.key

    def is_failing(self, rail: Rail, how: FaultMode) -> bool:
        """True where a board fails so on this rail."""
        joints = [p for p in self.sheet.parts if p.kind.code == "connector"]
        return any(self._is_failing(rail, joint, how) for joint in joints)

    def board_elements(self) -> list[Element]:
        """The boards and their contacts."""
        made: list[Element] = []
        for board in self.boards:
            node = behind(board.rail, board.connector)
            made.append(NodalResistor(self.wiring.output[board.rail], node, board.contact_ohm))
            made.append(NodalResistor(node, GROUND, board.ohm))
            joint = next((p for p in self.sheet.parts if p.ref == board.connector), None)
            rail = self.sheet.rail(board.rail)
            if joint and rail and self._is_failing(rail, joint, FaultMode.SHORT):
                rng = random.Random(f"{self.seed}/board")
                made.append(NodalResistor(node, GROUND, rng.uniform(*_BOARD_SHORT_OHM)))
        return made

    def _bleeding(self) -> list[Element]:
        """Ohms of each rail that the sheet's parts do not account for, so that it reads its own."""
        whole = truths(self.sheet, None, self.seed)
        network = Network([*self._parts(whole), *self.wiring.more])
        made: list[Element] = []
        for rail in self.sheet.rails:
            node = self.wiring.output[rail.key]
            plus, minus = (GROUND, node) if rail.nominal_v < 0 else (node, GROUND)
            volt = network.drop(plus, minus, _CALIBRATING_A)
            drawn = _CALIBRATING_A / volt
            siemens = 1 / (rail.ohm_isolated or _usual(_OWN_OHM, rail)) - drawn
            self._own_siemens[rail.key] = drawn + max(0.0, siemens)
            if siemens > 0:
                made.append(NodalResistor(node, GROUND, 1 / siemens))
        return made

    def _parts(self, true: Mapping[int, Truth]) -> Iterable[Element]:
        for part in self.sheet.parts:
            if self.wiring.pins[part.id]:
                yield from elements(part, true[part.id], self.wiring.pins[part.id])

    def network(self, *, attached: bool = False) -> Network:
        """The unit unplugged, its boards on their connectors or not."""
        key = ("network", attached)
        if key not in self.kept:
            boards = self.board_elements() if attached else []
            parts = [*self._parts(self.true), *self.wiring.more, *self._own]
            self.kept[key] = Network([*parts, *boards])
        network: Network = self.kept[key]
        return network

    def put(self, part: Part, true: Truth) -> None:
        """Another truth for a part: it was replaced, or went."""
        self.true[part.id] = true
        self.kept.clear()

    def mend(self) -> None:
        """The fault is gone: what it was put into was replaced."""
        self.fault = None
        self.kept.clear()

    def alone(self, part: Part) -> tuple[Network, dict[str, str]]:
        """A part by itself, a leg lifted, and the nodes of its pins."""
        own = self.wiring.pins[part.id] or {ONE: ONE, TWO: TWO}
        pins = {name: f"lifted/{name}" for name in own}
        return Network(elements(part, self.true[part.id], pins)), pins

    def nodes(self, part: Part, pins: Mapping[str, str]) -> tuple[str, str] | None:
        """The nodes between which a part is read where no pins are named; None: nothing is."""
        first, second = MODELS[part.kind.model].across
        return (pins[first], pins[second]) if first in pins and second in pins else None


def machine_a(rail: Rail) -> float:
    """Amperes that the machine draws of a rail: 60 % of the most, never below the least."""
    return max(0.6 * (rail.load_max_a or _usual_a(rail)), rail.load_min_a or 0.0)


def dummy_a(rail: Rail) -> float:
    """Amperes of the dummy load: the least load, else 15 % of the most."""
    return rail.load_min_a or 0.15 * (rail.load_max_a or _usual_a(rail))


def most_a(rail: Rail) -> float:
    """Amperes of the most load."""
    return rail.load_max_a or _usual_a(rail)


def _usual_a(rail: Rail) -> float:
    """The most load where the sheet has none."""
    return 5.0 if 0 < rail.nominal_v <= _LOGIC_V else 0.5


def _usual(ohms: Mapping[str, float], rail: Rail) -> float:
    return ohms["logic" if 0 < rail.nominal_v <= _LOGIC_V else "other"]


def wire(sheet: Sheet) -> Wiring:
    """The nodes of every part of a sheet."""
    wiring = Wiring()
    trunk = DcTrunk if sheet.topology is Topology.DC_FED else MainsTrunk
    trunk(sheet, wiring).walk()
    for rail in _in_feeding_order(sheet):
        RailLine(sheet, wiring, rail).walk()
    for part in sheet.parts:
        wiring.pins.setdefault(part.id, {})
    return wiring


def _in_feeding_order(sheet: Sheet) -> list[Rail]:
    """Rails with a rectifier of their own first: others may hang on them."""
    return sorted(sheet.rails, key=lambda rail: not rectifies(sheet, rail))
