"""A rail's map begun from the places of its parts: pads where they stand, the photo under them."""

from __future__ import annotations

import json

from msgspec.structs import replace

from hale_rail.actions.change import changing
from hale_rail.actions.shorts.boards import put_drawn
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.places.pictures import make
from hale_rail.case.places.places import View, names, places, rail_board, views
from hale_rail.case.shorts.boards import board_maps, map_family, placed_on
from hale_rail.case.words import counted
from hale_rail.core.places.place import Board, Side
from hale_rail.core.shorts.board import BoardPart
from hale_rail.core.shorts.board_map import BoardMap, MapPhoto
from hale_rail.core.shorts.copper import Pad
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.boards.board_json import board_json
from hale_rail.formats.photos import thumb_of
from hale_rail.formats.places.view_images import SMALL
from hale_rail.store import photos
from hale_rail.store.database import Store


def begin_map(store: Store, number: str, rail: str, at: str | None = None) -> int:
    """Put a rail's placed parts on its map, each with a pad of its own; returns how many are new.

    A map that is not begun gets the board's size and its photo. Raises InputError where no part of
    the rail has a place, or the map has them all.
    """
    case = open_case(store, number)
    if case.sheet.rail(rail) is None:
        raise NotFoundError("There is no such rail on this unit.")
    board = rail_board(case, rail)
    if board is None:
        raise InputError(f"No part of {rail} has a place yet.")
    seen = board_maps(case).get(rail)
    drawn = seen.map if seen else _blank(store, case, board)
    begun, count = _with_places(case, drawn, rail, board)
    if not count:
        raise InputError("Every placed part is on the map already.")
    body = json.dumps(board_json(begun), ensure_ascii=False)
    with changing(store, number, at) as change:
        put_drawn(change, rail, seen.drawn if seen else None, body)
        words = f"{counted(count, 'part')} from their places on {board.name}"
        change.log("edited", f"Map of {rail}: {words}")
    return count


def _with_places(case: CaseFile, drawn: BoardMap, rail: str, board: Board) -> tuple[BoardMap, int]:
    """The map with the rail's placed parts, and how many it lacked."""
    known, called = places(case), names(case)
    new = placed_on(case, rail, board, drawn)
    pads = [Pad(called[p.id], round(known[p.id].x_mm, 2), round(known[p.id].y_mm, 2)) for p in new]
    parts = [BoardPart(called[p.id], p.ref, map_family(p), called[p.id], "") for p in new]
    layer = replace(drawn.rail, pads=(*drawn.rail.pads, *pads))
    return replace(drawn, rail=layer, parts=(*drawn.parts, *parts)), len(new)


def _blank(store: Store, case: CaseFile, board: Board) -> BoardMap:
    """An empty map as large as the board, over its newest photo of the top side if it has one."""
    own = [v for v in views(case) if v.frame and board.is_named(v.row.board)]
    best = max(own, key=lambda view: (view.row.side is Side.TOP, view.photo.id), default=None)
    size = (round(board.width_mm, 1), round(board.height_mm, 1))
    return BoardMap(name=board.name, size_mm=size, picture=_picture(store, best) if best else None)


def _picture(store: Store, view: View) -> MapPhoto | None:
    """The straightened photo as the picture under a map."""
    frame = view.frame
    if frame is None:
        return None
    data = (make(store.folder, view) / SMALL).read_bytes()
    sha256 = photos.put_file(store.folder, data, thumb_of(data, SMALL))
    scale = frame.width_mm / frame.small_px[0]
    return MapPhoto(sha256, scale, frame.left, frame.top)
