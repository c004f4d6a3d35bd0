"""Work on a unit's sheet: pasted lists, corrections at the bench, sheets kept as patterns."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hale_rail.actions import clock
from hale_rail.actions.next_step import changing
from hale_rail.core.parts.others import LOOKED_AT_ONLY
from hale_rail.core.quantities import Unit, show_exact
from hale_rail.core.supply.sheet import TRUNK, Kind, Rail, Sheet, Station, Topology
from hale_rail.core.supply.templates import template
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.parts_text import (
    ParsedLine,
    read_marking,
    read_parts,
    speaks_role,
    write_part,
)
from hale_rail.store import log, readings, sheets
from hale_rail.store.cases import Case
from hale_rail.store.database import Store

_LONGEST_NAME = 60


@dataclass(frozen=True)
class Preview:
    """A pasted list as understood against a sheet: per line, and what it would change."""

    lines: tuple[ParsedLine, ...]
    stations: tuple[Station, ...]
    replaced: frozenset[int]

    @property
    def rails(self) -> list[Rail]:
        """Rails the list names: new ones, or the unit's own corrected; the last word counts."""
        return list({line.rail.key: line.rail for line in self.lines if line.rail}.values())

    @property
    def problems(self) -> list[ParsedLine]:
        return [line for line in self.lines if line.problem]


def preview(sheet: Sheet, text: str) -> Preview:
    """Understand a pasted list against a sheet: new parts are added, known ones corrected."""
    lines = read_parts(text, sheet.rails)
    known = {s.ref.upper(): s for s in sheet.stations}
    used: set[int] = set()
    shown: list[ParsedLine] = []
    merged: list[Station] = []
    for line in lines:
        station = line.station
        if station is None:
            shown.append(line)
            continue
        old = known.get(station.ref)
        if old and old.id not in used:
            used.add(old.id)
            was = _marked(old)
            line = replace(line, notes=(*line.notes, f"in place of the sheet's {old.ref}{was}"))
            station = _merge(old, station)
        else:
            station = _placed(sheet, station, len(merged))
        shown.append(replace(line, station=station))
        merged.append(station)
    return Preview(tuple(shown), tuple(merged), frozenset(used))


def _marked(station: Station) -> str:
    if station.kind is not Kind.CAPACITOR or not station.value:
        return ""
    volt = f" {station.volt:g} V" if station.volt else ""
    return f", {show_exact(station.value, Unit.FARAD)}{volt}"


def _merge(old: Station, new: Station) -> Station:
    """The sheet's station with what the list says of it; it keeps its place."""
    return replace(
        old,
        value=new.value or old.value,
        volt=new.volt or old.volt,
        family=new.family or old.family,
        role=new.role or old.role,
        bank=new.bank or old.bank,
        safety_class=new.safety_class or old.safety_class,
        tolerance=new.tolerance or old.tolerance,
        year=new.year or old.year,
        note=new.note or old.note,
    )


def _placed(sheet: Sheet, station: Station, count: int) -> Station:
    """A new station behind the others of its line; a high-voltage part on the trunk is a store."""
    places = [s.order for s in sheet.on_line(station.line) if not s.board]
    is_store = (
        station.line == TRUNK
        and station.kind is Kind.CAPACITOR
        and not station.safety_class
        and (station.volt or 0) >= 160
    )
    is_store |= station.is_store
    return replace(station, order=max(places, default=0) + 10 + count, is_store=is_store)


def with_parts(sheet: Sheet, found: Preview) -> Sheet:
    """The sheet after a pasted list is taken into it."""
    named = {rail.key: rail for rail in found.rails}
    rails = [named.pop(rail.key, rail) for rail in sheet.rails] + list(named.values())
    joints = {s.id: s for s in _joined(sheet, found.rails)}
    kept = [joints.get(s.id, s) for s in sheet.stations if s.id not in found.replaced]
    return replace(sheet, rails=tuple(rails), stations=(*kept, *found.stations))


def _joined(sheet: Sheet, rails: Sequence[Rail]) -> list[Station]:
    """The last connector and the board behind it, carrying the new rails too."""
    new = tuple(rail.key for rail in rails if sheet.rail(rail.key) is None)
    connectors = [s for s in sheet.stations if s.kind is Kind.CONNECTOR]
    if not new or not connectors:
        return []
    last = max(connectors, key=lambda s: (s.order, s.id))
    boards = [s for s in sheet.stations if s.kind is Kind.BOARD and s.board == last.ref]
    return [replace(s, rails=(*s.rails, *new)) for s in (last, *boards)]


def add_parts(store: Store, number: str, text: str) -> Preview:
    """Add a pasted list to an open case's sheet; known designators are added beside, not changed.

    A pasted list never rewrites a station of a running case: `correct_part` does, one at a time.
    """
    with changing(store, number) as (connection, case):
        sheet = sheets.load(connection, case.sheet_id)
        found = beside(sheet, text)
        sheets.put_rails(connection, case.sheet_id, found.rails)
        for joint in _joined(sheet, found.rails):
            sheets.update_station(connection, joint)
        sheets.insert_stations(connection, case.sheet_id, found.stations)
        moment = clock.now()
        names = [*(rail.key for rail in found.rails), *(s.ref for s in found.stations)]
        refs = ", ".join(names) or "none"
        log.append(connection, case.id, moment, "parts", f"Added to the sheet: {refs}")
        for line in found.problems:
            log.append(connection, case.id, moment, "left out", f"{line.text} ({line.problem})")
    return found


def beside(sheet: Sheet, text: str) -> Preview:
    """A pasted list whose parts all stand beside the sheet's own."""
    known = {s.ref.upper() for s in sheet.stations}
    shown: list[ParsedLine] = []
    added: list[Station] = []
    for line in read_parts(text, sheet.rails):
        if line.station:
            station = _placed(sheet, line.station, len(added))
            notes = line.notes
            if station.ref in known:
                notes = (*notes, f"a second {station.ref}: the sheet has one already")
            line = replace(line, station=station, notes=notes)
            added.append(station)
        shown.append(line)
    return Preview(tuple(shown), tuple(added), frozenset())


def correct_part(store: Store, number: str, station_id: int, was: str, text: str) -> None:
    """Correct a station's marking, as one would write it in notes; its readings are judged anew.

    `was` is the marking the page showed: ConflictError when another tab changed it since. Raises
    InputError for what cannot be understood.
    """
    with changing(store, number) as (connection, case):
        sheet, old = _on_sheet(connection, case, station_id)
        before = write_part(old)
        if before != was.strip():
            raise ConflictError(f"Another tab corrected {old.ref} first, to {before}. Look again.")
        new = _corrected(sheet, old, read_marking(old, text, sheet.rails))
        sheets.update_station(connection, new)
        after = f"{old.ref} corrected: {before} is {write_part(new)}"
        log.append(connection, case.id, clock.now(), "sheet", after)


def remove_part(store: Store, number: str, station_id: int) -> None:
    """Take off a part that the unit has not; raises InputError once it was worked on."""
    with changing(store, number) as (connection, case):
        _, old = _on_sheet(connection, case, station_id)
        if old.is_store:
            raise InputError(f"{old.ref} holds a charge: correct it first, without the word store.")
        sheets.delete_station(connection, station_id)
        text = f"{old.ref} taken off, it is not on the unit: {write_part(old)}"
        log.append(connection, case.id, clock.now(), "sheet", text)


def remove_rail(store: Store, number: str, key: str) -> None:
    """Take off a rail that the unit has not, with its line; raises InputError once it was read."""
    with changing(store, number) as (connection, case):
        sheet = sheets.load(connection, case.sheet_id)
        if sheet.rail(key) is None:
            raise NotFoundError(f"There is no rail {key} on this unit.")
        if any(r.rail_key == key and not r.struck for r in readings.of_case(connection, case.id)):
            raise InputError(f"{key} was read, so it is on the unit: strike its readings first.")
        if any(s.is_store for s in sheet.on_line(key)):
            raise InputError(f"{key} holds a store of energy: correct that part first.")
        sheets.delete_rail(connection, case.sheet_id, key)
        for joint in sheet.stations:
            if key in joint.rails:
                left = tuple(name for name in joint.rails if name != key)
                sheets.update_station(connection, replace(joint, rails=left))
        text = f"{key} taken off with its line, it is not on the unit"
        log.append(connection, case.id, clock.now(), "sheet", text)


def _on_sheet(connection: sqlite3.Connection, case: Case, station_id: int) -> tuple[Sheet, Station]:
    """A case's sheet and the part of it that can be corrected; raises NotFoundError."""
    sheet = sheets.load(connection, case.sheet_id)
    station = sheet.station(station_id)
    if station is None or station.kind in LOOKED_AT_ONLY:
        raise NotFoundError("There is no such part on this unit.")
    return sheet, station


def _corrected(sheet: Sheet, old: Station, new: Station) -> Station:
    """The old station marked as the new one; on another line it stands behind the others."""
    order = old.order
    if new.line != old.line:
        order = max((s.order for s in sheet.on_line(new.line)), default=0) + 10
    return replace(
        new,
        id=old.id,
        order=order,
        role=new.role if new.role or speaks_role(old.role) else old.role,
        board=old.board,
        note=old.note,
        rails=old.rails,
    )


def keep_pattern(store: Store, number: str, name: str) -> None:
    """Keep a case's sheet as a pattern, so that the next unit of its kind starts from it.

    The case's own sheet takes the name too: units of one name are alike. Raises InputError for a
    name that is empty, too long or taken.
    """
    clean = " ".join(name.split())
    if not 0 < len(clean) <= _LONGEST_NAME:
        raise InputError(f"Name the pattern, in at most {_LONGEST_NAME} letters.")
    with changing(store, number) as (connection, case):
        sheet = replace(sheets.load(connection, case.sheet_id), name=clean)
        taken = {row["name"].lower() for row in sheets.patterns(connection)}
        if clean.lower() in taken | {template(t).name.lower() for t in Topology}:
            raise InputError(f"There is a pattern {clean} already. Choose another name.")
        sheets.insert(connection, sheet, is_pattern=True)
        sheets.rename(connection, case.sheet_id, clean)
        log.append(connection, case.id, clock.now(), "pattern", f"Sheet kept as {clean}")
