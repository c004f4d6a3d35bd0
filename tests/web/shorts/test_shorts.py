"""From a rail that reads short to the part that shorts it, through the pages."""

from __future__ import annotations

import io
import json
import re
import time
from urllib.parse import quote

import pytest

from hale_rail.actions import readings
from hale_rail.actions.parts import looks
from hale_rail.actions.safety import power
from hale_rail.actions.shorts import boards
from hale_rail.case.file import open_case
from hale_rail.case.name_lookup import part_named
from hale_rail.case.shorts.boards import sheet_tree, tree_of
from hale_rail.case.shorts.isolation import isolation
from hale_rail.case.shorts.traces import board_readings, culprit, trace_of
from hale_rail.core.procedures import LEG_LIFTED, WARMTH, Point
from hale_rail.core.procedures.boards import board_part
from hale_rail.errors import ConflictError, InputError
from hale_rail.formats.boards.board_csv import read_board_csv
from hale_rail.formats.boards.board_json import board_text, read_board
from hale_rail.formats.boards.trace_csv import read_trace
from hale_rail.stages.frame.next_step import next_step
from hale_rail.stages.shorts import trace as trace_stage
from hale_rail.stages.stage import PageQuery
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS
from larkmoor.boards import Etched, board
from larkmoor.pictures import blackened_fuse
from tests.conftest import Client

RAIL, CASE = "+12 V", "LW-022"
PAGE = f"/cases/{CASE}"


def settled(demo: Store):
    """The trace's result, once it is computed."""
    for _ in range(200):
        outcome = trace_of(open_case(demo, CASE), RAIL)
        if not outcome.is_waiting:
            return outcome.result
        time.sleep(0.05)
    raise AssertionError("the trace is never done")


def read(client: Client, point: str, text: str, view: str = "trace", seen: object = ""):
    answer = client.post(f"{PAGE}/do/read", view=view, at=point, text=text, seen=seen)
    assert answer.status_code == 303, answer.get_data(as_text=True)


def test_the_trays_probes_lead_to_the_part_that_shorts_the_rail(
    client: Client, demo: Store
) -> None:
    etched = Etched(CASE)
    for _ in range(8):
        result = settled(demo)
        proposal = result.next
        if proposal is None:
            break
        point = trace_stage.points(open_case(demo, CASE), PageQuery(by=RAIL))[-1]
        ends = [proposal.plus, proposal.minus, proposal.inject, proposal.drain]
        page = client.text(f"{PAGE}/trace?by=%2B12%20V")
        assert f"{ends[0]} (+) to {ends[1]} (−)" in page and "tip plus" in page
        read(client, point.key, etched.drop(*ends, proposal.amps))
    assert result.candidates[0].id == etched.part
    assert "Lift one leg" in client.text(f"{PAGE}/trace")
    lift = Point(board_part(RAIL, etched.part), LEG_LIFTED)
    read(client, lift.key, "2k5")
    case = open_case(demo, CASE)
    found = culprit(case, RAIL)
    assert found and found.sheet_part and found.sheet_part.ref == "C60"
    assert next_step(case).stage.key == "trace" and "C60" in next_step(case).text
    settled(demo)
    assert "Put C60 on the recap list" in client.text(f"{PAGE}/trace")
    assert client.post(f"{PAGE}/do/close-trace", view="trace", by=RAIL).status_code == 303
    case = open_case(demo, CASE)
    assert "it shorted +12 V" in case.rows.newest(PART_DECISIONS)[found.sheet_part.id].reason
    assert "to ground again" in next_step(case).text
    assert "it shorted +12 V" in client.text(f"{PAGE}/recap")
    assert "it shorted +12\u00a0V: the short was gone" in client.text(f"{PAGE}/log")


def test_the_readings_are_stepped_through_and_past_chances_shown(
    client: Client, demo: Store
) -> None:
    settled(demo)
    now = client.text(f"{PAGE}/trace?by=%2B12%20V")
    assert "1 of 1 reading" in now and "drops towards c22" in now
    for _ in range(100):
        past = client.text(f"{PAGE}/trace?by=%2B12%20V&load=0")
        if "computed" not in past:
            break
        time.sleep(0.05)
    assert "0 of 1 reading" in past and "drops towards" not in past and "tip plus" not in past


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("3 V", "Limit the supply"),
        ("OL", "not"),
        ("4 mV 0 A", "above 0 A"),
        ("", "3.1"),
        ("4 ohm", ""),
    ],
)
def test_a_drop_that_cannot_be_is_refused_beside_the_field(
    client: Client, demo: Store, text: str, why: str
) -> None:
    settled(demo)
    point = trace_stage.points(open_case(demo, CASE), PageQuery(by=RAIL))[-1]
    answer = client.post(f"{PAGE}/do/read", view="trace", at=point.key, text=text, seen="")
    assert answer.status_code == 422
    assert 'class="echo-problem"' in answer.get_data(as_text=True)
    assert len(board_readings(open_case(demo, CASE))[RAIL]) == 1


def test_a_point_on_no_map_is_not_there(client: Client) -> None:
    point = "connection!!+12 V/nil@P1.3>m11@P1.5~drop~"
    answer = client.post(f"{PAGE}/do/read", view="trace", at=point, text="3", seen="")
    assert answer.status_code == 404


def test_other_pads_go_into_the_tray_with_or_without_a_current(client: Client, demo: Store) -> None:
    settled(demo)
    usual = {"view": "trace", "by": RAIL, "plus": "m11", "minus": "m18"}
    clamps = {"inject": "P1.3", "drain": "P1.5"}
    for fields, said in ((clamps, "drop along copper"), ({}, "ohms across the board")):
        answer = client.post(f"{PAGE}/do/probe", **usual, **fields)
        assert answer.status_code == 303
        page = client.text(answer.headers["Location"])
        assert "m11 (+) to m18 (−)" in page and said in page
    for fields, why in (({"plus": ""}, "plus probe"), ({"minus": "zz"}, "on no map")):
        answer = client.post(f"{PAGE}/do/probe", **usual | fields)
        assert answer.status_code == 422 and why in answer.get_data(as_text=True)


def test_the_readings_of_a_trace_go_out_as_its_own_file(client: Client, demo: Store) -> None:
    lift = Point(board_part(RAIL, "C61"), LEG_LIFTED)
    read(client, lift.key, "0.4")
    warm = Point(board_part(RAIL, "C61"), WARMTH)
    read(client, warm.key, "rank 2")
    rows, wrong = read_trace(client.text(f"{PAGE}/trace.csv?by=%2B12%20V"))
    assert wrong == []
    assert [(r.kind.value, r.plus, r.minus, r.inject, r.drain, r.amps) for r in rows[:1]] == [
        ("drop", "c18", "c22", "P1.3", "P1.5", 1.0)
    ]
    assert rows[0].value == pytest.approx(0.0065) and rows[0].resolution == pytest.approx(1e-4)
    assert [(r.kind.value, r.plus, r.value, r.is_rank) for r in rows[1:]] == [
        ("lifted", "C61", 0.0, False), ("warm", "C61", 2.0, True)
    ]  # fmt: skip


def test_a_files_readings_are_taken_all_or_none(client: Client, demo: Store) -> None:
    head = "kind,plus,minus,inject,return,amps,value,unit,resolution,wires\n"
    good = "drop,m11,m18,P1.3,P1.5,0.5,0.0,mV,0.1,\nohms,P1.3,P1.5,,,,0.35,ohm,0.01,4\n"
    good += "lifted,C61,,,,,remains,,,\nwarm,C50,,,,,3,rank,,\n"

    def take(text: str, rail: str = RAIL):
        sent = {"view": "trace", "by": rail, "trace": upload(text.encode(), "t.csv")}
        return client.post(f"{PAGE}/do/trace-file", **sent)

    for text, rail, why in (
        (head + good + "drop,m11,zz,P1.3,P1.5,1,1,mV,,\n", RAIL, "line 6: no pad “zz”"),
        (head + "drop,m11,m12,P1.3,P1.5,1,wet,mV,,\n", RAIL, "line 2"),
        ("a,b\n", RAIL, "lacks"),
        (head + good, "+5 V", "Draw the map"),
    ):
        answer = take(text, rail)
        assert answer.status_code == 422 and why in answer.get_data(as_text=True)
    assert len(board_readings(open_case(demo, CASE))[RAIL]) == 1
    assert take(head + good).status_code == 303
    assert len(board_readings(open_case(demo, CASE))[RAIL]) == 5
    assert take(head + good).status_code == 303
    assert len(board_readings(open_case(demo, CASE))[RAIL]) == 5
    rows, _ = read_trace(client.text(f"{PAGE}/trace.csv?by=%2B12%20V"))
    assert [(r.kind.value, r.amps, r.wires) for r in rows[1:]] == [
        ("drop", 0.5, 2), ("ohms", 1.0, 4), ("lifted", 1.0, 2), ("warm", 1.0, 2)
    ]  # fmt: skip


def test_what_looks_bad_is_likelier_to_short(demo: Store) -> None:
    def chances():
        return {c.id: c.probability for c in settled(demo).candidates}

    before = chances()
    assert before["C60#1"] == pytest.approx(before["C60#2"])
    part = part_named(open_case(demo, CASE), "C60#1")
    looks.look(demo, CASE, part.id, ["corroded"])
    after = chances()
    assert 2.9 < after["C60#1"] / after["C60#2"] < 10.1


def test_a_map_is_kept_with_the_type_of_unit_and_two_tabs_do_not_overwrite(demo: Store) -> None:
    old, new = open_case(demo, "LW-003"), open_case(demo, CASE)
    assert new.rows.maps[RAIL] == old.rows.maps[RAIL]
    version = new.rows.maps[RAIL].version
    drawn = read_board(new.rows.maps[RAIL].body)
    fewer = board_text(drawn).replace('"C61"', '"C61x"', 1)
    assert boards.save_map(demo, CASE, RAIL, fewer, version) == version + 1
    assert open_case(demo, "LW-003").rows.maps[RAIL].version == version + 1
    with pytest.raises(ConflictError):
        boards.save_map(demo, "LW-003", RAIL, fewer, version)


def test_drawing_is_answered_with_the_version_or_what_is_wrong(client: Client, demo: Store) -> None:
    drawn = {"rail": {"pads": [{"id": "p1", "x": 1, "y": 2}], "segments": []}, "ground": "ideal"}

    def draw(body: object, version: int, rail: str = "+5 V"):
        sent = {"body": json.dumps(body), "version": version, "by": rail}
        return client.post(f"{PAGE}/do/map", **sent)

    assert draw(drawn, 0).get_json() == {"version": 1}
    assert draw(drawn, 1).get_json() == {"version": 2}
    for body, version, rail, code, why in (
        (drawn, 1, "+5 V", 409, "Another tab"),
        ({**drawn, "ground": 3}, 2, "+5 V", 422, "ground"),
        ({"rail": {"pads": [{"id": "a/b"}]}, "ground": "ideal"}, 2, "+5 V", 422, "a/b"),
        (drawn, 0, "+99 V", 404, ""),
    ):
        answer = draw(body, version, rail)
        assert answer.status_code == code, answer.get_data(as_text=True)
        assert why in (answer.get_json(silent=True) or {"problem": ""})["problem"]
    assert len(read_board(open_case(demo, CASE).rows.maps["+5 V"].body).rail.pads) == 1
    assert "Map of +5\u00a0V: 1 pad, 0 parts" in client.text(f"{PAGE}/log")


def upload(data: bytes, name: str):
    return io.BytesIO(data), name


def test_a_map_goes_out_and_in_as_json_and_as_a_table(client: Client, demo: Store) -> None:
    text = client.text(f"{PAGE}/board.json?by=%2B12%20V")
    drawn = read_board(text)
    assert (drawn.rail, drawn.parts) == (board().rail, board().parts)
    table = client.text(f"{PAGE}/board.csv?by=%2B12%20V")
    again = read_board_csv(table)
    assert (again.rail, again.ground, again.parts) == (drawn.rail, drawn.ground, drawn.parts)
    for data in (text.encode(), table.encode(), table.encode("utf-16")):
        sent = {"view": "map", "by": "+5 V", "map": upload(data, "m")}
        assert client.post(f"{PAGE}/do/map-file", **sent).status_code == 303
        assert read_board(open_case(demo, CASE).rows.maps["+5 V"].body).parts == drawn.parts
    for data, why in (
        (b'{"rail": {', "line 1"),
        (b"what,id\npod,1\n", "line 2"),
        (b"what,id,x\npad,1,wide\n", "wide"),
        (b"\x00\x01\x02", "m"),
    ):
        sent = {"view": "map", "by": "+5 V", "map": upload(data, "m")}
        answer = client.post(f"{PAGE}/do/map-file", **sent)
        assert answer.status_code == 422 and why in answer.get_data(as_text=True)
    assert read_board(open_case(demo, CASE).rows.maps["+5 V"].body).parts == drawn.parts


def test_a_photo_lies_under_the_map_and_nothing_else_does(client: Client, demo: Store) -> None:
    sent = {"view": "map", "by": "-5 V", "photo": upload(b"<html>", "x.jpg")}
    assert client.post(f"{PAGE}/do/map-photo", **sent).status_code in (404, 422)
    rail = next(r.key for r in open_case(demo, CASE).sheet.rails if r.nominal_v < 0)
    for data, code in ((b"<html>", 422), (blackened_fuse(), 303)):
        sent = {"view": "map", "by": rail, "photo": upload(data, "x.png")}
        assert client.post(f"{PAGE}/do/map-photo", **sent).status_code == code
    drawn = read_board(open_case(demo, CASE).rows.maps[rail].body, is_drawing=True)
    assert drawn.picture and drawn.picture.mm_per_pixel == pytest.approx(100 / 900)
    answer = client.get(f"{PAGE}/board.jpg?by={quote(rail)}")
    assert answer.mimetype == "image/jpeg" and answer.data[:2] == b"\xff\xd8"
    answer.close()
    assert client.get(f"{PAGE}/board.jpg?by=%2B5%20V").status_code == 404


def test_the_tree_is_made_of_the_sheet_and_can_be_changed(client: Client, demo: Store) -> None:
    case = open_case(demo, CASE)
    rail = case.sheet.rail(RAIL)
    assert rail
    made = sheet_tree(case, rail)
    assert [(i.id, i.parent) for i in made.items] == [
        ("supply", ""), ("p1", "supply"), ("main-board", "p1")
    ]  # fmt: skip
    assert made.by_id["main-board"].weight > 10
    found = isolation(case, rail)
    assert found.shorted == ("main-board",)
    page = client.text(f"{PAGE}/isolate?by=%2B12%20V")
    assert "The short is in Main board" in page and "Plotter card" in page
    rows = {
        "id": ["supply", "p1", "main-board", ""],
        "name": ["supply", "P1", "Main board", "disk"],
        "parent": ["", "supply", "p1", "p1"],
        "weight": ["2", "0,2", "30", "3"],
        "minutes": ["0", "0.5", "4", "1"],
    }
    assert client.post(f"{PAGE}/do/tree", view="isolate", by=RAIL, **rows).status_code == 303
    assert tree_of(open_case(demo, CASE), rail).by_id["disk"].minutes == 1
    bad = {**rows, "weight": ["2", "heavy", "30", "3"]}
    answer = client.post(f"{PAGE}/do/tree", view="isolate", by=RAIL, **bad)
    assert answer.status_code == 422 and "heavy" in answer.get_data(as_text=True)
    gone = {**rows, "name": ["supply", "", "Main board", "disk"]}
    assert client.post(f"{PAGE}/do/tree", view="isolate", by=RAIL, **gone).status_code == 303
    assert [i.id for i in tree_of(open_case(demo, CASE), rail).items] == ["supply"]


def test_the_next_detachment_says_what_it_takes_and_what_it_rules_out(client: Client) -> None:
    everything = "item!!+5 V>supply;p2;disk;p1;main-board~set-ohms~"
    asked = {"at": everything, "view": "isolate", "by": "+5 V"}
    assert client.post("/cases/LW-014/do/read", text="0.4", **asked).status_code == 303
    page = client.text("/cases/LW-014/isolate?by=%2B5%20V")
    assert re.search(r"\d min, rules out \d+\xa0%", page)


def test_what_was_read_to_ground_is_not_asked_again(client: Client) -> None:
    page = client.text(f"{PAGE}/isolate?by=%2B5%20V")
    assert "Read +5 V with everything attached first" not in page


@pytest.mark.parametrize("page", ["isolate", "trace", "map", "shorts"])
def test_a_sheet_without_rails_says_where_one_is_added(client: Client, page: str) -> None:
    unit = '{"name": "Bare", "topology": "linear", "rails": [], "parts": []}'
    sent = {"file_number": "B-1", "file_machine": "Bare", "file_symptom": "dead"}
    sent["unit"] = upload(unit.encode(), "unit.json")
    assert client.post("/cases/new/from-file", **sent).status_code == 303
    text = client.text(f"/cases/B-1/{page}")
    assert page == "shorts" or "This sheet has no rail yet" in text


def test_a_trace_cannot_be_closed_before_a_leg_is_lifted(demo: Store) -> None:
    with pytest.raises(InputError, match="No leg was lifted"):
        boards.close_trace(demo, CASE, RAIL)


def test_a_part_that_no_sheet_has_is_added_at_the_end_of_its_trace(
    client: Client, demo: Store
) -> None:
    number = "LW-T1"
    unit = json.dumps({
        "name": "Bare", "topology": "linear", "parts": [],
        "rails": [{"key": "+5 V", "nominal_v": 5, "regulation": "linear"}],
    })  # fmt: skip
    sent = {"file_number": number, "file_machine": "Bare", "file_symptom": "dead"}
    sent["unit"] = upload(unit.encode(), "unit.json")
    assert client.post("/cases/new/from-file", **sent).status_code == 303
    drawn = {
        "rail": {"pads": [{"id": "p1", "x": 1, "y": 1}, {"id": "p2", "x": 9, "y": 1}],
                 "segments": [{"a": "p1", "b": "p2", "width_mm": 1}]},
        "ground": "ideal", "parts": [{"id": "C77", "ref": "C77", "family": "tantalum",
                                      "rail_pad": "p2"}],
    }  # fmt: skip
    boards.save_map(demo, number, "+5 V", json.dumps(drawn))
    power.remove_power(demo, number)
    power.pass_guard(demo, number, "no store is on this sheet, all read 0 V")
    lift = Point(board_part("+5 V", "C77"), LEG_LIFTED)
    readings.save_reading(demo, number, lift, "gone", check_seen=False)
    page = f"/cases/{number}"
    shown = client.text(f"{page}/trace?by=%2B5%20V")
    assert "It is not on the sheet yet" in shown and 'value="C77 tantalum +5 V"' in shown
    for line, why in (
        ("", "C77 is not on the sheet"), ("C77 tantalum +5 V", "No capacitance"),
        ("C78 10u 16V tant +5 V", "is C77 on +5 V, not C78"), (";", "One line, of one part"),
        ("rail +24 2A", "One line, of one part"),
    ):  # fmt: skip
        sent = {"view": "trace", "by": "+5 V", "line": line}
        answer = client.post(f"{page}/do/close-trace", **sent)
        assert answer.status_code == 422 and why in answer.get_data(as_text=True)
    sent = {"view": "trace", "by": "+5 V", "line": "C77 10u 16V tant +5 V"}
    assert client.post(f"{page}/do/close-trace", **sent).status_code == 303
    case = open_case(demo, number)
    (part,) = case.sheet.parts
    assert (part.ref, part.value) == ("C77", 10e-6)
    assert case.rows.newest(PART_DECISIONS)[part.id].reason.startswith("it shorted +5 V")
    assert "recap list" in client.text(f"{page}/trace?by=%2B5%20V")


def test_what_was_handed_back_shows_its_trace_to_the_end(client: Client) -> None:
    for _ in range(100):
        page = client.text("/cases/LW-003/trace?by=%2B12%20V")
        if "computed" not in page:
            break
        time.sleep(0.05)
    assert "C55 shorts +12 V" in page and "Put C55" not in page
    assert "burns with a flame" in page
