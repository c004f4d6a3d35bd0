"""Which assembly holds the short, against sets of items that are shorted on purpose."""

from __future__ import annotations

import math
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.shorts.board import SETTLED
from hale_rail.core.shorts.isolate import (
    READING_MINUTES,
    SearchState,
    isolate,
    verdict,
)
from hale_rail.core.shorts.tree import SetReading, Tree, TreeItem

TREE = Tree(
    "+12 V",
    (
        TreeItem("psu", "", "supply", 1, 0),
        TreeItem("mb", "psu", "main board", 5, 4),
        TreeItem("d", "psu", "disk", 3, 1),
        TreeItem("c1", "mb", "card 1", 2, 1),
        TreeItem("c2", "mb", "card 2", 2, 1),
    ),
)
ALL = "psu mb d c1 c2"


def read(*rows):
    return [SetReading(TREE.held_up(ids.split()), ohm) for ids, ohm in rows]


def test_nothing_read_gives_the_priors_as_shares():
    found = isolate(TREE, [])
    for item in TREE.items:
        assert found.chance[item.id] == pytest.approx(item.weight / 13, abs=0.01)
    assert found.finding is SearchState.OPEN and found.next.detach == ("d",)


@pytest.mark.parametrize(
    ("rows", "shorted", "own"),
    [
        # the reading after which the short is gone names what was taken off
        ([(ALL, 0.4), ("psu mb d c1", 5000)], {"c2"}, {"c2": 0.4}),
        # nothing but the supply is left, and it reads short
        ([(ALL, 0.4), ("psu", 0.4)], {"psu"}, {"psu": 0.4}),
        # two: the first takes half of the conductance with it
        ([(ALL, 0.2), ("psu mb c1 c2", 0.4), ("psu mb c1", math.inf)], {"d", "c2"},
         {"d": 0.4, "c2": 0.4}),
        # a weak short is one against what else hangs there
        ([(ALL, 3.0), ("psu mb c1 c2", 900.0)], {"d"}, {"d": 3.01}),
    ],
)  # fmt: skip
def test_the_items_that_take_the_short_away_are_named_with_their_ohms(rows, shorted, own):
    found = isolate(TREE, read(*rows))
    assert found.finding is SearchState.FOUND and set(found.shorted) == shorted
    assert found.next is None
    for item, ohm in own.items():
        assert found.own[item] == pytest.approx(ohm, rel=0.02)
        assert TREE.by_id[item].name in verdict(found)
    for item in TREE.items:
        assert (found.chance[item.id] >= SETTLED) == (item.id in shorted)


def test_no_short_is_said_to_be_none():
    found = isolate(TREE, read((ALL, 500.0)))
    assert found.finding is SearchState.NONE and found.next is None
    assert verdict(found).startswith("No short is there now")


def test_readings_that_contradict_each_other_are_said_to():
    found = isolate(TREE, read((ALL, 5000), ("psu mb", 0.4)))
    assert found.is_torn and found.finding is SearchState.OPEN
    assert "contradict each other" in verdict(found)
    assert not isolate(TREE, read((ALL, 0.4), ("psu mb", 0.4))).is_torn


def test_one_of_two_is_named_while_the_other_is_sought():
    found = isolate(TREE, read((ALL, 0.2), ("psu mb c1 c2", 0.4)))
    assert found.shorted == ("d",) and found.finding is SearchState.OPEN
    assert found.next.reattach == () and found.next.detach
    assert "Another short is still there" in verdict(found)


def test_things_are_plugged_in_again_only_when_detaching_tells_nothing():
    gone = isolate(TREE, read((ALL, 0.4), ("psu d", 5000)))
    assert gone.next.reattach == ("mb",) and gone.next.detach == ()
    assert "without card 1, card 2" in verdict(gone)
    remains = isolate(TREE, read((ALL, 0.4), ("psu mb c1 c2", 0.4)))
    assert remains.next.reattach == ()


def test_a_move_costs_its_items_minutes_and_half_a_minute_to_read():
    move = isolate(TREE, read((ALL, 0.4))).next
    minutes = sum(TREE.by_id[i].minutes for i in (*move.detach, *move.reattach))
    assert move.minutes == READING_MINUTES + minutes
    assert 0 < move.bits <= 1


@settings(max_examples=25, deadline=None)
@given(seed=st.integers(0, 10**6))
def test_every_hunt_ends_at_what_is_shorted(seed):
    rng = random.Random(seed)
    items = [TreeItem("psu", "", "supply", 1, 0)]
    for i in range(rng.randint(2, 7)):
        parent = rng.choice(items).id
        items.append(
            TreeItem(f"i{i}", parent, f"item {i}", rng.choice((1, 2, 5)), rng.choice((1, 4)))
        )
    tree = Tree("+5 V", tuple(items))
    shorted = rng.choice(items).id
    siemens = {i.id: 1 / (0.4 if i.id == shorted else rng.uniform(100, 9000)) for i in items}

    def reading(attached):
        ohm = 1 / sum(siemens[i] for i in attached)
        return SetReading(attached, float(f"{ohm:.3g}"))

    readings = [reading(tree.held_up(tree.by_id))]
    while move := (found := isolate(tree, readings)).next:
        attached = readings[-1].attached
        for item in move.detach:
            attached -= tree.below(item)
        attached |= set(move.reattach)
        assert attached == tree.held_up(attached)
        readings.append(reading(attached))
        assert len(readings) <= 2 * len(items)
    assert found.finding is SearchState.FOUND and found.shorted == (shorted,)
