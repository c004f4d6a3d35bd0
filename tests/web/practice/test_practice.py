"""Practice and instruments as pages: what they show, and each wrong input beside its field."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest

from hale_rail.actions.instruments import instruments
from hale_rail.bench.simulated.server import Instruments
from hale_rail.case.practice.reviews import PracticeReview, ReviewStep
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.supply.templates import template
from hale_rail.formats.knowledge import figures
from hale_rail.store.database import Store
from hale_rail.store.soaks import SOAK_ROWS
from hale_rail.web import create_app
from hale_rail.web.addresses import stage
from hale_rail.web.practice.lanes_drawing import draw_lanes
from tests.conftest import Bench, Client


@pytest.fixture
def client(store: Store) -> Iterator[Client]:
    with create_app(store).test_client() as flask_client:
        yield Client(flask_client)


@pytest.fixture
def served(store: Store) -> Iterator[Instruments]:
    with Instruments(SimulatedUnit(template(Topology.FLYBACK), None, 7)) as found:
        for kind, port in found.ports.items():
            address = f"TCPIP0::127.0.0.1::{port}::SOCKET"
            instruments.add(store, f"Bench {kind}", address, f"simulated-{kind}")
        yield found


def test_the_page_tells_the_engines_figure_as_it_is(client: Client) -> None:
    page = client.get("/practice").text
    assert f"{100 * figures().right_first:.1f}" in page
    assert page.count("Take up") >= 12


def test_a_unit_is_taken_up_read_and_named(client: Client) -> None:
    begun = client.post("/practice/start", graded="5", topology="flyback", difficulty="")
    assert begun.status_code == 303
    case = begun.location.rsplit("/", 1)[0]
    number = case.rsplit("/", 1)[1]
    page = client.get(case).text
    assert "I have found it" in page
    assert "nothing spent" in page
    assert number not in client.get("/").text
    client.post(f"{case}/do/power", event="removed", view="safe")
    client.post(f"{case}/do/bleed", view="safe")
    end = client.get(f"/practice/{number}").text
    assert "That is it" in end
    refused = client.post(f"/practice/{number}/end", named="")
    assert "what you found" in refused.text
    assert client.post(f"/practice/{number}/end", named="switch-short").status_code == 303
    over = client.get(f"/practice/{number}").text
    assert "✓ Right." in over
    assert "Q1 shorted" in over
    assert 'class="lanes drawn"' in over
    assert "Over: see both paths" in client.get(case).text
    assert "1 of 1 right" in client.get("/practice").text


@pytest.mark.parametrize(
    ("sent", "said"),
    [
        ({"topology": "flyback", "difficulty": "", "seed": "-4"}, "whole number"),
        ({"topology": "flyback", "difficulty": "", "seed": "4²"}, "whole number"),
        ({"topology": "flyback", "difficulty": "", "seed": "9999999999"}, "from 0"),
        ({"topology": "steam", "difficulty": "", "seed": ""}, "Not a valid choice"),
        ({"graded": "99", "topology": "flyback", "difficulty": ""}, "graded"),
    ],
)
def test_a_choice_that_cannot_be_is_told_beside_it(
    client: Client, sent: dict[str, str], said: str
) -> None:
    page = client.post("/practice/start", **(sent))
    assert page.status_code == 422
    assert said in page.text


def test_a_case_of_the_workshop_is_no_practice(client: Client, bench: Bench) -> None:
    assert client.get(f"/practice/{bench.number}").status_code == 404
    for name in ("bleed", "by-hand", "look-at"):
        page = client.post(f"/cases/{bench.number}/do/{name}", view="cold", test="ring")
        assert "not a case of practice" in page.text


def test_a_press_captures_and_a_failure_is_told(
    client: Client, bench: Bench, served: Instruments
) -> None:
    bench.make_safe()
    point = bench.point("F1", "ohms").key
    page = client.get(f"/cases/{bench.number}").text
    assert "data-capture" in page
    done = client.post(f"/cases/{bench.number}/do/capture", view="cold", at=point)
    assert done.status_code == 303
    assert bench.state("F1") == "good"
    served.close()
    told = client.post(f"/cases/{bench.number}/do/capture", view="cold", at=point)
    assert told.status_code == 422
    assert "127.0.0.1" in told.text


def test_an_output_is_confirmed_on_the_page(
    client: Client, bench: Bench, served: Instruments
) -> None:
    bench.make_safe()
    point = bench.point("+5 V", "inject", "isolated").key
    sent = {"view": "shorts", "at": point}
    assert "may put out 0.4 V" in client.text(stage(bench.number, "shorts", point))
    assert "Confirm it" in client.post(f"/cases/{bench.number}/do/capture", **(sent)).text
    assert (
        client.post(f"/cases/{bench.number}/do/capture", **(sent | {"confirmed": "y"})).status_code
        == 303
    )


def test_a_record_and_a_series_come_from_the_line(
    client: Client, bench: Bench, served: Instruments
) -> None:
    served.hand.power("mains")
    ripple = f"/cases/{bench.number}/ripple"
    assert "Capture from Bench scope" in client.get(ripple).text
    sent = {"view": "ripple", "rail": "+5 V", "load": "machine"}
    assert client.post(f"/cases/{bench.number}/do/wave-capture", **(sent)).status_code == 303
    soak = {"view": "soak", "rail": "+5 V", "every": "10"}
    begun = client.post(f"/cases/{bench.number}/do/soak-capture", **(soak))
    assert begun.status_code == 303
    assert "every 10 s" in client.get(begun.location).text
    assert len(bench.file.rows.active(SOAK_ROWS)) == 1
    for wrong, said in (
        ({"every": "soon"}, "whole number"), ({"every": "1"}, "from 2 to 3600"),
        ({"rail": "+9 V"}, "Choose the rail"),
    ):  # fmt: skip
        refused = client.post(f"/cases/{bench.number}/do/soak-capture", **(soak | wrong))
        assert said in refused.text
    assert len(bench.file.rows.active(SOAK_ROWS)) == 1


def test_instruments_are_asked_and_described(client: Client, served: Instruments) -> None:
    page = client.get("/workshop/instruments").text
    assert "Bench meter" in page
    assert "SIM-METER" in client.post("/workshop/instruments/ask", instrument="1").text
    served.close()
    failed = client.post("/workshop/instruments/ask", instrument="1").text
    assert 'class="problem" role="status"' in failed
    for name, sent, said in (
        ("add", {"name": "X", "address": "here", "family": "simulated-meter"}, "not an address"),
        ("add", {"name": "", "address": "", "family": ""}, "A name"),
        ("family", {"code": "x", "text": "["}, "not TOML"),
        ("family", {"code": "", "text": ""}, "A code"),
    ):
        refused = client.post(f"/workshop/instruments/{name}", **(sent))
        assert said in refused.text, name
        assert refused.status_code == 422
    assert client.post("/workshop/instruments/remove", instrument="77").status_code == 404
    kept = {"instrument": "1", "procedures": "ohms"}
    assert client.post("/workshop/instruments/assign", **(kept)).status_code == 303


def test_what_a_step_told_is_said_as_what_it_rules_out(reader: Client) -> None:
    hunt = reader.text("/cases/LW-038/diagnosis")
    assert re.search(r"rules out\s+\d+\xa0% of what may be wrong", hunt)
    assert len(re.findall(r"rules out (?:&lt;)?\d+\xa0%, <span[^>]*>\d+ min", hunt)) > 3
    end = reader.text("/practice/PX-002")
    assert end.count(">Ruled out<") == 2
    assert re.search(r'<td class="num">\d+\xa0%</td>', end)


def test_lanes_are_as_wide_as_minutes_and_as_dark_as_bits() -> None:
    steps = (ReviewStep("<b>", 4.0, 1.2, False), ReviewStep("second", 2.0, 0.0, True))
    drawn = draw_lanes(
        PracticeReview(
            "f", "fault", "this", False, "", 6.0, (), steps, steps[:1], 4.0, True, "that"
        )
    )
    assert drawn.count("lane-step shade-4") == 2
    assert drawn.count("lane-step shade-0") == 1
    assert drawn.count("unsafe") == 1
    assert "&lt;b&gt;" in drawn
    assert "<b>" not in drawn
