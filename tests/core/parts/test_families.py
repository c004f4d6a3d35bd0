"""Typical ESR and leakage limits against the tables, interpolated independently by numpy."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.parts.families import Family, Grade, leakage_limit_a, typical_esr

AL, TANT = Family.ALUMINIUM, Family.TANTALUM
CV = [50, 100, 250, 500, 1000, 2500, 5000, 10e3, 16e3, 25e3, 50e3, 100e3, 250e3]
LOW_OHM = [3.0, 2.2, 1.4, 0.95, 0.50, 0.22, 0.12, 0.065, 0.046, 0.032, 0.021, 0.015, 0.011]


@pytest.mark.parametrize(
    ("family", "micro", "volt", "grade", "ohm"),
    [
        (AL, 100, 10, Grade.LOW, 0.50),
        (AL, 100, 10, Grade.GENERAL, 1.50),
        (AL, 1000, 16, Grade.LOW, 0.046),
        (AL, 2500, 10, Grade.GENERAL, 0.096),
        (AL, 220, 200, Grade.GENERAL, 0.30),
        (AL, 220, 200, Grade.LOW, 0.15),
        (AL, 10, 160, Grade.GENERAL, 2.2),
        (Family.ALUMINIUM_BIPOLAR, 10, 50, Grade.LOW, 0.95),
        (TANT, 10, 16, Grade.GENERAL, 1.5),
        (TANT, 47, 6.3, Grade.LOW, 0.6),
    ],
)
def test_table_entries(family: Family, micro: float, volt: float, grade: Grade, ohm: float) -> None:
    found = typical_esr(family, micro * 1e-6, volt, grade)
    assert found is not None
    assert found.ohm == pytest.approx(ohm)
    assert not found.clamped


@given(st.floats(50, 250e3))
def test_interpolates_log_log(cv: float) -> None:
    found = typical_esr(AL, cv / 10 * 1e-6, 10.0, Grade.LOW)
    independent = np.exp(np.interp(np.log(cv), np.log(CV), np.log(LOW_OHM)))
    assert found is not None
    assert found.ohm == pytest.approx(float(independent), rel=1e-9)


@pytest.mark.parametrize(("micro", "volt", "ohm"), [(1, 25, 9.0), (100_000, 50, 0.033)])
def test_clamps_outside_the_table_and_says_so(micro: float, volt: float, ohm: float) -> None:
    found = typical_esr(AL, micro * 1e-6, volt)
    assert found is not None
    assert (found.ohm, found.clamped) == (pytest.approx(ohm), True)


@pytest.mark.parametrize("family", [Family.FILM, Family.CERAMIC, Family.SUPPRESSION_PAPER])
def test_no_figure_for_families_without_a_table(family: Family) -> None:
    assert typical_esr(family, 1e-6, 100.0) is None


@pytest.mark.parametrize(
    ("family", "micro", "volt", "micro_a"),
    [(AL, 1000, 25, 250), (AL, 1, 16, 3), (TANT, 10, 16, 1.6), (TANT, 1, 10, 0.5)],
)
def test_leakage_limit(family: Family, micro: float, volt: float, micro_a: float) -> None:
    limit = leakage_limit_a(family, micro * 1e-6, volt)
    assert limit == pytest.approx(micro_a * 1e-6)
    assert leakage_limit_a(Family.FILM, micro * 1e-6, volt) is None
