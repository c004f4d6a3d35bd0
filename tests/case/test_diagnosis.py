"""The diagnosis of a case: readings answer tests by themselves, the person outranks them."""

from __future__ import annotations

import pytest

from hale_rail.actions import decisions
from hale_rail.actions.diagnosis import say
from hale_rail.case.diagnosis import diagnosis, standing_statements
from hale_rail.case.file import open_case
from hale_rail.errors import InputError
from hale_rail.store.database import Store

from ..conftest import Bench, Client


def answers(bench: Bench) -> dict[str, tuple[str, bool]]:
    found = diagnosis(bench.file)
    return {a.test.id: (a.result, a.by_reading) for a in found.answers}


def test_readings_answer_and_the_person_outranks_them(bench: Bench) -> None:
    bench.make_safe()
    assert answers(bench) == {}
    bench.read("F1", "ohms", "OL")
    bench.read("RT1", "ohms", "10")
    assert answers(bench) == {"fuse": ("open", True), "inrush": ("conducts", True)}
    say(bench.store, bench.number, "result", "inrush", "open")
    assert answers(bench)["inrush"] == ("open", False)
    say(bench.store, bench.number, "result", "inrush", "")
    assert answers(bench)["inrush"] == ("conducts", True)
    decisions.decide(bench.store, bench.number, bench.id_of("F1"), "fitted")
    assert "fuse" not in answers(bench)


def test_the_look_over_answers_what_is_asked_of_the_eye(bench: Bench) -> None:
    bench.make_safe()
    wet = [s.ref for s in bench.file.sheet.capacitors if s.family and s.family.is_wet]
    for ref in wet[:-1]:
        bench.look(ref, "none")
    assert "vents" not in answers(bench)  # one is not looked at yet
    bench.look(wet[-1], "none")
    assert answers(bench)["vents"] == ("sound", True)
    bench.look(wet[-1], "bulge")
    assert answers(bench)["vents"] == ("vented or leaking", True)
    bench.look("CX1", "craze", "burnt")
    assert answers(bench)["scorch"] == ("crazed or burnt", True)
    bench.look("T1", "joint")
    assert answers(bench)["joints"] == ("cracked", True)


@pytest.mark.parametrize(
    ("kind", "key", "value"),
    [
        ("symptom", "ghost", "yes"),
        ("result", "fuse", "purple"),
        ("belief", "joint", "surely"),
        ("mood", "joint", "likely"),
    ],
)
def test_what_cannot_be_said_is_refused(bench: Bench, kind: str, key: str, value: str) -> None:
    with pytest.raises(InputError):
        say(bench.store, bench.number, kind, key, value)


def test_the_demo_hunt_ends_at_the_switch(demo: Store) -> None:
    found = diagnosis(open_case(demo, "LW-014")).diagnosis
    assert found.chances[0][0].id == "switch-short"
    assert found.chances[0][1] > 0.95
    assert "the switch transistor is shorted: it is" in found.sentence
    found = diagnosis(open_case(demo, "LW-022")).diagnosis
    assert found.chances[0][0].id == "board-short"


def test_saying_it_from_the_page(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-009/diagnosis")
    assert "Where to look next" in page
    fields = {"kind": "symptom", "key": "warm", "value": "yes"}
    path = "/cases/LW-009/do/find"
    assert client.post(path, **fields).status_code == 303
    assert "warm" in standing_statements(open_case(demo, "LW-009"))["symptom"]
    assert client.post(path, **(fields | {"value": ""})).status_code == 303
    assert "warm" not in standing_statements(open_case(demo, "LW-009"))["symptom"]
    refused = client.post(path, **(fields | {"key": "ghost"}))
    assert refused.status_code == 422
    assert "no symptom" in refused.get_data(as_text=True)
