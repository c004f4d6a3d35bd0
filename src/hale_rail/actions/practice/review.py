"""The review of a practice: the path that was taken, step by step, beside the engine's.

Computed once, when the practice ends: what was done is done again to a case that is thrown away,
and the diagnosis is asked before and after each step.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from contextlib import closing
from itertools import groupby
from pathlib import Path

from hale_rail import clock
from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.intake.cases import open_with
from hale_rail.actions.practice.behind_hunt import hunt_behind, is_behind
from hale_rail.actions.practice.diagnosis_benchmark import (
    Hunt,
    chances_of,
    hunt,
    may_power,
    stands_for,
)
from hale_rail.case.diagnosis.diagnosis import diagnosis
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.practice.practice import CHIP, Done, Practising, chip_choices
from hale_rail.case.practice.reviews import PracticeReview, ReviewStep
from hale_rail.case.reading_rows import Row, statement_rows, timed_rows
from hale_rail.core.diagnosis.engine import told_bits
from hale_rail.formats.readings.readings_csv import read_readings, write_readings
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store

_NUMBER = "AGAIN"


def review(case: CaseFile, practice: Practising, named: str) -> PracticeReview:
    """What is shown at the end; `named`: the hypothesis that the person named, by id."""
    if is_behind(practice.drawn):
        return _behind(case, practice, named)
    fault = practice.drawn.fault
    known = {h.id: h for h in diagnosis(case).knowledge.groups}
    engine = hunt(practice.drawn.sheet, fault, practice.drawn.seed)
    true = [h.id for h in known.values() if stands_for(case, h, fault)]
    return PracticeReview(
        fault=fault.code,
        name=fault.name,
        named=known[named].name if named in known else "",
        right=named in true,
        remedy=known[true[0]].remedy if true else "",
        minutes=round(practice.minutes, 1),
        spent=tuple(practice.spent),
        mine=tuple(_path(case, practice.done)),
        engine=tuple(_engine(engine)),
        engine_minutes=round(engine.minutes, 1) if engine else 0.0,
        engine_right=bool(engine and engine.is_right),
        engine_leader=engine.leader.name if engine else "",
    )


def _behind(case: CaseFile, practice: Practising, named: str) -> PracticeReview:
    """The review of a fault behind the supply: the chip named, and the chain's own path."""
    fault, own = practice.drawn.fault, hunt_behind(practice.drawn)
    return PracticeReview(
        fault=fault.code,
        name=fault.name,
        named=chip_choices(case).get(named, ""),
        right=named == f"{CHIP}{fault.where}",
        remedy="Evidence before exchanges: the chain names the place, an exchange proves it.",
        minutes=round(practice.minutes, 1),
        spent=tuple(practice.spent),
        mine=tuple(_path(case, practice.done)),
        engine=own.path,
        engine_minutes=round(own.minutes, 1),
        engine_right=own.is_right,
        engine_leader=own.said,
    )


def _engine(hunt: Hunt | None) -> list[ReviewStep]:
    return [
        ReviewStep(step.test.name, round(step.minutes, 1), round(step.bits, 2), step.is_unsafe)
        for step in (hunt.path if hunt else ())
    ]


def _path(case: CaseFile, done: Sequence[Done]) -> list[ReviewStep]:
    """What was done, block by block: steps of one kind in a row together."""
    rows = dict([*timed_rows(case), *statement_rows(case)])
    symptoms = diagnosis(case).symptoms
    with tempfile.TemporaryDirectory() as folder, closing(Store(Path(folder))) as store:
        wanted = Fields(case.case.machine, case.case.symptom, "", "proven", "strict", None)
        open_with(store, _NUMBER, wanted, case.sheet, clock.now(), symptoms)
        blocks = [list(group) for _, group in groupby(done, key=lambda d: d.label)]
        return [_review_step(store, block, rows) for block in blocks]


def _review_step(store: Store, block: Sequence[Done], rows: dict[int, Row]) -> ReviewStep:
    before = open_case(store, _NUMBER)
    is_live = any(d.is_power and not d.is_behind for d in block)
    unsafe = is_live and not may_power(before)
    text = write_readings(rows[d.log_id] for d in block if d.log_id in rows)
    reading_rows, _ = read_readings(text)
    import_readings(store, _NUMBER, plan_readings(before, reading_rows))
    after = open_case(store, _NUMBER)
    bits = told_bits(
        chances_of(diagnosis(before).diagnosis), chances_of(diagnosis(after).diagnosis)
    )
    spent = round(sum(d.minutes for d in block), 1)
    return ReviewStep(block[0].label, spent, round(bits, 2), unsafe, block[0].is_care)
