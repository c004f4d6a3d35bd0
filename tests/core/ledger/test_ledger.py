"""What many cases give to the chances: only where the numbers allow, within its edges."""

from __future__ import annotations

import pytest

from hale_rail.core.ledger.ledger import (
    LEAST,
    MOST,
    Life,
    Priors,
    by,
    family_factors,
    fault_factors,
    offender_years,
)
from hale_rail.core.ledger.lifetimes import fit
from hale_rail.formats.codec import from_text, to_text


def lives(family: str, good: int, bad: int) -> list[Life]:
    """So many parts of a family, some bad."""
    return [Life(family, "", "", 20.0 + n % 7, n < bad) for n in range(good + bad)]


@pytest.mark.parametrize(
    ("own", "factor"),
    [
        ((30, 10), 0.25 / 0.125),  # ten of forty, against fifteen of a hundred and twenty
        ((31, 9), None),  # fewer than ten failures
        ((5, 10), None),  # fewer than twenty parts
    ],
)
def test_a_familys_factor_wants_ten_failures_of_twenty_parts(
    own: tuple[int, int], factor: float | None
) -> None:
    others = lives("film", 75, 5)
    found = dict(family_factors([*lives("tantalum", *own), *others]))
    assert found.get("tantalum") == (pytest.approx(factor, rel=1e-2) if factor else None)
    assert "film" not in found


def test_factors_stay_within_their_edges_and_nothing_gives_nothing() -> None:
    many = family_factors([*lives("a", 0, 40), *lives("b", 990, 10)])
    assert dict(many) == {"a": MOST, "b": pytest.approx(LEAST, abs=1e-3)}
    assert family_factors([]) == () and family_factors(lives("a", 50, 0)) == ()


def test_the_offenders_age_is_where_a_tenth_has_failed() -> None:
    ages = [24.0 + n for n in range(24)]
    found = fit(ages, [n % 2 == 0 for n in range(24)])
    assert found.b10_years
    assert offender_years(found) == pytest.approx(found.b10_years.value, abs=0.05)
    small = fit(ages, [n % 4 == 0 for n in range(24)])
    assert small.small and offender_years(small) is None and offender_years(None) is None


def test_a_faults_factor_is_how_often_it_was_met_against_its_weight() -> None:
    weights = {"flyback": {"dry": 1.0, "short": 1.0}}
    assert fault_factors({"flyback": {"dry": 9}}, weights) == ()
    found = {what: factor for _, what, factor in fault_factors({"flyback": {"dry": 10}}, weights)}
    assert found == {
        "dry": pytest.approx(11 / 6, abs=1e-3),
        "short": pytest.approx(LEAST, abs=1e-3),
    }


def test_what_is_kept_is_read_back() -> None:
    found = Priors((("tantalum", 1.5),), 30.0, (("flyback", "dry", 2.0),))
    assert from_text(to_text(found), Priors) == found
    assert (found.of_family("tantalum"), found.of_family("film")) == (1.5, 1.0)
    assert (found.of_fault("flyback", "dry"), found.of_fault("linear", "dry")) == (2.0, 1.0)


def test_groups_come_largest_first_and_the_nameless_is_left_out() -> None:
    mixed = [*lives("a", 1, 0), *lives("b", 3, 0), *lives("", 9, 0)]
    assert list(by(mixed, "family")) == ["b", "a"]
