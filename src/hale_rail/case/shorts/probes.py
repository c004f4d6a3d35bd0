"""What is known of a point on a board's map, or of a rail with some of its items attached."""

from __future__ import annotations

from hale_rail.case.file import CaseFile
from hale_rail.case.shorts.boards import board_maps, tree_of
from hale_rail.case.shorts.traces import expected_words
from hale_rail.core.procedures import BOARD_DROP, Point, Subject
from hale_rail.core.procedures.boards import attached_of, board_part_of, ends_of
from hale_rail.core.quantities import Unit, show
from hale_rail.core.shorts.board import IDEAL_GROUND
from hale_rail.core.targets import Target, TargetKind

_KINDS = (TargetKind.CONNECTION, TargetKind.PAD, TargetKind.ITEM)
#: what a bench supply injects until a person sets it otherwise
USUAL_A = 1.0


def is_on_board(point: Point) -> bool:
    """True for a point on a map, or of a rail with some items attached."""
    return point.target.kind in _KINDS


def is_drawn(case: CaseFile, target: Target) -> bool:
    """True where the unit has what is to be read."""
    if target.kind is TargetKind.ITEM:
        return case.sheet.rail(target.plus) is not None
    board = board_maps(case).get(target.line)
    if board is None:
        return False
    if target.kind is TargetKind.PAD:
        return board_part_of(target) in {part.id for part in board.map.parts}
    ends = ends_of(target)
    ground = board.map.ground
    known = {*board.map.rail.by_id, *(ground.by_id if ground else (IDEAL_GROUND,))}
    return {p for p in (ends.plus, ends.minus, ends.inject, ends.drain) if p} <= known


def board_subject(case: CaseFile, point: Point, limit_v: float) -> Subject:
    """The subject of such a point."""
    target = point.target
    if target.kind is TargetKind.ITEM:
        return Subject(target.plus, limit_v=limit_v, way=f"with {_names(case, target)} attached")
    if target.kind is TargetKind.PAD:
        part_id = board_part_of(target)
        board = board_maps(case).get(target.line)
        known = {part.id: part.name for part in board.map.parts} if board else {}
        return Subject(known.get(part_id, part_id), limit_v=limit_v)
    ends = ends_of(target)
    name = f"{ends.plus} (+) to {ends.minus} (−)"
    expected = expected_words(case, point)
    if point.procedure is not BOARD_DROP:
        return Subject(name, limit_v=limit_v, part_words=expected)
    amps = current_of(case, target.line)
    way = f"{show(amps, Unit.AMPERE)} in at {ends.inject}, out at {ends.drain}"
    return Subject(name, limit_v=limit_v, amps=amps, way=way, part_words=expected)


def _names(case: CaseFile, target: Target) -> str:
    """What is attached, by its names in the tree."""
    rail = case.sheet.rail(target.plus)
    tree = tree_of(case, rail) if rail else None
    known = {item.id: item.name for item in tree.items} if tree else {}
    return ", ".join(known.get(i, i) for i in attached_of(target)) or "nothing"


def current_of(case: CaseFile, rail: str) -> float:
    """What is injected into a rail: as with the last drop that was read on its map."""
    drops = [
        r
        for r in case.rows.readings.values()
        if r.procedure is BOARD_DROP and r.target.line == rail and r.id not in case.rows.aside
    ]
    return drops[-1].figures.get("amps", USUAL_A) if drops else USUAL_A
