"""Signing in: names, the passphrase, waits, sessions that end, and whose entry it is."""

from __future__ import annotations

import html
import re
import time
from collections.abc import Iterator
from typing import NoReturn

import pytest
from flask import Flask
from flask.testing import FlaskClient
from werkzeug.test import TestResponse

from hale_rail.errors import FullError
from hale_rail.store import passphrase, sign_ins
from hale_rail.store.database import Store
from hale_rail.web import create_app
from hale_rail.web.auth import sessions
from hale_rail.web.auth.host_names import Names, is_host
from hale_rail.web.auth.login_throttle import LoginThrottle, delay_s
from tests.conftest import Client

PHRASE = "four warm tubes glow"
TOKEN = re.compile(r'name="csrf_token" value="([^"]+)"')


@pytest.mark.parametrize(
    ("names", "header", "code"),
    [
        (Names(), "localhost:5080", 0),
        (Names(), "127.0.0.1", 0),
        (Names(), "[::1]:5080", 0),
        (Names(), None, 400),
        (Names(), "", 400),
        (Names(), "[::1", 400),
        (Names(), "192.0.2.7", 403),
        (Names(), "evil.example", 403),
        (Names("192.0.2.7"), "192.0.2.7:5080", 0),
        (Names("192.0.2.7"), "192.0.2.8", 403),
        (Names("0.0.0.0"), "192.0.2.8", 0),
        (Names("0.0.0.0"), "evil.example", 403),
        (Names("::", ("bench.local",)), "bench.local:5080", 0),
        (Names("::", ("bench.local",)), "BENCH.LOCAL", 0),
    ],
)
def test_a_request_calls_this_machine_by_its_own_name(
    names: Names, header: str | None, code: int
) -> None:
    assert names.refusal(header) == code
    assert names.is_local == (names == Names())


def test_a_request_without_a_host_is_refused(client: Client) -> None:
    assert client.flask.open("/", headers={"Host": ""}).status_code == 400


def test_waits_grow_and_are_forgotten() -> None:
    assert [delay_s(n) for n in (0, 2, 3, 4, 5, 20)] == [0, 0, 2, 4, 8, 900]
    throttle = LoginThrottle()
    for _ in range(3):
        assert throttle.wait_s("192.0.2.7", 100.0) == 0
        throttle.wrong("192.0.2.7", 100.0)
    assert throttle.wait_s("192.0.2.7", 100.5) == 1.5
    assert throttle.wait_s("192.0.2.8", 100.5) == 0
    assert throttle.wait_s("192.0.2.7", 102.0) == 0
    throttle.wrong("192.0.2.7", 102.0)
    assert throttle.wait_s("192.0.2.7", 102.0) == 4
    assert throttle.wait_s("192.0.2.7", 102.0 + 3601) == 0
    for last in ("::1", "::2", "::3", "::4"):  # one network of IPv6 is one address
        throttle.wrong(f"2001:db8{last}", 0.0)
    assert throttle.wait_s("2001:db8::5", 0.0) == delay_s(4)
    throttle.right("2001:db8::9")
    assert throttle.wait_s("2001:db8::5", 0.0) == 0


class Guest:
    """A browser somewhere on the network."""

    def __init__(self, flask: FlaskClient) -> None:
        self.flask = flask

    def sign_in(self, phrase: str = PHRASE, bench: str = "Window", **more: str) -> TestResponse:
        token = TOKEN.search(self.flask.get("/sign-in").get_data(as_text=True))
        data = {"csrf_token": token[1] if token else "", "phrase": phrase, "bench": bench, **more}
        return self.flask.post("/sign-in", data=data)

    def note(self, text: str, **headers: str) -> TestResponse:
        token = TOKEN.search(self.flask.get("/cases/LW-014/log").get_data(as_text=True))
        data = {"csrf_token": token[1] if token else "", "view": "log", "text": text}
        return self.flask.post("/cases/LW-014/do/note", data=data, headers=headers)


@pytest.fixture
def guest(demo: Store) -> Iterator[Guest]:
    passphrase.put(demo.folder, PHRASE)
    app = create_app(demo, names=Names("0.0.0.0"))
    with app.test_client() as flask:
        yield Guest(flask)


def test_nothing_is_shown_before_the_passphrase(guest: Guest) -> None:
    for path in ("/", "/cases/LW-014", "/cases/LW-014/report.pdf", "/order", "/workshop",
                 "/cases/LW-014/bundle.zip", "/this-bench"):  # fmt: skip
        answer = guest.flask.get(path)
        assert (answer.status_code, answer.headers["Location"].split("?")[0]) == (303, "/sign-in")
    page = guest.flask.get("/sign-in").get_data(as_text=True)
    assert "plain HTTP" in page
    style = re.search(r'href="(/static/[^"]+all\.css)"', page)
    assert style
    assert guest.flask.get(style[1]).status_code == 200
    assert guest.flask.get("/healthz").get_json() == {"status": "ok"}


def test_a_bench_signs_in_works_and_signs_out_for_good(guest: Guest, demo: Store) -> None:
    answer = guest.sign_in(after="/cases/LW-014?at=1")
    assert (answer.status_code, answer.headers["Location"]) == (303, "/cases/LW-014?at=1")
    cookie = answer.headers["Set-Cookie"]
    assert all(flag in cookie for flag in ("HttpOnly", "SameSite=Lax", "Expires="))
    assert guest.note("from the window").status_code == 303
    page = guest.flask.get("/cases/LW-014/log").get_data(as_text=True)
    assert "Window" in page
    stolen = guest.flask.get_cookie("hale_rail")
    assert stolen
    token = TOKEN.search(page)
    assert token
    guest.flask.post("/sign-out", data={"csrf_token": token[1]})
    guest.flask.set_cookie("hale_rail", stolen.value)
    assert guest.flask.get("/cases/LW-014").status_code == 303  # the cookie is worth nothing now
    row = demo.read().execute("SELECT bench FROM log WHERE text = 'from the window'").fetchone()
    assert row["bench"] == "Window"


@pytest.mark.parametrize(
    ("how", "says"),
    [
        ({"phrase": "wrong and long enough"}, "not the passphrase"),
        ({"phrase": ""}, "The workshop’s passphrase"),
        ({"phrase": "x" * 5000}, "not the passphrase"),
        ({"bench": ""}, "Your name, or the bench’s"),
        ({"bench": "x" * 41}, "At most 40"),
    ],
)
def test_the_door_stays_shut_and_says_why(guest: Guest, how: dict[str, str], says: str) -> None:
    answer = guest.sign_in(**how)
    page = answer.get_data(as_text=True)
    assert answer.status_code in (403, 422)
    assert says in page
    assert PHRASE not in page
    assert guest.flask.get("/").status_code == 303


@pytest.mark.parametrize("error", [FullError("Make room."), ZeroDivisionError()])
def test_a_passphrase_is_never_shown_again(
    guest: Guest, monkeypatch: pytest.MonkeyPatch, error: Exception
) -> None:
    """Whatever breaks while somebody signs in, even where the page cannot be shown again."""

    def refuse(*_: object, **__: object) -> NoReturn:
        raise error

    guest.flask.application.testing = False
    monkeypatch.setattr(sessions, "sign_in", refuse)
    monkeypatch.setattr("hale_rail.web.auth.routes._rerender_sign_in", refuse)
    answer = guest.sign_in()
    assert answer.status_code in (500, 503)
    assert PHRASE not in answer.get_data(as_text=True)


def test_wrong_ones_wait_even_for_the_right_one(guest: Guest) -> None:
    for _ in range(3):
        assert guest.sign_in("wrong and long enough").status_code == 403
    answer = guest.sign_in()
    assert answer.status_code == 429
    assert int(answer.headers["Retry-After"]) in (1, 2, 3)
    assert "Too many wrong ones" in answer.get_data(as_text=True)


@pytest.mark.parametrize(
    "where", ["//evil.example/x", "https://evil.example", "/\\evil.example", "nowhere", "/a\nb"]
)
def test_the_door_leads_into_this_workshop_only(guest: Guest, where: str) -> None:
    assert guest.sign_in(after=where).headers["Location"] == "/"


@pytest.mark.parametrize("how", ["idle", "old", "passphrase"])
def test_sessions_end(guest: Guest, demo: Store, monkeypatch: pytest.MonkeyPatch, how: str) -> None:
    guest.sign_in()
    assert guest.flask.get("/").status_code == 200
    if how == "idle":
        monkeypatch.setattr(sessions, "IDLE_S", -1.0)
    elif how == "old":
        monkeypatch.setattr(sessions, "LONGEST_S", -1.0)
    else:
        passphrase.put(demo.folder, "another one altogether")
    assert guest.flask.get("/").status_code == 303


def test_who_is_at_work_is_not_signed_out(guest: Guest, demo: Store) -> None:
    guest.sign_in()
    with demo.write() as connection:
        connection.execute("UPDATE sign_in SET seen_s = seen_s - 40000")
    assert guest.flask.get("/cases/LW-014/news?after=0").status_code == 200  # by itself
    seen = demo.read().execute("SELECT seen_s FROM sign_in").fetchone()[0]
    assert time.time() - seen > 36_000
    assert guest.flask.get("/").status_code == 200
    seen = demo.read().execute("SELECT seen_s FROM sign_in").fetchone()[0]
    assert time.time() - seen < 3600
    with demo.read() as connection:
        assert sign_ins.find(connection, "no such token") is None


@pytest.mark.parametrize("htmx", [True, False])
def test_what_was_typed_when_the_session_ended_is_kept_at_the_door(
    guest: Guest, monkeypatch: pytest.MonkeyPatch, htmx: bool
) -> None:
    guest.sign_in()
    token = TOKEN.search(guest.flask.get("/cases/LW-014/log").get_data(as_text=True))
    assert token
    data = {"csrf_token": token[1], "view": "log", "text": "the <fan> hums"}
    headers = {"Origin": "http://localhost"} | ({"HX-Request": "true"} if htmx else {})
    with monkeypatch.context() as ended:
        ended.setattr(sessions, "IDLE_S", -1.0)
        answer = guest.flask.post("/cases/LW-014/do/note", data=data, headers=headers)
        away = guest.flask.post(
            "/cases/LW-014/do/note", data=data, headers={"Origin": "http://evil.example"}
        )
        page = answer.get_data(as_text=True)
        assert (answer.status_code, page.count("<html")) == (401, 0 if htmx else 1)
        assert "What you typed is kept" in page
        assert "What you typed is kept" not in away.get_data(as_text=True)
        kept = re.search(r'name="kept" value="([^"]*)"', page)
        assert kept
        inside = guest.sign_in(kept=html.unescape(kept[1])).get_data(as_text=True)
    form = inside[inside.index('class="sent"') :]
    sent = dict(re.findall(r'name="([^"]+)" value="([^"]*)"', form))
    assert sent["text"] == "the &lt;fan&gt; hums"
    saved = guest.flask.post("/cases/LW-014/do/note", data={**sent, "text": "the <fan> hums"})
    assert saved.status_code == 303


def test_what_is_typed_meanwhile_is_not_taken_away_by_its_echo(guest: Guest) -> None:
    headers = {"HX-Request": "true", "HX-Target": "echo"}
    answer = guest.flask.get("/cases/LW-014/echo?at=1", headers=headers)
    assert (answer.status_code, answer.headers["HX-Reswap"]) == (401, "none")


def test_behind_tls_the_cookie_goes_over_tls_alone(demo: Store) -> None:
    passphrase.put(demo.folder, PHRASE)
    app = create_app(demo, names=Names(others=("bench.example",)), is_behind_tls=True)
    with app.test_client() as flask:
        answer = flask.get("/sign-in", base_url="https://bench.example")
    assert "Secure" in answer.headers["Set-Cookie"]
    assert answer.headers["Set-Cookie"].startswith("__Host-")
    assert "max-age" in answer.headers["Strict-Transport-Security"]
    assert "plain HTTP" not in answer.get_data(as_text=True)


def test_a_bench_has_a_name_without_a_door_too(client: Client, demo: Store) -> None:
    assert client.post("/this-bench", bench="x" * 41).status_code == 422
    assert client.post("/this-bench", bench=" Dorte\tat the lathe ").status_code == 303
    assert "Dorte at the lathe" in client.text("/")
    client.post("/cases/LW-014/do/note", view="log", text="named")
    client.post("/this-bench", bench="")
    client.post("/cases/LW-014/do/note", view="log", text="unnamed")
    rows = demo.read().execute("SELECT text, bench FROM log WHERE text LIKE '%named'").fetchall()
    assert {r["text"]: r["bench"] for r in rows} == {"named": "Dorte at the lathe", "unnamed": ""}
    assert "Dorte at the lathe" in client.text("/cases/LW-014/log")


@pytest.mark.parametrize(
    ("host", "code"),
    [
        ("a" * 64, 400), ("a" * 64 + ".example", 400), ("a" * 300, 400), ("a..b", 400),
        ("[::1", 400), ("a" * 63, 403), ("localhost.", 403),
    ],
)  # fmt: skip
def test_a_host_that_no_machine_can_have_is_refused(
    application: Flask, warm_demo: Store, host: str, code: int
) -> None:
    application.config["STORE"] = warm_demo
    answer = application.test_client().get("/", headers={"Host": host})
    assert answer.status_code == code
    assert is_host(host) == (code == 403)
    assert not is_host("xn--a")


def test_a_clock_that_is_behind_is_told_at_the_door(
    demo: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    passphrase.put(demo.folder, PHRASE)
    real = time.time
    monkeypatch.setattr(time, "time", lambda: real() - 86_400)
    client = create_app(demo).test_client()
    token = TOKEN.search(client.get("/sign-in").text)
    assert token
    told = client.post("/sign-in", data={"csrf_token": token[1], "phrase": PHRASE, "bench": "A"})
    assert told.status_code == 503
    assert "clock" in told.text
    assert PHRASE not in told.text


def test_a_pages_token_is_masked_anew_and_each_of_them_is_good(client: Client, demo: Store) -> None:
    """What stands in a compressed page never is the same twice, nor holds the session's token."""
    tokens = {TOKEN.search(client.text("/cases/new"))[1] for _ in range(5)}  # type: ignore[index]
    assert len(tokens) == 5
    assert not set.intersection(*({t[i : i + 12] for i in range(len(t) - 12)} for t in tokens))
    for token in tokens:
        data = {"csrf_token": token, "view": "log", "text": "x"}
        assert client.flask.post("/cases/LW-014/do/note", data=data).status_code == 303
    for wrong in ("", "x" * 56, next(iter(tokens))[:-4] + "AAA=", "é"):
        data = {"csrf_token": wrong, "view": "log", "text": "x"}
        assert client.flask.post("/cases/LW-014/do/note", data=data).status_code == 400
    other = create_app(demo).test_client()
    other.get("/cases/new")
    data = {"csrf_token": next(iter(tokens)), "view": "log", "text": "x"}
    assert other.post("/cases/LW-014/do/note", data=data).status_code == 400
