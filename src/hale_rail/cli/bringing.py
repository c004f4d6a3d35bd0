"""A unit and its readings from files, as a case of a workshop that is thrown away afterwards."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from functools import partial
from pathlib import Path
from typing import TypeVar

from msgspec import Struct

from hale_rail import clock
from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.intake.cases import open_with
from hale_rail.actions.workshop.workshop import save_touch_limit
from hale_rail.case.file import CaseFile, open_case
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import School
from hale_rail.core.safety.bleeding import TOUCH_LIMIT_V
from hale_rail.errors import InputError
from hale_rail.formats.readings_csv import Problem, read_readings
from hale_rail.formats.texts import read_file
from hale_rail.formats.unit_json import read_unit
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store

T = TypeVar("T")
NUMBER = "FILE"


class Brought(Struct, frozen=True):
    """The case as it stands with the readings, and the rows that could not be used."""

    file: CaseFile
    problems: tuple[Problem, ...]


@contextmanager
def brought(
    unit: Path,
    readings: Path,
    *,
    school: str = School.PROVEN.code,
    tolerance: str = Tolerance.STRICT.value,
    touch_limit_v: float = TOUCH_LIMIT_V,
    symptoms: tuple[str, ...] = (),
) -> Iterator[Brought]:
    """Take the files into a case; raises InputError naming the file that cannot be used."""
    strange: list[str] = []
    text = read_file(unit)
    sheet = _named(unit, partial(read_unit, problems=strange), text)
    rows, wrong = _named(readings, read_readings, read_file(readings))
    with (
        tempfile.TemporaryDirectory() as folder,
        closing(Store(Path(folder))) as store,
    ):
        save_touch_limit(store, touch_limit_v)
        fields = Fields(sheet.name, "from a file", "", school, tolerance, None)
        open_with(store, NUMBER, fields, sheet, clock.now(), symptoms)
        plan = plan_readings(open_case(store, NUMBER), rows)
        import_readings(store, NUMBER, plan)
        problems = [Problem(0, f"{unit.name}: {said}") for said in strange]
        problems += [*wrong, *plan.problems]
        problems.sort(key=lambda problem: problem.line)
        yield Brought(open_case(store, NUMBER), tuple(problems))


def _named(path: Path, parse: Callable[[str], T], text: str) -> T:
    try:
        return parse(text)
    except InputError as error:
        raise InputError(f"{path}: {error}") from error
