"""Taking a file of readings into a case, in one transaction; what cannot be is told by its line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from hale_rail.actions.change import Change, changing
from hale_rail.case.named import part_named, rail_named
from hale_rail.case.subjects import checked_subject, point_words
from hale_rail.case.walks import of_former_parts
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.looks import BY_CODE, SOUND
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import (
    BREAKDOWN,
    INJECT,
    VOLTS,
    Accuracy,
    Condition,
    Point,
    Procedure,
    Source,
    by_code,
    parse_point,
)
from hale_rail.core.safety.energy import SOURCES, EventKind
from hale_rail.core.targets import Pair, TargetKind, part_target, rail_target
from hale_rail.errors import HaleRailError, InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.formats.readings_csv import (
    LOOK,
    OFF,
    POWER,
    REPLACED,
    TEST,
    Problem,
    ReadingRow,
    read_accuracy,
)
from hale_rail.store import decisions, looks, power_events, readings, statements
from hale_rail.store.database import Store
from hale_rail.store.readings import NewReading


def import_readings(store: Store, number: str, rows: Sequence[ReadingRow]) -> list[Problem]:
    """Append every row that this unit can have, in order; returns those that it cannot.

    What is taken is the record of what was done elsewhere, so the guard does not stand before it.
    """
    problems: list[Problem] = []
    with changing(store, number) as change:
        taking = _Taking(change)
        for row in rows:
            try:
                taking.take(row)
            except HaleRailError as error:
                problems.append(Problem(row.line, str(error)))
    return problems


@dataclass
class _Taking:
    """The rows being taken: which reading stands at each point by now."""

    change: Change

    def __post_init__(self) -> None:
        self.file = self.change.file
        self.usual_at = self.change.at
        former = of_former_parts(self.file)
        standing = self.file.rows.standing.items()
        self.standing = {key: r.id for key, r in standing if key not in former}
        self.special: dict[str, Callable[[ReadingRow], None]] = {
            POWER: self._power,
            LOOK: self._look,
            TEST: self._test,
            REPLACED: self._replaced,
        }

    def take(self, row: ReadingRow) -> None:
        """Append one row; raises InputError or NotFoundError for what cannot be."""
        self.change.at = row.at or self.usual_at
        self.special.get(row.procedure, self._reading)(row)

    def _power(self, row: ReadingRow) -> None:
        value = row.value.strip().lower()
        if value != OFF and value not in SOURCES:
            raise InputError(f"power is {', '.join(SOURCES)} or {OFF}, not “{row.value}”")
        connection, case_id = self.change.connection, self.change.case_id
        if value == OFF:
            log_id = self.change.log("power", "Plug out, power removed")
            power_events.insert(connection, case_id, log_id, EventKind.REMOVED.value)
            return
        log_id = self.change.log("power", f"Power applied: {SOURCES[value].words}")
        power_events.insert(connection, case_id, log_id, EventKind.APPLIED.value, value)

    def _look(self, row: ReadingRow) -> None:
        part = part_named(self.file, row.target)
        codes = tuple(dict.fromkeys(code.strip().lower() for code in row.value.split(";")))
        codes = tuple(code for code in codes if code)
        unknown = [code for code in codes if code not in BY_CODE]
        if unknown or not codes:
            raise InputError(f"look “{row.value}” is none of {', '.join(BY_CODE)}")
        if SOUND in codes and len(codes) > 1:
            raise InputError(f"{part.ref} looks sound (none), or it does not: not both")
        words = ", ".join(BY_CODE[code].words for code in codes)
        log_id = self.change.log("look", f"{part.ref}: {words}")
        looks.insert(self.change.connection, self.change.case_id, log_id, part.id, codes)

    def _test(self, row: ReadingRow) -> None:
        knowledge = knowledge_for(self.file.sheet.topology)
        test = knowledge.test(row.target)
        if test is None:
            raise InputError(f"there is no test “{row.target}”")
        said = {result.lower(): result for result in test.results}
        result = said.get(row.value.strip().lower())
        if result is None:
            raise InputError(f"{test.id} says {' or '.join(test.results)}, not “{row.value}”")
        log_id = self.change.log("diagnosis", f"{test.name}: {result}")
        connection, case_id = self.change.connection, self.change.case_id
        statements.insert(connection, case_id, log_id, "result", test.id, result)

    def _replaced(self, row: ReadingRow) -> None:
        part = part_named(self.file, row.target)
        reason = row.value.strip()
        log_id = self.change.log("decision", f"{part.ref} replaced: {reason}")
        connection, case_id = self.change.connection, self.change.case_id
        decisions.insert(connection, case_id, log_id, part.id, DecisionKind.FITTED, reason)
        self._forget(part)

    def _forget(self, part: Part) -> None:
        """What was read of the part that is gone, and across its bank, stands as it was read."""
        bank = {p.id for p in self.file.sheet.bank_of(part)}
        for key in list(self.standing):
            point = parse_point(key)
            is_across = point.part_id in bank and point.condition is Condition.IN_CIRCUIT
            if point.part_id == part.id or is_across:
                del self.standing[key]

    def _reading(self, row: ReadingRow) -> None:
        point = self._point(row)
        subject = replace(checked_subject(self.file, point), is_filed=True)
        meant = point.procedure.understand(row.value, point.condition, subject)
        if row.ampere is not None:
            meant = replace(meant, figures={**meant.figures, "load_a": row.ampere})
        log_id = self.change.log("reading", f"{point_words(self.file, point)}: {meant.echo}")
        before = self.standing.get(point.key) if point.procedure.corrects else None
        new = NewReading(
            point, row.value, meant, self._accuracy(row, point.procedure), None, Source.IMPORTED,
            self.change.at, before,
        )  # fmt: skip
        self.standing[point.key] = readings.insert(
            self.change.connection, self.change.case_id, self.file.case.sheet_id, log_id, new
        )

    @staticmethod
    def _accuracy(row: ReadingRow, procedure: Procedure) -> Accuracy:
        if not row.accuracy:
            return procedure.accuracy
        return read_accuracy(row.accuracy, procedure.unit)

    def _point(self, row: ReadingRow) -> Point:
        """The point of a row; raises InputError for a procedure that its target cannot have."""
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


def _condition(procedure: Procedure, said: Condition, usual: Condition) -> Condition:
    """The condition of a reading; one that is not said is asked back where it decides."""
    if said is Condition.NONE:
        if procedure is INJECT or usual in (Condition.IN_CIRCUIT, Condition.NONE):
            return usual
        known = ", ".join(c.code for c in procedure.conditions)
        raise InputError(f"how was it read: {known}?")
    if procedure.conditions == (Condition.NONE,):
        return Condition.NONE
    if said not in procedure.conditions:
        known = ", ".join(c.code for c in procedure.conditions)
        raise InputError(f"{procedure.label} is read {known}, not {said.code}")
    return said


def _pair(part: Part, procedure: Procedure, said: Pair | None) -> Pair | None:
    """The pins of a reading as the part's kind has them; raises InputError for none such."""
    pairs = [ask.pair for ask in part.all_asks if ask.procedure is procedure]
    if not pairs:
        raise InputError(f"{part.ref} has no {procedure.label} to read")
    if said is None:
        if None in pairs:
            return None
        if part.kind.across in pairs:
            return part.kind.across
        if len({frozenset((p.plus, p.minus)) for p in pairs if p}) == 1:
            return pairs[0]
        raise InputError(f"between which pins of {part.ref}: {_known(pairs)}?")
    if said in pairs:
        return said
    if pairs == [None]:
        return None
    if said.turned in pairs and procedure.unit.symbol == "Ω":
        return said.turned
    raise InputError(f"{part.ref} has no pins {said.code}: {_known(pairs)}")


def _known(pairs: Sequence[Pair | None]) -> str:
    return ", ".join(pair.code for pair in pairs if pair)
