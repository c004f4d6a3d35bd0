"""Age as a risk: the ten-degree rule by its closed form, and its thresholds."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.parts.age import Use, age_risk, life_hours


@pytest.mark.parametrize(
    ("core", "hours"), [(85, 2000), (75, 4000), (65, 8000), (45, 32000), (95, 1000)]
)
def test_life_doubles_each_ten_degrees(core: float, hours: float) -> None:
    assert life_hours(core) == pytest.approx(hours)


@pytest.mark.parametrize(
    ("years", "use", "risk"),
    [
        (10, Use(4, 45), "low"),  # 14 610 h of 32 000
        (20, Use(4, 45), "raised"),  # 29 220 h
        (40, Use(4, 45), "high"),  # 58 440 h
        (40, Use(0, 45), "low"),
        (2, Use(24, 65), "high"),  # 17 532 h of 8 000
    ],
)
def test_risk(years: float, use: Use, risk: str) -> None:
    assert age_risk(years, use).risk == risk


@given(st.floats(0, 60), st.floats(0, 24), st.floats(20, 100), st.floats(0.1, 30))
def test_older_or_hotter_is_never_safer(
    years: float, hours: float, core: float, more: float
) -> None:
    base = age_risk(years, Use(hours, core)).share
    assert age_risk(years + more, Use(hours, core)).share >= base
    assert age_risk(years, Use(hours, core + more)).share >= base
