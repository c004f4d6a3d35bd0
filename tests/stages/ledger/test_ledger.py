"""The ledger's page: groups by kind, one drawn, what found faults, what the chances took over."""

from __future__ import annotations

import time

import pytest

from hale_rail.core.ledger.lifetimes import Bounded, LifetimeFit
from hale_rail.stages.ledger import ledger
from hale_rail.stages.ledger.ledger import LedgerPage
from hale_rail.store.database import Store


def shown(store: Store, kind: str = "", group: str = "") -> LedgerPage:
    """The page once its fits are computed."""
    page = ledger.page(store, kind, group)
    while page.ledger.fits.is_waiting:
        time.sleep(0.02)
        page = ledger.page(store, kind, group)
    return page


@pytest.mark.parametrize(
    ("kind", "first"),
    [("family", "aluminium"), ("role", "decoupling"), ("nonsense", "aluminium")],
)
def test_the_largest_group_comes_first_with_its_n(demo: Store, kind: str, first: str) -> None:
    page = shown(demo, kind)
    assert next(iter(page.groups)) == first == page.here
    counts = [fitted.n for fitted in page.groups.values()]
    assert counts == sorted(counts, reverse=True)
    assert page.chart and page.chart.label.endswith("failed")


def test_a_group_is_drawn_as_asked_and_small_numbers_are_said_to_be_small(demo: Store) -> None:
    page = shown(demo, "family", "tantalum")
    assert page.here == "tantalum"
    by_name = page.groups
    assert by_name["tantalum"].small and "bounds are wide" in by_name["tantalum"].text
    assert by_name["film"].shape is None and "too few" in by_name["film"].text
    assert not by_name["aluminium"].small and by_name["aluminium"].text == ""


def test_what_found_faults_and_the_hours_come_largest_first(demo: Store) -> None:
    page = shown(demo)
    found = [row.bad_parts for row in page.tests]
    assert found == sorted(found, reverse=True) and all(r.parts >= r.bad_parts for r in page.tests)
    assert {"ESR", "the eye"} <= {row.words for row in page.tests}
    hours = [spent for _, spent in page.hours]
    assert hours == sorted(hours, reverse=True) and page.hours[0][0] == "Capacitors"


def test_where_the_chances_took_over_is_said_and_an_empty_workshop_says_nothing(
    demo: Store, store: Store
) -> None:
    used = " ".join(shown(demo).used)
    assert "Short trace: aluminium" in used and "suppressors past" in used
    assert "flyback supplies weigh as they were met here" in used
    empty = shown(store)
    assert (empty.used, empty.groups, empty.chart, empty.here) == ((), {}, None, "")


def test_bounds_are_drawn_around_the_curve_that_was_fitted() -> None:
    told = LifetimeFit(40, 20, Bounded(3.0, 2.0, 4.0), Bounded(30.0, 27.0, None), None, False)
    for years, low, high in ledger._bounds(told, 50.0):
        assert 0.0 <= low <= high <= 1.0, years
    assert ledger._bounds(LifetimeFit(1, 0, None, None, None, True, "too few"), 50.0) == []
