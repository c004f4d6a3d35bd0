"""Capacitors: measured in the order power reaches them, judged, decided."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.safety.energy import energy, meter_words
from hale_rail.case.subjects import point_words
from hale_rail.case.walks import capacitor_points, done, next_undone, part_point
from hale_rail.case.words import show_reading
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import (
    CAPACITANCE,
    ESR,
    LEAKAGE,
    OHMS,
    Condition,
    Point,
    Procedure,
)
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.stages.parts.cold import walk_state
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Urgency

_OWN = (ESR, CAPACITANCE, LEAKAGE)
COLUMNS: tuple[Procedure, ...] = (ESR, CAPACITANCE, LEAKAGE, OHMS)


class ReadingCell(Struct, frozen=True):
    """A cell: the reading as shown, and whether it was taken lifted."""

    text: str
    is_lifted: bool


class CapacitorRow(Struct, frozen=True):
    """One capacitor: its facts, a figure a column (None: unread), its next point, and why."""

    facts: PartFacts
    figures: tuple[ReadingCell | None, ...]
    point_key: str
    why: str


class CapacitorLine(Struct, frozen=True):
    """The capacitors of one line, under its name."""

    name: str
    rows: tuple[CapacitorRow, ...]


class CapacitorsPage(Struct, frozen=True):
    """The table by line; `caution`: where a dead unit is not yet safe for a meter, or ""."""

    lines: tuple[CapacitorLine, ...]
    caution: str


def state(case: CaseFile) -> StageState:
    """How far the walk is."""
    return walk_state(case, capacitor_points(case))


def page(case: CaseFile, _: PageQuery) -> CapacitorsPage:
    """Every capacitor with what was read."""
    lines: dict[str, list[CapacitorRow]] = {}
    for part in case.sheet.capacitors:
        name = "Primary side" if part.line == TRUNK else part.line
        lines.setdefault(name, []).append(_row(case, parts(case)[part.id]))
    state = energy(case)
    return CapacitorsPage(
        tuple(CapacitorLine(name, tuple(rows)) for name, rows in lines.items()),
        meter_words(case) if state.touch_safe and not state.meter_safe else "",
    )


def _row(case: CaseFile, facts: PartFacts) -> CapacitorRow:
    point = part_point(case, facts.part)
    figures = tuple(_figure(facts, procedure) for procedure in COLUMNS)
    return CapacitorRow(facts, figures, point.key if point else "", _why(facts))


def _figure(facts: PartFacts, procedure: Procedure) -> ReadingCell | None:
    reading = facts.latest(procedure)
    if reading is None:
        return None
    return ReadingCell(show_reading(reading), reading.condition is Condition.LIFTED)


def _why(facts: PartFacts) -> str:
    if facts.state is PartState.REPLACED and facts.decision:
        return facts.decision.reason
    if facts.bank and facts.mates[0].id != facts.part.id:
        return f"as {facts.mates[0].ref}, read together"
    if facts.state is PartState.UNSEEN or not facts.judgement.reasons:
        return ""
    return facts.judgement.reasons[0].text


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """The walk of the capacitors."""
    return capacitor_points(case)


def next_step(case: CaseFile) -> StageStep | None:
    """The next capacitor to probe."""
    point = next_undone(capacitor_points(case), done(case))
    return StageStep(f"Probe {point_words(case, point)}", Urgency.WORK, point) if point else None


def begun(case: CaseFile) -> bool:
    """True once a capacitor was measured."""
    return not case.rows.procedures.isdisjoint(_OWN)


STAGE = Stage(
    key="capacitors",
    name="Capacitors",
    templates="parts/capacitors",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    begun=begun,
    is_guarded=True,
)
