"""A case with everything that follows from it, computed once per revision."""

from __future__ import annotations

import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from hale_rail.actions import clock, probing
from hale_rail.actions.facts import (
    FITTED,
    UNDONE,
    UNSEEN,
    Decision,
    RailFacts,
    StationFacts,
    rail_facts,
    rail_reading,
    station_facts,
)
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.rails.judge import Load, Pattern, RailVerdict, Tolerance, patterns
from hale_rail.core.recap.demand import (
    LEFT_OUT,
    Line,
    Position,
    School,
    kept_by_decision,
    recap_list,
)
from hale_rail.core.safety.bleeding import TOUCH_LIMIT_V
from hale_rail.core.safety.energy import (
    Energy,
    EnergyState,
    Event,
    EventKind,
    StoreState,
    energy_state,
)
from hale_rail.core.shorts.ground import GroundVerdict
from hale_rail.core.supply.linemap import LineMap, line_map
from hale_rail.core.supply.points import ATTACHED, BY_CODE, ISOLATED, Point, Quantity
from hale_rail.core.supply.reach import Reach, reach
from hale_rail.core.supply.sheet import Kind, Sheet
from hale_rail.formats.meters_csv import choose as choose_meter
from hale_rail.store import board_marks, cases, findings, log, photos, readings, settings, sheets
from hale_rail.store.board_marks import BoardMark
from hale_rail.store.cases import Case
from hale_rail.store.database import Store
from hale_rail.store.photos import Photo
from hale_rail.store.readings import Reading

#: log entries that change the energy state, and what they mean
POWER_KINDS = {kind.value: kind for kind in EventKind if kind is not EventKind.STORE_READ}
_CACHED = 64
#: the stages of a case in the order of work, as the side list and the bench name them
STAGES = (
    "Intake", "Make safe", "Look over", "Cold checks", "Shorts", "Capacitors", "Recap", "Rails",
    "Hand back",
)  # fmt: skip


@dataclass(frozen=True)
class LogEntry:
    """One entry of a case's log."""

    id: int
    at: str
    kind: str
    text: str
    reading_id: int | None


@dataclass(frozen=True)
class Stage:
    """A stage as the side list shows it: `done`, `open` or `attention`, with a word why."""

    view: str
    name: str
    status: str
    note: str


@dataclass(frozen=True)
class Dossier:
    """A case, its sheet, what was read, and what follows."""

    case: Case
    sheet: Sheet
    revision: int
    readings: tuple[Reading, ...]
    log: tuple[LogEntry, ...]
    energy: EnergyState
    facts: dict[int, StationFacts]
    rails: tuple[RailFacts, ...]
    patterns: tuple[Pattern, ...]
    map: LineMap
    reach: Reach
    stages: tuple[Stage, ...]
    cold_points: tuple[Point, ...]
    capacitor_points: tuple[Point, ...]
    done: frozenset[str]
    #: the reading that stands at each point, by the point's key
    standing: dict[str, Reading]
    #: symptoms, results and beliefs said in the diagnosis: (kind, key, value)
    findings: tuple[tuple[str, str, str], ...]
    photos: tuple[Photo, ...]
    #: what each board's polarity mark means, by the connector it hangs behind
    board_marks: dict[str, BoardMark]

    @property
    def school(self) -> School:
        return School(self.case.school)

    @property
    def tolerance(self) -> Tolerance:
        return Tolerance(self.case.tolerance)

    @property
    def limit_volt(self) -> float:
        return self.energy.limit_volt

    @property
    def positions(self) -> list[Position]:
        """Every capacitor as the recap sees it."""
        return positions(self.sheet, self.facts)

    @property
    def kept(self) -> list[Position]:
        """Positions kept or left out by decision."""
        return kept_by_decision(self.positions)

    def recap(self, school: School) -> list[Line]:
        """The list a school replaces; parts already fitted stay on it as done."""
        return recap_list(self.positions, school, clock.this_year())


_cache: OrderedDict[tuple[object, ...], Dossier] = OrderedDict()
_cache_lock = threading.Lock()


def open_case(store: Store, number: str) -> Dossier:
    """The case by its number; raises NotFoundError. Unchanged cases are not computed again."""
    connection = store.read()
    case = cases.by_number(connection, number)
    key = cache_key(store, connection, case)
    made = _known(key)
    if made is None:
        made = build(connection, case)
        remember(key, made)
    return made


def current(store: Store, connection: sqlite3.Connection, case: Case) -> Dossier:
    """The case as it stands before an action's changes, inside the action's transaction."""
    return _known(cache_key(store, connection, case)) or build(connection, case)


def cache_key(store: Store, connection: sqlite3.Connection, case: Case) -> tuple[object, ...]:
    """Everything a dossier follows from: every change of a case adds to its log."""
    workshop = tuple(sorted(settings.all_of(connection).items()))
    records = tuple(readings.ground_records(connection, case.sheet_id).items())
    return str(store.path), case.id, log.revision(connection, case.id), workshop, records


def remember(key: tuple[object, ...], made: Dossier) -> None:
    """Keep a dossier of a committed state; the least used is dropped."""
    with _cache_lock:
        _cache[key] = made
        _cache.move_to_end(key)
        while len(_cache) > _CACHED:
            _cache.popitem(last=False)


def _known(key: tuple[object, ...]) -> Dossier | None:
    with _cache_lock:
        if key in _cache:
            _cache.move_to_end(key)
        return _cache.get(key)


def forget() -> None:
    """Drop what was computed, so that the next opening computes anew."""
    with _cache_lock:
        _cache.clear()


def build(connection: sqlite3.Connection, case: Case) -> Dossier:
    """Compute a dossier from the store through the given connection."""
    sheet = sheets.load(connection, case.sheet_id)
    taken = readings.of_case(connection, case.id)
    entries = tuple(
        LogEntry(r["id"], r["at"], r["kind"], r["text"], r["reading_id"])
        for r in log.of_case(connection, case.id)
    )
    workshop = settings.all_of(connection)
    limit = float(workshop.get("touch_limit_v", TOUCH_LIMIT_V))
    meter = choose_meter(workshop.get("meters", ""), workshop.get("meter", ""))
    decided = {
        station_id: Decision(row["kind"], row["reason"], row["decided_at"])
        for station_id, row in readings.decisions(connection, case.id).items()
    }
    energy = energy_state(_events(entries, taken), [str(s.id) for s in sheet.stores], limit)
    records = readings.ground_records(connection, case.sheet_id)
    rails = rail_facts(sheet, taken, Tolerance(case.tolerance), records)
    right = {r.rail.key for r in rails if _is_right(r)}
    facts = station_facts(sheet, taken, decided, clock.this_year(), right, meter)
    picture = line_map(sheet)
    cold = tuple(probing.cold_points(sheet, facts))
    capacitors = tuple(probing.capacitor_points(sheet, facts))
    done = frozenset(_point(r).key for r in taken if not r.struck)
    done |= {p.key for p in (*cold, *capacitors) if _is_settled(p, facts)}
    done -= {_store_key(s) for s in energy.stores if not s.is_below(limit)}
    found = _patterns(sheet, rails, Tolerance(case.tolerance))
    return Dossier(
        case, sheet, log.revision(connection, case.id), tuple(taken), entries, energy, facts,
        tuple(rails), found, picture, _reach(sheet, picture, facts, rails, taken),
        tuple(_stages(case, sheet, energy, facts, rails, cold, capacitors, done)),
        cold, capacitors, done, {_point(r).key: r for r in taken if not r.struck},
        tuple(findings.standing(connection, case.id)), tuple(photos.of_case(connection, case.id)),
        board_marks.standing(connection, case.id),
    )  # fmt: skip


def _is_right(facts: RailFacts) -> bool:
    """True when a rail passed under load."""
    loaded = [facts.volts[load][1] for load in (Load.DUMMY, Load.MACHINE) if load in facts.volts]
    return bool(loaded) and all(j.verdict is RailVerdict.PASS for j in loaded)


def _store_key(state: StoreState) -> str:
    return Point(Quantity.STORE, int(state.store)).key


def _is_settled(point: Point, facts: dict[int, StationFacts]) -> bool:
    """True where nothing more needs reading: the part is proven failed."""
    return facts[point.station_id or 0].state == Verdict.FAILED.value


def _point(reading: Reading) -> Point:
    return Point(
        BY_CODE[reading.quantity],
        reading.station_id,
        reading.rail_key,
        reading.setting,
        reading.polarity,
    )


def _events(entries: Sequence[LogEntry], taken: Sequence[Reading]) -> list[Event]:
    by_id = {reading.id: reading for reading in taken}
    events = []
    for entry in entries:
        at = datetime.fromisoformat(entry.at).timestamp()
        if entry.kind in POWER_KINDS:
            events.append(Event(POWER_KINDS[entry.kind], at, text=entry.text))
        elif entry.kind == "reading" and entry.reading_id in by_id:
            reading = by_id[entry.reading_id]
            if reading.quantity == Quantity.STORE.code and not reading.struck:
                store = str(reading.station_id)
                events.append(Event(EventKind.STORE_READ, at, store, reading.value))
    return events


def _patterns(
    sheet: Sheet, rails: Sequence[RailFacts], tolerance: Tolerance
) -> tuple[Pattern, ...]:
    """What the readings at the most telling load say together."""
    for load in (Load.MACHINE, Load.DUMMY):
        together = [rail_reading(r.rail, r.volts[load][0]) for r in rails if load in r.volts]
        if together:
            return tuple(patterns(together, tolerance))
    return ()


def _reach(
    sheet: Sheet,
    picture: LineMap,
    facts: dict[int, StationFacts],
    rails: Sequence[RailFacts],
    taken: Sequence[Reading],
) -> Reach:
    energised = {
        r.station_id
        for r in taken
        if r.quantity == Quantity.STORE.code and not r.struck and abs(r.value) > TOUCH_LIMIT_V
    }
    up: dict[str, bool] = {}
    for rail in rails:
        for load, (reading, _) in rail.volts.items():
            if abs(reading.value) > 0.5 * abs(rail.rail.nominal_v):
                up[rail.rail.key] = up.get(rail.rail.key, False) or load is Load.MACHINE
    series = {i: f for i, f in facts.items() if f.station.kind.is_series}
    passed = {i for i, f in series.items() if f.state in ("good", "replaced")}
    broken = {i for i, f in series.items() if f.state == "failed"}
    stations = {station for station in energised if station is not None}
    return reach(sheet, picture.stops, stations, up, passed, broken)


def _stages(
    case: Case,
    sheet: Sheet,
    energy: EnergyState,
    facts: dict[int, StationFacts],
    rails: Sequence[RailFacts],
    cold: Sequence[Point],
    capacitors: Sequence[Point],
    done: frozenset[str],
) -> list[Stage]:
    """The side list, in the order of work."""
    state = energy.energy
    is_safe = state is Energy.DEAD
    safe = Stage("safe", "Make safe", "done" if is_safe else "attention", state.value)
    if not is_safe and energy.reason:
        safe = Stage("safe", "Make safe", "attention", f"{state.value}, passed by reason")
    broken = [
        f for f in facts.values()
        if f.state == "failed" and f.station.kind is not Kind.CAPACITOR
    ]  # fmt: skip
    recap = _recap_stage(case, facts, sheet)
    return [
        Stage("intake", "Intake", "done", sheet.topology.value),
        safe,
        _look_stage(facts),
        _walk("map", "Cold checks", cold, done, [f.station.ref for f in broken]),
        _short_stage(rails),
        _walk("capacitors", "Capacitors", capacitors, done, []),
        recap,
        _rail_stage(rails),
        Stage("report", "Hand back", "done" if case.closed_at else "open", "report"),
    ]


def _walk(
    view: str, name: str, points: Sequence[Point], done: frozenset[str], broken: Sequence[str]
) -> Stage:
    read = sum(point.key in done for point in points)
    if broken:
        return Stage(view, name, "attention", f"{', '.join(broken)} failed")
    if not points:
        return Stage(view, name, "done", "none left to read")
    status = "done" if read == len(points) else "open"
    return Stage(view, name, status, f"{read} of {len(points)} read")


def _look_stage(facts: dict[int, StationFacts]) -> Stage:
    """The round counts as begun with its first finding; every station is looked at when done."""
    looked = sum(f.latest(Quantity.LOOK.code) is not None for f in facts.values())
    status = "done" if facts and looked == len(facts) else "open"
    return Stage("look", "Look over", status, f"{looked} of {len(facts)} looked at")


def _short_stage(rails: Sequence[RailFacts]) -> Stage:
    grounds = [(r, g) for r in rails for g in r.ground.values() if g.judgement]
    bad = [
        r.rail.key
        for r, g in grounds
        if g.judgement and g.judgement.verdict in (GroundVerdict.SHORT, GroundVerdict.SUSPICIOUS)
    ]
    if bad:
        return Stage("shorts", "Shorts", "attention", f"{', '.join(dict.fromkeys(bad))} low")
    total = 2 * len(rails)
    status = "done" if total and len(grounds) == total else "open"
    return Stage("shorts", "Shorts", status, f"{len(grounds)} of {total} read")


def positions(sheet: Sheet, facts: dict[int, StationFacts]) -> list[Position]:
    """The sheet's capacitors with what was found, rail and decision."""
    return [position(sheet, facts[station.id]) for station in sheet.capacitors]


def position(sheet: Sheet, known: StationFacts) -> Position:
    """One capacitor as the recap sees it; a part of the trunk carries no rail."""
    kind = known.decision.kind if known.decision else ""
    return Position(
        known.station,
        known.found,
        sheet.rail(known.station.line),
        is_fitted=kind == FITTED,
        decision="" if kind in (FITTED, UNDONE) else kind,
        reason=known.decision.reason if known.decision else "",
    )


def _recap_stage(case: Case, facts: dict[int, StationFacts], sheet: Sheet) -> Stage:
    wanted = [
        p.station.id
        for line in recap_list(positions(sheet, facts), School(case.school), clock.this_year())
        for p in line.positions
    ]
    decided = {i for i, f in facts.items() if f.decision and f.decision.kind in (FITTED, LEFT_OUT)}
    fitted = sum(1 for s in sheet.capacitors if s.id in decided)
    todo = [i for i in wanted if i not in decided]
    if todo:
        return Stage("recap", "Recap", "open", f"{len(todo)} to replace, {fitted} done")
    unread = any(f.state == UNSEEN for f in facts.values() if f.station.kind is Kind.CAPACITOR)
    return Stage("recap", "Recap", "open" if unread else "done", f"{fitted} replaced")


def _rail_stage(rails: Sequence[RailFacts]) -> Stage:
    verdicts = []
    for rail in rails:
        for load in (Load.MACHINE, Load.DUMMY, Load.NONE):
            if load in rail.volts:
                verdicts.append((rail.rail.key, rail.volts[load][1].verdict))
                break
    failed = [key for key, verdict in verdicts if verdict is RailVerdict.FAIL]
    if failed:
        return Stage("rails", "Rails", "attention", f"{', '.join(failed)} out of band")
    judged = [v for _, v in verdicts if v is not RailVerdict.NOT_JUDGED]
    edge = [key for key, verdict in verdicts if verdict is RailVerdict.MARGINAL]
    if edge:
        return Stage("rails", "Rails", "attention", f"{', '.join(edge)} marginal")
    status = "done" if rails and len(judged) == len(rails) else "open"
    return Stage("rails", "Rails", status, f"{len(judged)} of {len(rails)} judged")


def undone_ground(dossier: Dossier) -> bool:
    """True while a rail has no reading to ground in some setting."""
    return any(r.ground[s].judgement is None for r in dossier.rails for s in (ATTACHED, ISOLATED))


def failed_parts(dossier: Dossier) -> list[StationFacts]:
    """Parts other than capacitors that read failed."""
    return [
        f
        for f in dossier.facts.values()
        if f.state == Verdict.FAILED.value and f.station.kind is not Kind.CAPACITOR
    ]
