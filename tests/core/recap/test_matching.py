"""Positions against parts: the short cuts find what every rule against every part finds."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.recap.any_part import fit, level_of
from hale_rail.core.recap.findings import Level
from hale_rail.core.recap.matching import groups_of, items_of, match, nearest, why_none
from hale_rail.core.recap.needs import CLASSES, Build, Mount, Needs, Role
from hale_rail.core.recap.offers import Drawer
from hale_rail.core.recap.substitutes import CAPACITANCE

from ...sizes import examples

FARADS = [10e-9, 12e-9, 100e-9, 120e-9, 220e-9, 1e-6, 10e-6, 47e-6, 100e-6, 150e-6]
lengths = st.none() | st.sampled_from([2.5, 5.0, 5.08, 7.5, 10.0, 15.0])

needs = st.builds(
    Needs,
    st.just("a"), st.just("C1"), st.sampled_from(Role), st.sampled_from(Family),
    st.sampled_from(FARADS), st.none() | st.sampled_from([6.3, 16.0, 25.0, 250.0]),
    st.sampled_from(["", *CLASSES]), st.none() | st.sampled_from(Mount), lengths, lengths,
    lengths, st.none() | st.just(105.0), st.none() | st.sampled_from([5.0, -12.0]),
    grade=st.none() | st.sampled_from(Grade), prefers_aluminium=st.booleans(),
)  # fmt: skip
builds = st.builds(
    Build,
    st.sampled_from(Family), st.sampled_from(FARADS),
    st.none() | st.sampled_from([6.3, 16.0, 25.0, 63.0, 250.0]),
    st.sampled_from(["", "X1/Y2", *CLASSES]), st.none() | st.sampled_from([85.0, 105.0]),
    st.none() | st.sampled_from(Mount), lengths, lengths, lengths,
    st.none() | st.sampled_from([0.01, 0.1, 1.0, 10.0]), st.none() | st.sampled_from([0.1, 2.0]),
)  # fmt: skip


@settings(max_examples=examples(300))
@given(needs, builds)
def test_the_quick_level_is_that_of_all_findings(asked: Needs, offered: Build) -> None:
    """A refusal has a miss and a reason, a flag a reason, and what is allowed neither."""
    found = fit(asked, offered)
    assert level_of(asked, offered) is found.level
    assert found.is_allowed == (found.level < Level.REFUSED)
    assert bool(found.texts) == (found.level > Level.ALLOWED)
    assert (found.miss > 0) == (found.level is Level.REFUSED)
    assert all(f.text and f.code for f in found.findings)


@settings(max_examples=examples(60))
@given(st.lists(needs, min_size=1, max_size=4), st.lists(builds, max_size=12), st.booleans())
def test_a_long_list_is_cut_by_capacitance_without_losing_a_part(
    demand: list[Needs], stock: list[Build], is_bank: bool
) -> None:
    named = [
        replace(one, id=f"p{n}", bank="b" if is_bank else "", qty=n + 1)
        for n, one in enumerate(demand)
    ]
    items = items_of([], [Drawer(f"S{n}", build, 9) for n, build in enumerate(stock)])
    matches = match(groups_of(named), items)
    assert len(matches) == len(groups_of(named))
    for found in matches:
        for place, item in enumerate(items):
            levels = [fit(one, item.build).level for one in found.group.positions]
            assert (place in found.flagged) == (max(levels) < Level.REFUSED)
            if place in found.flagged:
                flagged = sum(
                    one.qty
                    for one, level in zip(found.group.positions, levels, strict=True)
                    if level is Level.FLAGGED
                )
                assert found.flagged[place] == flagged
        if not found.flagged:
            best = nearest(found.group, items)
            assert why_none(found.group, best)
            misses = [
                sum(fit(one, item.build).miss for one in found.group.positions) for item in items
            ]
            if best is not None:
                assert misses[items.index(best)] == min(misses)


def film(farad: float, **more: float) -> Build:
    return Build(Family.FILM, farad, 100.0, **more)  # type: ignore[arg-type]


def wanted(name: str, farad: float = 1e-6, **more: str) -> Needs:
    return Needs(name, name.upper(), Role.COUPLING, Family.FILM, farad, 63.0, **more)  # type: ignore[arg-type]


def test_positions_of_a_bank_are_one_group_at_the_place_of_its_first() -> None:
    demand = [wanted("a", bank="x"), wanted("b"), wanted("c", bank="x"), wanted("d", bank="y")]
    groups = groups_of(demand)
    assert [[one.id for one in group.positions] for group in groups] == [["a", "c"], ["b"], ["d"]]
    assert [group.qty for group in groups] == [2, 1, 1]


def test_a_part_chosen_by_hand_is_the_only_one_that_may_stand_there() -> None:
    items = items_of([], [Drawer("S1", film(1e-6), 9), Drawer("S2", film(1.1e-6), 9)])
    one, both, none = (
        match(groups_of([wanted("a", sku=sku)]), items)[0] for sku in ("S2", "", "X")
    )
    assert list(one.flagged) == [1]
    assert list(both.flagged) == [0, 1]
    assert not none.flagged
    other = groups_of([wanted("a", sku="S1", bank="k"), wanted("b", sku="S2", bank="k")])[0]
    assert not match([other], items)[0].flagged
    assert "not the part that was chosen" in why_none(other, nearest(other, items))


WORDS = [
    ([wanted("a", 1e-6)], film(2e-6), "100\u00a0% larger"),
    ([wanted("a", 1e-6)], film(0.5e-6), "50\u00a0% too small"),
    ([wanted("a"), wanted("b", 4.7e-6)], film(1e-6), "(for B)"),
]


@pytest.mark.parametrize(("demand", "build", "words"), WORDS)
def test_the_nearest_miss_is_told_with_its_number(
    demand: list[Needs], build: Build, words: str
) -> None:
    bank = [replace(one, bank="k") for one in demand]
    items = items_of([], [Drawer("S1", build, 9)])
    told = why_none(groups_of(bank)[0], items[0])
    assert words in told
    assert "S1 (stock)" in told
    assert ("whole bank" in told) == (len(demand) > 1)


def test_every_role_has_its_band_and_every_band_holds_the_marked_value() -> None:
    assert set(CAPACITANCE) == set(Role)
    assert all(low >= 0 <= high for low, high in CAPACITANCE.values())
