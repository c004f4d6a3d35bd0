"""The facet of what can be captured at a point: from the simulated unit, or an instrument."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from hale_rail.bench.driver import WAVEFORM
from hale_rail.case.file import CaseFile
from hale_rail.case.instruments.instruments import families, instrument_for
from hale_rail.core.procedures import Point
from hale_rail.core.targets import TargetKind
from hale_rail.store.practice import PRACTICE

if TYPE_CHECKING:
    from hale_rail.case.practice.practice import Practising

SIMULATED = "the simulated unit"
_OF_UNIT = (TargetKind.PART, TargetKind.PAIR, TargetKind.RAIL, TargetKind.PIN)


class Capture(Struct, frozen=True):
    """What a press captures from, as one says it; `confirm`: the voltage that it would put out."""

    name: str
    confirm: str = ""


def _practising(case: CaseFile) -> Practising | None:
    """The state of a practice: the simulator is loaded for a case of practice alone."""
    if case.rows.last(PRACTICE) is None:
        return None
    from hale_rail.case.practice.practice import practising

    return practising(case)


def capture_of(case: CaseFile, point: Point | None) -> Capture | None:
    """What captures the reading of a point; None where nothing does."""
    if point is None:
        return None
    practice = _practising(case)
    if practice is not None:
        from hale_rail.core.simulate.questions import answers

        is_askable = point.target.kind in _OF_UNIT and answers(point.procedure.code)
        return Capture(SIMULATED) if is_askable and not practice.is_over else None
    return instrument_capture(case, point.procedure.code)


def record_source(case: CaseFile) -> str:
    """What a wave record is captured from, as one says it; "" where nothing does."""
    practice = _practising(case)
    if practice is not None:
        return "" if practice.is_over else SIMULATED
    scope = instrument_for(case.store, WAVEFORM)
    return scope.name if scope else ""


def instrument_capture(case: CaseFile, procedure: str) -> Capture | None:
    """The instrument that a procedure is assigned to; None where there is none."""
    instrument = instrument_for(case.store, procedure)
    if instrument is None:
        return None
    family = families(case.store).get(instrument.family)
    asking = family.procedures.get(procedure) if family else None
    return Capture(instrument.name, asking.confirm if asking else "")
