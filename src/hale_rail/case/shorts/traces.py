"""The facet of traces: what the readings on a rail's map say, computed beside the page and kept."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail import clock
from hale_rail.case import worker
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.name_lookup import name_of
from hale_rail.case.parts.parts import parts
from hale_rail.case.shorts.boards import BoardOf, board_maps
from hale_rail.case.shorts.grounds import grounds
from hale_rail.case.worker import Analysis, AnalysisState, Progress
from hale_rail.core.parts.looks import SOUND
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import (
    BOARD_DROP,
    BOARD_OHMS,
    LEG_LIFTED,
    WARMTH,
    Point,
    Procedure,
)
from hale_rail.core.procedures.boards import Ends, board_part, board_part_of, ends_of, is_gone
from hale_rail.core.quantities import show
from hale_rail.core.shorts.board import BoardPart
from hale_rail.core.shorts.board_map import BoardMap
from hale_rail.formats.boards.board_json import board_json
from hale_rail.formats.boards.trace_records import NextReading, TracedBoard
from hale_rail.store.looks import LOOKS
from hale_rail.store.readings import Reading

if TYPE_CHECKING:
    from hale_rail.core.shorts.board_model import TraceReading

ON_BOARDS = (BOARD_DROP, BOARD_OHMS, WARMTH, LEG_LIFTED)
#: how much more a part that was found worn or failed weighs, and one that looks bad
_WORN_FACTOR, _FAILED_FACTOR = 3.0, 10.0
#: a part that is marked with its year weighs so much more from this age on
_OLD_YEARS, _OLD_FACTOR = 25, 1.5
_KINDS = {BOARD_DROP: "drop", BOARD_OHMS: "ohms", WARMTH: "warm", LEG_LIFTED: "lifted"}
_PROCEDURES = {kind: procedure for procedure, kind in _KINDS.items()}


def compute(inputs: Any, progress: Progress) -> Any:
    """The trace of a map and its readings, both as JSON can say them."""
    from hale_rail.core.shorts.board_model import Kind, TraceReading
    from hale_rail.core.shorts.next_probe import next_probe
    from hale_rail.core.shorts.trace import trace
    from hale_rail.formats.boards.board_json import board_of
    from hale_rail.formats.boards.trace_json import traced_board

    progress(0.1)
    board = board_of(inputs["board"]).board()
    readings = [
        TraceReading(**{**fields, "kind": Kind(fields["kind"])}) for fields in inputs["readings"]
    ]
    current_trace = trace(board, readings)
    progress(0.6)
    return traced_board(current_trace, next_probe(current_trace))


TRACE = Analysis("trace", 1, compute, TracedBoard)


@facet
def board_readings(case: CaseFile) -> Mapping[str, tuple[Reading, ...]]:
    """Standing readings on each rail's map, in the order they were taken."""
    rows = case.rows
    readings: dict[str, list[Reading]] = {}
    for reading in rows.readings.values() if rows.procedures.intersection(ON_BOARDS) else ():
        if reading.procedure in ON_BOARDS and reading.id not in rows.aside:
            readings.setdefault(reading.target.line, []).append(reading)
    return {rail: tuple(own) for rail, own in readings.items()}


def trace_of(case: CaseFile, rail: str, upto: int | None = None) -> AnalysisState:
    """What the readings on a rail's map say, all or the first `upto`; begun when first asked."""
    readings = board_readings(case).get(rail, ())[:upto]
    key = ("trace", rail, len(readings))
    if key not in case.made:
        inputs = {
            "board": board_json(weighed_map(case, board_maps(case)[rail])),
            "readings": [reading_fields(reading) for reading in readings],
        }
        drawn = board_maps(case)[rail].drawn
        about = f"{case.case.uuid} {rail} {drawn.id} {drawn.version}"  # a result names its pads
        outcome = worker.ask(case.store, TRACE, inputs, about=about)
        if outcome.is_waiting:
            return outcome
        case.made[key] = outcome
    state: AnalysisState = case.made[key]
    return state


def weighed_map(case: CaseFile, board: BoardOf) -> BoardMap:
    """The map with what this unit's own parts say of their chances: what looks or reads bad."""
    parts = tuple(_weighed(case, board, part) for part in board.map.parts)
    return replace(board.map, parts=parts, picture=None)


def _weighed(case: CaseFile, board: BoardOf, part: BoardPart) -> BoardPart:
    own = sheet_part(case, board.rail, part)
    if own is None or part.weight is not None:
        return part
    factor = _factor(case, own)
    return replace(part, weight=part.prior * factor) if factor != 1 else part


def _factor(case: CaseFile, part: Part) -> float:
    """How much more a part weighs than its family, by verdict, by eye and by age."""
    facts = parts(case)[part.id]
    by_state = {PartState.FAILED: _FAILED_FACTOR, PartState.WORN: _WORN_FACTOR}
    look = case.rows.newest(LOOKS).get(part.id)
    has_findings = look is not None and bool(set(look.codes) - {SOUND})
    factor = max(by_state.get(facts.state, 1.0), _WORN_FACTOR if has_findings else 1.0)
    is_old = part.year is not None and clock.this_year() - part.year >= _OLD_YEARS
    own = case.workshop.priors.of_family(part.family.value) if part.family else 1.0
    return factor * own * (_OLD_FACTOR if is_old else 1.0)


def sheet_part(case: CaseFile, rail: str, part: BoardPart) -> Part | None:
    """The sheet's part that a map's part is: of its id, else the only one of its designator."""
    on_rail = [p for p in case.sheet.in_power_order if p.line == rail]
    named = [p for p in on_rail if name_of(case, p) == part.id]
    same = named or [p for p in on_rail if p.ref == part.ref]
    return same[0] if len(same) == 1 else None


def trace_csv(case: CaseFile, rail: str) -> str:
    """The readings on a rail's map as the trace's READINGS.csv."""
    from hale_rail.core.shorts.board_model import Kind, TraceReading
    from hale_rail.formats.boards.trace_csv import trace_text

    trace_rows = [reading_fields(reading) for reading in board_readings(case).get(rail, ())]
    return trace_text(
        TraceReading(**{**fields, "kind": Kind(fields["kind"])}) for fields in trace_rows
    )


def reading_fields(reading: Reading) -> dict[str, Any]:
    """A reading as the trace takes it; its line is its id."""
    kind = _KINDS[reading.procedure]
    reading_fields: dict[str, Any] = {"kind": kind, "line": reading.id}
    if reading.supersedes is not None:
        reading_fields["again"] = True
    if reading.procedure in (WARMTH, LEG_LIFTED):
        is_lifted = reading.procedure is LEG_LIFTED
        value = float(is_gone(reading.value)) if is_lifted else reading.value
        rank = {"is_rank": True} if reading.figures.get("is_rank") else {}
        return {**reading_fields, **rank, "plus": board_part_of(reading.target), "value": value}
    ends = ends_of(reading.target)
    reading_fields |= {
        "plus": ends.plus,
        "minus": ends.minus,
        "inject": ends.inject,
        "drain": ends.drain,
    }
    usual = 1e-4 if reading.procedure is BOARD_DROP else 0.1
    return {
        **reading_fields,
        "amps": reading.figures.get("amps", 1.0),
        "value": reading.value,
        "resolution": reading.digit or usual,
        "wires": round(reading.figures.get("wires", 2.0)),
        "is_nulled": bool(reading.figures.get("is_nulled", 0.0)),
    }


def point_of(rail: str, reading: TraceReading) -> Point:
    """The point on a rail's map at which a reading of a file was place."""
    place = NextReading(
        reading.kind.value, reading.plus, reading.minus, reading.inject, reading.drain
    )
    return proposed_point(rail, place)


def expected_words(case: CaseFile, point: Point) -> str:
    """What the likely hypotheses say of the reading that is to be taken next; "" for another."""
    rail = point.target.line
    board: TracedBoard | None = trace_of(case, rail).result
    if board is None or board.next is None or board.expected is None:
        return ""
    if proposed_point(rail, board.next).key != point.key:
        return ""
    low, high = (show(v, point.procedure.unit, 2) for v in board.expected)
    return f"{low} to {high}"


def proposed_point(rail: str, proposal: NextReading) -> Point:
    """The point of a proposed reading."""
    procedure: Procedure = _PROCEDURES[proposal.kind]
    if procedure in (WARMTH, LEG_LIFTED):
        return Point(board_part(rail, proposal.plus), procedure)
    ends = Ends(
        rail, proposal.plus, proposal.minus or "", proposal.inject or "", proposal.drain or ""
    )
    return Point(ends.target, procedure)


def shorted_rails(case: CaseFile) -> list[str]:
    """Rails that read low to ground on a side."""
    return [g.rail.key for g in grounds(case) if any(f.is_low for f in g.sides.values())]


class Culprit(Struct, frozen=True):
    """The part of a map that shorts its rail, and the sheet's part that it is."""

    part: BoardPart
    sheet_part: Part | None


def is_closed(case: CaseFile, rail: str) -> bool:
    """True once something was decided of the part that shorts a rail."""
    current_culprit = culprit(case, rail)
    if current_culprit is None or current_culprit.sheet_part is None:
        return False
    decision = parts(case)[current_culprit.sheet_part.id].decision
    return decision is not None and decision.stands


def culprit(case: CaseFile, rail: str) -> Culprit | None:
    """The part with whose leg lifted the rail's short was gone, the last so read."""
    board = board_maps(case).get(rail)
    lifted = [r for r in board_readings(case).get(rail, ()) if r.procedure is LEG_LIFTED]
    gone = [r for r in lifted if is_gone(r.value)]
    known = {part.id: part for part in board.map.parts} if board else {}
    part = known.get(board_part_of(gone[-1].target)) if gone else None
    return Culprit(part, sheet_part(case, rail, part)) if part else None
