"""Saying where parts stand: one by one, in rows, from a list."""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.actions.change import Change, changing
from hale_rail.case.file import open_case
from hale_rail.case.name_lookup import part_named, part_names
from hale_rail.case.places.places import names, places
from hale_rail.case.words import counted
from hale_rail.core.places.laying import XY
from hale_rail.core.places.place import Board, Place, Side, check_on_board
from hale_rail.core.places.rows import evenly, row_names
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.places.places_csv import read_places
from hale_rail.store import places as place_rows
from hale_rail.store import sheets
from hale_rail.store.database import Store

#: rows of a list whose problems are told
_TOLD = 5


def place_part(
    store: Store, number: str, part_id: int, place: Place, at: str | None = None
) -> None:
    """Place a part, or move it; raises NotFoundError for no such part or board, InputError for a
    place that is not on the board."""
    with changing(store, number, at) as change:
        name = _name(change, part_id)
        board = known_board(change, place.board)
        check_on_board(place, board)
        keep_places(change, {name: _on(board, place)})
        change.log("edited", f"{name} is on {board.name}, {place.side.words}")


def take_off(store: Store, number: str, part_id: int, at: str | None = None) -> None:
    """Take a part's place back; raises NotFoundError for no such part."""
    with changing(store, number, at) as change:
        name = _name(change, part_id)
        keep_places(change, {name: None})
        change.log("edited", f"{name} has no place any more")


def place_row(
    store: Store,
    number: str,
    refs: str,
    board_name: str,
    side: Side,
    ends: tuple[XY, XY],
    at: str | None = None,
) -> list[int]:
    """Place a row of parts evenly between two places; returns their ids.

    Raises InputError for a row that is not understood or names a part that the sheet lacks; none is
    placed then.
    """
    wanted = row_names(refs)
    case = open_case(store, number)
    try:
        parts = [part_named(case, name) for name in wanted]
    except InputError as error:
        words = f"{str(error)[:1].upper()}{str(error)[1:]}: leave it out, such as C20-C22, C24."
        raise InputError(words, field="refs") from error
    with changing(store, number, at) as change:
        board = known_board(change, board_name)
        placed: dict[str, Place | None] = {}
        for part, (x, y) in zip(parts, evenly(len(parts), *ends), strict=True):
            place = Place(board.name, side, x, y)
            check_on_board(place, board)
            placed[_name(change, part.id)] = place
        keep_places(change, placed)
        change.log("edited", f"{', '.join(placed)} are on {board.name}, {side.words}")
    return [part.id for part in parts]


def take_list(store: Store, number: str, text: str, at: str | None = None) -> int:
    """Take places from a table, all or none; returns how many.

    A board that is not known yet is made as large as its places need. Raises InputError naming the
    first lines that cannot be used.
    """
    rows, problems = read_places(text)
    case = open_case(store, number)
    told = [(problem.line, problem.text) for problem in problems]
    parts = {}
    for row in rows:
        try:
            part = part_named(case, row.ref)
            if row.place.board.lower() in case.rows.boards:
                check_on_board(row.place, case.rows.boards[row.place.board.lower()])
            parts[part.id] = row.place
        except InputError as error:
            told.append((row.line, str(error)))
    if told:
        lines = [f"line {line}: {why}" for line, why in sorted(told)[:_TOLD]]
        more = f"; {len(told) - _TOLD} more" if len(told) > _TOLD else ""
        raise InputError(f"Nothing was taken. {'; '.join(lines)}{more}")
    if not parts:
        raise InputError("There is no row in it.")
    with changing(store, number, at) as change:
        for board in _new_boards(change, list(parts.values())):
            put_board(change, board)
        keep_places(change, {_name(change, part_id): p for part_id, p in parts.items()})
        change.log("edited", f"Places of {counted(len(parts), 'part')} from a list")
    return len(parts)


def _new_boards(change: Change, placed: list[Place]) -> list[Board]:
    """The boards that a list names and nobody drew yet, with room for its places."""
    new: dict[str, list[Place]] = {}
    for place in placed:
        if place.board.lower() not in change.file.rows.boards:
            new.setdefault(place.board.lower(), []).append(place)
    boards = []
    for own in new.values():
        width = max(20.0, *(place.x_mm * 1.05 for place in own))
        height = max(20.0, *(place.y_mm * 1.05 for place in own))
        board = Board(own[0].board, round(width, 1), round(height, 1), is_measured=False)
        for place in own:
            check_on_board(place, board)
        boards.append(board)
    return boards


def known_board(change: Change, name: str) -> Board:
    """The board of a name; raises NotFoundError."""
    board = change.file.rows.boards.get(" ".join(name.split()).lower())
    if board is None:
        raise NotFoundError("There is no such board on this unit. Reload the page.")
    return board


def _on(board: Board, place: Place) -> Place:
    return Place(board.name, place.side, place.x_mm, place.y_mm)


def _name(change: Change, part_id: int) -> str:
    name = names(change.file).get(part_id)
    if name is None:
        raise NotFoundError("There is no such part on this unit.")
    return name


def keep_places(change: Change, placed: Mapping[str, Place | None]) -> None:
    """Keep places of a case by part's name."""
    type_id = change.file.case.unit_type_id
    place_rows.put_places(change.connection, change.case_id, type_id, dict(placed), change.at)


def put_board(change: Change, board: Board) -> None:
    """Keep a board of a case, or its new size."""
    type_id = change.file.case.unit_type_id
    place_rows.put_board(change.connection, change.case_id, type_id, board, change.at)


def keep_names(change: Change) -> None:
    """After the sheet was changed: places stay with their parts, whatever those are called now."""
    kept = change.file.rows.places
    if not kept:
        return
    stood = places(change.file)
    after = part_names(sheets.load(change.connection, change.file.case.sheet_id))
    moved = {
        name: stood.get(part_id)
        for part_id, name in after.items()
        if stood.get(part_id) != kept.get(name.upper())
    }
    if moved:
        keep_places(change, moved)
