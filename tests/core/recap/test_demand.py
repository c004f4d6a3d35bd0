"""What each school replaces, and how the list is grouped."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.parts.decisions import DECISIONS, Decision, DecisionKind
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.recap.demand import Position, RecapPolicy, choose, kept_by_decision, recap_list
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.core.supply.templates import make_part

YEAR = 2026
STIFF = Rail("+12 V", 12.0, Regulation.LINEAR, None, 1.2)
SOFT = Rail("−5 V", -5.0, Regulation.LINEAR, None, 0.2)


def cap(family: Family, number: int = 1, **more: Any) -> Part:
    known = {"value": 10e-6, "volt": 16.0, "family": family, **more}
    return make_part(number, f"C{number}", "capacitor", "+12 V", 1, **known)


AL = cap(Family.ALUMINIUM)
TANT16, TANT25 = cap(Family.TANTALUM), cap(Family.TANTALUM, volt=25.0)
OLD_FILM = cap(Family.SUPPRESSION_FILM, year=1984)
NEW_FILM = cap(Family.SUPPRESSION_FILM, year=2010)
PAPER = cap(Family.SUPPRESSION_PAPER)
FILM = cap(Family.FILM)
G, W, X, U = Verdict.GOOD, Verdict.WORN, Verdict.FAILED, Verdict.UNPROVEN


@pytest.mark.parametrize(
    ("part", "verdict", "rail", "schools"),
    [
        (AL, X, STIFF, "proven offenders blanket"),
        (AL, W, STIFF, "proven offenders blanket"),
        (AL, G, STIFF, "blanket"),
        (AL, U, STIFF, "blanket"),
        (AL, None, STIFF, "blanket"),
        (FILM, X, STIFF, "proven offenders blanket"),
        (FILM, G, STIFF, ""),
        (TANT16, G, STIFF, "offenders blanket"),  # 12 V on 16 V: above half
        (TANT25, G, STIFF, "blanket"),  # below half it lasts
        (TANT16, G, SOFT, "blanket"),
        (cap(Family.TANTALUM, volt=None), None, STIFF, "offenders blanket"),
        (OLD_FILM, G, None, "offenders blanket"),
        (NEW_FILM, G, None, ""),
        (PAPER, G, None, "offenders blanket"),  # of unknown year counts as old
    ],
)
def test_choice(part: Part, verdict: Verdict | None, rail: Rail | None, schools: str) -> None:
    position = Position(part, verdict, rail)
    taken = [s for s in RecapPolicy if choose(position, s, YEAR).replace]
    assert [s.name.lower() for s in taken] == schools.split()
    assert all(choose(position, s, YEAR).why for s in RecapPolicy)


def test_what_was_replaced_stays_on_every_list() -> None:
    fitted = Position(AL, None, STIFF, Decision(DecisionKind.FITTED, ""))
    assert all(choose(fitted, school, YEAR).replace for school in RecapPolicy)


@pytest.mark.parametrize(
    ("decision", "replaced"), [("keep", False), ("left-out", False), ("replace", True)]
)
def test_the_persons_word_outranks_every_school(decision: str, replaced: bool) -> None:
    for verdict in (G, X, None):
        position = Position(AL, verdict, STIFF, Decision(DECISIONS[decision], "hard to find"))
        for school in RecapPolicy:
            choice = choose(position, school, YEAR)
            assert choice.replace is replaced
            assert "hard to find" in choice.why
        assert kept_by_decision([position]) == ([] if replaced else [position])


def test_grouped_by_what_is_bought() -> None:
    positions = [
        Position(AL, X, STIFF),
        Position(cap(Family.ALUMINIUM, 2), W, STIFF),
        Position(cap(Family.ALUMINIUM, 3, volt=25.0), X, STIFF),
        Position(cap(Family.ALUMINIUM, 4, value=2200e-6), X, STIFF),
        Position(cap(Family.TANTALUM, 5), X, STIFF),
    ]
    lines = recap_list(positions, RecapPolicy.PROVEN, YEAR)
    assert [(line.quantity, line.refs, line.volt) for line in lines] == [
        (1, "C4", 16.0),
        (2, "C1, C2", 16.0),
        (1, "C5", 16.0),
        (1, "C3", 25.0),
    ]
    assert lines[1].whys == ("found failed", "found worn")
    assert [text.split("\u00a0")[0] for text in lines[0].spellings] == [
        "",
        "2200000",
        "2200",
    ]


PARTS = st.sampled_from([AL, TANT16, TANT25, OLD_FILM, NEW_FILM, PAPER, FILM])
POSITIONS = st.builds(
    Position, PARTS, st.sampled_from([None, *Verdict]), st.sampled_from([STIFF, SOFT, None])
)


@given(st.lists(POSITIONS, max_size=12))
def test_each_school_replaces_at_least_what_the_one_before_does(positions: list[Position]) -> None:
    for position in positions:
        taken = [choose(position, school, YEAR).replace for school in RecapPolicy]
        assert taken == sorted(taken)
    counts = [sum(x.quantity for x in recap_list(positions, s, YEAR)) for s in RecapPolicy]
    assert counts == sorted(counts)
    assert counts[-1] <= len(positions)
