"""One part, now: asked on its page, kept, and taken into a case; and what the bench says first."""

from __future__ import annotations

import re

import pytest

from hale_rail.actions.intake import waiting
from hale_rail.actions.parts.decisions import decide
from hale_rail.actions.safety import power
from hale_rail.errors import InputError
from hale_rail.store.database import Store
from hale_rail.web import create_app
from tests.conftest import Bench, Client

TWO = "C10 2200u 10V +5\nC11 2200u 10V +5\nF9 fuse 3A\n"


@pytest.fixture
def bench(store: Store) -> Bench:
    return Bench(store, parts=TWO)


@pytest.fixture
def client(bench: Bench) -> Client:
    return Client(create_app(bench.store).test_client())


def plain(text: str) -> str:
    text = re.sub(r"</?span[^>]*>", "", text)
    return " ".join(text.replace("\u00a0", " ").split())


def test_what_is_asked_is_told_at_once_and_kept(client: Client) -> None:
    assert "2200u 10V esr 0.08" in client.text("/ask")
    assert "no case" in plain(client.text("/ask")).lower()
    now = plain(client.text("/ask/now?text=2200u+10V+esr+0.08"))
    assert "good" in now and "Lift one leg to be sure" in now
    assert plain(client.text("/ask/now?text=")) == ""
    assert client.post("/ask", text="2200u 10V esr 0.08").status_code == 303
    assert client.post("/ask", text="esr 0.6 lifted").status_code == 303
    page = plain(client.text("/ask"))
    assert '<h2 class="mt-3">2200u 10V alu esr 0.6 lifted</h2>' in page
    assert "Asked before" in page
    refused = client.post("/ask", text="what is <b>this</b>")
    assert refused.status_code == 422
    page = refused.get_data(as_text=True)
    assert 'value="what is &lt;b&gt;this&lt;/b&gt;"' in page
    assert 'id="ask-problem"' in page
    assert '<h2 class="mt-3">2200u 10V alu esr 0.6 lifted</h2>' in page


def test_the_last_twenty_stay(client: Client) -> None:
    for value in range(25):
        client.post("/ask", text=f"{value + 1}u 10V")
    page = client.text("/ask")
    assert page.count('class="asked"') == 20
    assert '<h2 class="mt-3">25u 10V</h2>' in page
    assert "</b> 6u 10V" in page and "</b> 5u 10V" not in page


def test_one_press_takes_it_into_a_case(bench: Bench, client: Client) -> None:
    bench.make_safe()
    taken = client.post("/ask/take", text="C10 2200u 10V C 1650u lifted", case="T-1")
    assert taken.status_code == 303 and "at=" in taken.location
    assert bench.state("C10") == "failed"  # a quarter is lost
    for text, read in (
        ("2200u 10V C 2150u lifted", "Which one in T-1?"),
        ("33u 400V C 30u lifted", "T-1: "),
        ("ripple 80m on +5", "T-1: "),
        ("3A fuse", "The question has no reading"),
        ("banana", "2200u 10V esr 0.08"),
    ):
        answer = client.post("/ask/take", text=text, case="T-1")
        assert answer.status_code in (200, 422), text
        assert read in answer.get_data(as_text=True), text
    place = str(bench.id_of("C11"))
    client.post("/ask/take", text="2200u 10V C 2150u lifted", case="T-1", place=place)
    assert bench.state("C11") == "good"
    again = {"text": "C10 2200u 10V C 2200u lifted", "case": "T-1"}
    asked_back = plain(client.post("/ask/take", **again).get_data(as_text=True))
    assert "It was read before in T-1. Replace that reading?" in asked_back
    assert "C10, in place of 1650" in asked_back
    assert bench.state("C10") == "failed"
    both = "C10 2200u 10V C 2150u esr 2600u lifted"  # the second is refused: neither is saved
    kept = len(bench.file.rows.readings)
    client.post("/ask/take", text=both, case="T-1", place=str(bench.id_of("C10")))
    assert len(bench.file.rows.readings) == kept
    client.post("/ask/take", **again, place=str(bench.id_of("C10")))
    assert bench.state("C10") == "good"
    client.post("/ask/take", text="fuse 3A bulged", case="T-1")
    assert client.post("/ask/take", text="F9 0.2", case="NO-9").status_code in (404, 422)


def test_a_new_workshop_is_told_where_to_begin(store: Store) -> None:
    page = Client(create_app(store).test_client()).text("/")
    for words in ("Begin with a case", "Try a made-up one", "Ask about one part"):
        assert words in page
    assert 'id="first-title"' not in page


def test_the_bench_says_what_is_urgent_first(store: Store) -> None:
    """Power on is before a wait, a wait that is due is before one that is not."""
    page = Client(create_app(store).test_client())
    for number in ("A-1", "B-1", "C-1"):
        Bench(store, number=number).make_safe()
    power.apply_power(store, "A-1", "mains")
    waiting.wait(store, ["B-1", "C-1"], "2099-01-15", "two parts")
    first = plain(page.text("/")).split('id="first-title"')[1].split("</ol>")[0]
    assert first.index("A-1") < first.index("B-1")
    assert "waits for two parts, due 2099-01-15" in first.lower()
    waiting.wait(store, ["C-1"], "2020-01-15", "two parts")
    first = plain(page.text("/")).split('id="first-title"')[1].split("</ol>")[0]
    assert "The parts were due 2020-01-15: did they come?" in first
    assert first.index("C-1") < first.index("B-1")
    assert page.post("/cases/C-1/do/arrived").status_code == 303
    assert "did they come" not in page.text("/")
    assert page.post("/cases/C-1/do/arrived").status_code == 422


@pytest.mark.parametrize("day", ["", "soon", "2027-02-30", "15.1.2027"])
def test_a_wait_needs_its_day(bench: Bench, client: Client, day: str) -> None:
    with pytest.raises(InputError, match="like 2027-01-15"):
        waiting.wait(bench.store, ["T-1"], day)
    decide(bench.store, "T-1", bench.id_of("C10"), "replace", "old")
    refused = client.post("/cases/T-1/do/wait", view="recap", until=day, what="ells")
    assert refused.status_code == 422
    assert "like 2027-01-15" in refused.get_data(as_text=True)
    assert 'value="ells"' in refused.get_data(as_text=True)
