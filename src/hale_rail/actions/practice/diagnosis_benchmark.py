"""The diagnosis hunts faults of simulated units by itself: how often it is right, what it spends.

The engine asks, the simulated unit answers through the same import that a person uses; nothing of
the unit is known but its symptom and its answers.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing, contextmanager
from pathlib import Path

from msgspec import Struct

from hale_rail import clock
from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.intake.cases import open_with
from hale_rail.case.diagnosis.diagnosis import asks, diagnosis
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.name_lookup import name_of
from hale_rail.case.practice.practice import question, seen_at
from hale_rail.core.diagnosis.bench import OF_LOOKS
from hale_rail.core.diagnosis.engine import Diagnosis, told_bits
from hale_rail.core.diagnosis.faults import side_of, tokens_of
from hale_rail.core.diagnosis.information import Ranked
from hale_rail.core.diagnosis.knowledge import BenchTest, FaultGroup
from hale_rail.core.errors import InputError
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import Point
from hale_rail.core.simulate import technician
from hale_rail.core.simulate.faults import SimulatedFault
from hale_rail.core.simulate.questions import Bench
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Sheet
from hale_rail.formats.readings.readings_csv import read_readings, write_readings
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store

#: a hunt that has not ended after this many tests has failed
MOST_TESTS = 40
_NUMBER = "HUNT"
_UNPLUGGED = ("", "power", "", "off", "", "", "", "", "")
#: how often one test asks on: what is hidden in circuit is read again lifted
_MOST_ROUNDS = 2
#: tests that no figure answers, and what the hand finds
BY_HAND: Mapping[str, Callable[[SimulatedUnit], int | None]] = {
    "adapter": technician.adapter,
    "ring": technician.ring,
    "idle": technician.idle,
    "reference": technician.reference,
    "dummy": technician.dummy,
    "control": technician.control,
    "ripple-live": technician.ripple,
    "heat": technician.heat,
    "tap": technician.tap,
    "more-load": technician.more_load,
}
#: what must be read cold, and good, before any test under power
_COLD_FIRST = ("attached", "isolated", "bulk-ohm", "switch", "bridge", "rectifiers")


class HuntStep(Struct, frozen=True):
    """A test that was taken: the bits that it told, its minutes, and whether it must not be."""

    test: BenchTest
    bits: float
    minutes: float
    is_unsafe: bool


class Hunt(Struct, frozen=True):
    """One hunt: the unit's symptom, the path, and where it ended.

    `kind`: how it failed and what kind of part; `rank`: where the true fault's hypothesis stands in
    the end, from 1, 0 where none stands for it.
    """

    fault: SimulatedFault
    symptom: str
    kind: str
    leader: FaultGroup
    rank: int
    is_settled: bool
    path: tuple[HuntStep, ...]

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


def hunt(sheet: Sheet, fault: SimulatedFault, seed: int) -> Hunt | None:
    """Hunt one fault from its symptom until it is settled; None where nobody would notice it."""
    unit = SimulatedUnit(sheet, fault, seed)
    if unit.symptom is None:
        return None
    with hunting(unit) as hunter:
        return hunter.run(fault)


@contextmanager
def hunting(unit: SimulatedUnit) -> Iterator[Hunter]:
    """A hunter with a case of its own for a unit, its complaint said."""
    symptom = unit.symptom.value if unit.symptom else ""
    with tempfile.TemporaryDirectory() as where, closing(Store(Path(where))) as store:
        fields = Fields(unit.sheet.name, symptom, "", "proven", "strict", None)
        open_with(store, _NUMBER, fields, unit.sheet, clock.now(), (symptom,) if symptom else ())
        yield Hunter(store, unit)


class Hunter:
    """Asks the diagnosis, takes its test to the unit, and writes what comes back."""

    def __init__(self, store: Store, unit: SimulatedUnit) -> None:
        self.store, self.unit = store, unit
        self.bench = Bench(unit)
        self.path: list[HuntStep] = []
        self.is_live = False
        self.symptom = unit.symptom.value if unit.symptom else ""

    @property
    def case(self) -> CaseFile:
        """The case as it is now."""
        return open_case(self.store, _NUMBER)

    def test_on(self) -> Diagnosis:
        """Test after test, as the diagnosis proposes, until it proposes none."""
        diagnosis = self._diagnosis_now()
        while diagnosis.next and len(self.path) < MOST_TESTS:
            diagnosis = self._take(diagnosis.next, diagnosis)
        return diagnosis

    def run(self, fault: SimulatedFault) -> Hunt:
        """Hunt until the diagnosis has nothing more to ask; `fault`: the true one."""
        diagnosis, case = self.test_on(), self.case
        ranks = [n for n, (h, _) in enumerate(diagnosis.chances, 1) if stands_for(case, h, fault)]
        return Hunt(
            fault,
            self.symptom,
            kind_of(case, fault),
            diagnosis.chances[0][0],
            ranks[0] if ranks else 0,
            diagnosis.is_settled,
            tuple(self.path),
        )

    def _diagnosis_now(self) -> Diagnosis:
        return diagnosis(self.case).diagnosis

    def _take(self, ranked: Ranked, before: Diagnosis) -> Diagnosis:
        """Take a test to the unit; returns what the diagnosis says then."""
        case, test = open_case(self.store, _NUMBER), ranked.test
        unsafe = test.is_live and not may_power(case)
        if self.is_live and not test.is_live:
            self.write([_UNPLUGGED])
            self.unit.bleed()
        self.is_live = test.is_live
        for _ in range(_MOST_ROUNDS):
            self.write(answers(case, self.bench, ranked))
            case = open_case(self.store, _NUMBER)
            if not asks(case, ranked):
                break
        else:
            # what the meter shows is not a figure of such a part: that is bad, whatever it is
            if all(point.part_id for point in asks(case, ranked)):
                self.write([(test.id, "test", "", test.results[0], "", "", "", "", "")])
        diagnosis = self._diagnosis_now()
        bits = told_bits(chances_of(before), chances_of(diagnosis))
        self.path.append(HuntStep(test, bits, ranked.minutes, unsafe))
        return diagnosis

    def write(self, rows: list[tuple[str, ...]]) -> None:
        """Take what was answered into the case, as a file of readings is."""
        reading_rows, problems = read_readings(write_readings(rows))
        plan = plan_readings(self.case, reading_rows)
        if problems:
            raise InputError(f"the unit answered what is not a row: {problems[0].text}")
        import_readings(self.store, _NUMBER, plan)


def chances_of(diagnosis: Diagnosis) -> dict[str, float]:
    """The chances by group."""
    return {group.id: chance for group, chance in diagnosis.chances}


def answers(case: CaseFile, bench: Bench, ranked: Ranked) -> list[tuple[str, ...]]:
    """Rows of READINGS.csv that answer a test: readings, looks, or what the hand says."""
    test, points = ranked.test, asks(case, ranked)
    if points:
        return [_reading(case, bench, point) for point in points]
    if test.reads == OF_LOOKS:
        return [_look(case, bench, part) for part in ranked.parts]
    by_hand = BY_HAND.get(test.id)
    finding = by_hand(bench.unit) if by_hand else None
    result = test.results[-1 if finding is None else finding]
    return [(test.id, "test", "", result, "", "", "", "", "")]


def _reading(case: CaseFile, bench: Bench, point: Point) -> tuple[str, ...]:
    simulated_question = question(case, point)
    condition = simulated_question.condition + (
        f"@{simulated_question.place}" if simulated_question.place else ""
    )
    code = point.target.pair.code if point.target.pair else ""
    with bench.powered_for(simulated_question):
        shown = bench.answer(simulated_question)
    return (
        simulated_question.target,
        simulated_question.procedure,
        condition,
        shown,
        code,
        "",
        "",
        "",
        "",
    )


def _look(case: CaseFile, bench: Bench, part: Part) -> tuple[str, ...]:
    seen = ";".join(seen_at(case, bench, part))
    return (name_of(case, part), "look", "", seen, "", "", "", "", "")


def may_power(case: CaseFile) -> bool:
    """True when every rail to ground, bulk, switch, bridge and rectifiers read good, cold."""
    case_diagnosis = diagnosis(case)
    return all(s.is_good for s in case_diagnosis.test_states if s.test.id in _COLD_FIRST)


def kind_of(case: CaseFile, fault: SimulatedFault) -> str:
    """A fault by how it failed and which kind of part: `short:transistor`, `dry:output-filter`."""
    part = _part_of(case, fault)
    topology = case.sheet.topology
    return f"{fault.how.value}:{tokens_of(topology, part)[0] if part else fault.where}"


def _part_of(case: CaseFile, fault: SimulatedFault) -> Part | None:
    return next((p for p in case.sheet.parts if name_of(case, p) in fault.parts), None)


def stands_for(case: CaseFile, group: FaultGroup, fault: SimulatedFault) -> bool:
    """True for the group that a simulated fault belongs to, by kind or role of its part."""
    part = _part_of(case, fault)
    words = tokens_of(case.sheet.topology, part) if part else (fault.where,)
    words = ("any",) if fault.how is FaultMode.JOINT else words
    if group.side and part is not None and group.side != side_of(part):
        return False
    return any(f"{fault.how.value}:{word}" in group.faults for word in words)
