"""What a screen shows of a record: no peak lost at any zoom; and the spectrum."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.ripple.bands import BANDS, Split, split
from hale_rail.core.ripple.spectrum import spectrum
from hale_rail.core.ripple.view import window
from hale_rail.core.ripple.wave import Wave
from hale_rail.formats.records.wave_view import wave_rows, window_json
from tests.core.ripple.records import FAST, bulk_ripple, of_forward

from ...sizes import examples


@pytest.fixture(scope="module")
def long() -> Split:
    """A record so long that its overview is wanted: more than 300 000 samples."""
    volt = np.concatenate((of_forward(), of_forward())) + np.tile(bulk_ripple(), 2)
    volt[123_456] += 0.7
    volt[400_001] -= 0.6
    return split(Wave(volt, FAST))


def naive(volt: np.ndarray, columns: int) -> np.ndarray:
    edges = np.linspace(0, len(volt), columns + 1).astype(int)
    parts = [volt[one:other] for one, other in pairwise(edges)]
    return np.array([[part.min() for part in parts], [part.max() for part in parts]])


@settings(max_examples=examples(40))
@given(
    ends=st.tuples(st.floats(0, 1), st.floats(0, 1)), columns=st.integers(1, 1500),
    name=st.sampled_from(("raw", *BANDS)),
)  # fmt: skip
def test_a_window_is_never_wider_than_asked_and_never_empty(
    long: Split, ends: tuple[float, float], columns: int, name: str
) -> None:
    count = len(long.wave.volt)
    low, high = sorted(int(share * count) for share in ends)
    least, most = window(long, name, low, high, columns)
    assert 1 <= len(least) == len(most) <= columns
    assert (least <= most).all()
    assert np.isfinite(least).all()
    assert np.isfinite(most).all()


@pytest.mark.parametrize("columns", [1, 7, 300, 1200])
def test_the_whole_record_keeps_its_peaks(long: Split, columns: int) -> None:
    volt = long.wave.volt - long.mean_v
    least, most = window(long, "raw", 0, len(volt), columns)
    assert most.max() == pytest.approx(volt.max())
    assert least.min() == pytest.approx(volt.min())
    exact = naive(volt, columns)
    # a cell that an edge cuts goes to one of both columns; nothing goes further
    beside = [np.pad(side, 1, mode="edge") for side in (least, most)]
    near_low = np.min([beside[0][:-2], beside[0][1:-1], beside[0][2:]], axis=0)
    near_high = np.max([beside[1][:-2], beside[1][1:-1], beside[1][2:]], axis=0)
    assert (near_low <= exact[0] + 1e-12).all()
    assert (near_high >= exact[1] - 1e-12).all()


@pytest.mark.parametrize("name", ["raw", *BANDS])
def test_near_by_the_samples_themselves_are_shown(long: Split, name: str) -> None:
    low, high = 100_000, 103_000
    exact = long.band(name, low, high) if name != "raw" else (
        long.wave.volt[low:high] - long.mean_v)  # fmt: skip
    assert np.allclose(window(long, name, low, high, 600), naive(exact, 600))
    alone = window(long, name, low, low + 5, 600)
    assert alone.shape == (2, 5)


@pytest.mark.parametrize(("name", "slack"), [
    ("switching", 0.03), ("subharmonic", 0.2), ("rectified", 0.05), ("slow", 0.2), ("spikes", 1e-9),
])  # fmt: skip
def test_far_out_a_band_spans_what_it_spans_near_by(long: Split, name: str, slack: float) -> None:
    count = len(long.wave.volt)
    least, most = window(long, name, 0, count, 400)
    exact = long.band(name, 0, count)
    span = np.ptp(exact) or 1.0
    assert abs(most.max() - exact.max()) <= slack * span + 1e-6
    assert abs(least.min() - exact.min()) <= slack * span + 1e-6


@pytest.mark.parametrize(("begin", "end"), [(-5, 2), (9e9, 1), (0.05, 0.05), (0, 1e12)])
def test_an_odd_window_is_brought_inside(long: Split, begin: float, end: float) -> None:
    found = window_json(long, begin, end, 100, ["switching"])
    assert 0 <= found["from_s"] < found["to_s"] <= found["length_s"]
    assert set(found["traces"]) == {"raw", "switching"}


def test_a_record_goes_out_row_by_row() -> None:
    made = split(Wave(np.sin(np.arange(45_000) / 50), 1e-6, start_s=-0.01))
    pieces = list(wave_rows(made))
    rows = "".join(pieces).splitlines()
    assert len(pieces) == 4  # the heading, and twenty thousand rows at a time
    assert rows[2] == "-0.01,0"
    assert len(rows) == 45_002
    assert float(rows[-1].split(",")[0]) == pytest.approx(-0.01 + 44_999e-6)


@pytest.mark.parametrize(("hz", "amplitude"), [
    (100.0, 0.2), (330.0, 0.05), (66e3, 0.1), (410e3, 0.02),
])  # fmt: skip
def test_the_spectrum_has_a_line_where_it_is_and_as_high(hz: float, amplitude: float) -> None:
    time = np.arange(400_000) * 1e-6
    found = spectrum(Wave(5 + amplitude * np.sin(2 * np.pi * hz * time), 1e-6))
    top = int(found.volt.argmax())
    assert found.hz[top] == pytest.approx(hz, rel=0.05)
    assert found.volt[top] == pytest.approx(amplitude, rel=0.2)
    far = np.abs(np.log(found.hz / hz)) > 0.5
    assert found.volt[far].max() < 0.02 * amplitude


@pytest.mark.parametrize("count", [10, 100, 5000])
def test_short_records_have_a_spectrum_too(count: int) -> None:
    found = spectrum(Wave(np.sin(np.arange(count) / 2), 1e-6))
    assert len(found.hz) == len(found.volt)
    assert np.isfinite(found.volt).all()
    assert found.hz[-1] <= 0.5e6
