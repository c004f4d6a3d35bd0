"""Which reading comes next: its bits, its cost, and when there is none."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
import scipy
from msgspec.structs import replace

from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.meaning import advice, expect_words, probe_words
from hale_rail.core.shorts.next_probe import (
    Clamps,
    _bits_bound,
    _bits_exact,
    _Scope,
    next_probe,
)
from hale_rail.core.shorts.trace import trace
from tests.core.shorts.nodal import Short, line, random_board, volts


def entropy_by_grid(chance, mean, variance):
    """Bits of a mixture less the mean of its members', on a fine grid."""
    deviation = np.sqrt(variance)
    grid = np.linspace((mean - 8 * deviation).min(), (mean + 8 * deviation).max(), 40_001)
    step = grid[1] - grid[0]
    density = scipy.stats.norm.pdf(grid[:, None], mean, deviation)
    mixture = density @ chance

    def bits(p):
        return -np.sum(np.where(p > 0, p * np.log2(np.where(p > 0, p, 1)), 0)) * step

    return bits(mixture) - sum(c * bits(density[:, i]) for i, c in enumerate(chance))


@pytest.mark.parametrize("plus", ["p3", "p6", "p11"])
def test_the_bits_of_a_reading_are_those_of_an_integral_and_the_bound_stays_below(plus):
    board = line(12)
    scope = _Scope(trace(board, [drop("p0", "p4", 0.0185)]))
    reading = drop("p2", plus, 0.0)
    mean, variance = (found[:, 0] for found in scope.expect([reading]))
    expected = entropy_by_grid(scope.chance, mean, variance)
    assert _bits_exact(scope, reading) == pytest.approx(expected, abs=0.02)
    bound = _bits_bound(scope.chance, mean, variance)
    assert -1e-9 <= bound <= expected + 1e-6
    assert expected <= math.log2(len(scope.chance))


def drop(plus, minus, value, inject="p0", drain="GND", amps=1.0):
    return TraceReading(Kind.DROP, plus, minus, inject, drain, amps, value, 1e-4)


def test_the_first_probe_halves_a_line_with_the_clamp_at_its_connector():
    found = trace(line(17), [])
    proposal = next_probe(found)
    reading = proposal.reading
    assert reading.inject == "p0" and reading.drain == "GND"
    assert 1.2 < proposal.bits < 4
    assert proposal.expected is not None and proposal.expected[0] < proposal.expected[1]
    words = probe_words(reading) + expect_words(proposal)
    for said in (reading.plus, reading.minus, "1 A", "in at p0", "out at GND", "expect"):
        assert said in words.replace("\u00a0", " ")
    assert advice(found, proposal).startswith("Drop from pad")


@pytest.mark.parametrize("seed", range(6))
def test_no_reading_is_asked_for_twice_and_every_current_keeps_within_the_limit(seed):
    rng = random.Random(seed)
    board = random_board(rng, size=14, parts=9)
    true = rng.choice(board.parts)
    readings, seen = [], set()
    while proposal := next_probe(trace(board, readings)):
        r = proposal.reading
        if r.kind is Kind.LIFTED:
            readings.append(replace(r, value=float(r.plus == true.id)))
        else:
            key = (r.kind, frozenset((r.plus, r.minus)), r.inject, r.drain)
            assert key not in seen
            seen.add(key)
            assert r.plus != r.minus and 0 < r.amps <= 2
            clamps = (r.inject or r.plus, r.drain or r.minus)
            v = volts(board, [Short(true.rail_pad, true.ground_pad, 0.3)], clamps, r.amps)
            readings.append(replace(r, value=v[r.plus] - v[r.minus]))
        assert len(readings) <= 14
    found = trace(board, readings)
    same = [
        p for p in board.parts
        if (p.rail_pad, p.ground_pad) == (true.rail_pad, true.ground_pad)
    ]  # fmt: skip
    assert found.candidates[0][0] in same or found.elsewhere > 0.5


def test_what_a_lead_costs_keeps_it_where_it_is():
    scope = _Scope(trace(line(12), [drop("p3", "p8", 0.01)]))
    stays = scope.cost(drop("p3", "p8", 0.0))
    one = scope.cost(drop("p3", "p9", 0.0))
    both = scope.cost(drop("p4", "p9", 0.0))
    clamp = scope.cost(drop("p3", "p8", 0.0, inject="p11"))
    assert 0 == stays < one < both < clamp
    assert scope.clamps == Clamps("p0", "GND")


@pytest.mark.parametrize(("ohm", "amps"), [(0.1, 2.0), (0.4, 1.0), (2.0, 0.2)])
def test_the_current_follows_from_the_short_and_the_limit(ohm, amps):
    board = line(6)
    read = TraceReading(Kind.OHMS, "p0", "GND", value=ohm + 0.01, resolution=1e-3, wires=4)
    proposal = next_probe(trace(board, [read]))
    assert proposal.reading.amps == amps
    assert proposal.reading.amps * ohm <= 0.5


def test_a_board_without_parts_or_with_one_place_has_nothing_to_ask():
    bare = replace(line(2), parts=())
    one = replace(bare, rail=replace(bare.rail, pads=bare.rail.pads[:1], segments=()))
    assert next_probe(trace(one, [])) is None
    found = trace(replace(line(5), parts=()), [])
    assert found.candidates == () and found.elsewhere == pytest.approx(1)
    assert "No part on this map" in advice(found, next_probe(found))
