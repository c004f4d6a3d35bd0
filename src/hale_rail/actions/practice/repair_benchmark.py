"""The diagnosis repairs simulated units by itself, until their complaint is gone.

It hunts, replaces what it settles on (or suspects most, where no test is left), reads what must be
read before power, powers the unit in its machine, and is told what its owner would say of it.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.actions.practice.diagnosis_benchmark import Hunter, hunting, may_power, stands_for
from hale_rail.case.diagnosis.fact_source import standing_statements
from hale_rail.core.diagnosis.engine import Diagnosis
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.faults import SimulatedFault
from hale_rail.core.simulate.random_units import DrawnUnit

_MOST_ROUNDS = 8
#: the test that says of what is not a part that it is right again
_PROVES = {"adapter": ("adapter", "right"), "feedback": ("reference", "right")}
Row = tuple[str, ...]


class Repair(Struct, frozen=True):
    """What came of a unit: whether it is whole, the parts replaced in vain, and the tests.

    `first_right`: the first that was named is one of its faults; `is_second_right`: so was what
    was named after that was repaired; `unsafe`: times that power came before what must be read.
    """

    is_whole: bool
    in_vain: int
    tests: int
    minutes: float
    first_right: bool
    is_second_right: bool
    unsafe: int


def repair(drawn: DrawnUnit) -> Repair | None:
    """Hunt and repair a unit until it is whole; None where nobody would notice anything."""
    unit = drawn.unit()
    if unit.symptom is None:
        return None
    with hunting(unit) as hunter:
        return _Repairer(hunter, [f for f in (drawn.fault, drawn.other) if f]).run()


class _Repairer:
    """Repairs one unit."""

    def __init__(self, hunter: Hunter, faults: Sequence[SimulatedFault]) -> None:
        self.hunter, self.unit = hunter, hunter.bench.unit
        self.left = list(faults)
        self.in_vain = self.unsafe = 0
        self.named: list[bool] = []

    def run(self) -> Repair:
        """Round after round."""
        is_whole = False
        for _ in range(_MOST_ROUNDS):
            diagnosis = self.hunter.test_on()
            self._replace(diagnosis)
            self.hunter.test_on()
            if self._is_gone():
                is_whole = True
                break
        path = self.hunter.path
        return Repair(
            is_whole,
            self.in_vain,
            len(path),
            sum(step.minutes for step in path),
            self.named[:1] == [True],
            all(self.named[:2]),
            self.unsafe + sum(step.is_unsafe for step in path),
        )

    def _replace(self, diagnosis: Diagnosis) -> None:
        """Replace what was settled on, else what is suspected most; a fuse that is open with it."""
        old = [f for f, _ in diagnosis.faults if not f.is_new]
        suspects = diagnosis.settled or tuple(old[:1])
        if self.left:
            self.named.append(self._is_right(diagnosis))
        for suspect in suspects:
            self._mend(suspect)
        for part in self.unit.sheet.parts:
            if part.kind.code == "fuse" and self.unit.circuit.true[part.id].is_open:
                self._fit([part])

    def _is_right(self, diagnosis: Diagnosis) -> bool:
        """True where what leads stands for a fault that is still in the unit."""
        case, leader = self.hunter.case, diagnosis.chances[0][0]
        return any(stands_for(case, leader, fault) for fault in self.left)

    def _mend(self, suspect: Fault) -> None:
        """Replace a suspect's parts; what is none is put right by hand."""
        parts = [p for p in self.unit.sheet.parts if p.id in suspect.part_ids]
        names = {self.unit.name_of[p.id] for p in parts} or {suspect.ref}
        hit = [f for f in self.left if names & {*f.parts, f.where}]
        self.in_vain += not hit and not all(self.unit.circuit.true[p.id].is_open for p in parts)
        self.left = [f for f in self.left if f not in hit]
        if parts:
            self._fit(parts)
        elif hit:
            self.unit.circuit.mend()
            test = _PROVES.get(suspect.ref)
            if test is not None:
                self.hunter.write([_row(test[0], "test", test[1])])

    def _fit(self, parts: Sequence[Part]) -> None:
        for part in parts:
            self.unit.replace(part)
        rows: list[Row] = [_row(self.unit.name_of[p.id], "replaced", "new") for p in parts]
        self.hunter.write(rows)

    def _is_gone(self) -> bool:
        """Power it in its machine, and say what its owner would; what that spends is spent."""
        self.unsafe += not self.left and not may_power(self.hunter.case)
        complaint = self.unit.tried()
        self.unit.bleed()
        text = "gone" if complaint is None else complaint.value
        if text in standing_statements(self.hunter.case)["symptom"]:
            text = "still"
        self.hunter.write([
            _row("", "power", "mains"), _row("", "symptom", text), _row("", "power", "off"),
        ])  # fmt: skip
        self.hunter.is_live = False
        return complaint is None


def _row(target: str, procedure: str, value: str) -> Row:
    return (target, procedure, "", value, "", "", "", "", "")
