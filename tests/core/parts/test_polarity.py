"""Marks and what they mean, by family and mounting."""

from __future__ import annotations

import re

import pytest

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.polarity import BoardMark, Mounting, marks, unpolarised_words
from hale_rail.web.recap.polarity_drawing import draw_polarity


@pytest.mark.parametrize(
    ("family", "mounting", "is_positive"),
    [
        (Family.ALUMINIUM, Mounting.RADIAL, False),
        (Family.ALUMINIUM, Mounting.AXIAL, False),
        (Family.ALUMINIUM, Mounting.SURFACE, False),
        (Family.TANTALUM, Mounting.DIPPED, True),
        (Family.TANTALUM, Mounting.SURFACE, True),
        (Family.TANTALUM, Mounting.AXIAL, True),
        (Family.POLYMER, Mounting.RADIAL, False),
        (Family.POLYMER, Mounting.SURFACE, True),
    ],
)
def test_the_marked_end(family: Family, mounting: Mounting, is_positive: bool) -> None:
    mark = next(m for m in marks(family) if m.mounting is mounting)
    assert mark.is_positive is is_positive
    assert ("positive" if is_positive else "negative") in mark.words
    drawn = draw_polarity(mark)
    assert mark.words in drawn
    assert 'class="mark solid"' in drawn


@pytest.mark.parametrize("family", [Family.FILM, Family.CERAMIC, Family.ALUMINIUM_BIPOLAR, None])
def test_no_polarity_no_drawing(family: Family | None) -> None:
    assert marks(family) == ()
    assert ("either way" in unpolarised_words(family)) is (family is not None)


@pytest.mark.parametrize(
    ("board", "drawn_at"),
    [
        (BoardMark.PLUS_SIGN, 6.5),
        (BoardMark.DOT_POSITIVE, 7.0),
        (BoardMark.HALF_POSITIVE, 24.0),
        (BoardMark.HALF_NEGATIVE, 96.0),
        (BoardMark.SQUARE_POSITIVE, 16.0),
        (BoardMark.SQUARE_NEGATIVE, 88.0),
        (BoardMark.NONE, None),
    ],
)
def test_the_boards_print_stands_at_its_pad(board: BoardMark, drawn_at: float | None) -> None:
    """Plus is the left pad, at x 24; minus the right one, at x 96."""
    bare = str(draw_polarity(marks(Family.ALUMINIUM)[0]))
    drawn = str(draw_polarity(marks(Family.ALUMINIUM)[0], board))
    assert board.words in drawn
    if drawn_at is None:
        assert "silk" not in drawn
        assert drawn.count('<circle class="pad ring"') == 2
        return
    new = re.search(
        r'class="silk-line" d="M [\d.]+ [\d.]+ h9 M ([\d.]+)|class="silk" cx="([\d.]+)"'
        r'|class="silk" d="M ([\d.]+)|<rect class="pad ring" x="([\d.]+)"', drawn,
    )  # fmt: skip
    assert new
    assert "silk" not in bare
    assert float(next(group for group in new.groups() if group)) == drawn_at
