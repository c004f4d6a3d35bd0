"""The trace against independent reckonings: a full nodal solve, quadrature, and played boards."""

from __future__ import annotations

import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.shorts.board import SETTLED, Board, BoardPart
from hale_rail.core.shorts.board_model import BoardModel, Kind, TraceReading, hypotheses
from hale_rail.core.shorts.copper import CopperSegment, Net, Pad, copper_ohm, sheet_net
from hale_rail.core.shorts.flows import Flows
from hale_rail.core.shorts.meaning import advice, reading_meanings
from hale_rail.core.shorts.next_probe import next_probe
from hale_rail.core.shorts.trace import trace
from tests.core.shorts.nodal import Short, line, random_board, volts

from ...sizes import examples


def drop(plus, minus, value, inject="p0", drain="GND", amps=1.0, resolution=1e-4):
    return TraceReading(Kind.DROP, plus, minus, inject, drain, amps, value, resolution)


def chances(found):
    return {part.id: chance for part, chance in found.candidates}


@settings(max_examples=examples(120), deadline=None)
@given(seed=st.integers(0, 10**9), is_ideal=st.booleans())
def test_predictions_are_those_of_a_full_nodal_solve(seed, is_ideal):
    rng = random.Random(seed)
    board = random_board(rng, is_ideal=is_ideal)
    held = hypotheses(board)
    pads = [p.id for p in (*board.rail.pads, *board.ground_net.pads)]
    readings = []
    for _ in range(4):
        plus, minus = rng.sample(pads, 2)
        inject, drain = rng.sample(pads, 2)
        readings.append(drop(plus, minus, 0.0, inject, drain, rng.uniform(0.5, 2)))
    readings.append(TraceReading(Kind.OHMS, *rng.sample(pads, 2)))
    said_to_be = BoardModel(board, held, pads).predict(readings)
    short_ohm = rng.uniform(0.001, 2)
    assert len(held) > 1
    for at, reading in enumerate(readings):
        for which, hypothesis in enumerate(held):
            short = Short(hypothesis.rail_pad, hypothesis.ground_pad, short_ohm)
            clamps = (reading.inject or reading.plus, reading.drain or reading.minus)
            amps = reading.amps if reading.kind is Kind.DROP else 1.0
            v = volts(board, [short], clamps, amps)
            expected = v[reading.plus] - v[reading.minus]
            found = said_to_be.drop[which, at] + said_to_be.across[at] * short_ohm
            assert found == pytest.approx(expected, rel=1e-6, abs=1e-9)


@settings(max_examples=examples(40), deadline=None)
@given(seed=st.integers(0, 10**9))
def test_segment_errors_change_readings_as_a_nodal_solve_says(seed):
    rng = random.Random(seed)
    board = random_board(rng, size=5, parts=2)
    held = hypotheses(board)[:2]
    assert len(held) == 2
    pads = [p.id for p in (*board.rail.pads, *board.ground_net.pads)]
    readings = [drop(*rng.sample(pads, 2), 0.0, *rng.sample(pads, 2)) for _ in range(2)]
    spread = BoardModel(board, held, pads).predict(readings).spread
    for which, hypothesis in enumerate(held):
        slopes = []
        for name in ("rail", "ground"):
            net = getattr(board, name)
            for i, segment in enumerate(net.segments):
                ends = []
                for sign in (1, -1):
                    segments = list(net.segments)
                    segments[i] = replace(segment, ohm=segment.ohm * (1 + sign * 1e-5))
                    changed = replace(board, **{name: Net(net.pads, tuple(segments))})
                    short = Short(hypothesis.rail_pad, hypothesis.ground_pad, 0.2)
                    ends.append([
                        (v := volts(changed, [short], (r.inject, r.drain), r.amps))[r.plus]
                        - v[r.minus]
                        for r in readings
                    ])  # fmt: skip
                slopes.append((np.array(ends[0]) - np.array(ends[1])) / 2e-5)
        expected = 0.05**2 * np.array(slopes).T @ np.array(slopes)
        assert spread[which] == pytest.approx(expected, rel=1e-3, abs=1e-9)


def brute_force(board: Board, readings):
    """Posterior of each hypothesis on a grid of scale, short and leads; segments without error."""
    held = hypotheses(board)
    scales = np.linspace(-0.5, 2.5, 121)
    shorts, offsets = np.arange(0.5, 500) / 200, np.arange(0.5, 60) / 60
    s, rs, leads = np.meshgrid(scales, shorts, offsets, indexing="ij")
    log_prior = -0.5 * ((s - 1) / 0.3) ** 2
    log_prior -= 0.5 * ((rs - 0.2) / 0.5) ** 2 + 0.5 * ((leads - 0.15) / 0.15) ** 2
    weights = []
    for hypothesis in held:
        log = log_prior.copy()
        for r in readings:
            clamps = (r.inject or r.plus, r.drain or r.minus)
            amps = r.amps if r.kind is Kind.DROP else 1.0
            joined = Short(hypothesis.rail_pad, hypothesis.ground_pad, 1e-9)
            v = volts(board, [joined], clamps, amps)
            is_across = board.is_rail(r.plus) != board.is_rail(r.minus)
            mean = s * (v[r.plus] - v[r.minus]) + amps * rs * is_across + leads * r.has_leads
            log -= 0.5 * ((r.value - mean) / r.noise) ** 2 + np.log(r.noise)
        weights.append(hypothesis.weight * np.exp(log).sum())
    total = sum(weights)
    return {h.part.id: w / total for h, w in zip(held, weights, strict=True) if h.part}


@pytest.mark.parametrize(
    "readings",
    [
        [drop("p0", "p4", 0.11, resolution=0.05)],
        [TraceReading(Kind.OHMS, "p1", "GND", value=0.45, resolution=0.1)],
        [
            TraceReading(Kind.OHMS, "p0", "GND", value=0.30, resolution=0.1),
            TraceReading(Kind.OHMS, "p4", "GND", value=0.21, resolution=0.1),
            drop("p1", "p3", 0.05, resolution=0.05),
        ],
        # no short below zero ohms explains so little: the cut at zero decides
        [TraceReading(Kind.OHMS, "p0", "GND", value=0.02, resolution=0.06, wires=4)],
    ],
    ids=["a drop", "ohms with leads", "three", "at the cut"],
)  # fmt: skip
def test_the_posterior_is_that_of_quadrature(readings):
    board = line(5, ohm=0.05, tolerance=0.0)
    found = chances(trace(board, readings))
    expected = brute_force(board, readings)
    assert len(expected) > 1
    for part, chance in expected.items():
        assert found[part] == pytest.approx(chance, abs=0.004)


def true_readings(board, shorts, pads, clamps=("p0", "GND"), amps=1.0):
    v = volts(board, shorts, clamps, amps)
    return [drop(p, q, v[p] - v[q], *clamps, amps) for p, q in pads]


def test_a_part_is_found_and_the_sentences_say_why():
    board = line(12)
    pads = [("p0", "p5"), ("p5", "p11"), ("p8", "p11"), ("p5", "p8")]
    found = trace(board, true_readings(board, [Short("p7", "GND", 0.3)], pads))
    assert found.candidates[0][0].id == "C7" and found.candidates[0][1] >= SETTLED
    assert next_probe(found) is None
    assert advice(found, None).startswith("Lift one leg of C7 first")
    texts = [s.text for s in reading_meanings(found)]
    assert texts[0].startswith("between pads p0 and p5 all of it drops")
    assert texts[2] == "between pads p8 and p11 nothing drops: the current has left before p8"
    assert "67%" in texts[3] and "it leaves between them" in texts[3]


def test_a_pad_with_nothing_on_it_is_found_as_elsewhere():
    bare = line(12)
    board = replace(bare, parts=tuple(p for p in bare.parts if p.id not in ("C6", "C7", "C8")))
    pads = [("p0", "p5"), ("p5", "p9"), ("p6", "p7"), ("p7", "p8"), ("p0", "p11")]
    found = trace(board, true_readings(board, [Short("p7", "GND", 0.1)], pads))
    assert found.elsewhere >= SETTLED
    assert found.places[0][0].id == "p7"
    assert "pad p7" in advice(found, next_probe(found))


def test_two_parts_on_the_same_pads_are_told_apart_by_lifting():
    board = line(6)
    board = replace(board, parts=(*board.parts, replace(board.parts[3], id="D4", ref="D4")))
    readings = true_readings(board, [Short("p4", "GND", 0.1)], [("p0", "p4"), ("p3", "p5")])
    found = trace(board, readings)
    assert chances(found)["C4"] == pytest.approx(chances(found)["D4"])
    proposal = next_probe(found)
    assert proposal.reading.kind is Kind.LIFTED and proposal.reading.plus in ("C4", "D4")
    assert "cannot tell" in advice(found, proposal)
    other = {"C4": "D4", "D4": "C4"}[proposal.reading.plus]
    remains = trace(board, [*readings, replace(proposal.reading, value=0.0)])
    assert chances(remains)[other] >= SETTLED
    gone = trace(board, [*readings, replace(proposal.reading, value=1.0)])
    assert chances(gone)[proposal.reading.plus] >= SETTLED


def test_a_wild_reading_is_set_aside_and_listed():
    board = line(12)
    pads = [("p0", "p5"), ("p5", "p11"), ("p8", "p11"), ("p5", "p8"), ("p6", "p9"), ("p2", "p6")]
    readings = true_readings(board, [Short("p7", "GND", 0.3)], pads)
    readings = [replace(r, line=i + 2) for i, r in enumerate(readings)]
    readings[4] = replace(readings[4], value=0.014)
    found = trace(board, readings)
    assert [r.line for r in found.outliers] == [6]
    assert not found.is_misfit and found.candidates[0][0].id == "C7"
    assert [s.is_obeyed for s in reading_meanings(found)] == [True, True, True, True, False, True]


@pytest.mark.parametrize("at", [(3, 9), (5, 11)])
def test_two_shorts_are_a_misfit_and_their_pair_is_listed_first(at):
    board = line(12, tolerance=0.02)
    pads = [("p0", "p2"), ("p2", "p4"), ("p4", "p6"), ("p6", "p8"), ("p8", "p10"), ("p10", "p11")]
    shorts = [Short(f"p{i}", "GND", 0.1) for i in at]
    found = trace(board, true_readings(board, shorts, pads))
    assert found.is_misfit
    assert {p.id for p in found.pairs[0].parts} == {f"C{i}" for i in at}
    assert found.pairs[0].probability > 0.5
    proposal = next_probe(found)
    assert proposal.reading.kind is Kind.LIFTED
    # one of them lifted: what is read then is the other's alone
    first = f"C{at[0]}"
    more = [*found.readings, TraceReading(Kind.LIFTED, first, value=0.0)]
    more += true_readings(board, shorts[1:], [("p0", "p6"), ("p6", "p10")])
    again = trace(board, more)
    assert {p.id for p in again.pairs[0].parts} == {f"C{i}" for i in at}


@pytest.mark.parametrize(
    ("reading", "why"),
    [
        (drop("p0", "nil", 0.01), "no pad “nil”"),
        (drop("p0", "p0", 0.01), "both probes stand on p0"),
        (drop("p0", "p3", 0.01, drain="p0"), "in and out at p0"),
        (drop("p0", "p3", float("nan")), "not a number"),
        (drop("p0", "p3", 0.01, amps=0.0), "above 0 A"),
        (drop("p3", "p0", 0.01), "leads swapped?"),
        (drop("p0", "p3", 12.0), "is the unit right"),
        (TraceReading(Kind.LIFTED, "C99"), "no part “C99”"),
        (TraceReading(Kind.OHMS, "p0", "GND", value=-0.2), "below zero"),
    ],
)
def test_a_reading_that_cannot_be_is_named_and_not_obeyed(reading, why):
    board = line(6)
    good = true_readings(board, [Short("p4", "GND", 0.1)], [("p0", "p5"), ("p3", "p5")])
    found = trace(board, [*good, replace(reading, line=4)])
    assert [t.line for t in found.troubles] == [4] and why in found.troubles[0].text
    assert chances(found) == pytest.approx(chances(trace(board, good)))


def test_a_milliohm_beside_a_teraohm_keeps_its_digits():
    net = Net(
        tuple(Pad(c) for c in "ABCDE"),
        (
            CopperSegment("A", "B", 1e-3),
            CopperSegment("B", "C", 1e12),
            CopperSegment("C", "D", 1e-3),
            CopperSegment("C", "E", 1e-3),
        ),
    )
    flows = Flows(net)
    into = flows.into("ABCDE")
    for i, j, expected in ((0, 1, 1e-3), (2, 3, 1e-3), (3, 4, 2e-3), (0, 3, 1e12 + 2e-3)):
        current = into[:, i] - into[:, j]
        assert flows.ohm @ current**2 == pytest.approx(expected, rel=1e-12)


def test_pads_that_are_not_connected_are_named_with_the_parts_on_them():
    board = line(5)
    rail = Net((*board.rail.pads, Pad("lost")), board.rail.segments)
    part = BoardPart("C9", "C9", "tantalum", "lost", "GND")
    found = trace(replace(board, rail=rail, parts=(*board.parts, part)), [])
    assert [t.id for t in found.troubles] == ["lost", "C9"]
    assert "C9" not in chances(found)


def test_nothing_read_gives_the_priors_and_places_weigh_little():
    board = replace(line(5), parts=(*line(5).parts[:2], BoardPart("U1", "U1", "ic", "p3", "GND")))
    found = trace(board, [])
    assert chances(found)["C1"] == pytest.approx(10 * chances(found)["U1"])
    assert found.elsewhere <= chances(found)["U1"] / 50 * 1.001
    assert next_probe(found).bits > 0.3
    ohm = found.short_ohm
    assert 0 < ohm.low < ohm.value < ohm.high < 2


def test_warmth_speaks_for_a_part_and_never_settles_it():
    board = line(5)
    warm = trace(board, [TraceReading(Kind.WARM, "C2", value=30.0)])
    ranked = trace(board, [TraceReading(Kind.WARM, "C2", value=1.0, is_rank=True)])
    for found in (warm, ranked):
        assert found.candidates[0][0].id == "C2" and 0.3 < found.candidates[0][1] < SETTLED
    cool = trace(board, [TraceReading(Kind.WARM, "C2", value=0.0)])
    assert 0.05 < chances(cool)["C2"] < 0.25


@pytest.mark.parametrize(
    ("length", "width", "um", "celsius", "expected"),
    [
        (100, 1, 35, 20, 1.72e-8 * 0.1 / (1e-3 * 35e-6)),
        (50, 2, 70, 45, 1.72e-8 * (1 + 0.00393 * 25) * 0.05 / (2e-3 * 70e-6)),
    ],
)
def test_copper_reads_by_its_length_width_and_warmth(length, width, um, celsius, expected):
    assert copper_ohm(length, width, um, celsius) == pytest.approx(expected)


def test_a_sheet_drops_from_edge_to_edge_as_its_squares_say():
    # a strip three times as long as wide, contacts along both short edges: three squares
    left = [Pad(f"a{i}", 0.0, float(i)) for i in range(9)]
    right = [Pad(f"b{i}", 24.0, float(i)) for i in range(9)]
    sheet = sheet_net([*left, *right], 35.0, 20.0)
    bars = [CopperSegment(f"{e}{i}", f"{e}{i + 1}", 1e-9) for e in "ab" for i in range(8)]
    flows = Flows(Net(sheet.pads, (*sheet.segments, *bars)))
    into = flows.into(["a0", "b0"])
    ohm = flows.ohm @ (into[:, 0] - into[:, 1]) ** 2
    # nine rows of cells, so the mesh is nine cells wide where the strip is eight
    assert ohm == pytest.approx(1.72e-8 / 35e-6 * 24 / 9, rel=0.02)


def test_boards_with_errors_are_traced_in_a_few_readings():
    taken = []
    for seed in range(12):
        rng = random.Random(seed)
        board = line(24)
        real = replace(
            board,
            rail=Net(
                board.rail.pads,
                tuple(replace(s, ohm=s.ohm * rng.gauss(1.1, 0.05)) for s in board.rail.segments),
            ),
        )
        true = rng.choice(board.parts)
        readings = []
        found = trace(board, readings)
        while (proposal := next_probe(found)) and len(readings) < 12:
            r = proposal.reading
            if r.kind is Kind.LIFTED:
                readings.append(replace(r, value=float(r.plus == true.id)))
            else:
                clamps = (r.inject or r.plus, r.drain or r.minus)
                v = volts(real, [Short(true.rail_pad, "GND", 0.3)], clamps, r.amps)
                value = round(v[r.plus] - v[r.minus] + rng.gauss(0, 5e-5), 4)
                readings.append(replace(r, value=value))
            found = trace(board, readings)
        assert found.candidates[0][0] == true and found.candidates[0][1] >= SETTLED
        taken.append(len(readings))
    assert sum(taken) / len(taken) <= 5
