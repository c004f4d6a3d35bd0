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
from hale_rail.stages.shorts.trace import asked_target, rail_asked
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


def _rail(case: CaseFile, asked: PageQuery) -> Rail | None:
    return case.sheet.rail(rail_asked(case, asked))


def page(case: CaseFile, asked: PageQuery) -> IsolatePage | None:
    """The tree of the rail with chances, and what to detach."""
    from hale_rail.core.shorts.isolate import verdict

    rail = _rail(case, asked)
    if rail is None:
        return None
    found = isolation(case, rail)
    low = shorted_rails(case)
    names = {item.id: item.name for item in found.tree.items}
    attached = _attached_now(case, asked, rail)
    return IsolatePage(
        rail=rail.key,
        rails=tuple((r.key, r.key in low) for r in case.sheet.rails),
        nodes=_nodes(case, rail, attached),
        verdict=verdict(found) if found.readings else _FIRST.format(rail.key),
        finding=found.finding.value,
        move_minutes=found.next.minutes if found.next else None,
        move_bits=found.next.bits if found.next else None,
        readings=tuple(
            (r, ", ".join(names.get(i, i) for i in attached_of(r.target)))
            for r in set_readings(case).get(rail.key, ())
        ),
        is_on_board=any(i != found.tree.root.id for i in found.shorted),
    )


def _attached_now(case: CaseFile, asked: PageQuery, rail: Rail) -> frozenset[str]:
    """What is attached in the point that is asked for, else in the next reading's."""
    target = asked_target(asked)
    if target is None or target.kind is not TargetKind.ITEM or target.plus != rail.key:
        return next_set(case, rail)
    return isolation(case, rail).tree.held_up(attached_of(target))


def next_set(case: CaseFile, rail: Rail) -> frozenset[str]:
    """What is to be attached in the next reading: all of it at first."""
    found = isolation(case, rail)
    if not found.readings:
        return found.attached
    attached = found.attached
    if found.next:
        for item in found.next.detach:
            attached -= found.tree.below(item)
        attached |= set(found.next.reattach)
    return attached


def _nodes(case: CaseFile, rail: Rail, attached: frozenset[str]) -> tuple[TreeNode, ...]:
    found = isolation(case, rail)
    tree = found.tree
    moved = {*found.next.detach, *found.next.reattach} if found.next and found.readings else set()
    nodes: list[TreeNode] = []
    for item in _drawn_order(tree):
        ohm = found.own.get(item.id)
        turned = attached - tree.below(item.id) if item.id in attached else attached | {item.id}
        nodes.append(
            TreeNode(
                item.id,
                item.name,
                item.parent,
                found.chance[item.id],
                ohm,
                item.weight,
                item.minutes,
                item.id in attached,
                item.id in moved,
                found.chance[item.id] >= SETTLED,
                set_point(tree, tree.held_up(turned)).key if item.parent else "",
            )
        )
    return tuple(nodes)


def _drawn_order(tree: Tree) -> list[TreeItem]:
    """The items depth first, so that each stands below its parent."""
    found: list[TreeItem] = []
    left = [tree.root]
    while left:
        item = left.pop(0)
        found.append(item)
        left = [*tree.children[item.id], *left]
    return found


def state(case: CaseFile) -> StageState:
    """How far the search is, beside the list of stages."""
    low = shorted_rails(case)
    return StageState(Status.ATTENTION if low else Status.DONE, ", ".join(low))


def points(case: CaseFile, asked: PageQuery) -> Sequence[Point]:
    """What was read of the rail, then the next set."""
    rail = _rail(case, asked)
    if rail is None:
        return ()
    found = isolation(case, rail)
    read = [reading.point for reading in set_readings(case).get(rail.key, ())]
    if found.readings and found.next is None:
        return read
    following = set_point(found.tree, next_set(case, rail))
    return read if following in read else [*read, following]


def begun(case: CaseFile) -> bool:
    """True once a set was read."""
    return SET_OHMS in case.rows.taken


def meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What the rail's ohms with a set attached say."""
    from hale_rail.core.shorts.isolate import SearchState, verdict

    rail = case.sheet.rail(reading.target.plus)
    if rail is None:
        return Meaning("unproven", "noted", "")
    found = isolation(case, rail)
    is_short = not is_gone(reading.value)
    word = "short" if is_short else "not short"
    if found.finding is SearchState.FOUND:
        word = "found"
    return Meaning("failed" if is_short else "good", word, verdict(found))


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
