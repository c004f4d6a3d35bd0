"""The facet of a case of practice: the unit that is not there, as it stands after what was done.

The unit is drawn anew from its seed, and everything that was done to the case since is done to it.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.history import entries
from hale_rail.case.named import name_of
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.procedures import STORE, Point, Source
from hale_rail.core.safety.energy import EventKind
from hale_rail.core.simulate.asking import Bench, Question
from hale_rail.core.simulate.costs import LIFTED, minutes
from hale_rail.core.simulate.drawn import Drawn
from hale_rail.core.simulate.graded import drawn_of
from hale_rail.core.simulate.unit import BENCH, MAINS, OFF
from hale_rail.errors import InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store import decisions
from hale_rail.store.practice import BLED, ENDED
from hale_rail.store.readings import Reading


@dataclass(frozen=True)
class Done:
    """One thing done: its place in the log, the moment, what it is of, and its minutes.

    `label` groups what belongs together; `is_care`: it keeps safe or repairs, and tells nothing.
    """

    log_id: int
    at: str
    label: str
    minutes: float
    is_power: bool = False
    is_care: bool = False


@dataclass(frozen=True)
class Practising:
    """How a practice stands: minutes spent, and what power took along by name."""

    drawn: Drawn
    done: tuple[Done, ...]
    spent: tuple[str, ...]
    is_over: bool

    @property
    def minutes(self) -> float:
        """Minutes spent so far."""
        return sum(done.minutes for done in self.done)


def drawn(case: CaseFile) -> Drawn:
    """The unit of a case of practice; raises InputError where it is none."""
    unit = case.rows.practised
    if unit is None:
        raise InputError("This is no case of practice.")
    return drawn_of(unit.graded, unit.topology, unit.difficulty, unit.seed)


@facet
def practising(case: CaseFile) -> Practising | None:
    """How a case of practice stands; None for a case of the workshop."""
    if case.rows.practised is None:
        return None
    bench = bench_of(case)
    spent = tuple(event.what for event in bench.unit.events)
    is_over = any(act.kind == ENDED for act in case.rows.acts)
    return Practising(drawn(case), tuple(done(case)), spent, is_over)


def bench_of(case: CaseFile, now: str | None = None) -> Bench:
    """The simulated bench as it stands after everything that was done; raises InputError."""
    bench = Bench(drawn(case).unit())
    begun = datetime.fromisoformat(case.case.opened_at)
    for at, kind, value in sorted(_changes(case)):
        bench.unit.wait(max(bench.unit.at_s, _since(begun, at)))
        if kind == BLED:
            bench.unit.bleed()
        elif kind == "power":
            bench.unit.switch(value)
        else:
            bench.unit.replace(bench.unit.part(value))
    for reading in case.rows.readings.values():
        if reading.source is Source.SIMULATED:
            bench.remember(question(case, reading.point))
    if now:
        bench.unit.wait(max(bench.unit.at_s, _since(begun, now)))
    return bench


def _since(begun: datetime, at: str) -> float:
    return (datetime.fromisoformat(at) - begun).total_seconds()


def _changes(case: CaseFile) -> list[tuple[str, str, str]]:
    """What changes the unit: the moment, what it is, and of what."""
    at = {entry.id: entry.at for entry in entries(case)}
    found = [(act.at, BLED, "") for act in case.rows.acts if act.kind == BLED]
    for event in case.rows.events:
        if event.kind == EventKind.APPLIED.value:
            found.append((event.at, "power", MAINS if event.source == MAINS else BENCH))
        elif event.kind == EventKind.REMOVED.value:
            found.append((event.at, "power", OFF))
    return [*found, *((at[log_id], "replaced", name) for log_id, name in _fitted(case))]


def _fitted(case: CaseFile) -> list[tuple[int, str]]:
    """Every part that was fitted new, each time: its place in the log, and the part's name."""
    decided = decisions.of_case(case.store.read(), case.case.id)
    parts = [(d.decision, case.sheet.part(d.part_id)) for d in decided]
    return [
        (decision.log_id, name_of(case, part))
        for decision, part in parts
        if part and decision.kind is DecisionKind.FITTED
    ]


def question(case: CaseFile, point: Point) -> Question:
    """What the unit is asked at a point."""
    part, target = case.sheet.part(point.part_id), point.target
    pair = (target.pair.plus, target.pair.minus) if target.pair else None
    name = name_of(case, part) if part else target.rail
    return Question(name, point.procedure.code, point.condition.code, target.place.value, pair)


def done(case: CaseFile) -> list[Done]:
    """Everything that was done, in order, with its minutes."""
    at = {entry.id: entry.at for entry in entries(case)}
    lifted: set[int | None] = set()
    found = [_read(case, r, at[r.log_id], lifted) for r in case.rows.readings.values()]
    found += [
        Done(look.log_id, at[look.log_id], "a look at the parts", minutes("look"))
        for look in case.rows.looks.values()
        if look.codes
    ]
    found += [
        Done(
            e.log_id, e.at, f"power from {e.source}", minutes("power"), is_power=True, is_care=True
        )
        for e in case.rows.events
        if e.kind == EventKind.APPLIED.value
    ]
    found += _by_hand(case, at)
    return sorted(found, key=lambda d: d.log_id)


def _read(case: CaseFile, reading: Reading, at: str, lifted: set[int | None]) -> Done:
    point = reading.point
    part = case.sheet.part(point.part_id)
    is_lifted = point.condition.code == LIFTED
    is_first = is_lifted and point.part_id not in lifted
    lifted |= {point.part_id} if is_lifted else set()
    spent = minutes(point.procedure.code, point.condition.code, is_first=is_first)
    if part is None:
        return Done(reading.log_id, at, f"{point.procedure.short}, {point.condition.words}", spent)
    if point.procedure is STORE:
        return Done(reading.log_id, at, "volts held by the stores", spent, is_care=True)
    how = ", lifted" if is_lifted else ""
    return Done(reading.log_id, at, f"{name_of(case, part)} {point.procedure.short}{how}", spent)


def _by_hand(case: CaseFile, at: dict[int, str]) -> list[Done]:
    """Tests that the hand says, parts that were replaced, stores that were bled."""
    known = knowledge_for(case.sheet.topology)
    found = []
    for statement in case.rows.statements:
        test = known.test(statement.key) if statement.kind == "result" else None
        if test and statement.value:
            live = test.is_live
            found.append(
                Done(statement.log_id, at[statement.log_id], test.name, test.minutes, is_power=live)
            )
    found += [
        Done(log_id, at[log_id], f"{name} replaced", minutes("replaced"), is_care=True)
        for log_id, name in _fitted(case)
    ]
    found += [
        Done(act.log_id, act.at, "stores bled", minutes(BLED), is_care=True)
        for act in case.rows.acts
        if act.kind == BLED
    ]
    return found
