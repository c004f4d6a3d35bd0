"""Age of a wet capacitor as a risk, never as a verdict.

Source: the usual rule of twice the life for each 10 °C: L = L0·2^((T_rated − T_core)/10).
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

RATED_HOURS, RATED_C = 2000.0, 85.0
_LOW, _HIGH = 0.5, 1.0
_DAYS = 365.25


class Use(Struct, frozen=True):
    """How a unit was run: hours a day and the temperature at the capacitor's core in °C."""

    hours_a_day: float = 4.0
    core_c: float = 45.0


class AgeRisk(Struct, frozen=True):
    """Life in hours at this temperature, the share of it used, and `low`, `raised` or `high`."""

    life_h: float
    share: float
    risk: str


def life_hours(core_c: float, rated_h: float = RATED_HOURS, rated_c: float = RATED_C) -> float:
    """Life at a core temperature, in hours."""
    return float(rated_h * 2 ** ((rated_c - core_c) / 10))


def age_risk(
    years: float, use: Use, rated_h: float = RATED_HOURS, rated_c: float = RATED_C
) -> AgeRisk:
    """Share of life used after `years`; below half is low, above one high."""
    life = life_hours(use.core_c, rated_h, rated_c)
    share = max(0.0, years) * _DAYS * use.hours_a_day / life
    risk = "low" if share < _LOW else "raised" if share <= _HIGH else "high"
    return AgeRisk(life, share, risk)


#: years between inspections at most, and at least
MOST_YEARS, LEAST_YEARS = 5.0, 1.0


def years_to_inspection(ages: Sequence[float], use: Use) -> float:
    """Years until a unit is looked at again: half of what is left to its oldest wet capacitor.

    `ages` in years of every wet capacitor in it; at most five years, at least one.
    """
    hours = life_hours(use.core_c)
    left = [hours / (_DAYS * use.hours_a_day) - age for age in ages]
    return min(max(min(left, default=2 * MOST_YEARS) / 2, LEAST_YEARS), MOST_YEARS)
