"""Dummy loads: exact against brute force, by hand, and the lamp."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.power import assigning
from hale_rail.core.power.arrangements import Piece
from hale_rail.core.power.dummies import Wanted, dummies, lamp_load

from ...sizes import examples


def joined(volt: float, ohms: Sequence[float]) -> list[tuple[float, list[float]]]:
    """Every way to join resistors in this order: ohms in all, and the volts across each."""
    if len(ohms) == 1:
        return [(ohms[0], [volt])]
    total = sum(ohms)
    ways = [(total, [volt * r / total for r in ohms]),
            (1 / sum(1 / r for r in ohms), [volt] * len(ohms))]  # fmt: skip
    if len(ohms) == 3:
        a, b, c = ohms
        ways.append((1 / (1 / a + 1 / (b + c)), [volt, volt * b / (b + c), volt * c / (b + c)]))
        beside = b * c / (b + c)
        low = volt * beside / (a + beside)
        ways.append((a + beside, [volt - low, low, low]))
    return ways


def brute_force(rails: Sequence[Wanted], stock: Sequence[Piece]) -> tuple[int, float]:
    """Rails unmet and the sum of errors of the best choice, by trying every one."""
    each = [piece for piece in stock for _ in range(piece.qty)]

    def loads(wanted: Wanted) -> dict[frozenset[int], float]:
        volt = abs(wanted.rail_v)
        best: dict[frozenset[int], float] = {}
        for many in (1, 2, 3):
            for ids in itertools.permutations(range(len(each)), many):
                for ohm, across in joined(volt, [each[i].ohms for i in ids]):
                    error = abs(volt / ohm / wanted.amps - 1)
                    is_borne = all(
                        u * u / each[i].ohms <= each[i].watts / 2 * (1 + 1e-9)
                        and u <= each[i].max_volts * (1 + 1e-9)
                        for i, u in zip(ids, across, strict=True)
                    )
                    if is_borne and error <= 0.3 + 1e-9:
                        key = frozenset(ids)
                        best[key] = min(best.get(key, 1.0), error)
        return best

    options = [loads(wanted) for wanted in rails]

    def least(rail: int, used: frozenset[int]) -> tuple[int, float]:
        if rail == len(options):
            return 0, 0.0
        unmet, cost = least(rail + 1, used)
        found = [(unmet + 1, cost)]
        for ids, error in options[rail].items():
            if not ids & used:
                unmet, cost = least(rail + 1, used | ids)
                found.append((unmet, cost + error))
        return min(found)

    return least(0, frozenset())


PIECES = st.builds(
    Piece, st.sampled_from([1.0, 2.2, 3.3, 4.7, 6.8, 10.0, 22.0, 47.0]),
    st.sampled_from([2.0, 5.0, 10.0, 50.0]), st.sampled_from([8.0, 50.0, 200.0]),
    st.sampled_from([1, 1, 2]),
)  # fmt: skip
RAILS = st.builds(
    Wanted, st.sampled_from([5.0, 12.0, -12.0, -5.0]), st.sampled_from([0.2, 0.5, 1.0, 1.5, 2.0])
)


@settings(max_examples=examples(60), deadline=None)
@given(
    rails=st.lists(RAILS, min_size=1, max_size=3),
    stock=st.lists(PIECES, max_size=4),
    tries=st.sampled_from([0, 2000]),
)
def test_the_choice_is_as_good_as_the_best_of_all(
    rails: list[Wanted], stock: list[Piece], tries: int
) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(assigning, "_MOST_TRIES", tries)  # 0: by the model alone
        found = dummies(rails, stock)
    got = sum(abs(load.amps / load.wanted.amps - 1) for load in found.loads)
    unmet, cost = brute_force(rails, stock)
    assert len(found.unmet) == unmet
    assert got == pytest.approx(cost, abs=1e-9)


@settings(max_examples=examples(60), deadline=None)
@given(rails=st.lists(RAILS, min_size=1, max_size=4), stock=st.lists(PIECES, max_size=8))
def test_every_load_is_what_it_says(rails: list[Wanted], stock: list[Piece]) -> None:
    found = dummies(rails, stock)
    used = [p for load in found.loads for p in load.parts]
    for piece in stock:
        alike = [s for s in stock if (s.ohms, s.watts) == (piece.ohms, piece.watts)]
        there = sum(s.qty for s in alike)
        assert sum((p.ohms, p.watts) == (piece.ohms, piece.watts) for p in used) <= there
    for load in found.loads:
        heat = load.wanted.rail_v**2 / load.ohms
        assert load.heat_w == pytest.approx(heat)
        assert all(p.dissipates_w <= p.watts / 2 * (1 + 1e-6) for p in load.parts)
    assert len(found.loads) + len(found.unmet) == len(rails)


@pytest.mark.parametrize(("rail", "stock", "arrangement", "ohms", "used"), [
    ((5, 0.5), [(10, 10, 1)], "single", 10, [10]),
    ((5, 0.25), [(10, 10, 2)], "series", 20, [10, 10]),
    ((5, 1.5), [(10, 10, 3)], "parallel", 10 / 3, [10, 10, 10]),
    ((6, 1.5), [(6, 50, 1), (5, 50, 1), (7, 50, 1)], "series-parallel", 4, [6, 5, 7]),
    ((10, 1), [(5, 50, 1), (10, 50, 2)], "parallel-series", 10, [5, 10, 10]),
])  # fmt: skip
def test_by_hand(
    rail: tuple[float, float], stock: list[tuple[float, float, int]], arrangement: str,
    ohms: float, used: list[float],
) -> None:  # fmt: skip
    pieces = [Piece(r, w, 500, n) for r, w, n in stock]
    if arrangement == "parallel-series":
        pieces[1] = Piece(10, 10, 500, 2)  # one alone would get too hot
    (load,) = dummies([Wanted(*rail)], pieces).loads
    assert load.arrangement == arrangement
    assert load.ohms == pytest.approx(ohms)
    assert sorted(p.ohms for p in load.parts) == sorted(used)


def test_the_others_are_served_when_one_cannot_be() -> None:
    found = dummies([Wanted(5, 0.5), Wanted(12, 3)], [Piece(10, 10, 100)])
    assert [load.wanted.rail_v for load in found.loads] == [5]
    ((wanted, reason),) = found.unmet
    assert wanted.rail_v == 12
    assert "within 30 %" in reason


@pytest.mark.parametrize(("stock", "reason"), [
    ([], "empty"), ([Piece(10, 2, 100)], "too hot"), ([Piece(10, 50, 3)], "too hot"),
    ([Piece(10, 50, 100)], "other rails"),
])  # fmt: skip
def test_why_a_rail_gets_none(stock: list[Piece], reason: str) -> None:
    rails = [Wanted(5, 0.5)] * 2 if reason == "other rails" else [Wanted(5, 0.5)]
    assert reason in dummies(rails, stock).unmet[-1][1]


@pytest.mark.parametrize(("volts", "amps", "ohms", "watts"), [
    (5, 1.5, 3.3, 20), (12, 0.4, 33, 10), (-12, 0.1, 120, 3), (5, 5, 1.0, 50),
    (5, 0.001, 4700, 0.25), (12, 0.0012, 10_000, 0.25),
])  # fmt: skip
def test_without_a_stock_the_nearest_value_is_bought(
    volts: float, amps: float, ohms: float, watts: float
) -> None:
    (load,) = dummies([Wanted(volts, amps)]).loads
    assert [(p.ohms, p.watts) for p in load.parts] == [(ohms, watts)]
    assert load.amps == pytest.approx(abs(volts) / ohms)


def test_many_rails_and_few_resistors_are_answered() -> None:
    values = (1, 2.2, 3.3, 4.7, 6.8, 10, 15, 22, 33, 47)
    stock = [Piece(value, 25, 200) for value in values]
    found = dummies([Wanted(5, 1.0), Wanted(5, 0.9), Wanted(5, 0.8), Wanted(12, 1.0)], stock)
    assert len(found.unmet) <= 1


def test_a_lamp_draws_ten_times_as_much_cold() -> None:
    lamp = lamp_load(12, 12, 21)
    assert lamp.hot_a == pytest.approx(1.75)
    assert lamp.cold_a == pytest.approx(17.5)
    assert lamp_load(5, 12, 21).hot_a == pytest.approx(1.75 * (5 / 12) ** 0.55)
    for wrong in ((12, 6, 5), (12, 0, 5), (12, 12, -1), (0, 12, 21)):
        with pytest.raises(InputError):
            lamp_load(*wrong)


@pytest.mark.parametrize("rail", [Wanted(0, 1), Wanted(5, 0), Wanted(5, -1)])
def test_a_rail_that_cannot_be_is_refused(rail: Wanted) -> None:
    with pytest.raises(InputError):
        dummies([rail], [Piece(10, 10, 100)])
