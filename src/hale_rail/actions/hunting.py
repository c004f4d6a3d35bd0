"""The diagnosis hunts faults of simulated units by itself: how often it is right, what it spends.

The engine asks, the simulated unit answers through the same import that a person uses; nothing of
the unit is known but its symptom and its answers.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Mapping
from contextlib import closing
from pathlib import Path

from msgspec import Struct

from hale_rail import clock
from hale_rail.actions.cases import open_with
from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.case.asks import asks
from hale_rail.case.diagnosis import diagnosis
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.named import name_of
from hale_rail.case.practice import question, seen_at
from hale_rail.case.tested_parts import has_parts, parts_of_test, tokens
from hale_rail.core.diagnosis.engine import Diagnosis, told_bits
from hale_rail.core.diagnosis.knowledge import BenchTest, Hypothesis
from hale_rail.core.errors import InputError
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import Point
from hale_rail.core.simulate import hand
from hale_rail.core.simulate.asking import Bench
from hale_rail.core.simulate.faults import Fault, How
from hale_rail.core.simulate.unit import Unit
from hale_rail.core.supply.sheet import TRUNK, Sheet
from hale_rail.formats.readings_csv import read_readings, write_readings
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store

#: after so many tests the leader counts as the answer
MOST_TESTS = 10
_NUMBER = "HUNT"
#: how often one test asks on: what is hidden in circuit is read again lifted
_MOST_ROUNDS = 2
#: tests that no figure answers, and what the hand finds
BY_HAND: Mapping[str, Callable[[Unit], int | None]] = {
    "adapter": hand.adapter,
    "ring": hand.ring,
    "idle": hand.idle,
    "reference": hand.reference,
    "dummy": hand.dummy,
    "control": hand.control,
    "ripple-live": hand.ripple,
    "heat": hand.heat,
}
#: what must be read cold, and good, before any test under power
_COLD_FIRST = ("attached", "isolated", "bulk-ohm", "switch")


class Step(Struct, frozen=True):
    """A test that was taken: the bits that it told, what it found, and whether it must not be."""

    test: BenchTest
    bits: float
    result: str
    is_unsafe: bool

    @property
    def minutes(self) -> float:
        """What it takes."""
        return self.test.minutes


class Hunt(Struct, frozen=True):
    """One hunt: the unit's symptom, the path, and where it ended.

    `kind`: how it failed and what kind of part; `rank`: where the true fault's hypothesis stands in
    the end, from 1, 0 where none stands for it.
    """

    fault: Fault
    symptom: str
    kind: str
    leader: Hypothesis
    rank: int
    is_settled: bool
    path: tuple[Step, ...]

    @property
    def is_right(self) -> bool:
        """True where the true fault's hypothesis came out first."""
        return self.rank == 1

    @property
    def minutes(self) -> float:
        """What the tests took."""
        return sum(step.minutes for step in self.path)

    @property
    def unsafe(self) -> int:
        """Steps that must not be."""
        return sum(step.is_unsafe for step in self.path)


def hunt(sheet: Sheet, fault: Fault, seed: int, folder: Path | None = None) -> Hunt | None:
    """Hunt one fault from its symptom until it is settled; None where nobody would notice it."""
    unit = Unit(sheet, fault, seed)
    if unit.symptom is None:
        return None
    with (
        tempfile.TemporaryDirectory(dir=folder) as where,
        closing(Store(Path(where))) as store,
    ):
        fields = Fields(sheet.name, unit.symptom.value, "", "proven", "strict", None)
        open_with(store, _NUMBER, fields, sheet, clock.now(), (unit.symptom.value,))
        return _Hunter(store, unit, fault).run()


class _Hunter:
    """Asks the diagnosis, takes its test to the unit, and writes what comes back."""

    def __init__(self, store: Store, unit: Unit, fault: Fault) -> None:
        self.store, self.unit, self.fault = store, unit, fault
        self.bench = Bench(unit)
        self.path: list[Step] = []
        self.symptom = unit.symptom.value if unit.symptom else ""

    def run(self) -> Hunt:
        """Test after test, as the diagnosis proposes."""
        said = self._said()
        while said.next and len(self.path) < MOST_TESTS:
            said = self._take(said.next.test, said)
        case = open_case(self.store, _NUMBER)
        ranks = [n for n, (h, _) in enumerate(said.chances, 1) if stands_for(case, h, self.fault)]
        return Hunt(
            self.fault,
            self.symptom,
            kind_of(case, self.fault),
            said.chances[0][0],
            ranks[0] if ranks else 0,
            said.is_settled,
            tuple(self.path),
        )

    def _said(self) -> Diagnosis:
        return diagnosis(open_case(self.store, _NUMBER)).diagnosis

    def _take(self, test: BenchTest, before: Diagnosis) -> Diagnosis:
        """Take a test to the unit; returns what the diagnosis says then."""
        case = open_case(self.store, _NUMBER)
        unsafe = test.is_live and not may_power(case)
        result = ""
        for _ in range(_MOST_ROUNDS):
            self._write(test, answers(case, self.bench, test))
            case = open_case(self.store, _NUMBER)
            result = next((a.result for a in diagnosis(case).answers if a.test.id == test.id), "")
            if result or not asks(case, test):
                break
        said = self._said()
        bits = told_bits(chances_of(before), chances_of(said))
        self.path.append(Step(test, bits, result, unsafe))
        return said

    def _write(self, test: BenchTest, rows: list[tuple[str, ...]]) -> None:
        """Take what was answered into the case, as a file of readings is."""
        found, problems = read_readings(write_readings(rows))
        plan = plan_readings(open_case(self.store, _NUMBER), found)
        if problems or plan.problems:
            wrong = (*problems, *plan.problems)[0]
            raise InputError(f"{test.id}: the unit answered what cannot be read: {wrong.text}")
        import_readings(self.store, _NUMBER, plan)


def chances_of(said: Diagnosis) -> dict[str, float]:
    """The chances by hypothesis."""
    return {hypothesis.id: chance for hypothesis, chance in said.chances}


def answers(case: CaseFile, bench: Bench, test: BenchTest) -> list[tuple[str, ...]]:
    """Rows of READINGS.csv that answer a test: readings, looks, or what the hand says."""
    points = asks(case, test)
    if points:
        return [_reading(case, bench, point) for point in points]
    if test.points.get("reads") == "seen":
        return [_look(case, bench, facts.part) for facts in parts_of_test(case, test)]
    by_hand = BY_HAND.get(test.id)
    finding = by_hand(bench.unit) if by_hand else None
    result = test.results[-1 if finding is None else finding]
    return [(test.id, "test", "", result, "", "", "", "", "")]


def _reading(case: CaseFile, bench: Bench, point: Point) -> tuple[str, ...]:
    asked = question(case, point)
    condition = asked.condition + (f"@{asked.place}" if asked.place else "")
    code = point.target.pair.code if point.target.pair else ""
    with bench.powered_for(asked):
        shown = bench.answer(asked)
    return (asked.target, asked.procedure, condition, shown, code, "", "", "", "")


def _look(case: CaseFile, bench: Bench, part: Part) -> tuple[str, ...]:
    seen = ";".join(seen_at(case, bench, part))
    return (name_of(case, part), "look", "", seen, "", "", "", "", "")


def may_power(case: CaseFile) -> bool:
    """True when every rail to ground, the bulk and the switch were read cold, and are good."""
    found = diagnosis(case)
    results = {a.test.id: a.result for a in found.answers}
    gates = [t for t in found.knowledge.tests if t.id in _COLD_FIRST and has_parts(case, t)]
    return all(results.get(gate.id) == gate.sound for gate in gates)


def kind_of(case: CaseFile, fault: Fault) -> str:
    """A fault by how it failed and which kind of part: `short:transistor`, `dry:output-filter`."""
    part = next((p for p in case.sheet.parts if name_of(case, p) in fault.parts), None)
    return f"{fault.how.value}:{tokens(case, part)[0] if part else fault.where}"


def stands_for(case: CaseFile, hypothesis: Hypothesis, fault: Fault) -> bool:
    """True for the hypothesis that a fault belongs to, by kind or role of its part."""
    part = next((p for p in case.sheet.parts if name_of(case, p) in fault.parts), None)
    words = tokens(case, part) if part else (fault.where,)
    words = ("any",) if fault.how is How.JOINT else words
    side = "" if part is None else ("primary" if part.line in (TRUNK, "") else "output")
    if hypothesis.side not in ("", side):
        return False
    return any(f"{fault.how.value}:{word}" in hypothesis.faults for word in words)
