"""The hand of the demo's technician: it reads, looks and decides through a person's actions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import timedelta
from io import BytesIO
from typing import Any

from msgspec.structs import replace

from hale_rail.actions import readings
from hale_rail.actions.intake import cases, drawings
from hale_rail.actions.intake.cases import NewCase
from hale_rail.actions.parts import decisions, looks
from hale_rail.actions.places import boards as place_boards
from hale_rail.actions.places import places
from hale_rail.actions.power import first_power
from hale_rail.actions.power.machine_behaviour import say_did
from hale_rail.actions.ripple import waves
from hale_rail.actions.safety import power
from hale_rail.actions.shorts import boards
from hale_rail.case.file import open_case
from hale_rail.case.intake.drawings import drawings as case_drawings
from hale_rail.case.name_lookup import part_named, part_names
from hale_rail.case.shorts.boards import sheet_tree
from hale_rail.core.parts.kinds import bridge
from hale_rail.core.parts.part import Part
from hale_rail.core.places.laying import XY
from hale_rail.core.places.place import Place as BoardPlace
from hale_rail.core.places.place import Side
from hale_rail.core.procedures import (
    BOARD_DROP,
    DIODE,
    GROUND,
    OHMS,
    SET_OHMS,
    STORE,
    VOLTS,
    Condition,
    Point,
    Procedure,
)
from hale_rail.core.procedures.boards import Ends, attached_set
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.next_probe import next_probe
from hale_rail.core.shorts.trace import trace
from hale_rail.core.supply.sheet import Sheet
from hale_rail.core.targets import Place, rail_target
from hale_rail.store.database import Store
from larkmoor import moment
from larkmoor.boards import Etched
from larkmoor.boards import board as board_map
from larkmoor.placed import Drawn
from larkmoor.truth import DemoMeter
from larkmoor.waves import DemoWave


class Hand:
    """One technician at one case: reads points in time order, minutes apart."""

    def __init__(self, store: Store, typed: NewCase, days_ago: float) -> None:
        self.store, self.number = store, typed.number
        self.at = moment.now() - timedelta(days=days_ago)
        cases.open_new(store, typed, self.moment())
        self.sheet: Sheet = open_case(store, typed.number).sheet
        self.names = part_names(self.sheet)
        self.meter = DemoMeter(typed.number, self.sheet)

    def moment(self, minutes: float = 2.0) -> str:
        """The next moment, so many minutes on."""
        self.at += timedelta(minutes=minutes)
        return self.at.isoformat(timespec="microseconds")

    def part(self, ref: str) -> Part:
        """The part of a name."""
        return part_named(open_case(self.store, self.number), ref)

    def read(self, point: Point, text: str) -> None:
        """Read a point."""
        readings.save_reading(
            self.store, self.number, point, text, at=self.moment(), check_seen=False
        )

    def board(self, drawn: Drawn, photo: bytes, side: Side = Side.TOP) -> int:
        """Photograph a board's side; returns the photo's id."""
        return place_boards.add_photo(
            self.store, self.number, drawn.name, side, drawn.size[0], "board.png", photo,
            self.moment(),
        )  # fmt: skip

    def corners(self, photo_id: int, px: Sequence[XY], height: float | None = None) -> None:
        """Lay a photo over its board by its corners."""
        place_boards.lay_by_corners(self.store, self.number, photo_id, px, height, at=self.moment())

    def place(self, drawn: Drawn, most: int | None = None) -> None:
        """Say where a board's parts stand, one by one, the first `most` of them."""
        self.at += timedelta(minutes=1)
        for name, (x, y) in list(drawn.places.items())[:most]:
            place = BoardPlace(drawn.name, Side.TOP, x, y)
            places.place_part(self.store, self.number, self.part(name).id, place, self.moment(0.05))

    def ohms(self, ref: str, text: str, *, lifted: bool = False) -> None:
        """Its resistance, across the pins that are read."""
        part = self.part(ref)
        condition = Condition.LIFTED if lifted else Condition.IN_CIRCUIT
        self.read(part.point(OHMS, condition, part.kind.across), text)

    def look(self, ref: str, *codes: str) -> None:
        """Look at a part."""
        looks.look(self.store, self.number, self.part(ref).id, codes, self.moment())

    def look_over(self, *, with_boards: bool = True, **found: str) -> None:
        """The whole round in one go: what is not named looks sound."""
        for part in self.sheet.in_power_order:
            if part.board and not with_boards:
                continue
            codes = found.get(part.ref, "none").split()
            looks.look(self.store, self.number, part.id, codes, self.moment())

    def junction(self, ref: str, forward: float) -> None:
        """A sound junction, the four of a bridge, or a transistor's pairs."""
        part = self.part(ref)
        self.ohms(ref, "OL" if part.kind is bridge.KIND else "1M2")
        for pair in part.kind.pairs:
            shown = "OL" if pair in part.kind.blocking else self.meter.volts(forward)
            self.read(part.point(DIODE, None, pair), shown)
            self.read(part.point(DIODE, None, pair.turned), "OL")

    def capacitor(self, ref: str, *procedures: Procedure, lifted: bool = False) -> None:
        """Read a capacitor (its whole bank when in circuit) at the simulated bench."""
        part = self.part(ref)
        for procedure in procedures:
            text = self.meter.shown(ref, procedure.code, lifted=lifted)
            condition = Condition.LIFTED if lifted else Condition.IN_CIRCUIT
            self.read(part.point(procedure, condition), text)

    def ground(self, side: str, **ohms: tuple[float, float]) -> None:
        """Both ways round of each rail, keys such as `p5` and `m12`."""
        ways = (Condition[side.upper()], Condition[f"{side.upper()}_REVERSED"])
        for rail in self.sheet.rails:
            name = f"{'m' if rail.nominal_v < 0 else 'p'}{abs(rail.nominal_v):g}"
            for way, ohm in zip(ways, ohms.get(name, ()), strict=False):
                self.read(Point(rail_target(rail.key), GROUND, way), self.meter.ohms(ohm))

    def rails(self, load: Condition, **volts: str) -> None:
        """Each rail's volts at a load, keys such as `p5` and `m12`."""
        for rail in self.sheet.rails:
            name = f"{'m' if rail.nominal_v < 0 else 'p'}{abs(rail.nominal_v):g}"
            if name in volts:
                self.read(Point(rail_target(rail.key), VOLTS, load), volts[name])

    def at_place(self, rail: str, load: Condition, **volts: str) -> None:
        """A rail's volts along its line, by the place's name."""
        for place, text in volts.items():
            self.read(Point(rail_target(rail, Place(place)), VOLTS, load), text)

    def store_volts(self, ref: str, text: str) -> None:
        """The volts across a store."""
        self.read(self.part(ref).point(STORE), text)

    def tree(self, rail: str, *more: tuple[str, float, float]) -> None:
        """What hangs on a rail, with more on the last board: name, weight, minutes."""
        case = open_case(self.store, self.number)
        items = [i for r in case.sheet.rails if r.key == rail for i in sheet_tree(case, r).items]
        rows = [(i.id, i.name, i.parent, f"{i.weight:g}", f"{i.minutes:g}") for i in items]
        rows += [("", name, items[-1].id, f"{w:g}", f"{m:g}") for name, w, m in more]
        boards.save_tree(self.store, self.number, rail, rows)

    def attached(self, rail: str, items: tuple[str, ...], text: str) -> None:
        """A rail's ohms with some of what hangs on it attached."""
        self.read(Point(attached_set(rail, items), SET_OHMS), text)

    def trace(self, rail: str, most: int) -> None:
        """Probe where the trace asks for it, at most so many times, until a part is settled."""
        etched = Etched(self.number)
        taken: list[TraceReading] = []
        drawn = board_map().board()
        while len(taken) < most and (asked := next_probe(trace(drawn, taken))):
            r = asked.reading
            if r.kind is not Kind.DROP:
                return
            text = etched.drop(r.plus, r.minus, r.inject, r.drain, r.amps)
            target = Ends(rail, r.plus, r.minus, r.inject, r.drain).target
            self.read(Point(target, BOARD_DROP), f"{text} {r.amps:g} A")
            taken.append(replace(r, value=float(text.split()[0]) / 1e3))

    def bring_in(self, records: Sequence[DemoWave]) -> None:
        """Bring in what the oscilloscope saved."""
        for wave in records:
            source = BytesIO(wave.data)
            waves.take(
                self.store, self.number, wave.rail, wave.name, source, wave.said, self.moment()
            )

    def prove(self, one_end: str, other_end: str, ohms: str) -> None:
        """Measure a connection against the newest drawing, where it is drawn joined."""
        newest = case_drawings(open_case(self.store, self.number))[-1].document.id
        at = self.moment()
        drawings.prove(self.store, self.number, newest, one_end, other_end, True, ohms, at)

    def power(self, source: str) -> None:
        """Apply power."""
        power.apply_power(self.store, self.number, source, self.moment(30))

    def did(self, *codes: str) -> None:
        """What the machine did at the power-on that came last."""
        for code in codes:
            say_did(self.store, self.number, code, 1, self.moment(5))

    def first_power(
        self,
        chosen: Mapping[str, Any],
        walked: Sequence[tuple[str, Condition, Mapping[str, str]]],
    ) -> None:
        """Choose limiter and loads, then walk the steps: each step's key, load, and rails."""
        first_power.choose(self.store, self.number, chosen, self.moment())
        for key, load, volts in walked:
            first_power.begin(self.store, self.number, key, self.moment())
            self.rails(load, **volts)
            first_power.finish(self.store, self.number, key, self.moment())

    def unplug(self) -> None:
        """Pull the plug."""
        power.remove_power(self.store, self.number, self.moment())

    def make_dead(self, **volts: str) -> None:
        """Unplug, then read every store, a bank once; what is not named reads next to nothing."""
        self.unplug()
        for group in self.sheet.banks:
            if group[0].is_store:
                self.store_volts(group[0].ref, volts.get(group[0].ref, "0.1"))

    def note(self, text: str) -> None:
        """Write a note."""
        decisions.note(self.store, self.number, text, self.moment())

    def replaced(self, ref: str, reason: str) -> None:
        """Fit a new part."""
        part = self.part(ref)
        decisions.decide(self.store, self.number, part.id, "fitted", reason, self.moment())
        self.meter.renew(part)
