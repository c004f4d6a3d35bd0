"""Two shorts at once: what the two-port solve says, against a full nodal solve."""

from __future__ import annotations

import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.shorts.board_model import BoardModel, Kind, TraceReading, hypotheses
from hale_rail.core.shorts.pairs import _expected, _Table, best_pairs
from tests.core.shorts.nodal import Short, line, random_board, volts

from ...sizes import examples


def lifted(part_id):
    return TraceReading(Kind.LIFTED, part_id, value=0.0)


@settings(max_examples=examples(60))
@given(seed=st.integers(0, 10**9), off=st.sampled_from(["none", "first", "second"]))
def test_a_pairs_readings_are_those_of_a_nodal_solve(seed, off):
    rng = random.Random(seed)
    board = random_board(rng, is_ideal=rng.random() < 0.5, size=6, parts=4)
    held = hypotheses(board)
    pads = [p.id for p in (*board.rail.pads, *board.ground_net.pads)]
    model = BoardModel(board, held, pads)
    readings = []
    for _ in range(3):
        plus, minus = rng.sample(pads, 2)
        inject, drain = rng.sample(pads, 2)
        readings.append(TraceReading(Kind.DROP, plus, minus, inject, drain, rng.uniform(0.5, 2)))
    one, other = rng.uniform(0.01, 1), rng.uniform(0.01, 1)
    first, second = 0, 2
    gone = {"first": first, "second": second}.get(off)
    before = [lifted(board.parts[gone].id)] if gone is not None else []
    spread = np.zeros((len(held), 3, 3))
    table = _Table(model, [0, 1, 2, 3], [*before, *readings], spread)
    terms = [table._terms(at, np.array([first]), np.array([second])) for at in range(3)]
    copper, fixed = _expected(terms, one, other)
    shorts = [
        Short(board.parts[i].rail_pad, board.parts[i].ground_pad, ohm)
        for i, ohm in ((first, one), (second, other))
        if i != gone
    ]
    assert len(readings) == 3
    for at, reading in enumerate(readings):
        v = volts(board, shorts, (reading.inject, reading.drain), reading.amps)
        expected = v[reading.plus] - v[reading.minus]
        assert copper[0, at] + fixed[0, at] == pytest.approx(expected, rel=1e-6, abs=1e-9)


def readings_of(board, shorts, pads):
    v = volts(board, shorts, ("p0", "GND"), 1.0)
    return [TraceReading(Kind.DROP, p, q, "p0", "GND", 1.0, v[p] - v[q], 1e-4) for p, q in pads]


def test_unequal_shorts_are_still_the_first_pair():
    board = line(12, tolerance=0.02)
    shorts = [Short("p4", "GND", 0.08), Short("p10", "GND", 0.3)]
    pads = [("p0", "p2"), ("p2", "p4"), ("p4", "p6"), ("p6", "p8"), ("p8", "p10"), ("p10", "p11")]
    taken = readings_of(board, shorts, pads)
    held = hypotheses(board)
    model = BoardModel(board, held, [p.id for p in board.rail.pads])
    spread = model.predict(taken).spread
    found = best_pairs(model, taken, spread)
    assert {p.id for p in found[0].parts} == {"C4", "C10"}
    assert sum(pair.probability for pair in found) <= 1 + 1e-9
    assert [p.probability for p in found] == sorted((p.probability for p in found), reverse=True)
    # the first lifted, and the short remains: a pair without it is out
    more = [*taken, lifted("C4"), *readings_of(board, shorts[1:], [("p6", "p9"), ("p0", "p3")])]
    spread = model.predict([r for r in more if r.is_of_copper]).spread
    again = best_pairs(model, more, spread)
    assert {p.id for p in again[0].parts} == {"C4", "C10"}
    gone = [*more, replace(lifted("C10"), value=1.0)]
    assert {p.id for p in best_pairs(model, gone, spread)[0].parts} == {"C4", "C10"}


def test_one_part_makes_no_pair():
    board = line(2)
    model = BoardModel(board, hypotheses(board), ["p0"])
    assert best_pairs(model, [], np.zeros((3, 0, 0))) == ()
