"""A unit and its readings from files, as a case of a workshop that is thrown away afterwards."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from functools import partial
from pathlib import Path

from msgspec import Struct

from hale_rail import clock
from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.intake.cases import open_with
from hale_rail.actions.workshop.workshop import save_touch_limit
from hale_rail.case.file import CaseFile, open_case
from hale_rail.cli._command import read_with
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.core.safety.bleeding import TOUCH_LIMIT_V
from hale_rail.formats.readings.readings_csv import read_readings
from hale_rail.formats.tables.fields import RowProblem
from hale_rail.formats.units.unit_json import read_unit
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store

NUMBER = "FILE"


class CaseOfFiles(Struct, frozen=True):
    """The case with the readings, and the rows that could not be used."""

    file: CaseFile
    problems: tuple[RowProblem, ...]


@contextmanager
def case_of_files(
    unit: Path,
    readings: Path,
    *,
    school: str = RecapPolicy.PROVEN.code,
    tolerance: str = Tolerance.STRICT.value,
    touch_limit_v: float = TOUCH_LIMIT_V,
    symptoms: tuple[str, ...] = (),
) -> Iterator[CaseOfFiles]:
    """Take the files into a case; raises InputError naming the file that cannot be used."""
    strange: list[str] = []
    sheet = read_with(unit, partial(read_unit, problems=strange))
    rows, wrong = read_with(readings, read_readings)
    with (
        tempfile.TemporaryDirectory() as folder,
        closing(Store(Path(folder))) as store,
    ):
        save_touch_limit(store, touch_limit_v)
        fields = Fields(sheet.name, "from a file", "", school, tolerance, None)
        open_with(store, NUMBER, fields, sheet, clock.now(), symptoms)
        plan = plan_readings(open_case(store, NUMBER), rows)
        import_readings(store, NUMBER, plan)
        problems = [RowProblem(0, f"{unit.name}: {sentence}") for sentence in strange]
        problems += [*wrong, *plan.problems]
        problems.sort(key=lambda problem: problem.line)
        yield CaseOfFiles(open_case(store, NUMBER), tuple(problems))
