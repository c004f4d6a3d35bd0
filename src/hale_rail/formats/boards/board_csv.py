"""Reads and writes a board's map as one table, for spreadsheets.

Columns: `what` (pad, segment, part), `net` (rail, ground), `id`, `x`, `y`, `a`, `b`, `length_mm`,
`width_mm`, `copper_um`, `milliohm`, `ref`, `family`, `rail_pad`, `ground_pad`, `prior`. Without a
ground pad in the table the ground is ideal.
"""

from __future__ import annotations

from typing import Any

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import plain_number
from hale_rail.core.shorts.board_map import BoardMap
from hale_rail.formats.boards.board_json import board_json, board_of
from hale_rail.formats.tables.fields import Fields, read_table, table_text

_FIELDS = {
    "pad": ("id", "x", "y"),
    "segment": ("a", "b", "length_mm", "width_mm", "copper_um", "milliohm"),
    "part": ("id", "ref", "family", "rail_pad", "ground_pad", "prior"),
}
_NUMBERS = ("x", "y", "length_mm", "width_mm", "copper_um", "milliohm", "prior")
COLUMNS = (
    "what", "net", "id", "x", "y", "a", "b", "length_mm", "width_mm", "copper_um", "milliohm",
    "ref", "family", "rail_pad", "ground_pad", "prior",
)  # fmt: skip
_LISTS = {"pad": "pads", "segment": "segments"}


def read_board_csv(text: str) -> BoardMap:
    """A map from its table; raises InputError naming the line or the place."""
    rows, wrong = read_table(text, ("what",), _row)
    if wrong:
        line, why = wrong[0]
        raise InputError(f"line {line}: {why}")
    nets: dict[str, dict[str, list[dict[str, Any]]]] = {
        name: {"pads": [], "segments": []} for name in ("rail", "ground")
    }
    parts: list[dict[str, Any]] = []
    for what, net, fields in rows:
        (parts if what == "part" else nets[net][_LISTS[what]]).append(fields)
    ground: Any = nets["ground"] if nets["ground"]["pads"] else "ideal"
    return board_of({"rail": nets["rail"], "ground": ground, "parts": parts})


def _row(_: int, fields: Fields) -> tuple[str, str, dict[str, Any]]:
    what, net = fields["what"].lower(), fields.get("net", "").lower() or "rail"
    if what not in _FIELDS:
        raise InputError(f"what is {', '.join(_FIELDS)}, not “{fields['what']}”")
    if net not in ("rail", "ground"):
        raise InputError(f"net is rail or ground, not “{net}”")
    row: dict[str, Any] = {}
    for name in _FIELDS[what]:
        value = fields.get(name, "")
        if value:
            row[name] = _number(name, value) if name in _NUMBERS else value
    return what, net, row


def _number(name: str, value: str) -> float:
    try:
        return plain_number(value)
    except InputError as error:
        raise InputError(f"{name}: {error}") from error


def write_board_csv(board: BoardMap) -> str:
    """The map as a table, as `read_board_csv` reads it."""
    data = board_json(board)
    rows = []
    for net in ("rail", "ground"):
        layer = data[net] if isinstance(data[net], dict) else {}
        for what, name in _LISTS.items():
            rows += [{"what": what, "net": net, **one} for one in layer.get(name, ())]
    rows += [{"what": "part", **one} for one in data["parts"]]
    return table_text(COLUMNS, [[str(row.get(name, "")) for name in COLUMNS] for row in rows])
