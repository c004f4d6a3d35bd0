"""What is done to a case from its page: kept, refused with its text, never overwritten unseen."""

from __future__ import annotations

import re

import pytest

from hale_rail.actions import readings
from hale_rail.case.diagnosis.diagnosis import diagnosis
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.core.procedures import parse_point
from hale_rail.store.database import Store
from tests.conftest import Client, part_id


def facts_of(case: CaseFile, ref: str) -> PartFacts:
    return next(f for f in parts(case).values() if f.part.ref == ref)


def test_a_reading_by_plain_form_moves_on(client: Client, demo: Store) -> None:
    at = f"{part_id(demo, 'LW-014', 'CX2')}~c~in-circuit"
    response = client.post("/cases/LW-014/do/read", at=at, view="capacitors", text="201n", seen="")
    assert response.status_code == 303
    page = client.text(response.location)
    assert "201 nF" in page.replace("\u00a0", " ")
    assert 'class="result-verdict' in page
    assert "CY1" in re.sub(r"<[^>]+>", " ", page.split('class="probe"')[1][:200])


def test_a_reading_by_htmx_gets_the_new_case_and_its_address(client: Client, demo: Store) -> None:
    at = f"{part_id(demo, 'LW-014', 'CX2')}~c~in-circuit"
    response = client.post(
        "/cases/LW-014/do/read", htmx=True, at=at, view="capacitors", text="201n", seen=""
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
        ("2 mF", "2 µF or 2 mF"),
        ("<script>alert(1)</script>", "not a capacitance"),
    ],
)
def test_a_bad_reading_stays_in_the_tray_with_its_message(
    client: Client, demo: Store, text: str, says: str
) -> None:
    at = f"{part_id(demo, 'LW-014', 'CX2')}~c~in-circuit"
    before = open_case(demo, "LW-014").case.revision
    response = client.post("/cases/LW-014/do/read", at=at, view="capacitors", text=text, seen="")
    page = response.get_data(as_text=True).replace("\u00a0", " ")
    assert response.status_code == 422
    assert says in page
    assert "<script>alert" not in page
    escaped = text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    assert f'value="{escaped}"' in page
    assert open_case(demo, "LW-014").case.revision == before


def test_a_second_tab_sees_what_the_first_saved_and_keeps_its_own(
    client: Client, demo: Store
) -> None:
    point = parse_point(f"{part_id(demo, 'LW-014', 'CX2')}~c~in-circuit")
    readings.save_reading(demo, "LW-014", point, "188n", None)
    fields = {"at": point.key, "view": "capacitors", "text": "201n", "seen": ""}
    response = client.post("/cases/LW-014/do/read", **fields)
    page = response.get_data(as_text=True).replace("\u00a0", " ")
    assert response.status_code == 409
    assert "188 nF" in page
    assert 'value="201n"' in page
    seen = re.findall(r'name="seen" value="(\d+)"', page)[-1]
    assert client.post("/cases/LW-014/do/read", **(fields | {"seen": seen})).status_code == 303


def test_an_edit_in_a_second_tab_loses_nothing_typed(client: Client) -> None:
    fields = {"view": "intake", "machine": "A", "symptom": "hums", "before": "", "version": "1"}
    assert client.post("/cases/LW-014/do/edit", **fields).status_code == 303
    response = client.post("/cases/LW-014/do/edit", **(fields | {"symptom": "smells of fish"}))
    page = response.get_data(as_text=True)
    assert response.status_code == 409
    assert "smells of fish" in page
    assert "hums" in page


def test_the_guard_stands_before_the_map_and_passes_by_reading(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-031")
    assert "First: is it dead?" in page
    assert 'class="tray' not in page
    assert "No written reason passes here" in page  # C1 was read charged
    refused = client.post(
        "/cases/LW-031/do/read", view="cold", text="0.2", seen="",
        at=f"{part_id(demo, 'LW-031', 'F1')}~ohms~in-circuit",
    )  # fmt: skip
    assert refused.status_code == 422
    for ref in ("C1", "C2", "C5"):
        store_id = part_id(demo, "LW-031", ref)
        seen = re.search(r'name="seen" value="(\d*)"', client.text("/cases/LW-031"))
        assert seen
        client.post(
            "/cases/LW-031/do/read", at=f"{store_id}~store~", view="cold", text="3.1", seen=seen[1]
        )
    page = client.text("/cases/LW-031")
    assert "First: is it dead?" not in page
    assert "safe to touch" in page
    # on the mains side a meter may go on; on a rail its store is read first, then the point
    d10 = f"{part_id(demo, 'LW-031', 'D10')}~ohms~in-circuit"
    page = client.text(f"/cases/LW-031?at={d10}")
    assert "Before a meter goes on its line" in page
    assert f'name="back" value="{d10}"' in page
    c20 = part_id(demo, "LW-031", "C20")
    seen = re.search(r'name="seen" value="(\d*)"', page)
    assert seen
    fields = {"at": f"{c20}~store~", "view": "cold", "seen": seen[1], "back": d10}
    response = client.post("/cases/LW-031/do/read", text="0.2", **fields)
    assert "Before a meter" not in client.text(response.location)
    assert "D10" in re.sub(r"<[^>]+>", " ", client.text(response.location).split("probe")[1][:200])


def test_a_reason_too_short_is_kept_in_its_field(client: Client) -> None:
    client.post("/cases/LW-031/do/power", event="removed", view="safe")
    response = client.post("/cases/LW-031/do/guard", view="cold", reason="dunno")
    page = response.get_data(as_text=True)
    assert response.status_code == 422
    assert 'value="dunno"' in page
    assert re.search(r"<details\s+open>", page)
    reason = "Cap lifted and bled on the bench by me."
    assert client.post("/cases/LW-031/do/guard", view="cold", reason=reason).status_code == 303
    assert reason in client.text("/cases/LW-031/report")


def test_strike_decide_note_and_power(client: Client, demo: Store) -> None:
    reading = max(open_case(demo, "LW-014").rows.readings)
    client.post("/cases/LW-014/do/strike", reading=reading, view="log", reason="slipped")
    assert "<s>C13" in client.text("/cases/LW-014/log")
    assert client.post("/cases/LW-014/do/strike", reading=reading, view="log").status_code == 422
    q1 = part_id(demo, "LW-014", "Q1")
    client.post("/cases/LW-014/do/decide", part=q1, kind="fitted", reason="same pins", view="cold")
    assert facts_of(open_case(demo, "LW-014"), "Q1").state.value == "replaced"
    assert client.post("/cases/LW-014/do/note", text=" ").status_code == 422
    client.post("/cases/LW-014/do/note", text="Smelt of <b>fish</b>")
    assert "Smelt of &lt;b&gt;fish&lt;/b&gt;" in client.text("/cases/LW-014/log")
    power = {"event": "applied", "source": "mains", "view": "safe"}
    unaware = client.post("/cases/LW-014/do/power", **power)
    assert unaware.status_code == 422
    assert "failed and not replaced" in unaware.get_data(as_text=True)
    client.post("/cases/LW-014/do/power", **power, despite="y")
    assert "Power is on" in client.text("/cases/LW-014/safe")
    assert (
        client.post("/cases/LW-014/do/power", event="applied", source="hamster").status_code == 422
    )


def test_a_part_asked_for_what_it_has_not_is_refused_and_not_logged(
    client: Client, demo: Store
) -> None:
    case = open_case(demo, "LW-014")
    f1 = part_id(demo, "LW-014", "F1")
    at = f"{f1}~esr~in-circuit"
    good = next(key for key in case.rows.standing if key.startswith(f"{f1}~"))
    at = good.replace("ohms", "esr")
    assert at != good
    before = len(case.rows.readings)
    for htmx in (False, True):
        fields = {"at": at, "text": "0.4", "view": "cold"}
        response = client.post("/cases/LW-014/do/read", htmx=htmx, **fields)
        assert response.status_code == 422
        assert "F1 has no ESR to read" in response.get_data(as_text=True)
    assert len(open_case(demo, "LW-014").rows.readings) == before
    assert client.get(f"/cases/LW-014/cold?at={at}").status_code == 200


@pytest.mark.parametrize("number", ["new", "NEW", "a/b", "..", ""])
def test_a_number_that_is_an_address_is_refused(client: Client, number: str) -> None:
    fields = {"number": number, "machine": "Loom", "symptom": "dead", "start": "template:linear",
              "school": "proven", "tolerance": "strict", "unit_type": ""}  # fmt: skip
    response = client.post("/cases/new", **fields)
    assert response.status_code == 422
    assert "is-invalid" in response.get_data(as_text=True)


def test_a_clash_is_chosen_in_the_preview_and_the_symptom_offers_its_codes(
    client: Client, demo: Store
) -> None:
    fields = {"number": "LW-041", "machine": "Loom", "symptom": "dead, black fuse",
              "start": "template:flyback", "school": "proven", "tolerance": "strict",
              "unit_type": "", "parts": "C1 47u 25V +5"}  # fmt: skip
    page = client.post("/cases/new/preview", **fields).get_data(as_text=True)
    assert 'name="take-C1"' in page
    assert "The sheet has C1 on the primary side, the list on +5 V" in page
    meant = client.post("/cases/new/symptoms", **fields).get_data(as_text=True)
    assert 'value="fuse-black"' in meant
    sent = {**fields, "take-C1": "beside", "symptoms": "fuse-black"}
    assert client.post("/cases/new", **sent).status_code == 303
    case = open_case(demo, "LW-041")
    assert sorted(p.line for p in case.sheet.parts if p.ref == "C1") == ["+5 V", "main"]
    assert diagnosis(case).symptoms == ("fuse-black",)


def test_several_findings_at_a_station_and_taking_them_back(client: Client, demo: Store) -> None:
    c14 = part_id(demo, "LW-014", "C14")

    def press(code: str) -> tuple[str, ...]:
        """Press a button of the round as the page has it."""
        page = client.text("/cases/LW-014/look")
        button = re.search(rf'id="look-{c14}-{code}"\s+name="codes" value="([^"]*)"', page)
        assert button
        fields = {"part": c14, "view": "look", "codes": button[1]}
        assert client.post("/cases/LW-014/do/look", **fields).status_code == 303
        return facts_of(open_case(demo, "LW-014"), "C14").seen

    assert press("leak") == ("leak",)
    assert press("bulge") == ("leak", "bulge")
    assert press("leak") == ("bulge",)
    assert press("none") == ("none",)
    assert press("none") == ()
    assert facts_of(open_case(demo, "LW-014"), "C14").state.value == "unseen"


def test_a_backup_battery_on_the_round(client: Client, demo: Store) -> None:
    board = part_id(demo, "LW-014", "Main board")
    fields = {"at": f"{board}~battery~", "view": "look", "seen": ""}
    refused = client.post("/cases/LW-014/do/read", **fields, text="3k6")
    page = refused.get_data(as_text=True)
    assert refused.status_code == 422
    assert 'value="3k6"' in page
    assert page.count('class="problem"') == 1
    assert client.post("/cases/LW-014/do/read", **fields, text="1.2").status_code == 303
    judgement = facts_of(open_case(demo, "LW-014"), "Main board").judgement
    assert "battery-flat" in [reason.code for reason in judgement.reasons]


def test_a_store_read_before_the_last_power_is_still_to_be_read(
    client: Client, demo: Store
) -> None:
    page = client.text("/cases/LW-031/safe")
    # C1 is above the limit, the others unread
    assert re.search(r'class="count[^"]*">0/7<', page)
    c1 = part_id(demo, "LW-031", "C1")
    seen = re.findall(r'name="seen" value="(\d+)"', page)[-1]
    response = client.post(
        "/cases/LW-031/do/read", at=f"{c1}~store~", view="safe", text="90", seen=seen
    )
    after = client.text(response.location)
    assert "C2" in re.sub(r"<[^>]+>", " ", after.split('class="probe"')[1][:200])


def test_parts_are_previewed_before_they_are_added(client: Client, demo: Store) -> None:
    fields = {"parts": "C88 10u 35V +12 tant\nnonsense", "do": "preview"}
    count = len(open_case(demo, "LW-014").sheet.parts)
    page = client.post("/cases/LW-014/do/parts", **fields).get_data(as_text=True)
    assert "C88" in page
    assert "not a designator" in page
    assert len(open_case(demo, "LW-014").sheet.parts) == count
    fields["do"] = "add"
    assert client.post("/cases/LW-014/do/parts", **fields).status_code == 422
    assert client.post("/cases/LW-014/do/parts", **fields, leave_out="1").status_code == 303
    assert len(open_case(demo, "LW-014").sheet.parts) == count + 1


def test_a_part_is_corrected_from_its_panel(client: Client, demo: Store) -> None:
    c14 = part_id(demo, "LW-014", "C14")
    at = f"{c14}~esr~in-circuit"
    shown = {"at": at, "unfolded": "1"}
    page = client.flask.get("/cases/LW-014", query_string=shown).get_data(as_text=True)
    was = re.search(r'name="was" value="([^"]+)"', page)
    assert was
    fields = {"part": c14, "at": at, "view": "cold", "was": was[1]}
    refused = client.post("/cases/LW-014/do/correct", **fields, text="680 ells")
    page = refused.get_data(as_text=True)
    assert refused.status_code == 422
    assert 'value="680 ells"' in page
    assert client.post("/cases/LW-014/do/correct", **fields, text="680u 25V -12").status_code == 303
    assert facts_of(open_case(demo, "LW-014"), "C14").part.value == pytest.approx(680e-6)
    late = client.post("/cases/LW-014/do/correct", **fields, text="330u 25V -12")
    assert late.status_code == 409
    assert "Another tab corrected C14 first" in late.get_data(as_text=True)
    fields["part"] = part_id(demo, "LW-014", "F1")
    kept = client.post("/cases/LW-014/do/correct", **fields, do="remove")
    assert kept.status_code == 422
    fields["part"] = part_id(demo, "LW-014", "C15")
    assert client.post("/cases/LW-014/do/correct", **fields, do="remove").status_code == 303
    assert "C15" not in [p.ref for p in open_case(demo, "LW-014").sheet.parts]


def test_a_sheet_kept_as_a_pattern_starts_the_next_case(client: Client) -> None:
    refused = client.post("/cases/LW-014/do/pattern", view="intake", name="Corvane CV-150")
    assert refused.status_code == 422
    page = refused.get_data(as_text=True)
    assert "There is a pattern Corvane CV-150 already" in page
    assert 'value="Corvane CV-150"' in page
    assert client.post("/cases/LW-014/do/pattern", name="WL-80 late").status_code == 303
    assert "WL-80 late" in client.text("/cases/new")
    assert "This sheet is of <b>WL-80 late</b>" in client.text("/cases/LW-014/intake")


def test_a_boards_mark_is_asked_once_and_proven(client: Client, demo: Store) -> None:
    sheet = open_case(demo, "LW-022").sheet
    at = next(f"{p.id}~esr~in-circuit" for p in sheet.capacitors if p.board == "P1")
    fields = {"view": "cold", "at": at, "board": "P1", "mark": "square-positive"}
    refused = client.post("/cases/LW-022/do/board-mark", **fields, proven_on="C1")
    assert refused.status_code == 422
    assert "known to be original" in refused.get_data(as_text=True)
    assert client.post("/cases/LW-022/do/board-mark", **fields, proven_on="c24").status_code == 303
    shown = {"at": at, "unfolded": "1"}
    page = client.flask.get("/cases/LW-022", query_string=shown).get_data(as_text=True)
    assert "square pad is positive</b>, proven on C24" in page
    assert 'class="polarity drawn"' in page


def test_the_echo_says_what_is_understood(client: Client, demo: Store) -> None:
    at = f"{part_id(demo, 'LW-014', 'C14')}~esr~in-circuit"

    def echo(text: str) -> str:
        response = client.flask.get("/cases/LW-014/echo", query_string={"at": at, "text": text})
        return response.get_data(as_text=True).replace("\u00a0", " ").strip()

    assert echo("0R56") == "understood <b>0.56 Ω</b>"
    assert "is a capacitance" in echo("100nF")
    assert echo(" ") == ""


def test_what_is_wrong_at_a_form_stands_there_and_nothing_typed_is_lost(client: Client) -> None:
    """One handler for all of them: the value stays in its field, the problem beside it."""
    client.post("/cases/LW-031/do/power", event="removed", view="safe")
    for path, view, fields, says in (
        ("note", "log", {"text": "x" * 501}, "At most 500 characters"),
        ("edit", "intake", {"version": "1", "machine": " ", "symptom": "hums <b>"}, "Name the"),
        ("pattern", "intake", {"name": "Corvane CV-150"}, "There is a pattern"),
        ("parts", "intake", {"parts": "nonsense", "do": "add"}, "no part or rail"),
        ("guard", "cold", {"reason": "why not"}, "in a sentence"),
    ):
        response = client.post(f"/cases/LW-031/do/{path}", view=view, **fields)
        page = response.get_data(as_text=True)
        assert response.status_code == 422, path
        assert says in page
        for text in (text for name, text in fields.items() if name != "do"):
            assert text.replace("<", "&lt;").replace(">", "&gt;") in page, (path, text)


@pytest.mark.parametrize(("path", "view", "fields", "says"), [
    # a form of the page has a place for it; one of another page has it at the top
    ("note", "log", {"text": "x" * 501}, "At most 500 characters"),
    ("note", "cold", {"text": "x" * 501}, "At most 500 characters"),
    ("power-plan", "first-power", {"limiter": "lamp", "draw_a": "abc"}, "is not a current"),
    ("power-plan", "rails", {"limiter": "lamp", "draw_a": "abc"}, "is not a current"),
    ("harness", "harness", {"source": "", "target": "", "length": "far"}, "is not a length"),
    ("power", "cold", {"event": "applied", "source": "moon"}, "Power comes from"),
    ("regulator", "machine", {"ref": "U1", "v_in": "12", "v_out": "5", "amps": "1",
                              "efficiency": "good"}, "A number of per cent"),
])  # fmt: skip
def test_what_is_wrong_with_a_form_is_told_once_on_whatever_page(
    client: Client, path: str, view: str, fields: dict, says: str
) -> None:
    answer = client.post(f"/cases/LW-031/do/{path}", view=view, **fields)
    assert answer.status_code == 422
    assert answer.get_data(as_text=True).count(says) == 1


def test_handing_back_and_taking_back(client: Client, demo: Store) -> None:
    refused = client.post("/cases/LW-009/do/hand-back", view="hand-back", version="1")
    assert refused.status_code == 422
    assert "Say how it goes back" in refused.get_data(as_text=True)
    fields = {"view": "hand-back", "version": "1", "outcome": "repaired"}
    assert client.post("/cases/LW-009/do/hand-back", **fields).status_code == 303
    assert "handed back" in client.text("/cases/LW-009/report")
    assert client.post("/cases/LW-009/do/hand-back", **fields).status_code == 409
    page = client.text("/cases/LW-009/hand-back")
    issued = re.search(r'href="(/cases/LW-009/report/\d+)"', page)
    assert issued
    kept = client.text(issued[1])
    fields = {"view": "hand-back", "version": "2"}
    assert client.post("/cases/LW-009/do/reopen", **fields).status_code == 303
    client.post("/cases/LW-009/do/note", text="Came back: hums again.")
    assert "hums again" in client.text("/cases/LW-009/report")
    assert client.text(issued[1]) == kept
    assert client.get("/cases/LW-009/report/999").status_code == 404
