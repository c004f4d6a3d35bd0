"""The short trace: on a board's map from a shorted rail to the part that shorts it."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.intake.drawings import Drawing, drawing_of
from hale_rail.case.shorts.boards import BoardOf, board_maps
from hale_rail.case.shorts.suspects import ShortSuspect, suspects
from hale_rail.case.shorts.suspects import verdict as spot_verdict
from hale_rail.case.shorts.traces import (
    ON_BOARDS,
    Culprit,
    board_readings,
    culprit,
    is_closed,
    proposed_point,
    shorted_rails,
    trace_of,
)
from hale_rail.case.worker import AnalysisState
from hale_rail.core.chances import chance_words
from hale_rail.core.parts.kinds import (
    bridge,
    choke,
    diode,
    fuse,
    regulator,
    schottky,
    transistor,
)
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import LEG_LIFTED, SPOT, WARMTH, Point, parse_point
from hale_rail.core.procedures.boards import board_part
from hale_rail.core.shorts.board import SETTLED, BoardPart
from hale_rail.core.shorts.without_map import SpotVerdict
from hale_rail.core.targets import Target
from hale_rail.errors import InputError
from hale_rail.formats.boards.trace_records import LikelyPart, NextReading, TracedBoard
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, Status
from hale_rail.store.readings import Reading

_SHOWN = 6
_CARRIERS = (
    fuse.KIND,
    bridge.KIND,
    diode.KIND,
    schottky.KIND,
    choke.KIND,
    regulator.KIND,
    transistor.KIND,
)
_NO_OUTCOME = AnalysisState(is_stopped=True)


class TraceCandidate(Struct, frozen=True):
    """A part of the map with its chance, and the points to lift it and to read its warmth."""

    part: BoardPart
    chance: float
    lift_key: str
    warm_key: str


class TraceLine(Struct, frozen=True):
    """A reading, what it said, and whether it is obeyed."""

    reading: Reading
    text: str
    is_obeyed: bool


class TracePage(Struct, frozen=True):
    """What the page shows of a rail.

    `outcome`: the trace of the first `shown` of `total` readings; `culprit`: the part with whose
    leg lifted the short was gone, `is_closed` once something was decided of it; `carried`: parts
    that the short's current went through; `drawing`: the paper that the map was drawn after;
    `order`: the sheet's parts on the rail, the nearest to the supply first; `suspects` those that
    may short it, and what was read at each without a map: `spots`.
    """

    rail: str
    rails: tuple[tuple[str, bool], ...]
    board: BoardOf | None
    outcome: AnalysisState
    shown: int
    total: int
    candidates: tuple[TraceCandidate, ...]
    lines: tuple[TraceLine, ...]
    culprit: Culprit | None
    is_closed: bool
    carried: tuple[Part, ...]
    drawing: Drawing | None
    order: tuple[str, ...]
    suspects: tuple[ShortSuspect, ...]
    spots: SpotVerdict

    @property
    def result(self) -> TracedBoard | None:
        """The trace's result, None while it is computed."""
        board: TracedBoard | None = self.outcome.shown
        return board

    @property
    def is_past(self) -> bool:
        """True while fewer readings are shown than were taken."""
        return self.shown < self.total


def rail_of_query(case: CaseFile, query: PageQuery) -> str:
    """The rail a page is about: as asked, else a shorted one with a map, a shorted one, any."""
    keys = [rail.key for rail in case.sheet.rails]
    if query.by in keys:
        return query.by
    target = asked_target(query)
    named = target.line if target and target.line in keys else ""
    low, drawn = shorted_rails(case), board_maps(case)
    best = [
        named,
        *(k for k in low if k in drawn),
        *low,
        *(k for k in keys if k in drawn),
        *keys,
    ]
    return next((key for key in best if key), "")


def asked_target(query: PageQuery) -> Target | None:
    """What the point of an address is read at; None where it names none."""
    try:
        return parse_point(query.at).target
    except InputError:
        return None


def page(case: CaseFile, query: PageQuery) -> TracePage:
    """The board of the rail with what its readings say."""
    rail = rail_of_query(case, query)
    board = board_maps(case).get(rail)
    readings = board_readings(case).get(rail, ())
    shown = int(query.load) if query.load.isdecimal() and len(query.load) < 6 else len(readings)
    shown = min(shown, len(readings))
    outcome = trace_of(case, rail, shown) if board and board.map.parts else _NO_OUTCOME
    low = shorted_rails(case)
    return TracePage(
        rail=rail,
        rails=tuple((r.key, r.key in low) for r in case.sheet.rails),
        board=board,
        outcome=outcome,
        shown=shown,
        total=len(readings),
        candidates=_candidates(rail, board, outcome),
        lines=_trace_lines(readings, outcome),
        culprit=culprit(case, rail),
        is_closed=is_closed(case, rail),
        carried=carried(case, rail),
        drawing=drawing_of(case, board.map.drawing) if board else None,
        order=tuple(p.ref for p in case.sheet.on_line(rail) if p.kind.is_measured),
        suspects=suspects(case, rail),
        spots=spot_verdict(case, rail),
    )


def _candidates(
    rail: str, board: BoardOf | None, outcome: AnalysisState
) -> tuple[TraceCandidate, ...]:
    traced: TracedBoard | None = outcome.shown
    if board is None or traced is None:
        return ()
    known = {part.id: part for part in board.map.parts}
    return tuple(
        TraceCandidate(
            known[c.id],
            c.probability,
            Point(board_part(rail, c.id), LEG_LIFTED).key,
            Point(board_part(rail, c.id), WARMTH).key,
        )
        for c in traced.candidates[:_SHOWN]
    )


def _trace_lines(readings: Sequence[Reading], outcome: AnalysisState) -> tuple[TraceLine, ...]:
    traced: TracedBoard | None = outcome.shown
    if traced is None:
        return ()
    by_id = {reading.id: reading for reading in readings}
    told = [(s.id, s.text, s.obeyed) for s in traced.said]
    told += [(p.line, p.text, False) for p in traced.problems if p.line is not None]
    return tuple(TraceLine(by_id[i], text, ok) for i, text, ok in sorted(told) if i in by_id)


def state(case: CaseFile) -> StageState:
    """Attention while a rail is low and its part is not found; done when none is or all are."""
    low = shorted_rails(case)
    open_still = [rail for rail in low if culprit(case, rail) is None]
    if open_still:
        return StageState(Status.ATTENTION, f"{', '.join(open_still)} to be traced")
    state = [(rail, culprit(case, rail)) for rail in board_maps(case)]
    named = [f"{rail}: {c.part.name}" for rail, c in state if c]
    return StageState(Status.DONE, ", ".join(named) or "no rail is short")


def carried(case: CaseFile, rail: str) -> tuple[Part, ...]:
    """What the short's current went through on its way, and may have hurt."""
    return tuple(p for p in case.sheet.on_line(rail) if p.kind in _CARRIERS and not p.board)


def points(case: CaseFile, query: PageQuery) -> Sequence[Point]:
    """What was read on the map, then what is to be read next."""
    rail = rail_of_query(case, query)
    board = board_maps(case).get(rail)
    if board is None and not query.load:
        return [suspect.point for suspect in suspects(case, rail)]
    if board is None or not board.map.parts or query.load:
        return ()
    read = [reading.point for reading in board_readings(case).get(rail, ())]
    traced: TracedBoard | None = trace_of(case, rail).result
    if traced and traced.next:
        return [*read, proposed_point(rail, traced.next)]
    lead = _settled(traced)
    if lead:
        lifted = proposed_point(rail, NextReading("lifted", lead.id))
        return [*read, lifted] if lifted not in read else read
    return read


def is_pending(case: CaseFile, query: PageQuery) -> bool:
    """True while what is to be read next is being computed."""
    rail = rail_of_query(case, query)
    board = board_maps(case).get(rail)
    return bool(board and board.map.parts) and trace_of(case, rail).is_waiting


def begun(case: CaseFile) -> bool:
    """True once something was read on a map."""
    return not case.rows.procedures.isdisjoint(ON_BOARDS)


def spot_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What millivolts at a suspect say beside those at the others."""
    part = case.sheet.part(reading.target.part_id)
    verdict = spot_verdict(case, part.line if part else "")
    if part and verdict.name == part.ref:
        return Meaning("failed", "the least", verdict.text)
    return Meaning.noted(verdict.text)


def meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What a reading on a map said of where the current goes."""
    outcome = trace_of(case, reading.target.line)
    if outcome.is_waiting:
        return Meaning.noted("What it says is being computed.")
    told = _trace_lines((reading,), outcome)
    if not told:
        return Meaning.noted(outcome.problem)
    text = told[0].text[:1].upper() + told[0].text[1:]
    text += "" if text.endswith("?") else "."
    if not told[0].is_obeyed:
        return Meaning("unproven", "set aside", text)
    lead = _settled(outcome.result)
    if lead:
        return Meaning("failed", f"{lead.ref} {chance_words(lead.probability)}", text)
    return Meaning("good", "taken", text)


def _settled(traced: TracedBoard | None) -> LikelyPart | None:
    """The likeliest part, once it is settled."""
    lead = traced.candidates[0] if traced and traced.candidates else None
    return lead if lead and lead.probability >= SETTLED else None


STAGE = Stage(
    key="trace",
    name="Trace",
    templates="shorts/trace",
    state=state,
    page=page,
    points=points,
    begun=begun,
    is_pending=is_pending,
    is_guarded=True,
    under="shorts",
    has_panel=True,
    meanings={procedure.code: meaning for procedure in ON_BOARDS} | {SPOT.code: spot_meaning},
)
