"""A rail's line among pasted parts."""

from __future__ import annotations

import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.formats.units.rails_text import (
    rail_key,
    read_rail,
    read_rail_words,
    say_rail,
    write_rail,
)

FIVE = Rail("+5 V", 5.0, Regulation.MAIN, 0.8, 8.0)
RAW = Rail("+9 V", 9.0, Regulation.RAW)


@pytest.mark.parametrize(
    ("text", "rails", "expected"),
    [
        ("+24 2A", [FIVE], Rail("+24 V", 24.0, Regulation.AUXILIARY, None, 2.0)),
        ("24V 2A", [RAW], Rail("+24 V", 24.0, Regulation.LINEAR, None, 2.0)),
        ("−9V 100mA..0.5A raw", [RAW], Rail("−9 V", -9.0, Regulation.RAW, 0.1, 0.5)),
        ("-5,2 linear -5/+10% 50mV", [FIVE],
         Rail("−5.2 V", -5.2, Regulation.LINEAR, None, None, (0.05, 0.1), 50.0)),
        ("+5 12A", [FIVE], Rail("+5 V", 5.0, Regulation.MAIN, 0.8, 12.0)),
        ("-5 linear trimmer VR2 guards +12", [FIVE],
         Rail("−5 V", -5.0, Regulation.LINEAR, trimmer="VR2", guards="+12 V")),
    ],
)  # fmt: skip
def test_understood(text: str, rails: list[Rail], expected: Rail) -> None:
    rail = read_rail(text.split(), rails)
    assert rail == expected
    assert rail.key == rail_key(rail.nominal_v)
    assert rail.key in say_rail(rail)
    bare = Rail(rail.key, rail.nominal_v, Regulation.RAW)
    assert read_rail_words(bare, write_rail(rail).split()) == rail


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "by its volts"),
        ("loud", "by its volts"),
        ("+0 2A", "No rail has"),
        ("+5000 2A", "No rail has"),
        ("+24 shiny", "means nothing"),
        ("+24 0A", "cannot be"),
        ("+24 900%", "tolerance"),
        ("+24 trimmer", "Name the trimmer"),
        ("+24 guards memory", "Name the rail"),
    ],
)
def test_refused(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        read_rail(text.split(), [FIVE])
