"""Marks and what they mean, by family and mounting."""

from __future__ import annotations

import pytest

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.polarity import Mounting, marks
from hale_rail.web.svg.polarity import draw_polarity


@pytest.mark.parametrize(
    ("family", "mounting", "is_positive"),
    [
        (Family.ALUMINIUM, Mounting.RADIAL, False),
        (Family.ALUMINIUM, Mounting.AXIAL, False),
        (Family.ALUMINIUM, Mounting.SURFACE, False),
        (Family.TANTALUM, Mounting.DIPPED, True),
        (Family.TANTALUM, Mounting.SURFACE, True),
    ],
)
def test_the_marked_end(family: Family, mounting: Mounting, is_positive: bool) -> None:
    mark = next(m for m in marks(family) if m.mounting is mounting)
    assert mark.is_positive is is_positive
    assert ("positive" if is_positive else "negative") in mark.words
    drawn = draw_polarity(mark)
    assert mark.words in drawn
    assert 'class="mark"' in drawn


@pytest.mark.parametrize("family", [Family.FILM, Family.CERAMIC, Family.ALUMINIUM_BIPOLAR, None])
def test_no_polarity_no_drawing(family: Family | None) -> None:
    assert marks(family) == ()
