"""The facet of boards: the map of each rail as it is drawn, and the tree of what hangs on it."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.places.places import names, places
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import board, connector
from hale_rail.core.parts.part import Part
from hale_rail.core.places.place import Board
from hale_rail.core.shorts.board_map import BoardMap
from hale_rail.core.shorts.tree import Tree, TreeItem, free_id
from hale_rail.core.supply.sheet import Rail
from hale_rail.formats.boards.board_json import read_board
from hale_rail.formats.boards.tree_json import read_tree
from hale_rail.store.boards import StoredDrawing

#: the supply itself in a tree that is made of the sheet
SUPPLY = "supply"
#: minutes to detach a connector and to take a board out
_CONNECTOR_MINUTES, _BOARD_MINUTES = 0.5, 4.0
#: what a board, a connector and the supply weigh before its tantalums are counted
_BOARD_WEIGHT, _CONNECTOR_WEIGHT, _SUPPLY_WEIGHT, _A_TANTALUM = 4.0, 0.2, 2.0, 1.0


class BoardOf(Struct, frozen=True):
    """A rail's map with the state in which it is stored."""

    rail: str
    map: BoardMap
    drawn: StoredDrawing


@facet
def board_maps(case: CaseFile) -> Mapping[str, BoardOf]:
    """The drawn maps, by rail."""
    return {
        rail: case.keep(("board", rail), drawn, partial(_read, rail, drawn))
        for rail, drawn in case.rows.maps.items()
    }


def _read(rail: str, drawn: StoredDrawing) -> BoardOf:
    return BoardOf(rail, read_board(drawn.body, is_drawing=True), drawn)


def map_family(part: Part) -> str:
    """A part's family as a map has it, for its prior: of capacitors without what follows a dash."""
    return part.family.value.partition("-")[0] if part.family else part.kind.code


def placed_on(case: CaseFile, rail: str, board: Board, drawn: BoardMap) -> list[Part]:
    """The parts of a rail that have a place on a board, and neither place nor pad on a map."""
    known, called = places(case), names(case)
    taken = {part.id for part in drawn.parts} | {pad.id for pad in drawn.rail.pads}
    taken |= {pad.id for pad in drawn.ground.pads} if drawn.ground else set()
    return [
        part
        for part in case.sheet.on_line(rail)
        if part.kind.is_measured
        and part.id in known
        and board.is_named(known[part.id].board)
        and called[part.id] not in taken
    ]


def tree_of(case: CaseFile, rail: Rail) -> Tree:
    """What hangs on a rail: as a person changed it, else as the sheet says."""
    drawn = case.rows.trees.get(rail.key)
    given = (drawn, case.rows.sheet_version)
    return case.keep(("tree", rail.key), given, partial(_tree, case, rail, drawn))


def _tree(case: CaseFile, rail: Rail, drawn: StoredDrawing | None) -> Tree:
    return read_tree(drawn.body) if drawn else sheet_tree(case, rail)


def sheet_tree(case: CaseFile, rail: Rail) -> Tree:
    """The connectors and boards that the sheet puts on a rail, with chances by their parts."""
    items = [TreeItem(SUPPLY, "", "supply", _SUPPLY_WEIGHT, 0.0)]
    parents = {"": SUPPLY}
    last = SUPPLY
    for part in case.sheet.in_power_order:
        if part.kind not in (connector.KIND, board.KIND) or not _carries(part, rail):
            continue
        item_id = free_id(part.ref, [item.id for item in items])
        is_board = part.kind is board.KIND
        weight = _BOARD_WEIGHT + _tantalums(case, part, rail) if is_board else _CONNECTOR_WEIGHT
        minutes = _BOARD_MINUTES if is_board else _CONNECTOR_MINUTES
        parent = parents.get(part.board, last if is_board else SUPPLY)
        items.append(TreeItem(item_id, parent, part.ref, weight, minutes))
        parents[part.ref] = item_id
        last = last if is_board else item_id
    return Tree(rail.key, tuple(items))


def _tantalums(case: CaseFile, joint: Part, rail: Rail) -> float:
    """What the tantalums of a board add; those behind its connector stand on it."""
    behind = {joint.ref, joint.board} - {""}
    on_it = [p for p in case.sheet.on_line(rail.key) if p.board in behind]
    return _A_TANTALUM * sum(p.family is Family.TANTALUM for p in on_it)


def _carries(part: Part, rail: Rail) -> bool:
    return rail.key in part.rails or (not part.rails and part.line == rail.key)
