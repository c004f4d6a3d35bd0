"""Every page answers, keeps what was typed, and is guarded: CSRF, headers, escaping, errors."""

from __future__ import annotations

import re

import pytest

from hale_rail.case.file import open_case
from hale_rail.case.parts.parts import parts
from hale_rail.store.database import Store
from hale_rail.web import create_app
from tests.conftest import Client, part_id

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
    "/hand-back",
    "/report",
)


def token_free(page: str) -> str:
    """The page without its tokens, which are signed again each second."""
    return re.sub(r'name="csrf_token" value="[^"]+"', "", page)


@pytest.mark.parametrize("number", CASES)
@pytest.mark.parametrize("view", VIEWS)
def test_every_view_answers_as_page_and_as_fragment(reader: Client, number: str, view: str) -> None:
    page = reader.text(f"/cases/{number}{view}")
    while 'class="waiting"' in page:  # an analysis under way says how far it is
        page = reader.text(f"/cases/{number}{view}")
    assert page.startswith("<!doctype html>")
    assert number in page
    assert "&lt;Macro" not in page
    assert not re.search(r"\b(None|nan|inf)\b", re.sub(r"<[^>]+>", " ", page))
    if view != "/report":
        fragment = reader.get(f"/cases/{number}{view}", **{"HX-Request": "true"})
        text = token_free(fragment.get_data(as_text=True))
        assert text.lstrip().startswith('<div id="case"')
        assert text.strip() in token_free(page)


@pytest.mark.parametrize(
    "path", ["/", "/?q=loom", "/?kept=back", "/?kept=away", "/cases/new", "/workshop", "/style"]
)
def test_other_pages_answer_with_strict_headers(reader: Client, path: str) -> None:
    response = reader.get(path)
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
def test_only_this_machines_names_are_answered(reader: Client, host: str, code: int) -> None:
    assert reader.get("/", Host=host).status_code == code


def test_a_key_cut_short_by_a_kill_is_made_anew(demo: Store) -> None:
    path = demo.folder / "secret.key"
    create_app(demo)
    kept = path.read_bytes()
    create_app(demo)
    assert path.read_bytes() == kept
    path.write_bytes(kept[:7])
    create_app(demo)
    assert len(path.read_bytes()) == len(kept)
    assert path.stat().st_mode & 0o077 == 0


@pytest.mark.parametrize(
    ("path", "says"),
    [
        ("/cases/LW-031", "bulk capacitors hold 300 V to 400 V for minutes"),
        ("/cases/LW-031", "Pull the plug, not the switch"),
        ("/cases/LW-031/hand-back", "earth continuity and insulation by a person competent"),
        ("/cases/LW-031/safe", "Mains and the primary side can kill"),
        ("/cases/LW-031/safe", "If a suppressor smokes, pull the plug"),
        ("/cases/LW-031/safe", "never with a screwdriver"),
        ("/cases/LW-031/safe", "Tubes in displays hold kilovolts"),
        ("/cases/LW-031/safe", "Local codes and licensed practice come first"),
        ("/cases/LW-031/look", "do not reach in"),
        ("/cases/LW-031/rails", "eye protection, stand off, ventilate"),
        ("/cases/LW-031/rails", "ground clip on the primary side shorts through earth"),
        ("/cases/LW-031/recap", "only approved X and Y parts"),
        ("/cases/LW-031/report", "earth continuity below 0.1 Ω plus the lead"),
        ("/cases/LW-031/report", "A perished mains lead is replaced"),
    ],
)
def test_each_caution_stands_where_it_applies(client: Client, path: str, says: str) -> None:
    assert says in re.sub(r"\s+", " ", client.text(path))


def test_every_failed_part_says_so_in_words_on_the_map(client: Client, demo: Store) -> None:
    """Banks too, by a word under each; only a yard of many has no room."""
    known = parts(open_case(demo, "LW-014")).values()
    failed = [f for f in known if f.state.value == "failed"]
    assert {"C10", "C11", "C12"} <= {f.part.ref for f in failed}
    assert client.text("/cases/LW-014").count(">failed</text>") == len(failed)


def test_health(client: Client, demo: Store) -> None:
    assert client.get("/healthz").get_json() == {"status": "ok"}
    with demo.write() as connection:
        connection.execute("PRAGMA user_version = 99")
    assert client.get("/healthz").status_code == 503


def test_every_change_wants_the_pages_token(client: Client, demo: Store) -> None:
    """Whatever posts: refused without the token, and no page answers at its address."""
    before = open_case(demo, "LW-014").case.revision
    rules = client.flask.application.url_map.iter_rules()
    posts = [
        re.sub(r"<any.(\w+).*?>", r"\1", rule.rule.replace("<number>", "LW-014"))
        for rule in rules
        if "POST" in (rule.methods or ())
    ]
    assert len(posts) > 20
    for path in posts:
        response = client.flask.post(path, data={"text": "1", "event": "removed"})
        assert response.status_code == 400, path
        assert "reload" in response.get_data(as_text=True)
        if "/do/" in path:
            assert client.get(path).status_code == 405
    assert open_case(demo, "LW-014").case.revision == before


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

    monkeypatch.setattr("hale_rail.web.frame.bench.bench.bench", broken)
    response = client.get("/")
    assert response.status_code == 500
    assert "secret" not in response.get_data(as_text=True)


def test_too_large_is_refused(client: Client) -> None:
    response = client.post("/cases/new/preview", parts="C1 10u 25V\n" * 60_000)
    assert response.status_code == 413
    assert "400 lines" in response.get_data(as_text=True)


@pytest.mark.parametrize(
    "at", ["", "nonsense", "99999~esr~in-circuit", "r+99 V~volts~dummy", "1~esr~sideways", "9" * 30]
)
def test_an_address_with_a_bad_point_shows_the_view(client: Client, at: str) -> None:
    assert client.get("/cases/LW-014/capacitors").status_code == 200
    assert client.flask.get("/cases/LW-014/capacitors", query_string={"at": at}).status_code == 200


def test_the_panel_says_what_each_school_does(client: Client, demo: Store) -> None:
    page = client.text(f"/cases/LW-014?unfolded=1&at={part_id(demo, 'LW-014', 'CY1')}")
    rows = re.findall(r'<th scope="row">([^<]+)</th>\s*<td><b>(\w+)</b> ([^<]+)</td>', page)
    assert [row[:2] for row in rows] == [
        ("proven only", "keep"), ("offenders", "replace"), ("blanket", "replace"),
    ]  # fmt: skip
    assert "years old" in rows[1][2]


HUGE = "9" * 30


@pytest.mark.parametrize(
    ("path", "fields"),
    [
        ("strike", {"reading": HUGE}),
        ("edit", {"version": HUGE}),
        ("read", {"at": f"{HUGE}~esr~in-circuit", "text": "1"}),
        ("read", {"at": "٣~ohms~lifted", "text": "1"}),
        ("read", {"at": "1~ohms~lifted", "text": "", "seen": HUGE}),
        ("look", {"part": HUGE, "codes": "none"}),
        ("decide", {"part": HUGE, "kind": "fitted"}),
        ("photo", {"part": HUGE}),
        ("hand-back", {"version": HUGE, "outcome": "repaired"}),
    ],
)
def test_numbers_past_all_counting_are_no_failure_of_ours(
    client: Client, path: str, fields: dict[str, str]
) -> None:
    response = client.post(f"/cases/LW-014/do/{path}", view="cold", **fields)
    assert response.status_code in (404, 409, 422)
    assert client.get(f"/?page={HUGE}").status_code == 200
    assert client.get(f"/cases/LW-014?saved={HUGE}").status_code == 200


def test_the_bench_says_how_far_each_case_is(client: Client) -> None:
    page = client.text("/")
    stages = re.findall(r'aria-label="Stage: ([^"]+)"', page)
    assert stages == [
        "Rails", "Cold checks", "In the machine", "Shorts", "Cold checks", "Hand back",
    ]  # fmt: skip


def test_a_new_case_keeps_what_was_typed_until_it_is_right(client: Client, demo: Store) -> None:
    fields = {
        "number": "LW-040", "machine": "", "symptom": "no <light>", "before": "",
        "school": "blanket",
        "start": "template:flyback", "tolerance": "strict",
        "parts": "C10 3300u 16V +5\nC99 wrong",
    }  # fmt: skip
    fields["unit_type"] = "pattern"
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


def test_the_recap_as_csv_by_each_school(client: Client) -> None:
    own = client.get("/cases/LW-031/recap.csv")
    assert own.mimetype == "text/csv"
    assert "attachment" in own.headers["Content-Disposition"]
    rows = own.get_data(as_text=True).splitlines()
    assert rows[0].startswith("qty,pF,nF,uF")
    assert rows[1].startswith("3,,3300000,3300,10,aluminium")
    blanket = client.get("/cases/LW-031/recap.csv?by=blanket").get_data(as_text=True)
    assert len(blanket.splitlines()) > len(rows)
