"""Every page answers, keeps what was typed, and is guarded: CSRF, headers, escaping, errors."""

from __future__ import annotations

import re

import pytest
from flask import request

from hale_rail.actions import record
from hale_rail.actions.dossier import open_case
from hale_rail.core.supply.points import Point, Quantity
from hale_rail.store.database import Store
from hale_rail.web import addresses, create_app

from ..conftest import Client

CASES = ("LW-014", "LW-022", "LW-031", "LW-009")
VIEWS = (
    "",
    "/safe",
    "/look",
    "/diagnosis",
    "/capacitors",
    "/recap",
    "/rails",
    "/shorts",
    "/log",
    "/intake",
    "/report",
)


def station_id(store: Store, number: str, ref: str) -> int:
    return next(s.id for s in open_case(store, number).sheet.stations if s.ref == ref)


def token_free(page: str) -> str:
    """The page without its tokens, which are signed anew each second."""
    return re.sub(r'name="csrf_token" value="[^"]+"', "", page)


@pytest.mark.parametrize("number", CASES)
@pytest.mark.parametrize("view", VIEWS)
def test_every_view_answers_as_page_and_as_fragment(client: Client, number: str, view: str) -> None:
    page = client.text(f"/cases/{number}{view}")
    assert page.startswith("<!doctype html>")
    assert number in page
    assert "&lt;Macro" not in page
    assert not re.search(r"\b(None|nan|inf)\b", re.sub(r"<[^>]+>", " ", page))
    if view != "/report":
        fragment = client.get(f"/cases/{number}{view}", **{"HX-Request": "true"})
        text = token_free(fragment.get_data(as_text=True))
        assert text.lstrip().startswith('<div id="case"')
        assert text.strip() in token_free(page)


@pytest.mark.parametrize(
    "path", ["/", "/?q=loom", "/?closed=1", "/cases/new", "/workshop", "/style"]
)
def test_other_pages_answer_with_strict_headers(client: Client, path: str) -> None:
    response = client.get(path)
    assert response.status_code == 200
    policy = response.headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert response.headers["X-Content-Type-Options"] == "nosniff"


@pytest.mark.parametrize(
    ("host", "code"),
    [
        ("127.0.0.1:5080", 200),
        ("localhost", 200),
        ("[::1]:5080", 200),
        ("bench.example", 403),
        ("127.0.0.1.example:80", 403),
    ],
)
def test_only_this_machines_names_are_answered(client: Client, host: str, code: int) -> None:
    assert client.get("/", Host=host).status_code == code


def test_a_key_cut_short_by_a_kill_is_made_anew(client: Client, demo: Store) -> None:
    path = demo.folder / "secret.key"
    kept = path.read_bytes()
    create_app(demo)
    assert path.read_bytes() == kept
    path.write_bytes(kept[:7])
    create_app(demo)
    assert len(path.read_bytes()) == len(kept)
    assert path.stat().st_mode & 0o077 == 0


def test_health(client: Client, demo: Store) -> None:
    assert client.get("/healthz").get_json() == {"status": "ok"}
    with demo.write() as connection:
        connection.execute("PRAGMA user_version = 99")
    assert client.get("/healthz").status_code == 503


@pytest.mark.parametrize(
    "path",
    ["read", "strike", "power", "guard", "decide", "note", "edit", "parts", "pattern", "find",
     "photo", "board-mark", "correct"],
)  # fmt: skip
def test_every_change_wants_the_pages_token(client: Client, demo: Store, path: str) -> None:
    before = open_case(demo, "LW-014").revision
    response = client.flask.post(f"/cases/LW-014/{path}", data={"text": "1", "event": "removed"})
    assert response.status_code == 400
    assert "reload" in response.get_data(as_text=True)
    assert client.get(f"/cases/LW-014/{path}").status_code == 405
    assert open_case(demo, "LW-014").revision == before


@pytest.mark.parametrize(
    ("path", "code", "says"),
    [
        ("/nowhere", 404, "nothing here"),
        ("/cases/LW-999", 404, "no case LW-999"),
        ("/cases/LW-999/rails", 404, "no case"),
        ("/cases/LW-014/teapot", 404, "nothing here"),
        (f"/cases/{'x' * 60}", 404, "nothing here"),
    ],
)
def test_friendly_errors(client: Client, path: str, code: int, says: str) -> None:
    response = client.get(path)
    text = response.get_data(as_text=True)
    assert (response.status_code, says in text) == (code, True)
    assert "Traceback" not in text
    fragment = client.get(path, **{"HX-Request": "true"})
    assert fragment.headers["HX-Retarget"] == "main"
    assert "<html" not in fragment.get_data(as_text=True)


def test_what_was_not_foreseen_is_no_traceback(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object, **__: object) -> None:
        raise RuntimeError("secret detail")

    monkeypatch.setattr("hale_rail.web.bench.casebook.bench", broken)
    response = client.get("/")
    assert response.status_code == 500
    assert "secret" not in response.get_data(as_text=True)


def test_too_large_is_refused(client: Client) -> None:
    response = client.post("/cases/new/preview", parts="C1 10u 25V\n" * 60_000)
    assert response.status_code == 413
    assert "400 lines" in response.get_data(as_text=True)


@pytest.mark.parametrize(
    "at", ["", "nonsense", "99999~esr~in circuit~", "r+99 V~rail~dummy~", "1~esr~sideways~"]
)
def test_an_address_with_a_bad_point_shows_the_view(client: Client, at: str) -> None:
    assert client.get("/cases/LW-014/capacitors", **{}).status_code == 200
    assert client.flask.get("/cases/LW-014/capacitors", query_string={"at": at}).status_code == 200


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


def test_the_panel_says_what_each_school_does(client: Client, demo: Store) -> None:
    at = f"{station_id(demo, 'LW-014', 'CY1')}~cap~in circuit~"
    page = client.flask.get("/cases/LW-014", query_string={"at": at}).get_data(as_text=True)
    rows = re.findall(r'<th scope="row">([^<]+)</th><td><b>(\w+)</b> ([^<]+)</td>', page)
    assert [row[:2] for row in rows] == [
        ("proven only", "keep"), ("offenders", "replace"), ("blanket", "replace"),
    ]  # fmt: skip
    assert "years old" in rows[1][2]


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


HUGE = "9" * 30


@pytest.mark.parametrize(
    ("path", "fields"),
    [
        ("strike", {"reading": HUGE}),
        ("edit", {"version": HUGE}),
        ("read", {"at": f"{HUGE}~esr~in circuit~", "text": "1"}),
        ("read", {"at": "٣~look~~", "text": "none"}),
        ("read", {"at": "1~look~~", "text": "", "seen": HUGE}),
        ("decide", {"station": HUGE, "kind": "fitted"}),
        ("photo", {"station": HUGE}),
    ],
)
def test_numbers_past_all_counting_are_no_failure_of_ours(
    client: Client, path: str, fields: dict[str, str]
) -> None:
    response = client.post(f"/cases/LW-014/{path}", view="map", **fields)
    assert response.status_code in (404, 409, 422)
    assert client.get(f"/?page={HUGE}").status_code == 200
    assert client.get(f"/cases/LW-014?said={HUGE}").status_code == 200


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


@pytest.mark.parametrize("name", [*addresses.VIEWS, "report"])
def test_an_address_written_out_is_the_routers(client: Client, name: str) -> None:
    at = "r+5 V~rail~in the machine~"
    written = addresses.view("LW.1", name, at, 7)
    with client.flask.application.test_request_context(written):
        assert request.view_args in ({"number": "LW.1"}, {"number": "LW.1", "view": name})
        assert request.endpoint in ("case.map_view", "case.view", "case.report")
        assert request.args.to_dict() == {"at": at, "said": "7"}


def test_forms_and_files_go_where_the_router_has_them(client: Client) -> None:
    app = client.flask.application
    names = [e.removeprefix("record.") for e in app.view_functions if e.startswith("record.")]
    assert len(names) > 10
    for name in set(names) - {"echo"}:
        with app.test_request_context(addresses.action("LW.1", name), method="POST"):
            assert (request.endpoint, request.view_args) == (f"record.{name}", {"number": "LW.1"})
    with client.get(addresses.static("hale-rail.css")) as stylesheet:
        assert stylesheet.mimetype == "text/css"


def test_the_bench_says_how_far_each_case_is(client: Client) -> None:
    page = client.text("/")
    stages = re.findall(r'aria-label="Stage: ([^"]+)"', page)
    assert stages == ["Capacitors", "Shorts", "Rails", "Hand back"]


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


def test_a_new_case_keeps_what_was_typed_until_it_is_right(client: Client, demo: Store) -> None:
    fields = {
        "number": "LW-040", "machine": "", "symptom": "no <light>", "before": "",
        "school": "blanket",
        "start": "template:offline flyback", "tolerance": "strict",
        "parts": "C10 3300u 16V +5\nC99 wrong",
    }  # fmt: skip
    response = client.post("/cases/new", **fields)
    page = response.get_data(as_text=True)
    assert response.status_code == 422
    for text in ("Name the machine", "no &lt;light&gt;", "C99 wrong", "No capacitance"):
        assert text in page
    fields["machine"] = "Loom"
    assert "Mend them" in client.post("/cases/new", **fields).get_data(as_text=True)
    response = client.post("/cases/new", **fields, leave_out="1")
    assert response.status_code == 303
    assert "C99 wrong" in client.text("/cases/LW-040/log")
    again = client.post("/cases/new", **fields, leave_out="1").get_data(as_text=True)
    assert "There is a case LW-040 already" in again


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


def test_the_recap_as_csv_by_each_school(client: Client) -> None:
    own = client.get("/cases/LW-031/recap.csv")
    assert own.mimetype == "text/csv"
    assert "attachment" in own.headers["Content-Disposition"]
    rows = own.get_data(as_text=True).splitlines()
    assert rows[0].startswith("qty,pF,nF,uF")
    assert rows[1].startswith("3,3300000000,3300000,3300,10,aluminium")
    blanket = client.get("/cases/LW-031/recap.csv?by=blanket").get_data(as_text=True)
    assert len(blanket.splitlines()) > len(rows)


def test_the_workshops_settings(client: Client) -> None:
    fields = {"touch_limit_v": "30", "school": "blanket", "tolerance": "lenient",
              "hours_a_day": "8,5", "core_c": "55",
              "resistors": "ohms,watts,kind,max_volts\n1k,5,carbon,500"}  # fmt: skip
    response = client.post("/workshop", **fields)
    assert response.status_code == 422
    assert "wirewound or film" in response.get_data(as_text=True)
    fields["resistors"] = fields["resistors"].replace("carbon", "film")
    assert client.post("/workshop", **fields).status_code == 303
    assert "at most 30 V" in client.text("/cases/LW-031/safe").replace("\u00a0", " ")
    for bad in ({"touch_limit_v": "400"}, {"hours_a_day": "25"}, {"core_c": "warm"},
                {"meter": "ghost"}, {"meters": "cap_hz\n1"}):  # fmt: skip
        assert client.post("/workshop", **(fields | bad)).status_code == 422
