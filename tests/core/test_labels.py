"""Words of a drawing: none lies over another, nor over what is taken."""

from __future__ import annotations

from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.labels import Box, Label, circle_box, place

BOUNDS = Box(0, 0, 1000, 600)
PLACES = st.tuples(st.floats(100, 900), st.floats(100, 500))


@given(st.lists(PLACES, max_size=9), PLACES)
def test_words_give_way_to_one_another_and_to_what_is_taken(
    places: list[tuple[float, float]], tip: tuple[float, float]
) -> None:
    taken = [circle_box(*tip, 23)]
    labels = [Label(f"C{n} 13 %", x, y, 17) for n, (x, y) in enumerate(places)]
    placed = place(labels, taken, BOUNDS)
    boxes = [at.label.box_at(at.x, at.y) for at in placed]
    assert [at.label for at in placed] == labels
    for one, other in combinations([*taken, *boxes], 2):
        assert not one.meets(other)


def test_a_free_word_stays_and_one_far_away_gets_a_leader() -> None:
    alone = Label("C60", 500, 300, 17)
    assert place([alone], [], BOUNDS)[0] == place([alone], [circle_box(100, 100, 20)], BOUNDS)[0]
    crowd = [circle_box(500, 300, 40)]
    moved = place([alone], crowd, BOUNDS)[0]
    assert (moved.x, moved.y) != (alone.x, alone.y) and moved.has_leader
    everywhere = [Box(-10, -10, 2000, 2000)]
    assert (place([alone], everywhere, BOUNDS)[0].x, alone.y) == (500, 300)
