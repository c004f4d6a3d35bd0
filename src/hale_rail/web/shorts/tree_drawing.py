"""Draws the attachment tree, left to right: supply, harness, boards, cards."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from markupsafe import Markup, escape

from hale_rail.core.chances import chance_words
from hale_rail.core.quantities import Unit, show
from hale_rail.stages.shorts.isolate import IsolatePage, TreeNode
from hale_rail.web import addresses
from hale_rail.web.frame.markers import text

_STEP, _ROW, _BOX, _TALL = 196.0, 58.0, 164.0, 40.0
#: how far a detached item stands from its branch
_GAP = 26.0


def draw_tree(page: IsolatePage, number: str) -> Markup:
    """The tree of a page; each item but the supply turns on and off by a press."""
    places = _places(page.nodes)
    wide = max((x for x, _ in places.values()), default=0.0) + _BOX + 60
    tall = (max((y for _, y in places.values()), default=0.0)) + _TALL + 34
    box = f"-10 -14 {max(wide, 640):.0f} {tall:.0f}"
    drawn = "".join(_branch(node, places, _is_apart(node, page.nodes)) for node in page.nodes)
    drawn += "".join(_item(node, places[node.id], number, page.rail) for node in page.nodes)
    label = escape(f"What hangs on {page.rail}. {page.verdict}")
    return Markup(
        f'<svg class="tree" viewBox="{box}" role="group" aria-label="{label}">{drawn}</svg>'
    )


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


def _branch(node: TreeNode, places: Mapping[str, tuple[float, float]], is_apart: bool) -> str:
    """The line from its parent; broken before a detached item."""
    if not node.parent:
        return ""
    (x0, y0), (x1, y1) = places[node.parent], places[node.id]
    start, end = x0 + _BOX, x1 - (_GAP if is_apart else 0)
    middle = (start + end) / 2
    y0, y1 = y0 + _TALL / 2, y1 + _TALL / 2
    name = "branch off" if is_apart else "branch"
    return f'<path class="{name}" d="M{start:.0f} {y0:.0f}H{middle:.0f}V{y1:.0f}H{end:.0f}"/>'


def _item(node: TreeNode, at: tuple[float, float], number: str, rail: str) -> str:
    x, y = at
    percent = chance_words(node.chance)
    state = ["capsule"]
    state += [word for word, is_so in (("off", not node.is_on), ("next", node.is_next),
                                       ("settled", node.is_settled)) if is_so]  # fmt: skip
    ring = ""
    if node.is_next:
        ring = (
            f'<rect class="ring" x="{x - 6:.0f}" y="{y - 6:.0f}" width="{_BOX + 12:.0f}"'
            f' height="{_TALL + 12:.0f}" rx="12"/>'
        )
    bar = _BOX * node.chance
    drawn = (
        f'{ring}<rect class="{" ".join(state)}" x="{x:.0f}" y="{y:.0f}" width="{_BOX:.0f}"'
        f' height="{_TALL:.0f}" rx="8"/>'
        f'<rect class="chance-bar" x="{x:.0f}" y="{y + _TALL - 7:.0f}" width="{bar:.1f}" height="7"'
        ' rx="3"/>'
        f"{text('item-name', x + 10, y + 18, node.name)}"
        f"{text('item-chance', x + _BOX - 10, y + 18, percent)}"
        f"{text('item-ohm', x + 10, y + 31, _words(node))}"
    )
    if not node.toggle_key:
        return f"<g>{drawn}</g>"
    verb = "Detach" if node.is_on else "Attach"
    address = escape(addresses.stage(number, "isolate", node.toggle_key, by=rail))
    spoken = escape(f"{verb} {node.name}, {percent}")
    return f'<a href="{address}" aria-label="{spoken}" data-item="">{drawn}</a>'


def _words(node: TreeNode) -> str:
    words = []
    if node.ohm is not None:
        words.append("open" if math.isinf(node.ohm) else show(node.ohm, Unit.OHM, 2))
    if not node.is_on:
        words.append("off")
    if node.is_next:
        words.append(f"{'detach' if not node.is_on else 'attach'} · {node.minutes:g} min")
    return " · ".join(words)
