"""The program's own hunt behind a simulated supply: what the chain asks next, until it names it."""

from __future__ import annotations

import tempfile
from contextlib import closing
from pathlib import Path

from msgspec import Struct

from hale_rail import clock
from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.intake.cases import open_with
from hale_rail.case.behind.evidence import evidence
from hale_rail.case.behind.hunt import hunt_chain, next_point
from hale_rail.case.behind.rows import cells_of
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.name_lookup import target_name
from hale_rail.case.practice.practice import question
from hale_rail.case.practice.reviews import ReviewStep
from hale_rail.core.behind.acts import Standing
from hale_rail.core.behind.links import How, LinkState
from hale_rail.core.procedures import MEMORY_TEST, Need, Point
from hale_rail.core.simulate.costs import minutes
from hale_rail.core.simulate.logic_board import BOARD_MODES
from hale_rail.core.simulate.questions import Bench
from hale_rail.core.simulate.random_units import DrawnUnit
from hale_rail.core.simulate.unit import BENCH, OFF
from hale_rail.errors import InputError
from hale_rail.formats.readings.readings_csv import read_readings, write_readings
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store

_NUMBER = "HUNT"
#: observations after which a hunt is given up
_MOST = 60
_PATTERNS = ("0xAA", "0x55")


class BehindHunt(Struct, frozen=True):
    """A hunt: its steps, whether it came to the true chip, and what it said last."""

    path: tuple[ReviewStep, ...]
    is_right: bool
    said: str

    @property
    def minutes(self) -> float:
        """Minutes at the bench."""
        return sum(step.minutes for step in self.path)


def is_behind(drawn: DrawnUnit) -> bool:
    """True where the fault is of a chip behind the supply."""
    chips = {part.ref for part in drawn.sheet.parts if part.kind.model == "chip"}
    return drawn.fault.how in BOARD_MODES and drawn.fault.where in chips


def hunt_behind(drawn: DrawnUnit) -> BehindHunt:
    """Follow the chain over a simulated unit until it names a chip, a connection, or nothing."""
    path: list[ReviewStep] = []
    with tempfile.TemporaryDirectory() as folder, closing(Store(Path(folder))) as store:
        open_with(store, _NUMBER, Fields("HUNT", "", "", "proven", "strict", None), drawn.sheet,
                  clock.now(), ())  # fmt: skip
        bench = Bench(drawn.unit())
        for _ in range(_MOST):
            case = open_case(store, _NUMBER)
            point = next_point(case)
            if point is None or _is_named(case, drawn.fault.where):
                break
            try:
                path.append(_step(store, case, bench, point))
            except InputError:  # what cannot be observed on a machine that does not run
                break
        case = open_case(store, _NUMBER)
        following = hunt_chain(case).next
        is_right = _is_work_found(case) or (
            following is not None
            and following.how in (How.LIST, How.WORK, How.ACT)
            and drawn.fault.where in following.names
        )
    return BehindHunt(tuple(path), is_right, following.text if following else "")


def _is_work_found(case: CaseFile) -> bool:
    """True once something was found at own work: a simulated unit has one fault."""
    work = hunt_chain(case).link("work")
    return work is not None and work.state is LinkState.WRONG


def _is_named(case: CaseFile, ref: str) -> bool:
    """True once the hunt is over: work was found, or what is next is an act on the true chip that
    a memory test names, or that a spare has cured."""
    if _is_work_found(case):
        return True
    known, following = evidence(case), hunt_chain(case).next
    if following is None or following.ref != ref or following.how is not How.ACT:
        return False
    in_memory = any(chip.ref == ref for chip in known.memory_says.chips)
    return in_memory or known.proven.of(ref) is Standing.LIKELY


def _step(store: Store, case: CaseFile, bench: Bench, point: Point) -> ReviewStep:
    """Ask the bench, and write what it shows."""
    is_live = Need.POWERED in point.procedure.needs
    bench.unit.switch(BENCH if is_live else OFF)
    asked = question(case, point)
    if point.procedure is MEMORY_TEST:
        count = sum(r.procedure is MEMORY_TEST for r in case.rows.readings.values())
        asked = type(asked)(asked.target, asked.procedure, value=_PATTERNS[count % 2])
    name, code, pair = cells_of(case, point) or ("", "", "")
    row = (name, code, "", bench.answer(asked), pair, "", "", "", "")
    rows, _ = read_readings(write_readings([row]))
    import_readings(store, _NUMBER, plan_readings(case, rows))
    label = f"{target_name(case, point)} {point.procedure.short}".strip()
    return ReviewStep(label, minutes(point.procedure.code), 0.0, False, True)
