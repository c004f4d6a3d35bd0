"""The facet of isolation: which item on a rail holds the short, by what was read with some off."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import TYPE_CHECKING

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.shorts.boards import tree_of
from hale_rail.case.shorts.grounds import grounds
from hale_rail.core.procedures import SET_OHMS, Condition, Point
from hale_rail.core.procedures.boards import attached_of, attached_set
from hale_rail.core.shorts.tree import SetReading, Tree
from hale_rail.core.supply.sheet import Rail
from hale_rail.store.readings import Reading

if TYPE_CHECKING:
    from hale_rail.core.shorts.isolate import Isolation


@facet
def set_readings(case: CaseFile) -> Mapping[str, tuple[Reading, ...]]:
    """Standing readings of each rail with some items attached, in the order they were taken."""
    rows = case.rows
    readings: dict[str, list[Reading]] = {}
    for reading in rows.readings.values() if SET_OHMS in rows.procedures else ():
        if reading.procedure is SET_OHMS and reading.id not in rows.aside:
            readings.setdefault(reading.target.plus, []).append(reading)
    return {rail: tuple(own) for rail, own in readings.items()}


def isolation(case: CaseFile, rail: Rail) -> Isolation:
    """What a rail's tree and its readings say."""
    tree = tree_of(case, rail)
    readings = set_readings(case).get(rail.key, ())
    ground = ground_sets(case, rail)
    given = (tree, readings, ground)
    return case.keep(("isolation", rail.key), given, partial(_isolate, *given))


def ground_sets(case: CaseFile, rail: Rail) -> tuple[tuple[bool, Reading], ...]:
    """What was read to ground already: with all attached (True), and with the supply alone."""
    own = next((g for g in grounds(case) if g.rail.key == rail.key), None)
    if own is None:
        return ()
    return tuple(
        (side is Condition.ATTACHED, facts.usual)
        for side, facts in own.sides.items()
        if facts.usual is not None
    )


def _isolate(
    tree: Tree, readings: tuple[Reading, ...], ground: tuple[tuple[bool, Reading], ...]
) -> Isolation:
    from hale_rail.core.shorts.isolate import isolate

    whole, alone = tree.held_up(tree.by_id), frozenset({tree.root.id})
    sets = [(whole if is_attached else alone, r) for is_attached, r in ground]
    sets += [
        (tree.held_up(attached_of(r.target)), r)
        for r in readings
        if set(attached_of(r.target)) <= tree.by_id.keys()
    ]
    last = {attached: place for place, (attached, _) in enumerate(sets)}
    newest = [
        one for place, one in enumerate(sets) if last[one[0]] == place or place >= len(ground)
    ]
    # what is attached now is as at the last reading; the connector was plugged in again before it
    if not readings:
        newest.sort(key=lambda one: one[0] == whole)
    return isolate(tree, [set_reading(attached, r) for attached, r in newest])


def set_reading(attached: frozenset[str], reading: Reading) -> SetReading:
    """A reading with a set attached, in the form that the search takes."""
    high = reading.high if reading.high != reading.value else None
    return SetReading(attached, reading.value, reading.id, high)


def set_point(tree: Tree, attached: frozenset[str]) -> Point:
    """The point of a rail with these items attached."""
    ids = [item.id for item in tree.items if item.id in attached]
    return Point(attached_set(tree.rail, ids), SET_OHMS)
