"""The codec: a record comes back as it was, in the contract's order and words."""

from __future__ import annotations

import json

import numpy as np
import pytest

from hale_rail.formats.boards.trace_records import (
    LikelyPair,
    LikelyPart,
    NextReading,
    OhmRange,
    ReadingSaid,
    SegmentCurrent,
    TracedBoard,
    TraceProblem,
    TraceSummary,
)
from hale_rail.formats.codec import from_text, plain, to_text

SUMMARY = {
    "candidates": (LikelyPart("C60#2", "C60", 0.7),),
    "elsewhere": 0.1,
    "elsewhere_pads": (),
    "short_ohm": OhmRange(0.4, 0.2, 0.9),
    "misfit": False,
    "pairs": (LikelyPair(("C1", "C2"), 0.2),),
    "outliers": (3,),
    "next": NextReading("drop", "P1", "GND", "P1", "GND", 1.0, 2.5),
    "advice": "Read on.",
    "problems": (TraceProblem(line=4, text="no pad"), TraceProblem(id="p9", text="no copper")),
}


def test_a_record_comes_back_as_it_was() -> None:
    board = TracedBoard(
        **SUMMARY,
        said=(ReadingSaid(7, "it flows left", True),),
        expected=(0.001, 0.002),
        flow=(SegmentCurrent("a", "b", -0.5),),
    )
    assert from_text(to_text(board), TracedBoard) == board


def test_a_contract_keeps_its_names_and_their_order() -> None:
    fields = plain(TraceSummary(**SUMMARY))
    assert list(fields) == list(SUMMARY)
    assert list(fields["next"]) == ["kind", "plus", "minus", "inject", "return", "amps", "bits"]
    assert list(fields["problems"]) == [
        {"line": 4, "text": "no pad"},
        {"id": "p9", "text": "no copper"},
    ]


def test_numbers_of_arrays_are_plain_and_what_json_lacks_is_refused() -> None:
    assert json.loads(to_text({"ohm": np.float64(0.5), "n": np.int64(3)})) == {"ohm": 0.5, "n": 3}
    with pytest.raises(ValueError, match="not JSON compliant"):
        to_text({"ohm": float("nan")})
    with pytest.raises(TypeError, match="object"):
        to_text({"ohm": object()})
    with pytest.raises(ValueError, match="Expected `object`"):
        from_text("[]", OhmRange)
