"""The board and the tree as they are drawn: what is large, what is ringed, what is broken."""

from __future__ import annotations

import re
import time
from xml.etree import ElementTree

import pytest
from flask import g
from msgspec.structs import replace

from hale_rail.case.file import open_case
from hale_rail.case.shorts.traces import trace_of
from hale_rail.case.worker import AnalysisState
from hale_rail.core.shorts.board_map import BoardMap
from hale_rail.formats.boards.trace_records import (
    LikelyPad,
    LikelyPart,
    NextReading,
    SegmentCurrent,
)
from hale_rail.stages.shorts import isolate, trace
from hale_rail.stages.shorts.isolate import IsolatePage, TreeNode
from hale_rail.stages.shorts.trace import TracePage
from hale_rail.stages.stage import PageQuery
from hale_rail.store.database import Store
from hale_rail.web.frame.case_page import Frame
from hale_rail.web.shorts.board_drawing import draw_board
from hale_rail.web.shorts.tree_drawing import draw_tree
from tests.conftest import Client

CASE, RAIL = "LW-022", "+12 V"


@pytest.fixture
def traced(client: Client, demo: Store) -> TracePage:
    case = open_case(demo, CASE)
    while trace_of(case, RAIL).is_waiting:
        time.sleep(0.02)
    return trace.page(case, PageQuery(by=RAIL))


def drawn(client: Client, page: TracePage) -> ElementTree.Element:
    with client.flask.application.test_request_context("/"):
        g.frame = Frame(CASE, "trace", "")
        return ElementTree.fromstring(str(draw_board(page)))


def of_class(root: ElementTree.Element, name: str) -> list[ElementTree.Element]:
    return [e for e in root.iter() if name in e.get("class", "").split()]


def with_result(page: TracePage, **changes: object) -> TracePage:
    return replace(page, outcome=AnalysisState(result=replace(page.outcome.result, **changes)))


def test_the_leading_part_is_the_largest_and_the_fullest(client: Client, traced: TracePage) -> None:
    chances = (LikelyPart("C50", "C50", 0.7), LikelyPart("C60#2", "C60", 0.25),
               LikelyPart("M11", "M11", 0.004))  # fmt: skip
    root = drawn(client, with_result(traced, candidates=chances))
    groups = [e for e in root.iter() if "board-part" in e.get("class", "")]
    found = {}
    for group in groups:
        title = next(t for t in group if t.tag == "title").text or ""
        outline, chance = (e for e in group if e.tag == "rect")
        found[title.partition(":")[0]] = tuple(
            float(e.get("height", "0")) for e in (outline, chance)
        )
    assert len(found) == len(traced.board.map.parts)
    assert found["C50"][0] > found["C60#2"][0] > found["M11"][0] > 0
    for part, share in (("C50", 0.7), ("C60#2", 0.25)):
        assert found[part][1] / found[part][0] == pytest.approx(share, abs=0.02)
    names = [e.text for e in of_class(root, "part-name")]
    assert sorted(names) == ["C50 70\u00a0%", "C60#2 25\u00a0%"]
    assert "likely" not in groups[0].get("class", "").split() and groups[-1].get("class") == (
        "board-part likely"
    )


def test_the_leads_stand_where_they_are_to_be_put(client: Client, traced: TracePage) -> None:
    proposal = traced.result.next
    root = drawn(client, traced)
    places = {p.id: p for p in traced.board.map.rail.pads}
    scale = 1000 / traced.board.map.size_mm[0]
    for name, end in (("plus", "plus"), ("minus", "minus")):
        (tip,) = [e for e in of_class(root, "tip") if name in e.get("class", "").split()]
        pad = places[getattr(proposal, end)]
        assert float(tip.get("cx", "0")) == pytest.approx(pad.x * scale, abs=0.1)
        assert float(tip.get("cy", "0")) == pytest.approx(pad.y * scale, abs=0.1)
    assert [e.text for e in of_class(root, "tip-sign")] == ["−", "+"]
    assert [e.text for e in of_class(root, "clamp-word")] == ["in", "out"]
    assert len(of_class(root, "ring")) == 2


@pytest.mark.parametrize("change", ["past", "settled", "lifted"])
def test_no_leads_are_drawn_where_none_are_to_be_put(
    client: Client, traced: TracePage, change: str
) -> None:
    pages = {
        "past": replace(traced, shown=0),
        "settled": with_result(traced, next=None),
        "lifted": with_result(traced, next=NextReading("lifted", "C50")),
    }
    root = drawn(client, pages[change])
    assert not of_class(root, "tip") and not of_class(root, "clamp")


def test_copper_is_as_wide_as_drawn_and_current_as_thick_as_its_amperes(
    client: Client, traced: TracePage
) -> None:
    flow = (SegmentCurrent("P1.3", "t1", 1.0), SegmentCurrent("t1", "t2", 0.5),
            SegmentCurrent("t2", "t3", 0.001))  # fmt: skip
    root = drawn(client, with_result(traced, flow=flow))
    widths = [float(e.get("stroke-width", "0")) for e in of_class(root, "flow")]
    assert len(widths) == 2 and widths[0] > widths[1] > 0
    copper = sorted({float(e.get("stroke-width", "0")) for e in of_class(root, "rail")})
    scale = 1000 / traced.board.map.size_mm[0]
    assert copper == pytest.approx([w * scale for w in (0.8, 1.2, 2.5)], abs=0.1)
    assert len(of_class(root, "copper")) == len(
        (*traced.board.map.rail.tracks, *traced.board.map.ground.tracks)
    )


def test_past_readings_are_arcs_and_what_is_not_obeyed_looks_so(
    client: Client, traced: TracePage
) -> None:
    root = drawn(client, traced)
    assert [e.text for e in of_class(root, "arc-value")] == ["6.5\u00a0mV"]
    assert len(of_class(root, "arc")) == 1 and not of_class(root, "aside")
    aside = replace(traced, lines=tuple(replace(s, is_obeyed=False) for s in traced.lines))
    assert len(of_class(drawn(client, aside), "aside")) == 1
    assert len(of_class(root, "read")) == 2


def test_a_pad_where_no_part_is_to_blame_is_marked(client: Client, traced: TracePage) -> None:
    pads = (LikelyPad("t2", 0.6), LikelyPad("t3", 0.001))
    root = drawn(client, with_result(traced, elsewhere_pads=pads))
    assert len(of_class(root, "elsewhere")) == 1
    assert "? 60\u00a0%" in [e.text for e in of_class(root, "part-name")]


def test_without_a_map_or_a_place_nothing_is_drawn(client: Client, traced: TracePage) -> None:
    assert str(draw_board(replace(traced, board=None))) == ""
    bare = replace(traced, board=replace(traced.board, map=BoardMap()), lines=())
    assert not of_class(drawn(client, bare), "pad")


def node(item: str, parent: str, **changes: object) -> TreeNode:
    usual = TreeNode(item, item, parent, 0.2, None, 1.0, 2.0, True, False, False, f"k-{item}")
    return replace(usual, **changes)


def tree(client: Client, *nodes: TreeNode) -> ElementTree.Element:
    page = IsolatePage(RAIL, ((RAIL, True),), nodes, "", "open", None, None, (), False)
    with client.flask.application.test_request_context("/"):
        return ElementTree.fromstring(str(draw_tree(page, CASE)))


def left_of(root: ElementTree.Element, name: str) -> float:
    words = next(e for e in of_class(root, "item-name") if e.text == name)
    return float(words.get("x", "0"))


def test_what_is_off_stands_apart_and_keeps_what_hangs_on_it(client: Client) -> None:
    root = node("psu", "", toggle_key="")
    whole = tree(client, root, node("mb", "psu"), node("card", "mb"))
    off = {"is_on": False}
    apart = tree(client, root, node("mb", "psu", **off), node("card", "mb", **off))
    assert left_of(apart, "mb") > left_of(whole, "mb")
    step = left_of(whole, "card") - left_of(whole, "mb")
    assert left_of(apart, "card") - left_of(apart, "mb") == step
    assert len(of_class(apart, "branch")) == 2
    assert [len(of_class(t, "off")) for t in (whole, apart)] == [0, 2]
    assert [len(of_class(t, "dashed")) for t in (whole, apart)] == [0, 1]  # the branch before them


def test_the_next_item_is_ringed_with_its_minutes_and_the_supply_stays(client: Client) -> None:
    root = tree(
        client,
        node("psu", "", toggle_key=""),
        node("disk", "psu", is_on=False, is_next=True, chance=0.5, ohm=0.4),
    )
    assert len(of_class(root, "ring")) == 1
    words = [e.text for e in of_class(root, "faint")]
    assert words[1] == "0.4\u00a0Ω · off · detach · 2 min"
    links = [e for e in root.iter() if e.tag == "a"]
    assert len(links) == 1 and links[0].get("aria-label") == "Attach disk, 50\u00a0%"
    bars = [float(e.get("width", "0")) for e in of_class(root, "chance-bar")]
    assert bars[1] / bars[0] == pytest.approx(2.5, abs=0.01)


def test_a_key_in_the_address_says_what_is_attached(client: Client, demo: Store) -> None:
    case = open_case(demo, CASE)
    usual = isolate.page(case, PageQuery(by=RAIL))
    assert usual
    turn = next(n.toggle_key for n in usual.nodes if n.id == "main-board")
    turned = isolate.page(case, PageQuery(at=turn))
    assert turned and turned.rail == RAIL
    assert [n.is_on for n in usual.nodes] != [n.is_on for n in turned.nodes]
    shown = client.text(f"/cases/{CASE}/isolate?at={turn.replace('+', '%2B')}")
    assert re.search(r"with [^<]*attached", shown)
