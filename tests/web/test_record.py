"""What is done to a case from its page: kept, refused with its text, never overwritten unseen."""

from __future__ import annotations

import re

import pytest

from hale_rail.actions import record
from hale_rail.actions.dossier import open_case
from hale_rail.core.supply.points import Point, Quantity
from hale_rail.store.database import Store

from ..conftest import Client, station_id


def test_a_reading_by_plain_form_moves_on(client: Client, demo: Store) -> None:
    at = f"{station_id(demo, 'LW-014', 'CX2')}~cap~in circuit~"
    response = client.post("/cases/LW-014/read", at=at, view="capacitors", text="201n", seen="")
    assert response.status_code == 303
    page = client.text(response.location)
    assert "201 nF" in page.replace("\u00a0", " ")
    assert 'class="result-verdict' in page
    assert "CY1" in re.sub(r"<[^>]+>", " ", page.split('class="probe"')[1][:200])


def test_a_reading_by_htmx_gets_the_new_case_and_its_address(client: Client, demo: Store) -> None:
    at = f"{station_id(demo, 'LW-014', 'CX2')}~cap~in circuit~"
    response = client.post(
        "/cases/LW-014/read", htmx=True, at=at, view="capacitors", text="201n", seen=""
    )
    assert response.status_code == 200
    assert response.headers["HX-Push-Url"].startswith("/cases/LW-014/capacitors?at=")
    assert 'data-tone="' in response.get_data(as_text=True)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("0.15 Ω", "is a resistance"),
        ("5 F", "between 0 F and 1 F"),
        ("fluff", "not a capacitance"),
        ("", "Nothing typed"),
        ("2 mF", "Check the prefix"),
        ("<script>alert(1)</script>", "not a capacitance"),
    ],
)
def test_a_bad_reading_stays_in_the_tray_with_its_message(
    client: Client, demo: Store, text: str, says: str
) -> None:
    at = f"{station_id(demo, 'LW-014', 'CX2')}~cap~in circuit~"
    before = open_case(demo, "LW-014").revision
    response = client.post("/cases/LW-014/read", at=at, view="capacitors", text=text, seen="")
    page = response.get_data(as_text=True).replace("\u00a0", " ")
    assert response.status_code == 422
    assert says in page
    assert "<script>alert" not in page
    escaped = text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    assert f'value="{escaped}"' in page
    assert open_case(demo, "LW-014").revision == before


def test_a_second_tab_sees_what_the_first_saved_and_keeps_its_own(
    client: Client, demo: Store
) -> None:
    point = Point(Quantity.CAPACITANCE, station_id(demo, "LW-014", "CX2"), setting="in circuit")
    record.save_reading(demo, "LW-014", point, "188n", None)
    fields = {"at": point.key, "view": "capacitors", "text": "201n", "seen": ""}
    response = client.post("/cases/LW-014/read", **fields)
    page = response.get_data(as_text=True).replace("\u00a0", " ")
    assert response.status_code == 409
    assert "188 nF" in page
    assert 'value="201n"' in page
    seen = re.findall(r'name="seen" value="(\d+)"', page)[-1]
    assert client.post("/cases/LW-014/read", **(fields | {"seen": seen})).status_code == 303


def test_an_edit_in_a_second_tab_loses_nothing_typed(client: Client) -> None:
    fields = {"view": "intake", "machine": "A", "symptom": "hums", "before": "", "version": "1"}
    assert client.post("/cases/LW-014/edit", **fields).status_code == 303
    response = client.post("/cases/LW-014/edit", **(fields | {"symptom": "smells of fish"}))
    page = response.get_data(as_text=True)
    assert response.status_code == 409
    assert "smells of fish" in page
    assert "hums" in page


def test_the_guard_stands_before_the_map_and_passes_by_reading(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-031")
    assert "First: is it dead?" in page
    assert 'class="tray' not in page
    refused = client.post(
        "/cases/LW-031/read", view="map", text="0.2", seen="",
        at=f"{station_id(demo, 'LW-031', 'F1')}~ohm~in circuit~",
    )  # fmt: skip
    assert refused.status_code == 422
    for ref in ("C1", "C2"):
        store_id = station_id(demo, "LW-031", ref)
        seen = re.search(r'name="seen" value="(\d*)"', client.text("/cases/LW-031"))
        assert seen
        client.post(
            "/cases/LW-031/read", at=f"{store_id}~store~~", view="map", text="3.1", seen=seen[1]
        )
    page = client.text("/cases/LW-031")
    assert "First: is it dead?" not in page
    assert "verified dead" in page


def test_a_reason_too_short_is_kept_in_its_field(client: Client) -> None:
    response = client.post("/cases/LW-031/guard", view="map", reason="dunno")
    page = response.get_data(as_text=True)
    assert response.status_code == 422
    assert 'value="dunno"' in page
    assert "<details open>" in page
    reason = "Cap lifted and bled on the bench by me."
    assert client.post("/cases/LW-031/guard", view="map", reason=reason).status_code == 303
    assert reason in client.text("/cases/LW-031/report")


def test_strike_decide_note_and_power(client: Client, demo: Store) -> None:
    reading = open_case(demo, "LW-014").readings[-1]
    client.post("/cases/LW-014/strike", reading=reading.id, view="log", reason="slipped")
    assert f"<s>{'C13'}" in client.text("/cases/LW-014/log")
    assert client.post("/cases/LW-014/strike", reading=reading.id, view="log").status_code == 422
    q1 = station_id(demo, "LW-014", "Q1")
    client.post("/cases/LW-014/decide", station=q1, kind="fitted", reason="same pins", view="map")
    assert open_case(demo, "LW-014").facts[q1].state == "replaced"
    assert client.post("/cases/LW-014/note", text=" ").status_code == 422
    client.post("/cases/LW-014/note", text="Smelt of <b>fish</b>")
    assert "Smelt of &lt;b&gt;fish&lt;/b&gt;" in client.text("/cases/LW-014/log")
    client.post("/cases/LW-014/power", event="applied", source="mains", view="safe")
    assert "Power is on" in client.text("/cases/LW-014/safe")
    assert client.post("/cases/LW-014/power", event="applied", source="hamster").status_code == 422


def test_several_findings_at_a_station_and_taking_them_back(client: Client, demo: Store) -> None:
    c14 = station_id(demo, "LW-014", "C14")

    def press(code: str) -> tuple[str, ...]:
        """Press a button of the round as the page has it."""
        page = client.text("/cases/LW-014/look")
        form = page.split(f'value="{c14}~look~~"')[1]
        seen = re.search(r'name="seen" value="(\d*)"', form)
        button = re.search(rf'id="look-{c14}-{code}" name="text" value="([^"]*)"', form)
        assert seen
        assert button
        fields = {"at": f"{c14}~look~~", "view": "look", "seen": seen[1], "text": button[1]}
        assert client.post("/cases/LW-014/read", **fields).status_code == 303
        return open_case(demo, "LW-014").facts[c14].seen

    assert press("leak") == ("leak",)
    assert press("bulge") == ("leak", "bulge")
    assert press("leak") == ("bulge",)
    assert press("none") == ("none",)
    assert press("none") == ()
    assert open_case(demo, "LW-014").facts[c14].state == "unseen"


def test_a_backup_battery_on_the_round(client: Client, demo: Store) -> None:
    board = station_id(demo, "LW-014", "Main board")
    fields = {"at": f"{board}~battery~~", "view": "look", "seen": ""}
    refused = client.post("/cases/LW-014/read", **fields, text="3k6")
    page = refused.get_data(as_text=True)
    assert refused.status_code == 422
    assert 'value="3k6"' in page
    assert page.count('class="problem"') == 1
    assert client.post("/cases/LW-014/read", **fields, text="1.2").status_code == 303
    judgement = open_case(demo, "LW-014").facts[board].judgement
    assert "battery-flat" in [reason.code for reason in judgement.reasons]


def test_a_store_read_before_the_last_power_is_still_to_be_read(
    client: Client, demo: Store
) -> None:
    page = client.text("/cases/LW-031/safe")
    assert '<span class="count">0/2</span>' in page  # C1 is above the limit, C2 unread
    c1 = station_id(demo, "LW-031", "C1")
    seen = re.findall(r'name="seen" value="(\d+)"', page)[-1]
    response = client.post(
        "/cases/LW-031/read", at=f"{c1}~store~~", view="safe", text="90", seen=seen
    )
    after = client.text(response.location)
    assert "C2" in re.sub(r"<[^>]+>", " ", after.split('class="probe"')[1][:200])


def test_parts_are_previewed_before_they_are_added(client: Client, demo: Store) -> None:
    fields = {"parts": "C88 10u 35V +12 tant\nnonsense", "do": "preview"}
    count = len(open_case(demo, "LW-014").sheet.stations)
    page = client.post("/cases/LW-014/parts", **fields).get_data(as_text=True)
    assert "C88" in page
    assert "not a designator" in page
    assert len(open_case(demo, "LW-014").sheet.stations) == count
    fields["do"] = "add"
    assert client.post("/cases/LW-014/parts", **fields).status_code == 422
    assert client.post("/cases/LW-014/parts", **fields, leave_out="1").status_code == 303
    assert len(open_case(demo, "LW-014").sheet.stations) == count + 1


def test_a_part_is_corrected_from_its_panel(client: Client, demo: Store) -> None:
    c14 = station_id(demo, "LW-014", "C14")
    at = f"{c14}~esr~in circuit~"
    page = client.flask.get("/cases/LW-014", query_string={"at": at}).get_data(as_text=True)
    was = re.search(r'name="was" value="([^"]+)"', page)
    assert was
    fields = {"station": c14, "at": at, "view": "map", "was": was[1]}
    refused = client.post("/cases/LW-014/correct", **fields, text="680 ells")
    page = refused.get_data(as_text=True)
    assert refused.status_code == 422
    assert 'value="680 ells"' in page
    assert client.post("/cases/LW-014/correct", **fields, text="680u 25V -12").status_code == 303
    assert open_case(demo, "LW-014").facts[c14].station.value == pytest.approx(680e-6)
    late = client.post("/cases/LW-014/correct", **fields, text="330u 25V -12")
    assert late.status_code == 409
    assert "Another tab corrected C14 first" in late.get_data(as_text=True)
    fields["station"] = station_id(demo, "LW-014", "F1")
    kept = client.post("/cases/LW-014/correct", **fields, do="remove")
    assert kept.status_code == 422
    fields["station"] = station_id(demo, "LW-014", "C15")
    assert client.post("/cases/LW-014/correct", **fields, do="remove").status_code == 303
    assert "C15" not in [s.ref for s in open_case(demo, "LW-014").sheet.stations]


def test_a_sheet_kept_as_a_pattern_starts_the_next_case(client: Client) -> None:
    refused = client.post("/cases/LW-014/pattern", name="Corvane CV-150")
    assert refused.status_code == 422
    page = refused.get_data(as_text=True)
    assert "There is a pattern Corvane CV-150 already" in page
    assert 'value="Corvane CV-150"' in page
    assert client.post("/cases/LW-014/pattern", name="WL-80 late").status_code == 303
    assert "WL-80 late" in client.text("/cases/new")
    assert "This sheet is of <b>WL-80 late</b>" in client.text("/cases/LW-014/intake")


def test_a_boards_mark_is_asked_once_and_proven(client: Client, demo: Store) -> None:
    sheet = open_case(demo, "LW-022").sheet
    at = next(f"{s.id}~esr~in circuit~" for s in sheet.capacitors if s.board == "P1")
    fields = {"view": "map", "at": at, "board": "P1", "mark": "square pad is positive"}
    refused = client.post("/cases/LW-022/board-mark", **fields, proven_on="C1")
    assert refused.status_code == 422
    assert "known to be original" in refused.get_data(as_text=True)
    assert client.post("/cases/LW-022/board-mark", **fields, proven_on="c24").status_code == 303
    page = client.flask.get("/cases/LW-022", query_string={"at": at}).get_data(as_text=True)
    assert "square pad is positive</b>, proven on C24" in page
    assert 'class="polarity"' in page


def test_the_echo_says_what_is_understood(client: Client, demo: Store) -> None:
    at = f"{station_id(demo, 'LW-014', 'C14')}~esr~in circuit~"

    def echo(text: str) -> str:
        response = client.flask.get("/cases/LW-014/echo", query_string={"at": at, "text": text})
        return response.get_data(as_text=True).replace("\u00a0", " ").strip()

    assert echo("0R56") == "understood <b>0.56 Ω</b>"
    assert "is a capacitance" in echo("100nF")
    assert echo(" ") == ""
