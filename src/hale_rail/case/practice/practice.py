"""The facet of a case of practice: the unit that is not there, as it is after what was done.

The unit is redrawn from its seed, and everything that was done to the case since is done to it.
"""

from __future__ import annotations

from datetime import datetime

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.behind.chips import chips
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.history import entries
from hale_rail.case.name_lookup import name_of, target_name
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import BEHIND, PIN_OHMS, STORE, Need, Point, ReadingSource
from hale_rail.core.safety.energy import EventKind
from hale_rail.core.simulate.appearance import SOUND
from hale_rail.core.simulate.costs import LIFTED, minutes
from hale_rail.core.simulate.graded_cases import drawn_of
from hale_rail.core.simulate.outcome import AppliedLoad
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.questions import Bench
from hale_rail.core.simulate.random_units import DrawnUnit
from hale_rail.core.simulate.unit import BENCH, MAINS, OFF
from hale_rail.errors import InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store.append_only import fields_of
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.looks import LOOKS
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.practice import BLED, ENDED, PRACTICE, PRACTICE_ACTS
from hale_rail.store.readings import Reading
from hale_rail.store.statements import STATEMENTS
from hale_rail.store.waves import WAVE_RECORDS, WAVE_SETTINGS


class Done(Struct, frozen=True):
    """One thing done: its place in the log, the moment, what it is of, and its minutes.

    `label` groups what belongs together; `is_power`: it is done under power; `is_care`: it keeps
    safe, repairs, or is weighed by no test, and so is not counted as telling nothing; `is_behind`:
    it is observed behind a supply that runs.
    """

    log_id: int
    at: str
    label: str
    minutes: float
    is_power: bool = False
    is_care: bool = False
    is_behind: bool = False


class Practising(Struct, frozen=True):
    """The state of a practice: minutes spent, and what power took along by name."""

    drawn: DrawnUnit
    done: tuple[Done, ...]
    spent: tuple[str, ...]
    is_over: bool

    @property
    def minutes(self) -> float:
        """Minutes spent so far."""
        return sum(done.minutes for done in self.done)


#: how a chip is named at the end, apart from the diagnosis' groups
CHIP = "chip:"


def chip_choices(case: CaseFile) -> dict[str, str]:
    """The chips that may be named at the end, by their code."""
    return {
        f"{CHIP}{chip.ref}": f"{chip.ref}, {chip.role.words if chip.role else 'chip'}"
        for chip in chips(case)
    }


def drawn(case: CaseFile) -> DrawnUnit:
    """The unit of a case of practice; raises InputError where it is none."""
    unit = case.rows.last(PRACTICE)
    if unit is None:
        raise InputError("This is not a case of practice.")
    return drawn_of(unit.graded, unit.topology, unit.difficulty, unit.seed)


@facet
def practising(case: CaseFile) -> Practising | None:
    """The state of a case of practice; None for a case of the workshop."""
    if case.rows.last(PRACTICE) is None:
        return None
    bench = bench_of(case)
    spent = tuple(event.what for event in bench.unit.events)
    is_over = any(act.kind == ENDED for act in case.rows.all(PRACTICE_ACTS))
    return Practising(drawn(case), tuple(done(case)), spent, is_over)


def bench_of(case: CaseFile, now: str | None = None) -> Bench:
    """The simulated bench as it is after everything that was done; raises InputError."""
    bench = Bench(drawn(case).unit())
    begun = datetime.fromisoformat(case.case.opened_at)
    for change in sorted(_changes(case), key=lambda change: change.log_id):
        bench.unit.wait(max(bench.unit.at_s, _since(begun, change.at)))
        if change.kind == BLED:
            bench.unit.bleed()
        elif change.kind == "power":
            bench.unit.switch(change.value, change.load)
        else:
            bench.unit.replace(bench.unit.part(change.value))
    for reading in case.rows.readings.values():
        if reading.source is ReadingSource.SIMULATED:
            bench.remember(question(case, reading.point))
    if now:
        bench.unit.wait(max(bench.unit.at_s, _since(begun, now)))
    return bench


def _since(begun: datetime, at: str) -> float:
    return (datetime.fromisoformat(at) - begun).total_seconds()


class _Change(Struct, frozen=True):
    """What changes the unit: its place in the log, the moment, what it is, and of what."""

    log_id: int
    at: str
    kind: str
    value: str = ""
    load: AppliedLoad = AppliedLoad.MACHINE


def _changes(case: CaseFile) -> list[_Change]:
    at = {entry.id: entry.at for entry in entries(case)}
    changes = [
        _Change(act.log_id, act.at, BLED)
        for act in case.rows.all(PRACTICE_ACTS)
        if act.kind == BLED
    ]
    for event in case.rows.all(POWER_EVENTS):
        if event.kind == EventKind.APPLIED.value:
            power = MAINS if event.source == MAINS else BENCH
            changes.append(_Change(event.log_id, event.at, "power", power))
        elif event.kind == EventKind.REMOVED.value:
            changes.append(_Change(event.log_id, event.at, "power", OFF))
    changes += [
        _Change(log_id, at[log_id], "power", MAINS, load)
        for log_id, load in _powered_by(case).items()
    ]
    changes += [_Change(log_id, at[log_id], "replaced", name) for log_id, name in _fitted(case)]
    return changes


def _live(case: CaseFile) -> dict[int, AppliedLoad]:
    """Readings and records that only power gives: the place in the log, and the load."""
    loads = {load.value: load for load in AppliedLoad}
    applied_loads = {
        r.log_id: loads.get(r.point.condition.code, AppliedLoad.MACHINE)
        for r in case.rows.readings.values()
        if Need.POWERED in r.procedure.needs
    }
    for wave in case.rows.all(WAVE_RECORDS):
        setting = fields_of(case.rows.newest(WAVE_SETTINGS).get(wave.id))
        applied_loads[wave.log_id] = loads.get(str(setting.get("load")), AppliedLoad.MACHINE)
    return applied_loads


def _powered_by(case: CaseFile) -> dict[int, AppliedLoad]:
    """Of these, those before which nobody said that power is on: they put it on, from the mains."""
    live, loads, is_on = _live(case), dict[int, AppliedLoad](), False
    powered = {
        e.log_id: e.kind == EventKind.APPLIED.value
        for e in case.rows.all(POWER_EVENTS)
        if e.kind in (EventKind.APPLIED.value, EventKind.REMOVED.value)
    }
    for log_id in sorted([*live, *powered]):
        if log_id in live and not is_on:
            loads[log_id] = live[log_id]
        is_on = powered.get(log_id, True)
    return loads


def _fitted(case: CaseFile) -> list[tuple[int, str]]:
    """Every part that was fitted new, each time: its place in the log, and the part's name."""
    decided = case.rows.all(PART_DECISIONS)
    parts = [(d, case.sheet.part(d.part_id)) for d in decided]
    return [
        (decision.log_id, name_of(case, part))
        for decision, part in parts
        if part and decision.kind is DecisionKind.FITTED
    ]


def question(case: CaseFile, point: Point) -> SimulatedQuestion:
    """What the unit is asked at a point."""
    target, name = point.target, target_name(case, point)
    pair = (target.pair.plus, target.pair.minus) if target.pair else None
    if point.procedure is PIN_OHMS:
        pair = (target.plus, target.minus)
    return SimulatedQuestion(
        name, point.procedure.code, point.condition.code, target.place.value, pair
    )


def seen_at(case: CaseFile, bench: Bench, part: Part) -> list[str]:
    """What the eye finds at a part, of what may be said of its kind; `none` for nothing."""
    seen = bench.answer(SimulatedQuestion(name_of(case, part), "look"))
    allowed = {finding.code for finding in part.findings}
    return [code for code in seen.split(";") if code in allowed] or [SOUND]


def done(case: CaseFile) -> list[Done]:
    """Everything that was done, in order, with its minutes."""
    at = {entry.id: entry.at for entry in entries(case)}
    lifted: set[int | None] = set()
    steps = [_read(case, r, at[r.log_id], lifted) for r in case.rows.readings.values()]
    steps += [
        Done(w.log_id, w.at, f"a record of {w.rail}", minutes("waveform"), is_care=True)
        for w in case.rows.all(WAVE_RECORDS)
    ]
    steps += [
        Done(look.log_id, at[look.log_id], "a look at the parts", minutes("look"))
        for look in case.rows.newest(LOOKS).values()
        if look.codes
    ]
    steps += [
        Done(
            e.log_id, e.at, f"power from {e.source}", minutes("power"), is_power=True, is_care=True
        )
        for e in case.rows.all(POWER_EVENTS)
        if e.kind == EventKind.APPLIED.value
    ]
    live, powered = _live(case), _powered_by(case)
    steps = [
        replace(
            d,
            is_power=d.is_power or d.log_id in live,
            minutes=d.minutes + (minutes("power") if d.log_id in powered else 0.0),
        )
        for d in [*steps, *_by_hand(case, at)]
    ]
    return sorted(steps, key=lambda d: d.log_id)


def _read(case: CaseFile, reading: Reading, at: str, lifted: set[int | None]) -> Done:
    point = reading.point
    part = case.sheet.part(point.part_id)
    is_lifted = point.condition.code == LIFTED
    is_first = is_lifted and point.part_id not in lifted
    lifted |= {point.part_id} if is_lifted else set()
    spent = minutes(point.procedure.code, point.condition.code, is_first=is_first)
    if point.procedure in BEHIND:
        label = f"{target_name(case, point)} {point.procedure.short}".strip()
        return Done(reading.log_id, at, label, spent, is_care=True, is_behind=True)
    if part is None:
        return Done(reading.log_id, at, f"{point.procedure.short}, {point.condition.words}", spent)
    if point.procedure is STORE:
        return Done(reading.log_id, at, "volts held by the stores", spent, is_care=True)
    how = ", lifted" if is_lifted else ""
    return Done(reading.log_id, at, f"{name_of(case, part)} {point.procedure.short}{how}", spent)


def _by_hand(case: CaseFile, at: dict[int, str]) -> list[Done]:
    """Tests that the hand says, parts that were replaced, stores that were bled."""
    known = knowledge_for(case.sheet.topology)
    result = []
    for statement in case.rows.all(STATEMENTS):
        test = known.test(statement.key) if statement.kind == "result" else None
        if test and statement.value:
            live = test.is_live
            result.append(
                Done(statement.log_id, at[statement.log_id], test.name, test.minutes, is_power=live)
            )
    result += [
        Done(log_id, at[log_id], f"{name} replaced", minutes("replaced"), is_care=True)
        for log_id, name in _fitted(case)
    ]
    result += [
        Done(act.log_id, act.at, "stores bled", minutes(BLED), is_care=True)
        for act in case.rows.all(PRACTICE_ACTS)
        if act.kind == BLED
    ]
    return result
