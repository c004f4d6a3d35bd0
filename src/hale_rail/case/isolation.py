"""The facet of isolation: which item on a rail holds the short, by what was read with some off."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import TYPE_CHECKING

from hale_rail.case.boards import tree_of
from hale_rail.case.file import CaseFile, facet
from hale_rail.core.procedures import SET_OHMS, Point
from hale_rail.core.procedures.of_boards import attached_of, attached_set
from hale_rail.core.shorts.tree import SetReading, Tree
from hale_rail.core.supply.sheet import Rail
from hale_rail.store.readings import Reading

if TYPE_CHECKING:
    from hale_rail.core.shorts.isolate import Isolation


@facet
def set_readings(case: CaseFile) -> Mapping[str, tuple[Reading, ...]]:
    """Standing readings of each rail with some items attached, in the order they were taken."""
    rows = case.rows
    found: dict[str, list[Reading]] = {}
    for reading in rows.readings.values() if SET_OHMS in rows.taken else ():
        if reading.procedure is SET_OHMS and reading.id not in rows.aside:
            found.setdefault(reading.target.plus, []).append(reading)
    return {rail: tuple(own) for rail, own in found.items()}


def isolation(case: CaseFile, rail: Rail) -> Isolation:
    """What a rail's tree and its readings say."""
    tree = tree_of(case, rail)
    readings = set_readings(case).get(rail.key, ())
    return case.keep(("isolation", rail.key), (tree, readings), partial(_isolate, tree, readings))


def _isolate(tree: Tree, readings: tuple[Reading, ...]) -> Isolation:
    from hale_rail.core.shorts.isolate import isolate

    known = [
        SetReading(tree.held_up(attached_of(r.target)), r.value, r.id)
        for r in readings
        if set(attached_of(r.target)) <= tree.by_id.keys()
    ]
    return isolate(tree, known)


def set_point(tree: Tree, attached: frozenset[str]) -> Point:
    """The point of a rail with these items attached."""
    ids = [item.id for item in tree.items if item.id in attached]
    return Point(attached_set(tree.rail, ids), SET_OHMS)
