"""Draws the attachment tree, left to right: supply, harness, boards, cards."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from markupsafe import Markup

from hale_rail.core.chances import chance_words
from hale_rail.core.quantities import Unit, show
from hale_rail.stages.shorts.isolate import IsolatePage, TreeNode
from hale_rail.web import addresses
from hale_rail.web.frame import svg

_STEP, _ROW, _BOX, _TALL = 196.0, 58.0, 164.0, 40.0
#: how far a detached item stands from its branch
_GAP = 26.0


def draw_tree(page: IsolatePage, number: str) -> Markup:
    """The tree of a page; each item but the supply turns on and off by a press."""
    places = _places(page.nodes)
    wide = max((x for x, _ in places.values()), default=0.0) + _BOX + 60
    tall = (max((y for _, y in places.values()), default=0.0)) + _TALL + 34
    branches = [_branch(node, places, _is_apart(node, page.nodes)) for node in page.nodes]
    items = [_item(node, places[node.id], number, page.rail) for node in page.nodes]
    label = f"What hangs on {page.rail}. {page.verdict}"
    box = (-10, -14, max(wide, 640), tall)
    return svg.drawing("tree", box, label, *branches, *items, role="group")


def _places(nodes: Sequence[TreeNode]) -> dict[str, tuple[float, float]]:
    """Where each item is; a chain stays in one row, a second child begins the next."""
    places: dict[str, tuple[float, float]] = {}
    used: dict[str, int] = {}
    row = 0
    for node in nodes:
        if used.get(node.parent, 0):
            row += 1
        used[node.parent] = used.get(node.parent, 0) + 1
        left = places[node.parent][0] + _STEP if node.parent else 0.0
        places[node.id] = (left + (_GAP if _is_apart(node, nodes) else 0.0), row * _ROW)
    return places


def _is_apart(node: TreeNode, nodes: Sequence[TreeNode]) -> bool:
    """True for an item that was taken off itself; what hangs on it stays with it."""
    return not node.is_on and any(n.id == node.parent and n.is_on for n in nodes)


def _branch(node: TreeNode, places: Mapping[str, tuple[float, float]], is_apart: bool) -> Markup:
    """The line from its parent; broken before a detached item."""
    if not node.parent:
        return Markup("")
    (x0, y0), (x1, y1) = places[node.parent], places[node.id]
    start, end = x0 + _BOX, x1 - (_GAP if is_apart else 0)
    middle = (start + end) / 2
    y0, y1 = y0 + _TALL / 2, y1 + _TALL / 2
    name = "branch line dashed" if is_apart else "branch line"
    return svg.path(name, "M", start, y0, "H", middle, "V", y1, "H", end)


def _item(node: TreeNode, at: svg.Point, number: str, rail: str) -> Markup:
    x, y = at
    percent = chance_words(node.chance)
    states = {"off": not node.is_on, "next": node.is_next, "settled": node.is_settled}
    name = " ".join(["capsule", "box", *(word for word, is_so in states.items() if is_so)])
    drawn = [
        svg.rect(name, x, y, _BOX, _TALL, rx=8),
        svg.rect("chance-bar", x, y + _TALL - 7, _BOX * node.chance, 7, rx=3),
        svg.text("item-name", x + 10, y + 18, node.name),
        svg.text("item-name digits end", x + _BOX - 10, y + 18, percent),
        svg.text("faint", x + 10, y + 31, _words(node)),
    ]
    if node.is_next:
        drawn.insert(0, svg.rect("ring", x - 6, y - 6, _BOX + 12, _TALL + 12, rx=12))
    if not node.toggle_key:
        return svg.group("", *drawn)
    verb = "Detach" if node.is_on else "Attach"
    address = addresses.stage(number, "isolate", node.toggle_key, by=rail)
    return svg.link(address, f"{verb} {node.name}, {percent}", *drawn, data_item="")


def _words(node: TreeNode) -> str:
    words = []
    if node.ohm is not None:
        words.append("open" if math.isinf(node.ohm) else show(node.ohm, Unit.OHM, 2))
    if not node.is_on:
        words.append("off")
    if node.is_next:
        words.append(f"{'detach' if not node.is_on else 'attach'} · {node.minutes:g} min")
    return " · ".join(words)
