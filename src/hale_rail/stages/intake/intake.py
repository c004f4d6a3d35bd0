"""Intake: the machine, its symptom, what was done before, and what unit it is."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.diagnosis.diagnosis import diagnosis
from hale_rail.case.file import CaseFile
from hale_rail.case.intake.drawings import Drawing, drawings
from hale_rail.core.diagnosis.knowledge import Symptom
from hale_rail.stages.stage import PageQuery, Stage, StageState, Status
from hale_rail.store import unit_types
from hale_rail.store.unit_types import UnitType


class IntakePage(Struct, frozen=True):
    """Types of unit, this unit's or None, what the symptom may mean, and the drawings."""

    unit_types: tuple[UnitType, ...]
    unit_type: UnitType | None
    suggested: tuple[Symptom, ...]
    drawings: tuple[Drawing, ...]


def state(case: CaseFile) -> StageState:
    """Done once the case is open; it says what the unit is."""
    return StageState(Status.DONE, case.sheet.topology.words)


def page(case: CaseFile, _: PageQuery) -> IntakePage:
    """The case's fields are the case's own; the types are the workshop's."""
    listed = tuple(unit_types.listed(case.store.read()))
    own = next((t for t in listed if t.id == case.case.unit_type_id), None)
    return IntakePage(listed, own, diagnosis(case).suggested, drawings(case))


STAGE = Stage(key="intake", name="Intake", state=state, page=page)
