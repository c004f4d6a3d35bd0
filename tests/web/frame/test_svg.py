"""SVG elements: what is written is well formed and says what it was given, whatever the words."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.web.frame import svg

WORDS = st.text(st.characters(exclude_categories=["Cc", "Cs"], exclude_characters="\ufffe\uffff"))
FIGURES = st.floats(-1e5, 1e5)


@given(WORDS, WORDS, WORDS, FIGURES, FIGURES)
def test_words_come_out_as_they_went_in(
    name: str, title: str, words: str, x: float, y: float
) -> None:
    drawn = svg.group(name, svg.title(title), svg.text(name, x, y, words, text_anchor="end"))
    parsed = ElementTree.fromstring(drawn)
    text = parsed[1]
    assert (parsed.get("class") or "", parsed[0].text or "", text.text or "") == (
        name,
        title,
        words,
    )
    assert float(text.get("x", "")) == pytest.approx(x, abs=0.051)
    assert float(text.get("y", "")) == pytest.approx(y, abs=0.051)
    assert text.get("text-anchor") == "end"


@given(st.lists(st.tuples(FIGURES, FIGURES), min_size=1))
def test_a_path_goes_through_its_points(points: list[svg.Point]) -> None:
    read = [float(x) for x in re.findall(r"-?[\d.]+", svg.through(points))]
    assert read == pytest.approx([x for point in points for x in point], abs=0.051)


@pytest.mark.parametrize(
    ("drawn", "written"),
    [
        (svg.path("wire", "M", 0, 2.0, "v", -0.25), '<path class="wire" d="M 0 2 v -0.2"/>'),
        (svg.rect("", 1, 2, 3.04, 4, rx=2), '<rect x="1" y="2" width="3" height="4" rx="2"/>'),
        (svg.circle("a b", 1, 2, 3), '<circle class="a b" cx="1" cy="2" r="3"/>'),
        (svg.joined([svg.title("R & D"), "<"]), "<title>R &amp; D</title>&lt;"),
        (svg.link("/a?b=1&c=2", '"', data_part="7"),
         '<a href="/a?b=1&amp;c=2" aria-label="&#34;" data-part="7"/>'),
        (svg.drawing("s", (10, 20), "L", role="group"),
         '<svg class="s drawn" viewBox="0 0 10 20" role="group" aria-label="L"/>'),
        (svg.drawing("", (-1, 0, 5, 6), ""), '<svg viewBox="-1 0 5 6" aria-hidden="true"/>'),
    ],
)  # fmt: skip
def test_each_element_is_written_as_svg_has_it(drawn: str, written: str) -> None:
    assert drawn == written
