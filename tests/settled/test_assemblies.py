"""Rails of other benches that two things short: what is found, what stays, what was read."""

from __future__ import annotations

import math

import pytest

from hale_rail.core.chances import chance_words, ruled_out
from hale_rail.core.shorts.isolate import Isolation, SearchState, isolate, verdict
from hale_rail.core.shorts.tree import SetReading, Tree, TreeItem
from tests.settled.judging import judge, rail_of

OL = math.inf
TREE = Tree(
    "+5 V",
    (
        TreeItem("psu", "", "supply", 1, 0),
        TreeItem("mb", "psu", "Main board", 2, 2),
        TreeItem("c1", "mb", "card 1", 1, 1),
        TreeItem("c2", "mb", "card 2", 1, 1),
        TreeItem("disk", "psu", "disk", 1, 1),
    ),
)
ALL = "psu mb c1 c2 disk"


def found(*readings: tuple[str, float | tuple[float, float]]) -> Isolation:
    """What readings say: the ids attached and ohms, or bounds of them."""
    sets = []
    for line, (ids, ohm) in enumerate(readings, start=2):
        low, high = ohm if isinstance(ohm, tuple) else (ohm, None)
        sets.append(SetReading(frozenset(ids.split()), low, line, high))
    return isolate(TREE, sets)


BEEP, NO_BEEP = (0.0, 50.0), (50.0, OL)
RUNS, DEAD = (5.0, OL), (0.0, 1.0)


@pytest.mark.parametrize(
    ("readings", "shorted", "finding"),
    [
        # one short, the rest read free of it
        ([(ALL, 0.4), ("psu mb c2 disk", 45.0)], ("c1",), SearchState.FOUND),
        ([(ALL, 0.4), ("psu mb c2 disk", OL)], ("c1",), SearchState.FOUND),
        # the rail still reads 0.6 Ω without card 1, which took half of the current
        ([(ALL, 0.3), ("psu mb c2 disk", 0.6)], ("c1",), SearchState.OPEN),
        # the supply is one of two, and is not all that there is
        ([(ALL, 0.25), ("psu", 0.5)], ("psu",), SearchState.OPEN),
        ([(ALL, 0.5), ("psu", 0.5)], ("psu",), SearchState.FOUND),
        # beeps
        ([(ALL, 0.4), ("psu mb c2 disk", NO_BEEP)], ("c1",), SearchState.FOUND),
        ([(ALL, BEEP), ("psu mb c2 disk", NO_BEEP)], ("c1",), SearchState.FOUND),
        # whether it runs
        ([(ALL, DEAD), ("psu mb c1 c2", RUNS)], ("disk",), SearchState.FOUND),
        ([(ALL, 120.0)], (), SearchState.NONE),
    ],
)
def test_what_is_found_and_what_stays(
    readings: list[tuple[str, float | tuple[float, float]]],
    shorted: tuple[str, ...],
    finding: SearchState,
) -> None:
    said = found(*readings)
    assert (said.shorted, said.finding) == (shorted, finding), verdict(said)


def test_while_another_short_stays_a_move_is_named() -> None:
    said = found((ALL, 0.3), ("psu mb c2 disk", 0.6))
    assert said.next and said.next.detach
    assert verdict(said).startswith("card 1 holds a short. Another short is still there. Detach")
    supply = found((ALL, 0.25), ("psu", 0.5))
    assert supply.next and "Nothing more" not in verdict(supply)


def test_a_short_that_no_reading_frees_is_read_without_it() -> None:
    """Card 1 alone is left by elimination: what the rest reads is not known yet."""
    said = found((ALL, 0.4), ("psu mb c1", 0.4), ("psu mb", OL), ("psu mb c1", 0.4))
    assert said.finding is SearchState.FOUND  # the supply and board read free of it
    alone = found(("psu mb c1", 0.4), ("psu mb", 0.41), ("psu", 0.42))
    assert alone.shorted == ("psu",)


@pytest.mark.parametrize("share", [0.45, 0.6, 0.9])
def test_two_shorts_are_both_found_to_the_end(share: float) -> None:
    """Follow the moves: 0.4 Ω in card 2, and a second one in the disk."""
    ohms = {"psu": 900.0, "mb": 60.0, "c1": 300.0, "c2": 0.4, "disk": 0.4 / share}
    attached, readings = frozenset(ALL.split()), []
    for _ in range(9):
        total = 1 / sum(1 / ohms[i] for i in attached)
        readings.append(SetReading(attached, total, len(readings) + 2))
        said = isolate(TREE, readings)
        if said.finding is not SearchState.OPEN:
            break
        assert said.next, verdict(said)
        for item in said.next.detach:
            attached -= TREE.below(item)
        attached |= set(said.next.reattach)
    assert said.finding is SearchState.FOUND
    assert set(said.shorted) == {"c2", "disk"}, verdict(said)


@pytest.mark.parametrize(
    ("rows", "side", "verdict_of", "says"),
    [
        (("+5 V|ground|attached|2k", "+5 V|ground|attached-reversed|0.6"), "attached", "short",
         "leads turned"),
        (("+5 V|ground|attached|45", "+5 V|ground|attached-reversed|12"), "attached", "good", ""),
        (("+5 V|ground|isolated|beep",), "isolated", "suspicious", "below 50 Ω"),
        (("+5 V|ground|isolated|no beep",), "isolated", "unproven", "Read the figure"),
        (("+12 V|ground|isolated|>20k",), "isolated", "good", "above 20 kΩ"),
        (("+5 V|ground|isolated|>20M",), "isolated", "good", "OL"),
        (("+5 V|ground|attached|<1.2",), "attached", "suspicious", "below 1.2 Ω"),
        (("+5 V|ground|attached|<0.5",), "attached", "short", "below 0.5 Ω"),
    ],
)  # fmt: skip
def test_a_rail_to_ground_of_another_bench(
    rows: tuple[str, ...], side: str, verdict_of: str, says: str
) -> None:
    ground = rail_of(judge(*rows), rows[0].split("|")[0])["ground"]
    assert ground[side] == verdict_of, ground
    assert says in ground["text"].replace("\u00a0", " ")


@pytest.mark.parametrize(("ground", "codes"), [
    ((), ["one-off"]),
    (("+12 V|ground|attached|120", "+12 V|ground|isolated|900"), ["one-off"]),
    # its short is read: what the rectifier may be is not guessed beside it
    (("+12 V|ground|attached|0.6", "+12 V|ground|isolated|900"), []),
    (("+12 V|ground|isolated|0.4",), []),
    # another rail's short explains nothing of this one
    (("+5 V|ground|attached|0.6", "+5 V|ground|isolated|200"), ["one-off"]),
    # mended and read again
    (("+12 V|ground|attached|0.6", "+12 V|ground|attached|120"), ["one-off"]),
])  # fmt: skip
def test_what_is_proven_silences_what_is_guessed(ground: tuple[str, ...], codes: list[str]) -> None:
    volts = ("+5 V|volts|machine|5.010", "+12 V|volts|machine|0.300", "−12 V|volts|machine|-12.01")
    said = judge(*ground, *volts)
    assert [pattern["code"] for pattern in said["patterns"]] == codes


@pytest.mark.parametrize(("share", "words"), [
    (0.0, "<1 %"), (1e-12, "<1 %"), (0.0099, "<1 %"), (0.01, "1 %"), (0.5, "50 %"),
    (0.989, "99 %"), (0.996, ">99 %"), (1 - 1e-12, ">99 %"), (1.0, ">99 %"),
])  # fmt: skip
def test_a_chance_is_neither_none_nor_all(share: float, words: str) -> None:
    assert chance_words(share).replace("\u00a0", " ") == words


@pytest.mark.parametrize(("bits", "words"), [
    (0.0, "0 %"), (-0.1, "0 %"), (1e-4, "<1 %"), (0.02, "1 %"), (0.5, "29 %"),
    (1.0, "50 %"), (2.0, "75 %"), (3.0, "88 %"),
])  # fmt: skip
def test_a_bit_rules_out_half_of_what_may_be_wrong(bits: float, words: str) -> None:
    assert ruled_out(bits).replace("\u00a0", " ") == words
