"""What must not change the answer of a trace, and what must change it only so."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.shorts.board import BoardPart
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.copper import CopperSegment, Net, Pad
from hale_rail.core.shorts.flows import Flows
from hale_rail.core.shorts.meaning import reading_meanings
from hale_rail.core.shorts.trace import trace
from tests.core.shorts.nodal import Short, line, random_board, random_net, volts

_CUBE = ("ab", "ad", "ae", "bf", "bg", "df", "dh", "eg", "eh", "fc", "gc", "hc")


def chances(found):
    return {part.id: chance for part, chance in found.candidates}


def played(rng, board, count=4):
    """Readings of a random short, with a meter's tenth of a millivolt."""
    true = rng.choice(board.parts)
    short = Short(true.rail_pad, true.ground_pad, rng.uniform(0.01, 0.6))
    rail = [p.id for p in board.rail.pads]
    ground = [p.id for p in board.ground_net.pads]
    readings = []
    for at in range(count):
        plus, minus = rng.sample(rail, 2)
        inject, drain = rng.choice(rail), rng.choice(ground)
        v = volts(board, [short], (inject, drain), 1.0)
        value = round(v[plus] - v[minus], 4)
        readings.append(
            TraceReading(Kind.DROP, plus, minus, inject, drain, 1.0, value, 1e-4, line=at)
        )
    return readings


seeds = st.integers(0, 10**9)


@settings(max_examples=25)
@given(seeds)
def test_turning_leads_and_signs_changes_nothing(seed):
    rng = random.Random(seed)
    board = random_board(rng)
    readings = played(rng, board)
    turned = [replace(r, plus=r.minus, minus=r.plus, value=-r.value) for r in readings]
    back = [replace(r, inject=r.drain, drain=r.inject, value=-r.value) for r in readings]
    expected = chances(trace(board, readings))
    for other in (turned, back):
        assert chances(trace(board, other)) == pytest.approx(expected, abs=1e-6)


@settings(max_examples=25)
@given(seeds)
def test_the_order_of_parts_pads_and_readings_changes_nothing(seed):
    rng = random.Random(seed)
    board = random_board(rng)
    readings = played(rng, board)
    expected = chances(trace(board, readings))
    rail = list(board.rail.pads), list(board.rail.segments)
    parts = list(board.parts)
    for one in (*rail, parts):
        rng.shuffle(one)
    other = replace(board, rail=Net(tuple(rail[0]), tuple(rail[1])), parts=tuple(parts))
    found = chances(trace(other, rng.sample(readings, len(readings))))
    assert found == pytest.approx(expected, abs=1e-6)


@settings(max_examples=25)
@given(seeds)
def test_a_segment_cut_in_two_and_a_dead_end_change_no_prediction(seed):
    rng = random.Random(seed)
    net = random_net(rng, "r", 8)
    cut = rng.choice(net.segments)
    share = rng.uniform(0.1, 0.9)
    more = Net(
        (*net.pads, Pad("mid"), Pad("end")),
        (*(s for s in net.segments if s is not cut), CopperSegment(cut.a, "mid", share * cut.ohm),
         CopperSegment("mid", cut.b, (1 - share) * cut.ohm), CopperSegment("r0", "end", 0.02)),
    )  # fmt: skip
    ids = [p.id for p in net.pads]
    ohms = []
    for one in (net, more):
        flows = Flows(one)
        into = flows.into(ids)
        ohms.append([flows.ohm @ (into[:, 0] - into[:, i]) ** 2 for i in range(len(ids))])
    assert ohms[0] == pytest.approx(ohms[1], rel=1e-9, abs=1e-15)


@pytest.mark.parametrize(
    ("segments", "expected"),
    [
        ([("a", "b", 1), ("b", "c", 2)], 3),
        ([("a", "c", 6), ("a", "c", 3)], 2),
        ([("a", "b", 1), ("a", "b", 1), ("b", "c", 0.5)], 1),
        # a bridge in balance: the middle carries nothing
        ([("a", "b", 1), ("a", "d", 1), ("b", "c", 1), ("d", "c", 1), ("b", "d", 7)], 1),
        # the twelve edges of a cube, corner to corner
        (
            [(*edge, 6) for edge in _CUBE],
            5,
        ),
    ],
)  # fmt: skip
def test_ohms_are_those_of_series_and_parallel(segments, expected):
    names = dict.fromkeys(x for a, b, _ in segments for x in (a, b))
    net = Net(tuple(Pad(n) for n in names), tuple(CopperSegment(*s) for s in segments))
    flows = Flows(net)
    into = flows.into(["a", "c"])
    assert flows.ohm @ (into[:, 0] - into[:, 1]) ** 2 == pytest.approx(expected)


@settings(max_examples=25)
@given(seeds)
def test_currents_keep_kirchhoffs_law_at_every_pad(seed):
    rng = random.Random(seed)
    net = random_net(rng, "r", 12)
    flows = Flows(net)
    into = flows.into([p.id for p in net.pads])
    leaving = np.zeros((len(net.pads), len(net.pads)))
    for number, segment in enumerate(net.segments):
        leaving[flows.index[segment.a]] += into[number]
        leaving[flows.index[segment.b]] -= into[number]
    sink = int(np.argmin(np.abs(into).sum(axis=0)))
    expected = np.eye(len(net.pads))
    expected[sink] -= 1
    assert leaving == pytest.approx(expected, abs=1e-9)


def readings_at(values, turned=False):
    ends = ("p4", "p0") if turned else ("p0", "p4")
    sign = -1 if turned else 1
    return [
        TraceReading(Kind.DROP, *ends, "p0", "GND", 1.0, sign * v, 1e-4, line=2) for v in values
    ]


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize(
    ("value", "why"),
    [
        (0.02, ""),
        (0.06, ""),
        (-0.02, "leads swapped?"),
        (0.5, "is the unit right"),
        (-0.5, "is the unit right"),
    ],
)
def test_what_cannot_be_is_named_alike_whichever_way_the_leads_stand(turned, value, why):
    found = trace(line(6), readings_at([value], turned))
    told = [t.text for t in found.troubles]
    assert len(told) == bool(why) and all(why in text for text in told)


def test_a_tighter_meter_never_makes_the_short_less_known():
    spans = []
    for resolution in (0.1, 0.01, 0.001):
        read = TraceReading(Kind.OHMS, "p0", "GND", value=0.42, resolution=resolution, wires=4)
        ohm = trace(line(4), [read]).short_ohm
        assert ohm.low <= ohm.value <= ohm.high
        spans.append(ohm.high - ohm.low)
    assert spans == sorted(spans, reverse=True) and spans[-1] < 0.1


@pytest.mark.parametrize(("nulled", "wires"), [(True, 2), (False, 4)])
def test_ohms_without_leads_tell_the_short_closer(nulled, wires):
    usual = TraceReading(Kind.OHMS, "p0", "GND", value=0.42, resolution=0.001)
    without = replace(usual, is_nulled=nulled, wires=wires)
    spans = [
        (ohm := trace(line(4), [r]).short_ohm).high - ohm.low for r in (usual, without)
    ]  # fmt: skip
    assert spans[1] < spans[0]


def test_a_heavier_part_is_likelier_and_a_weight_of_zero_never_shorts():
    board = line(4)
    weights = {"C1": 5.0, "C2": 1.0, "C3": 0.0}
    parts = tuple(replace(p, weight=weights[p.id]) for p in board.parts)
    found = chances(trace(replace(board, parts=parts), []))
    assert found["C1"] == pytest.approx(5 * found["C2"]) and found["C3"] < 1e-12


@pytest.mark.parametrize(
    ("family", "weight"),
    [("tantalum", 10), ("aluminium", 2), ("aluminium-bipolar", 2), ("film", 1), ("ic", 1), ("", 1)],
)
def test_families_weigh_as_the_formulas_say(family, weight):
    assert BoardPart("x", "x", family, "a", "GND").prior == weight


FORK = Net(
    tuple(Pad(f"p{i}") for i in range(5)),
    (
        CopperSegment("p0", "p1", 0.01),
        CopperSegment("p1", "p2", 0.01),
        CopperSegment("p1", "p3", 0.02),
        CopperSegment("p3", "p4", 0.01),
    ),
)


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize(
    ("true", "words"),
    [
        ("p2", "it drops towards p2 (10 mV): the short lies on the side of p2"),
        ("p4", "all of it drops (30 mV): the current runs on past p4"),
        ("p1", "nothing drops: the current has left before p2"),
    ],
)
def test_at_a_fork_a_drop_points_to_the_side_of_the_short(true, words, turned):
    parts = tuple(BoardPart(f"C{i}", f"C{i}", "tantalum", f"p{i}", "GND") for i in range(1, 5))
    board = replace(line(2), rail=FORK, parts=parts)
    v = volts(board, [Short(true, "GND", 0.2)], ("p0", "GND"), 1.0)
    ends = ("p4", "p2") if turned else ("p2", "p4")
    reading = TraceReading(
        Kind.DROP, *ends, "p0", "GND", 1.0, round(v[ends[0]] - v[ends[1]], 4), 1e-4
    )
    text = reading_meanings(trace(board, [reading]))[0].text.replace("\u00a0", " ").replace("−", "")
    assert text == f"between pads p2 and p4 {words}"


def test_on_the_ground_net_the_current_comes_from_the_far_pad():
    ground = Net(tuple(Pad(f"g{i}") for i in range(4)),
                 tuple(CopperSegment(f"g{i}", f"g{i + 1}", 0.01) for i in range(3)))  # fmt: skip
    parts = tuple(BoardPart(f"C{i}", f"C{i}", "ic", "p1", f"g{i}") for i in range(1, 4))
    board = replace(line(2), ground=ground, parts=parts)
    for true, words in (("g3", "all of it drops"), ("g1", "nothing drops")):
        v = volts(board, [Short("p1", true, 0.2)], ("p0", "g0"), 1.0)
        value = round(v["g3"] - v["g1"], 4)
        reading = TraceReading(Kind.DROP, "g3", "g1", "p0", "g0", 1.0, value, 1e-4)
        assert (
            f"between pads g1 and g3 {words}" in reading_meanings(trace(board, [reading]))[0].text
        )


@pytest.mark.parametrize(
    ("true", "words"),
    [
        ("p2", "nothing drops: the current has left before p5"),
        ("p9", "all of it drops"),
        ("p6", "what could drop does"),
    ],
)
def test_a_stretch_says_where_the_current_leaves(true, words):
    board = line(12)
    v = volts(board, [Short(true, "GND", 0.2)], ("p0", "GND"), 1.0)
    ends = [("p0", "p11"), ("p5", "p8")]
    readings = [
        TraceReading(Kind.DROP, a, b, "p0", "GND", 1.0, round(v[a] - v[b], 4), 1e-4)
        for a, b in ends
    ]
    told = reading_meanings(trace(board, readings))
    assert words in told[1].text
    assert all(math.isfinite(s.reading.value) and s.is_obeyed for s in told)
