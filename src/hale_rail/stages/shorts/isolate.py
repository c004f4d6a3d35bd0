"""Isolate: the tree of what hangs on a shorted rail, and what to detach next."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.shorts.isolation import isolation, set_point, set_readings
from hale_rail.case.shorts.traces import shorted_rails
from hale_rail.core.procedures import SET_OHMS, Point
from hale_rail.core.procedures.boards import attached_of, is_gone
from hale_rail.core.shorts.board import SETTLED
from hale_rail.core.shorts.tree import Tree, TreeItem
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import TargetKind
from hale_rail.stages.shorts.trace import asked_target, rail_of_query
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, Status
from hale_rail.store.readings import Reading

_FIRST = "Read {} with everything attached first, power off."


class TreeNode(Struct, frozen=True):
    """An item of the tree as drawn, and what is known of it.

    `ohm` its own, None where not known; `toggle_key` the point with it turned on or off.
    """

    id: str
    name: str
    parent: str
    chance: float
    ohm: float | None
    weight: float
    minutes: float
    is_on: bool
    is_next: bool
    is_settled: bool
    toggle_key: str


class IsolatePage(Struct, frozen=True):
    """What the page shows of a rail."""

    rail: str
    rails: tuple[tuple[str, bool], ...]
    nodes: tuple[TreeNode, ...]
    verdict: str
    finding: str
    move_minutes: float | None
    move_bits: float | None
    readings: tuple[tuple[Reading, str], ...]
    is_on_board: bool


def _rail(case: CaseFile, query: PageQuery) -> Rail | None:
    return case.sheet.rail(rail_of_query(case, query))


def page(case: CaseFile, query: PageQuery) -> IsolatePage | None:
    """The tree of the rail with chances, and what to detach."""
    from hale_rail.core.shorts.isolate import verdict

    rail = _rail(case, query)
    if rail is None:
        return None
    current_isolation = isolation(case, rail)
    low = shorted_rails(case)
    names = {item.id: item.name for item in current_isolation.tree.items}
    attached = _attached_now(case, query, rail)
    return IsolatePage(
        rail=rail.key,
        rails=tuple((r.key, r.key in low) for r in case.sheet.rails),
        nodes=_nodes(case, rail, attached),
        verdict=verdict(current_isolation)
        if current_isolation.readings
        else _FIRST.format(rail.key),
        finding=current_isolation.finding.value,
        move_minutes=current_isolation.next.minutes if current_isolation.next else None,
        move_bits=current_isolation.next.bits if current_isolation.next else None,
        readings=tuple(
            (r, ", ".join(names.get(i, i) for i in attached_of(r.target)))
            for r in set_readings(case).get(rail.key, ())
        ),
        is_on_board=any(i != current_isolation.tree.root.id for i in current_isolation.shorted),
    )


def _attached_now(case: CaseFile, query: PageQuery, rail: Rail) -> frozenset[str]:
    """What is attached in the point that is asked for, else in the next reading's."""
    target = asked_target(query)
    if target is None or target.kind is not TargetKind.ITEM or target.plus != rail.key:
        return next_set(case, rail)
    return isolation(case, rail).tree.held_up(attached_of(target))


def next_set(case: CaseFile, rail: Rail) -> frozenset[str]:
    """What is to be attached in the next reading: all of it at first."""
    current_isolation = isolation(case, rail)
    if not current_isolation.readings:
        return current_isolation.attached
    attached = current_isolation.attached
    if current_isolation.next:
        for item in current_isolation.next.detach:
            attached -= current_isolation.tree.below(item)
        attached |= set(current_isolation.next.reattach)
    return attached


def _nodes(case: CaseFile, rail: Rail, attached: frozenset[str]) -> tuple[TreeNode, ...]:
    current_isolation = isolation(case, rail)
    tree = current_isolation.tree
    moved = (
        {*current_isolation.next.detach, *current_isolation.next.reattach}
        if current_isolation.next and current_isolation.readings
        else set()
    )
    nodes: list[TreeNode] = []
    for item in _drawn_order(tree):
        ohm = current_isolation.own.get(item.id)
        turned = attached - tree.below(item.id) if item.id in attached else attached | {item.id}
        nodes.append(
            TreeNode(
                item.id,
                item.name,
                item.parent,
                current_isolation.chance[item.id],
                ohm,
                item.weight,
                item.minutes,
                item.id in attached,
                item.id in moved,
                current_isolation.chance[item.id] >= SETTLED,
                set_point(tree, tree.held_up(turned)).key if item.parent else "",
            )
        )
    return tuple(nodes)


def _drawn_order(tree: Tree) -> list[TreeItem]:
    """The items depth first, so that each stands below its parent."""
    items: list[TreeItem] = []
    left = [tree.root]
    while left:
        item = left.pop(0)
        items.append(item)
        left = [*tree.children[item.id], *left]
    return items


def state(case: CaseFile) -> StageState:
    """How far the search is, beside the list of stages."""
    low = shorted_rails(case)
    return StageState(Status.ATTENTION if low else Status.DONE, ", ".join(low))


def points(case: CaseFile, query: PageQuery) -> Sequence[Point]:
    """What was read of the rail, then the next set."""
    rail = _rail(case, query)
    if rail is None:
        return ()
    current_isolation = isolation(case, rail)
    read = [reading.point for reading in set_readings(case).get(rail.key, ())]
    if current_isolation.readings and current_isolation.next is None:
        return read
    following = set_point(current_isolation.tree, next_set(case, rail))
    return read if following in read else [*read, following]


def begun(case: CaseFile) -> bool:
    """True once a set was read."""
    return SET_OHMS in case.rows.procedures


def meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What the rail's ohms with a set attached say."""
    from hale_rail.core.shorts.isolate import SearchState, verdict

    rail = case.sheet.rail(reading.target.plus)
    if rail is None:
        return Meaning.noted()
    current_isolation = isolation(case, rail)
    is_short = not is_gone(reading.value)
    word = "short" if is_short else "not short"
    if current_isolation.finding is SearchState.FOUND:
        word = "found"
    return Meaning("failed" if is_short else "good", word, verdict(current_isolation))


STAGE = Stage(
    key="isolate",
    name="Isolate",
    templates="shorts/isolate",
    state=state,
    page=page,
    points=points,
    begun=begun,
    is_guarded=True,
    under="shorts",
    meanings={SET_OHMS.code: meaning},
)
