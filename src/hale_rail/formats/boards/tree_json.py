"""Reads the attachment tree and its readings for `hale-rail isolate` (the open formats' contract).

TREE.json: `{"rail","items":[{"id","parent","name","prior","minutes"}]}`; READINGS.csv: `attached`
(ids joined by `;`) and `ohms`.
"""

from __future__ import annotations

import math
import re
from typing import Any

from hale_rail.core.errors import InputError
from hale_rail.core.procedures.boards import DEAD_OHM, RUNS_OHM
from hale_rail.core.quantities import Unit
from hale_rail.core.ranges import read_span
from hale_rail.core.shorts.board import Trouble
from hale_rail.core.shorts.tree import SetReading, Tree, TreeItem
from hale_rail.formats.json_fields import JsonObject, read_object
from hale_rail.formats.tables.fields import Fields, read_table

MOST_ITEMS = 60
#: minutes to detach a thing where nothing is told
USUAL_MINUTES = 2.0
#: what a running unit, and one that does not run, tell of ohms that were not read
RUNS = ("runs", "starts")
_SILENT = ("silent", "dead", "no start", "will not start", "does not start")


def read_tree(text: str) -> Tree:
    """A tree from its JSON; raises InputError saying what cannot be, and where."""
    data = read_object(text, "tree")
    items: dict[str, TreeItem] = {}
    for entry in data.entries("items", MOST_ITEMS):
        item = _item(entry)
        if item.id in items:
            raise entry.wrong("id", f"“{item.id}” is listed twice")
        items[item.id] = item
    roots = [item for item in items.values() if not item.parent]
    if len(roots) != 1:
        names = ", ".join(item.id for item in roots) or "none"
        raise data.wrong("items", f"need one root without a parent, the supply itself, not {names}")
    for item in items.values():
        if item.parent and item.parent not in items:
            raise data.wrong(f"items ({item.id}) parent", f"“{item.parent}” is not an item")
    ordered = _from_root(roots[0], items)
    if len(ordered) < len(items):
        lost = next(i for i in items if i not in {item.id for item in ordered})
        raise data.wrong(f"items ({lost}) parent", "leads round in a circle, not to the supply")
    if not sum(item.weight for item in ordered) > 0:
        raise data.wrong("items", "need a prior above 0 for at least one")
    return Tree(data.text("rail") or "the rail", tuple(ordered))


def _item(entry: JsonObject) -> TreeItem:
    item_id = entry.name("id")
    if not item_id or re.search(r"[;,]", item_id):
        raise entry.wrong("id", "is needed, without ; and ,")
    weight, minutes = entry.number("prior", None), entry.number("minutes", None)
    for name, value in (("prior", weight), ("minutes", minutes)):
        if value is not None and value < 0:
            raise entry.wrong(f"({item_id}) {name}", "is 0 and up")
    return TreeItem(
        item_id,
        entry.name("parent"),
        entry.text("name") or item_id,
        1.0 if weight is None else weight,
        USUAL_MINUTES if minutes is None else minutes,
    )


def _from_root(root: TreeItem, items: dict[str, TreeItem]) -> list[TreeItem]:
    """The items that hang on the root, each behind its parent."""
    tree_items = [root]
    for item in tree_items:
        tree_items += [other for other in items.values() if other.parent == item.id]
    return tree_items


def read_sets(text: str, tree: Tree) -> tuple[list[SetReading], list[Trouble]]:
    """Readings in the order of the file, and what is wrong with rows.

    Raises InputError when the heading cannot be used.
    """
    troubles: list[Trouble] = []

    def parse(line: int, fields: Fields) -> SetReading:
        ids = [word for word in re.split(r"[;,\s]+", fields["attached"]) if word]
        unknown = [i for i in ids if i not in tree.by_id]
        if unknown:
            raise InputError(f"“{unknown[0]}” is not an item of the tree")
        attached = tree.held_up(ids)
        is_alone = attached == {tree.root.id}
        ohm, high = _ohm(fields["ohms"], is_alone=is_alone)
        loose = [i for i in ids if i not in attached]
        if loose:
            parent = tree.by_id[loose[0]].parent
            text = f"{loose[0]} hangs on {parent}, which is off: it does not count as attached"
            troubles.append(Trouble(text, line=line))
        return SetReading(attached, ohm, line, high)

    rows, wrong = read_table(text, ("attached", "ohms"), parse)
    return rows, [*(Trouble(why, line=line) for line, why in wrong), *troubles]


def _ohm(text: str, *, is_alone: bool) -> tuple[float, float | None]:
    """Ohms, and the upper end of bounds; raises InputError."""
    if text.lower() in RUNS:
        return RUNS_OHM, math.inf
    if text.lower() in _SILENT and not is_alone:
        return 0.0, DEAD_OHM
    if text.lower() in _SILENT:
        raise InputError(
            "a supply that will not start unloaded is not a short: read ohms, power off"
        )
    if not text:
        raise InputError("ohms is missing")
    try:
        measured = read_span(text, Unit.OHM)
        return measured.value, measured.high if measured.is_span else None
    except InputError as error:
        raise InputError(f"ohms: {error}") from error


def tree_json(tree: Tree) -> dict[str, Any]:
    """The tree as JSON can say it, as `read_tree` reads it."""
    return {
        "rail": tree.rail,
        "items": [
            {
                "id": item.id,
                "parent": item.parent or None,
                "name": item.name,
                "prior": item.weight,
                "minutes": item.minutes,
            }
            for item in tree.items
        ],
    }
