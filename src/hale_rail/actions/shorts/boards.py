"""Drawing a board's map, changing what hangs on a rail, and closing a trace."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence

from msgspec.structs import replace

from hale_rail.actions.change import Change, changing
from hale_rail.actions.intake.sheets import append_parts
from hale_rail.actions.parts.decisions import append_decision
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.shorts.boards import board_maps
from hale_rail.case.shorts.traces import culprit
from hale_rail.case.words import counted
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.quantities import plain_number
from hale_rail.core.shorts.board_map import BoardMap, MapPhoto
from hale_rail.core.shorts.tree import Tree, TreeItem, free_id
from hale_rail.core.supply.sheet import Rail
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.boards.board_json import board_json, read_board
from hale_rail.formats.boards.tree_json import read_tree, tree_json
from hale_rail.formats.photos import encode_photo
from hale_rail.formats.units.parts_text import read_parts
from hale_rail.formats.units.pasted_parts import beside
from hale_rail.store import boards, photos, unit_types
from hale_rail.store.boards import StoredDrawing
from hale_rail.store.database import Store

#: the largest weight, and the most minutes
_MOST = 10_000
#: ids are parts of addresses
_ID = re.compile(r"[^/@>~!;|]{1,24}")


def save_map(
    store: Store,
    number: str,
    rail: str,
    text: str,
    version: int = 0,
    at: str | None = None,
    *,
    is_new: bool = False,
) -> int:
    """Keep a rail's map as drawn; returns its version.

    `version`: that of the map which was drawn on, 0 for none; ConflictError when another tab drew
    since. `is_new`: the map comes from a file and takes the place of the one that is there. Raises
    InputError saying what cannot be, and where.
    """
    drawn = read_board(text, is_drawing=True)
    _check_ids(drawn)
    body = json.dumps(board_json(drawn), ensure_ascii=False)
    with changing(store, number, at) as change:
        _rail(change.file, rail)
        known = change.file.rows.maps.get(rail)
        if not is_new and (known.version if known else 0) != version:
            raise ConflictError("Another tab changed this map first. Reload it, then draw on.")
        if known is None or is_new:
            pads, parts = counted(len(drawn.rail.pads), "pad"), counted(len(drawn.parts), "part")
            change.log("edited", f"Map of {rail}: {pads}, {parts}")
        _put(change, known, rail, body)
    return change.after.rows.maps[rail].version


def _put(change: Change, known: StoredDrawing | None, rail: str, body: str) -> None:
    unit_type = change.file.case.unit_type_id
    boards.put_map(change.connection, change.case_id, unit_type, known, rail, body, change.at)
    if unit_type is not None:
        unit_types.count_change(change.connection, unit_type)


def _rail(case: CaseFile, key: str) -> Rail:
    rail = case.sheet.rail(key)
    if rail is None:
        raise NotFoundError("There is no such rail on this unit.")
    return rail


def _check_ids(drawn: BoardMap) -> None:
    ground = drawn.ground.pads if drawn.ground else ()
    ids = [*(p.id for p in (*drawn.rail.pads, *ground)), *(p.id for p in drawn.parts)]
    bad = [i for i in ids if not _ID.fullmatch(i)]
    if bad:
        raise InputError(
            f"“{bad[0][:40]}” cannot be an id: up to 24 characters, without / @ > ~ ! ; |"
        )


def put_picture(
    store: Store, number: str, rail: str, name: str, data: bytes, at: str | None = None
) -> None:
    """Put a photo under a rail's map, as wide as the board; raises InputError for no photo."""
    encoded = encode_photo(data, name)
    sha256 = photos.put_file(store.folder, encoded.full, encoded.thumb)
    seen = board_maps(open_case(store, number)).get(rail)
    drawn = seen.map if seen else BoardMap()
    wide, tall = encoded.size
    width = drawn.size_mm[0]
    size = drawn.size_mm if drawn.rail.pads else (width, round(width * tall / wide, 1))
    picture = MapPhoto(sha256, width / wide)
    body = json.dumps(board_json(replace(drawn, picture=picture, size_mm=size)), ensure_ascii=False)
    with changing(store, number, at) as change:
        _rail(change.file, rail)
        known = change.file.rows.maps.get(rail)
        if known != (seen.drawn if seen else None):
            raise ConflictError(
                "Another tab changed this map first. Reload it, then put the photo."
            )
        change.log("photo", f"Under the map of {rail}: {name}")
        _put(change, known, rail, body)


def put_drawn(change: Change, rail: str, seen: StoredDrawing | None, body: str) -> None:
    """Keep a map made of another; raises ConflictError when that is no longer the newest."""
    known = change.file.rows.maps.get(rail)
    if known != seen:
        raise ConflictError("Another tab changed this map first. Reload it, then try again.")
    _put(change, known, rail, body)


def save_tree(
    store: Store, number: str, rail: str, rows: Sequence[tuple[str, str, str, str, str]]
) -> None:
    """Keep what hangs on a rail: (id, name, parent, weight, minutes) as typed, the supply first.

    An item without a name is taken off with what hangs on it; one without an id is new. Raises
    InputError naming the row.
    """
    items = _items(rows)
    body = json.dumps(tree_json(Tree(rail, tuple(items))), ensure_ascii=False)
    read_tree(body)
    with changing(store, number) as change:
        _rail(change.file, rail)
        boards.put_tree(change.connection, change.case_id, rail, body, change.at)
        change.log("edited", f"What hangs on {rail}: {', '.join(i.name for i in items)}")


def _items(rows: Sequence[tuple[str, str, str, str, str]]) -> list[TreeItem]:
    kept: dict[str, TreeItem] = {}
    gone: set[str] = set()
    for item_id, name, parent, weight, minutes in rows:
        if not name.strip() or parent in gone:
            if item_id:
                gone.add(item_id)
            continue
        new_id = item_id or free_id(name, kept)
        kept[new_id] = TreeItem(
            new_id, parent, name.strip(), _number(weight, name), _number(minutes, name)
        )
    if not kept:
        raise InputError("The supply itself stays: give it a name.")
    return list(kept.values())


def _number(text: str, name: str) -> float:
    try:
        number = plain_number(text)
    except InputError as error:
        raise InputError(f"{name.strip()}: {error}") from error
    if not 0 <= number <= _MOST:
        raise InputError(f"{name.strip()}: {text} is not from 0 to {_MOST}.")
    return number


def close_trace(
    store: Store, number: str, rail: str, line: str = "", at: str | None = None
) -> None:
    """Put the part that shorts a rail on the recap list; `line` adds it to a sheet that lacks it.

    Raises InputError while no leg was lifted with the short gone, or the line is not of that part.
    """
    culprit(open_case(store, number), rail)  # the map is read before the lock, then kept
    with changing(store, number, at) as change:
        current_culprit = culprit(change.file, rail)
        if current_culprit is None:
            raise InputError("No leg was lifted yet that took the short away.")
        own = current_culprit.sheet_part
        part_id = own.id if own else _added(change, rail, current_culprit.part.ref, line)
        reason = f"it shorted {rail}: the short was gone with its leg lifted"
        append_decision(change, part_id, current_culprit.part.ref, DecisionKind.REPLACE, reason)


def _added(change: Change, rail: str, ref: str, line: str) -> int:
    """The id of the part that a trace named, put on the sheet by its line."""
    if any(part.ref == ref and part.line == rail for part in change.file.sheet.parts):
        raise InputError("It is on the sheet more than once: say in Capacitors which one goes.")
    _check_line(change.file, rail, ref, line)
    return append_parts(change, beside(change.file.sheet, line))[0]


def _check_line(case: CaseFile, rail: str, ref: str, line: str) -> None:
    """Raises InputError, at the line, for one that is not of the part that shorts the rail."""
    if not line.strip():
        text = f"{ref} is not on the sheet: write its line, such as {ref} 10u 16V tant {rail}."
        raise InputError(text, field="line")
    lines = read_parts(line, case.sheet.rails)
    own = lines[0].part if len(lines) == 1 else None
    if own is None:
        problem = next((one.problem for one in lines if one.problem), "")
        raise InputError(problem or "One line, of one part.", field="line")
    if (own.ref, own.line) != (ref, rail):
        text = f"The part that shorts it is {ref} on {rail}, not {own.ref} on {own.line}."
        raise InputError(text, field="line")
