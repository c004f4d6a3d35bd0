"""What would be seen of each fault: by part, by rail and by eye, as chances of classes.

Source: docs/formulas.md, “Where to look next”. A view has a row of chances for each fault and a
last one for none of them; its rank says which of two faults hides the other there.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from typing import Any

from msgspec import Struct

from hale_rail.core.arrays import Floats, Indices, np
from hale_rail.core.diagnosis.blocks.block import UnitSheet
from hale_rail.core.diagnosis.effects import REGIMES, RUNS, Effect, Shares
from hale_rail.core.diagnosis.faults import RECAP, Fault
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import TRUNK, Topology

SOUND, SHORT, NEAR, OPEN, DRY, LEAKY = "sound", "short", "near", "open", "dry", "leaky"
#: how a part can read; near: some ohms, as of a short behind a winding
STATES = (SOUND, SHORT, NEAR, OPEN, DRY, LEAKY)
GROUND = (SOUND, SHORT, LEAKY)
VOLTS = ("right", "missing", "low", "high")
#: the order of an effect's shares
_SHARES = ("missing", "low", "right", "high")
#: what the eye finds, by what it speaks of
LOOKS = (SOUND, "vented", "burnt", "crazed", "joint", "contact", "clean", "black", "work")
_OWN, _NODE = 3, 2
#: no class is impossible
_LEAST = 0.0003


class Memo(dict[Any, Any]):
    """What was worked out once for a unit, by what it is of: many facts and tests ask for it."""

    def of(self, key: Any, make: Callable[[], Any]) -> Any:
        """What was made before, else now."""
        if key not in self:
            self[key] = make()
        return self[key]


class View(Struct, frozen=True, eq=False):
    """Chances of each class; `rows` of shape (faults + 1, classes), `ranks` (faults + 1,)."""

    classes: Sequence[str]
    rows: Floats
    ranks: Indices


def view(
    classes: Sequence[str],
    usual: Mapping[str, float],
    shown: Mapping[int, tuple[Mapping[str, float], int]],
    count: int,
) -> View:
    """A view: `usual` where nothing is wrong, `shown` by the place of each fault that changes it.

    Chances of a row are scaled to one; the first class takes what is left.
    """
    rows = [_row(classes, usual)]
    alike: dict[int, int] = {}  # many faults predict the same values: they share one row
    numbers = []
    for chances, _ in shown.values():
        number = alike.setdefault(id(chances), len(rows))
        if number == len(rows):
            rows.append(_row(classes, chances))
        numbers.append(number)
    places = list(shown)
    of_fault, ranks = np.zeros((2, count + 1), dtype=np.intp)
    of_fault[places] = numbers
    ranks[places] = [rank for _, rank in shown.values()]
    return View(classes, np.array(rows)[of_fault], ranks)


def _row(classes: Sequence[str], chances: Mapping[str, float]) -> list[float]:
    row = [chances.get(name, _LEAST) for name in classes]
    if classes[0] not in chances:
        row[0] = max(_LEAST, 1.0 - sum(row[1:]))
    total = sum(row)
    return [chance / total for chance in row]


_OPENS = ("fuse", "inlet", "lead", "switch", "filter", "thermistor", "choke", "transformer",
          "resistor", "trimmer", "relay")  # fmt: skip
#: of an open part in circuit, how often it reads open: what stands beside it hides the others
_SHOWS_OPEN = {
    **dict.fromkeys(_OPENS, 0.96), "transistor": 0.9, "mosfet": 0.6, "optocoupler": 0.45,
    "regulator": 0.05, "bridge": 0.7, "capacitor": 0.9, "diode": 0.45, "schottky": 0.45,
    "zener": 0.5, "scr": 0.3,
}  # fmt: skip
_SHOWS_SHORT = {"optocoupler": 0.75}
_JUNCTIONS = ("diode", "schottky", "bridge", "transistor", "mosfet", "zener", "scr")


def node(unit: UnitSheet, part: Part) -> str:
    """The node to whose return a part is across, "" for one in the way of power."""
    kind, role = part.kind.code, unit.role(part)
    if part.line != TRUNK:
        if part.board:
            return f"board {part.line}"
        is_across = kind in ("capacitor", "scr", "zener", "diode", "schottky", "bridge")
        raw = "raw" if unit.is_before_regulator(part) else "out"
        return f"{raw} {part.line}" if is_across else ""
    if role.startswith("suppressor") or kind == "varistor":
        return "mains"
    if role == "bulk":
        is_half = unit.sheet.topology is Topology.HALF_BRIDGE
        return f"bulk {part.id}" if is_half else "bulk"
    if role in ("raw-filter", "start-up"):
        return role
    if kind in ("transistor", "mosfet"):
        return f"switch {part.id}" if unit.sheet.topology is Topology.HALF_BRIDGE else "switch"
    return "switch" if role == "snubber" else ""


#: what shows through a winding: the bulk behind the switch, and the other way
_BEHIND = {"bulk": "switch", "switch": "bulk"}
#: what a short makes the other parts of its node read like, those through a winding, and those of
#: a rail when it stands on a board
_ON_NODE, _ON_SWITCH = {SHORT: 0.92, NEAR: 0.05}, {SHORT: 0.6, NEAR: 0.2}
_THROUGH, _BY_BOARD, _BY_PART_OF_BOARD = {NEAR: 0.88, SHORT: 0.06}, {SHORT: 0.4}, {SHORT: 0.5}


class Views(Struct, frozen=True, eq=False, dict=True):
    """Makes the views of a unit."""

    unit: UnitSheet
    faults: Sequence[Fault]
    effects: Sequence[Effect]
    kept: Memo

    def make(
        self,
        classes: Sequence[str],
        usual: Mapping[str, float],
        shown: Mapping[int, tuple[Mapping[str, float], int]],
    ) -> View:
        """A view over this unit's faults."""
        return view(classes, usual, shown, len(self.faults))

    def part(self, part: Part, *, is_lifted: bool, is_new: bool = False) -> View:
        """What a part reads like, in circuit or by itself; `is_new`: since it was replaced."""
        key = ("part", part.id, is_lifted, is_new)
        made: View = self.kept.of(key, lambda: self._part(part, is_lifted=is_lifted, is_new=is_new))
        return made

    def _part(self, part: Part, *, is_lifted: bool, is_new: bool) -> View:
        shown: dict[int, tuple[Mapping[str, float], int]] = {}
        if not is_lifted:
            own_node = node(self.unit, part)
            shown.update(self.kept.of(("node", own_node), lambda: self._on_node(own_node)))
        for place in self.of_part.get(part.id, ()):
            fault = self.faults[place]
            result = _own(part, fault.mode, is_lifted=is_lifted) if fault.part else {DRY: 0.93}
            shown.pop(place, None)
            if result:
                shown[place] = (result, _OWN)
        if part.kind.code == "fuse" and not is_new:
            self._blown(shown)
        usual = {SHORT: 0.0004, OPEN: 0.0003, NEAR: 0.001, DRY: 0.006, LEAKY: 0.003}
        return self.make(STATES, usual, shown)

    @cached_property
    def of_part(self) -> dict[int, list[int]]:
        """Places of the faults that each part is in, by its id."""
        result: dict[int, list[int]] = {}
        for place, fault in enumerate(self.faults):
            for part_id in fault.part_ids:
                result.setdefault(part_id, []).append(place)
        return result

    @cached_property
    def recaps(self) -> list[int]:
        """Places of the faults that came with an earlier recap."""
        return [place for place, fault in enumerate(self.faults) if fault.ref == RECAP]

    @cached_property
    def shorts(self) -> dict[int, str]:
        """The node that each shorting fault shorts, by its place; "" where no part's node is."""
        return {
            place: node(self.unit, fault.part) if fault.part else ""
            for place, fault in enumerate(self.faults)
            if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED)
        }

    def _on_node(self, own_node: str) -> Mapping[int, tuple[Mapping[str, float], int]]:
        """What every short makes the parts on a node read like, by its place; "" is no node."""
        beside = ((place, self._beside(own_node, place)) for place in self.shorts if own_node)
        return {place: (chances, _NODE) for place, chances in beside if chances}

    def _beside(self, own_node: str, place: int) -> Mapping[str, float] | None:
        """What another part's short makes one on this node read like."""
        fault, other = self.faults[place], self.shorts[place]
        if fault.part is None or fault.has("board"):
            return _BY_BOARD if own_node == f"out {fault.line}" else None
        if own_node == other:
            return _ON_NODE if own_node != "switch" else _ON_SWITCH
        if _BEHIND.get(own_node) == other:
            return _THROUGH
        is_board = own_node == f"out {fault.line}" and other == f"board {fault.line}"
        return _BY_PART_OF_BOARD if is_board else None

    def _blown(self, shown: dict[int, tuple[Mapping[str, float], int]]) -> None:
        """Other faults open the fuse too."""
        for place, effect in enumerate(self.effects):
            blown = effect.regime("clean") + effect.regime("black")
            if place not in shown and blown > 0.01 and not self.faults[place].is_new:
                shown[place] = ({OPEN: blown}, _NODE)

    def ground(self, rail: str, *, is_attached: bool) -> View:
        """A rail to ground, cold."""
        shown: dict[int, tuple[Mapping[str, float], int]] = {}
        for place, fault in enumerate(self.faults):
            if fault.line == rail and (pull := self._pulls(fault, rail, is_attached)):
                shown[place] = (pull, _OWN)
        return self.make(GROUND, {SHORT: 0.0005, LEAKY: 0.01}, shown)

    def _pulls(self, fault: Fault, rail: str, is_attached: bool) -> Mapping[str, float] | None:
        """How a fault on a rail pulls it to ground."""
        if fault.part is None or fault.has("board"):
            if fault.mode is FaultMode.OVERLOAD and is_attached:
                return {SHORT: 0.02, LEAKY: 0.25}
            return (
                {SHORT: 0.93, LEAKY: 0.05}
                if fault.mode is FaultMode.SHORT and is_attached
                else None
            )
        where = node(self.unit, fault.part)
        if where == f"board {rail}":
            return {SHORT: 0.93} if is_attached and fault.mode is FaultMode.SHORT else None
        if where == f"out {rail}":
            if fault.mode in (FaultMode.SHORT, FaultMode.REVERSED):
                return {SHORT: 0.94, LEAKY: 0.03}
            if fault.mode is FaultMode.LEAKY:
                return {SHORT: 0.05, LEAKY: 0.4}
        return None

    def regime(self) -> View:
        """What the unit does as a whole when power comes."""
        usual = {name: 0.004 for name in REGIMES if name != RUNS}
        shown = {
            place: ({name: effect.regime(name) for name in REGIMES}, effect.rank)
            for place, effect in enumerate(self.effects)
            if effect.rank
        }
        return self.make((RUNS, *(r for r in REGIMES if r != RUNS)), usual, shown)

    def rail(self, rail: str, *, in_machine: bool, is_far: bool = False) -> View:
        """A rail's volts while the unit runs."""
        shown: dict[int, tuple[Mapping[str, float], int]] = {}
        alike: dict[Shares, Mapping[str, float]] = {}
        for place, effect in enumerate(self.effects):
            if not effect.rank or (effect.in_machine and not in_machine):
                continue
            shares = effect.rail(rail)
            if shares not in alike:
                alike[shares] = dict(zip(_SHARES, shares, strict=True))
            chances = alike[shares]
            if is_far and rail in effect.far:
                share = 0.8 / max(len(effect.far), 1)
                chances = {"low": max(share, 0.35), "missing": 0.1}
            shown[place] = (chances, max(effect.rank if rail in effect.rails else 1, 1))
        return self.make(VOLTS, {"missing": 0.003, "low": 0.012, "high": 0.004}, shown)

    def look(self, part: Part) -> View:
        """What the eye finds at a part."""
        made: View = self.kept.of(("look", part.id), lambda: self._look(part))
        return made

    def _look(self, part: Part) -> View:
        shown: dict[int, tuple[Mapping[str, float], int]] = {}
        for place in self.of_part.get(part.id, ()):
            if seen := _seen(part, self.faults[place]):
                shown[place] = (seen, _OWN)
        if part.capacitor:
            worked_on = {**_usual_look(part), "work": 0.15}
            shown.update(dict.fromkeys(self.recaps, (worked_on, 1)))
        if part.kind.code == "fuse":
            for place, effect in enumerate(self.effects):
                clean, black = effect.regime("clean"), effect.regime("black")
                if place not in shown and clean + black > 0.01:
                    shown[place] = ({"clean": 0.9 * clean, "black": 0.9 * black}, _NODE)
        return self.make(LOOKS, _usual_look(part), shown)

    def chance(
        self,
        results: Sequence[str],
        own: Mapping[int, Mapping[str, float]],
        usual: Mapping[str, float],
    ) -> View:
        """A view of results by word; the last finds nothing."""
        classes = (results[-1], *results[:-1])
        ranked = {place: (row, max(self.effects[place].rank, 1)) for place, row in own.items()}
        return self.make(classes, usual, ranked)


def _own(part: Part, mode: FaultMode, *, is_lifted: bool) -> Mapping[str, float] | None:
    """What a part's own fault makes it read like."""
    kind = part.kind.code
    if mode is FaultMode.SHORT:
        share = 0.97 if is_lifted else _SHOWS_SHORT.get(kind, 0.95)
        return {SHORT: share, NEAR: 0.01}
    if mode is FaultMode.REVERSED:
        return {SHORT: 0.3} if kind == "capacitor" else {SHORT: 0.25, OPEN: 0.5}
    if mode in (FaultMode.OPEN, FaultMode.HIGH):
        is_alone = kind in ("diode", "schottky") and part.line == TRUNK
        share = 0.97 if is_lifted else 0.93 if is_alone else _SHOWS_OPEN.get(kind, 0.5)
        if kind == "capacitor":
            return {OPEN: 0.75 * share, DRY: 0.25 * share}
        return {OPEN: share}
    if mode is FaultMode.DRY:
        return {DRY: 0.95, OPEN: 0.02}
    if mode is FaultMode.LEAKY:
        return {LEAKY: 0.93, SHORT: 0.03} if is_lifted else {LEAKY: 0.4, SHORT: 0.03}
    if mode is FaultMode.JOINT and kind == "transformer":
        return {OPEN: 0.08}
    return None


def _usual_look(part: Part) -> dict[str, float]:
    usual_look = {"vented": 0.002, "burnt": 0.004, "joint": 0.004, "contact": 0.01, "work": 0.006}
    if part.family is not None and part.family.is_wet:
        usual_look["vented"] = 0.02
    if part.family is Family.SUPPRESSION_PAPER:
        usual_look["crazed"] = 0.3
    if part.kind.code in ("connector", "transformer", "diode", "schottky", "bridge", "regulator"):
        usual_look["joint"] = 0.02
    if part.kind.code == "connector":
        usual_look["contact"] = 0.04
    return usual_look


def _seen(part: Part, fault: Fault) -> Mapping[str, float] | None:
    """What a fault shows to the eye."""
    usual, family, mode = _usual_look(part), part.family, fault.mode
    if part.safety_class or (family and family.is_suppressor) or part.kind.code == "varistor":
        if mode in (FaultMode.SHORT, FaultMode.LEAKY):
            return {**usual, "burnt": 0.78, "crazed": 0.15}
        return None
    if mode is FaultMode.JOINT:
        return {**usual, "joint": 0.82}
    if mode is FaultMode.WORN:
        return {**usual, "contact": 0.3, "burnt": 0.3}
    if part.kind.code == "fuse":
        return {**usual, "clean": 0.88, "black": 0.01}
    if family is not None and family.is_wet:
        share = {FaultMode.DRY: 0.35, FaultMode.SHORT: 0.2, FaultMode.LEAKY: 0.3}.get(mode, 0.0)
        return {**usual, "vented": share} if share else None
    share = {FaultMode.SHORT: 0.55 if family is Family.TANTALUM else 0.15}.get(mode, 0.0)
    share = 0.4 if mode is FaultMode.OPEN and part.kind.code == "resistor" else share
    share = 0.1 if part.kind.code == "board" and mode is FaultMode.SHORT else share
    return {**usual, "burnt": share, "work": 0.006} if share else None
