"""Taking a file of readings into a case: understood first, then written in one transaction."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.actions.change import Change, changing
from hale_rail.actions.power.machine_behaviour import append_did
from hale_rail.case.behind.rows import point_of_row
from hale_rail.case.file import CaseFile
from hale_rail.case.name_lookup import part_named, rail_named
from hale_rail.case.power.machine_behaviour import last_power_on
from hale_rail.case.subjects import checked_subject, point_words
from hale_rail.case.walks import of_former_parts
from hale_rail.core.behind.memory_text import base_of
from hale_rail.core.behind.symptoms import SYMPTOMS
from hale_rail.core.behind.words import Base
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.looks import BY_CODE, SOUND
from hale_rail.core.parts.part import Part
from hale_rail.core.power.machine_behaviour import DIDS, Did, read_dids
from hale_rail.core.procedures import (
    BREAKDOWN,
    INJECT,
    MEMORY_TEST,
    VOLTS,
    Accuracy,
    Condition,
    Point,
    Procedure,
    ReadingSource,
    by_code,
    parse_point,
)
from hale_rail.core.safety.energy import SOURCES, EventKind
from hale_rail.core.targets import Pair, TargetKind, part_target, rail_target
from hale_rail.errors import ConflictError, HaleRailError, InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.formats.readings.readings_csv import (
    EVENT,
    LOOK,
    OFF,
    POWER,
    REPLACED,
    SYMPTOM,
    TEST,
    ReadingRow,
    read_accuracy,
)
from hale_rail.formats.tables.fields import RowProblem
from hale_rail.store import looks, readings
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS, PartDecision
from hale_rail.store.hunt_notes import HUNT_NOTES, HuntNote
from hale_rail.store.hunt_notes import SYMPTOM as HUNT_SYMPTOM
from hale_rail.store.power_events import POWER_EVENTS, PowerEvent
from hale_rail.store.readings import NewReading
from hale_rail.store.statements import STATEMENTS, Statement

#: the default where a row does not say what was fitted
SAME_AGAIN = "the same again"


class _Written:
    """What was written of a plan so far: which reading stands at each point by now."""

    def __init__(self, change: Change) -> None:
        former = of_former_parts(change.file)
        standing = change.file.rows.standing.items()
        self.change = change
        last = last_power_on(change.file)
        #: the entry by which power came last, 0 for none
        self.power = last.log_id if last else 0
        self.standing = {key: r.id for key, r in standing if key not in former}

    def forget(self, part: Part) -> None:
        """What was read of the part that is gone, and across its bank, stands as it was read."""
        bank = {p.id for p in self.change.file.sheet.bank_of(part)}
        for key in list(self.standing):
            point = parse_point(key)
            is_across = point.part_id in bank and point.condition is Condition.IN_CIRCUIT
            if point.part_id == part.id or is_across:
                del self.standing[key]


Write = Callable[[_Written], None]


class ImportPlan(Struct, frozen=True):
    """Rows of a file as a case understands them, with their moments (None: now), and the others."""

    writes: tuple[tuple[str | None, Write], ...]
    problems: tuple[RowProblem, ...]
    sheet_version: int


def plan_readings(case: CaseFile, rows: Sequence[ReadingRow]) -> ImportPlan:
    """Understand rows, in order, outside any transaction."""
    memory = [row.value for row in rows if row.procedure == MEMORY_TEST.code]
    planner = _Planner(case, base_of(memory))
    writes, problems = [], []
    for row in rows:
        try:
            writes.append((row.at, planner.understand(row)))
        except HaleRailError as error:
            problems.append(RowProblem(row.line, str(error)))
    return ImportPlan(tuple(writes), tuple(problems), case.rows.sheet_version)


def import_readings(store: Store, number: str, plan: ImportPlan) -> None:
    """Append all that a plan understood, in order.

    What is taken is the record of what was done elsewhere, so the guard does not stand before it.
    Raises ConflictError when the sheet was changed since the plan was made.
    """
    with changing(store, number) as change:
        if change.file.rows.sheet_version != plan.sheet_version:
            raise ConflictError("Another tab changed the sheet first. Send the file again.")
        usual_at, written = change.at, _Written(change)
        for at, write in plan.writes:
            change.at = at or usual_at
            write(written)


class _Planner:
    """Understands rows by a case: what each of them writes."""

    def __init__(self, case: CaseFile, base: Base | None) -> None:
        self.file = case
        #: the base that the words of the file's memory tests show
        self.base = base.value if base else ""
        self.special: dict[str, Callable[[ReadingRow], Write]] = {
            POWER: self._power,
            LOOK: self._look,
            TEST: self._test,
            REPLACED: self._replaced,
            EVENT: self._event,
            SYMPTOM: self._symptom,
        }

    def understand(self, row: ReadingRow) -> Write:
        """What a row writes; raises InputError or NotFoundError for what cannot be."""
        return self.special.get(row.procedure, self._reading)(row)

    def _power(self, row: ReadingRow) -> Write:
        value = row.value.strip().lower()
        if value != OFF and value not in SOURCES:
            raise InputError(f"power is {', '.join(SOURCES)} or {OFF}, not “{row.value}”")
        is_off = value == OFF
        kind = (EventKind.REMOVED if is_off else EventKind.APPLIED).value
        source = None if is_off else value
        power = "Plug out, power removed" if is_off else f"Power applied: {SOURCES[value].words}"

        def write(written: _Written) -> None:
            change = written.change
            log_id = change.log("power", power)
            change.append(POWER_EVENTS, log_id, PowerEvent(kind, source))
            written.power = written.power if is_off else log_id

        return write

    def _event(self, row: ReadingRow) -> Write:
        return _said_at_power_on(read_dids(row.value))

    def _symptom(self, row: ReadingRow) -> Write:
        """Whether the complaint is gone or still there, or a symptom by its code."""
        value = row.value.strip().lower()
        if value in (Did.GONE.code, Did.STILL.code):
            return _said_at_power_on([(DIDS[value], 1)])
        known = knowledge_for(self.file.sheet.topology)
        symptom = known.symptom(value)
        if symptom is None and value in SYMPTOMS:
            return _of_machine(value)
        if symptom is None:
            codes = ", ".join((*(one.id for one in known.symptoms), *SYMPTOMS))
            raise InputError(f"symptom “{row.value[:30]}” is not one of gone, still, {codes}")
        key, words = symptom.id, f"Symptom: {symptom.name}"

        def write(written: _Written) -> None:
            change = written.change
            log_id = change.log("diagnosis", words)
            change.append(STATEMENTS, log_id, Statement("symptom", key, "yes"))

        return write

    def _look(self, row: ReadingRow) -> Write:
        part = part_named(self.file, row.target)
        codes = tuple(dict.fromkeys(code.strip().lower() for code in row.value.split(";")))
        codes = tuple(code for code in codes if code)
        unknown = [code for code in codes if code not in BY_CODE]
        if unknown or not codes:
            raise InputError(f"look “{row.value}” is not one of {', '.join(BY_CODE)}")
        if SOUND in codes and len(codes) > 1:
            raise InputError(f"{part.ref} looks sound (none), or it does not: not both")
        words = ", ".join(BY_CODE[code].words for code in codes)

        def write(written: _Written) -> None:
            change = written.change
            log_id = change.log("look", f"{part.ref}: {words}")
            looks.insert(change.connection, change.case_id, log_id, part.id, codes)

        return write

    def _test(self, row: ReadingRow) -> Write:
        test = knowledge_for(self.file.sheet.topology).test(row.target)
        if test is None:
            raise InputError(f"there is no test “{row.target}”")
        statement = {result.lower(): result for result in test.results}
        result = statement.get(row.value.strip().lower())
        if result is None:
            raise InputError(f"{test.id} says {' or '.join(test.results)}, not “{row.value}”")
        key, words = test.id, f"{test.name}: {result}"

        def write(written: _Written) -> None:
            change = written.change
            log_id = change.log("diagnosis", words)
            change.append(STATEMENTS, log_id, Statement("result", key, result or ""))

        return write

    def _replaced(self, row: ReadingRow) -> Write:
        part, reason = part_named(self.file, row.target), row.value.strip() or SAME_AGAIN

        def write(written: _Written) -> None:
            change = written.change
            log_id = change.log("decision", f"{part.ref} replaced: {reason}")
            fitted = DecisionKind.FITTED
            change.append(PART_DECISIONS, log_id, PartDecision(part.id, fitted, reason))
            written.forget(part)

        return write

    def _reading(self, row: ReadingRow) -> Write:
        point = self._point(row)
        subject = replace(checked_subject(self.file, point), is_filed=True)
        subject = replace(subject, base=subject.base or self.base)
        meant = point.procedure.understand(row.value, point.condition, subject)
        if row.ampere is not None:
            meant = replace(meant, figures={**meant.figures, "load_a": row.ampere})
        accuracy, sheet_id = self._accuracy(row, point.procedure), self.file.case.sheet_id
        words = f"{point_words(self.file, point)}: {meant.echo}"

        def write(written: _Written) -> None:
            change = written.change
            log_id = change.log("reading", words)
            before = written.standing.get(point.key) if point.procedure.corrects else None
            new = NewReading(
                point, row.value, meant, accuracy, None, ReadingSource.IMPORTED, change.at, before
            )
            written.standing[point.key] = readings.insert(
                change.connection, change.case_id, sheet_id, log_id, new
            )

        return write

    @staticmethod
    def _accuracy(row: ReadingRow, procedure: Procedure) -> Accuracy:
        if not row.accuracy:
            return procedure.accuracy
        return read_accuracy(row.accuracy, procedure.unit)

    def _point(self, row: ReadingRow) -> Point:
        """The point of a row; raises InputError for a procedure that its target cannot have."""
        behind = point_of_row(self.file, row)
        if behind is not None:
            return behind
        rail = rail_named(self.file.sheet, row.target)
        procedure = by_code(row.procedure)
        if rail is None and procedure is VOLTS:
            procedure = BREAKDOWN
        if procedure is None:
            raise InputError(f"procedure “{row.procedure}” is not known")
        if rail is not None:
            if TargetKind.RAIL not in procedure.targets:
                raise InputError(f"{procedure.label} is read at a part, not at {rail.key}")
            condition = _condition(procedure, row.condition, Condition.ATTACHED)
            return Point(rail_target(rail.key, row.place), procedure, condition)
        part = part_named(self.file, row.target)
        if TargetKind.RAIL in procedure.targets:
            raise InputError(f"{procedure.label} is read at a rail, not at {part.ref}")
        condition = _condition(procedure, row.condition, procedure.conditions[0])
        return Point(part_target(part.id, _pair(part, procedure, row.pair)), procedure, condition)


def _said_at_power_on(dids: Sequence[tuple[Did, int]]) -> Write:
    """What the machine did at the last power-on, or at one of which nothing is written."""

    def write(written: _Written) -> None:
        for did, times in dids:
            append_did(written.change, written.power, did, times)

    return write


def _of_machine(code: str) -> Write:
    """What the machine shows behind its supply."""

    def write(written: _Written) -> None:
        change = written.change
        log_id = change.log("edited", f"Symptom of the machine, {SYMPTOMS[code].words}")
        change.append(HUNT_NOTES, log_id, HuntNote(HUNT_SYMPTOM, code, {}))

    return write


def _condition(procedure: Procedure, condition: Condition, usual: Condition) -> Condition:
    """The condition of a reading; one that is not said is asked back where it decides."""
    if condition is Condition.NONE:
        if procedure is INJECT or usual in (Condition.IN_CIRCUIT, Condition.NONE):
            return usual
        known = ", ".join(c.code for c in procedure.conditions)
        raise InputError(f"how was it read: {known}?")
    if procedure.conditions == (Condition.NONE,):
        return Condition.NONE
    if condition not in procedure.conditions:
        known = ", ".join(c.code for c in procedure.conditions)
        raise InputError(f"{procedure.label} is read {known}, not {condition.code}")
    return condition


def _pair(part: Part, procedure: Procedure, pair: Pair | None) -> Pair | None:
    """The pins of a reading as the part's kind has them; raises InputError for none."""
    pairs = [ask.pair for ask in part.all_asks if ask.procedure is procedure]
    if not pairs:
        raise InputError(f"{part.ref} has no {procedure.label} to read")
    if pair is None:
        if None in pairs:
            return None
        if part.kind.across in pairs:
            return part.kind.across
        if len({frozenset((p.plus, p.minus)) for p in pairs if p}) == 1:
            return pairs[0]
        raise InputError(f"between which pins of {part.ref}: {_known(pairs)}?")
    if pair in pairs:
        return pair
    if pairs == [None]:
        return None
    if pair.turned in pairs and procedure.unit.symbol == "Ω":
        return pair.turned
    raise InputError(f"{part.ref} has no pins {pair.code}: {_known(pairs)}")


def _known(pairs: Sequence[Pair | None]) -> str:
    return ", ".join(pair.code for pair in pairs if pair)
