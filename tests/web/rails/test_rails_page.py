"""The rails' page: bars, place and load, current with the volts, the trimming aid, power good."""

from __future__ import annotations

import re
from urllib.parse import unquote

import pytest

from hale_rail.case.file import open_case
from hale_rail.case.rails.rails import rail_patterns, rails
from hale_rail.core.errors import QuantityError, RangeError
from hale_rail.core.procedures import VOLTS, Condition, Subject
from hale_rail.formats.units.rails_text import write_rail
from hale_rail.formats.units.unit_json import read_unit, write_unit
from hale_rail.store.database import Store
from hale_rail.web import create_app
from tests.conftest import Bench, Client

CASE = "LW-031"
PAGE = f"/cases/{CASE}/rails"
SUBJECT = Subject("+5 V", nominal_v=5.0)


def plain(page: str) -> str:
    return page.replace("\u00a0", " ")


@pytest.mark.parametrize(("text", "low", "high", "amps", "echo"), [
    ("4.93", 4.93, 4.93, None, "4.93 V"),
    ("4.93 at 9A", 4.93, 4.93, 9.0, "4.93 V at 9 A"),
    ("4.93V @ 850 mA", 4.93, 4.93, 0.85, "4.93 V at 850 mA"),
    ("4.78..4.93 at 9 A", 4.78, 4.93, 9.0, "4.78 V to 4.93 V at 9 A"),
])  # fmt: skip
def test_the_loads_current_is_read_with_the_volts(
    text: str, low: float, high: float, amps: float | None, echo: str
) -> None:
    meant = VOLTS.understand(text, Condition.MACHINE, SUBJECT)
    assert (meant.value, meant.high) == (low, high)
    assert meant.figures.get("load_a") == amps
    assert plain(meant.echo) == echo


@pytest.mark.parametrize(("text", "error"), [
    ("4.93 at", QuantityError), ("4.93 at 9 V", QuantityError), ("4.93 at 0 A", RangeError),
    ("4.93 at -2A", RangeError), ("at 9A", QuantityError), ("OL at 9 A", QuantityError),
])  # fmt: skip
def test_a_current_that_cannot_be_is_refused(text: str, error: type[Exception]) -> None:
    with pytest.raises(error):
        VOLTS.understand(text, Condition.MACHINE, SUBJECT)


def test_a_reading_is_saved_at_the_place_that_is_chosen(client: Client, demo: Store) -> None:
    page = unquote(client.text(f"{PAGE}?load=machine&by=connector"))
    assert "r+12 V@connector~volts~machine" in page.replace("+12+V", "+12 V")
    key = "r+12 V@connector~volts~machine"
    client.post(f"/cases/{CASE}/do/read", view="rails", at=key, text="12.2 at 2A", seen="")
    volts = next(v for v in rails(open_case(demo, CASE)) if v.rail.key == "+12 V")
    reading = next(r for (_, place), (r, __) in volts.by_place.items()
                   if place.value == "connector")  # fmt: skip
    assert reading.figures == {"load_a": 2.0}
    assert "in the machine, connector, 2 A" in plain(client.text(PAGE))


def test_the_demo_shows_what_its_harness_loses(client: Client) -> None:
    page = plain(client.text(PAGE))
    assert "supply end to far end: 110 mV, 12 mΩ" in page
    assert "Trim VR1" in page


def test_the_trimmers_figure_is_told_without_saving(client: Client, demo: Store) -> None:
    before = len(open_case(demo, CASE).rows.readings)
    address = f"/cases/{CASE}/trim?at=r%2B5+V~volts~machine&text="
    for text, says in (
        ("4.90", "up 100 mV"), ("5.06", "down 60 mV"), ("5.00", "Right"), ("5.7", "Off at once"),
        ("five", "is not a voltage"), ("", "Type what the meter shows"), ("5 A", "is a current"),
    ):  # fmt: skip
        assert says in plain(client.text(address + text))
    page = plain(client.text(address + "4.80"))
    assert re.search(r"\+12 V goes from 12.31 V to\s+<b>12.82 V</b> \(outside its band\)", page)
    assert "−5 V goes" not in page  # a linear rail stays where it is
    assert "Type what" in client.text(f"/cases/{CASE}/trim?at=nonsense&text=")
    assert len(open_case(demo, CASE).rows.readings) == before


def test_a_worse_reading_is_told_beside_a_latest_one_that_passes(client: Client) -> None:
    page = plain(client.text(PAGE))
    assert "fail: 4.72 V to 4.93 V, in the machine" in page


def test_the_trimming_aid_opens_beside_the_bars(client: Client) -> None:
    page = plain(client.text(f"{PAGE}?by=trim:%2B5+V"))
    assert "Trim +5 V, in the machine" in page
    assert "The meter shows" in page
    assert "The meter shows" not in client.text(f"{PAGE}?by=trim:nonsense")


@pytest.mark.parametrize(("fields", "says"), [
    ({"after": "240"}, "High after 0.24 s, between"), ({"after": "40 ms"}, "too soon"),
    ({"after": "0,9 s"}, "late"), ({"low": "yes"}, "It stays low"),
    ({"volts": "4.8"}, "4.8 V: high. Its delay was not read."),
    ({"volts": "0.2"}, "200 mV: it stays low"), ({"volts": "1.4"}, "1.4 V: neither low"),
    ({"volts": "4.8", "after": "240"}, "High after 0.24 s, between"),
    ({"volts": "1.4", "after": "240"}, "1.4 V: neither low"),
    ({"volts": "0.1", "low": "yes"}, "100 mV: it stays low"),
])  # fmt: skip
def test_power_good_is_kept_and_judged(client: Client, fields: dict[str, str], says: str) -> None:
    response = client.post(f"/cases/{CASE}/do/power-good", view="rails", **fields)
    assert response.status_code == 303
    assert says in plain(client.text(PAGE))


@pytest.mark.parametrize("fields", [
    {"volts": "five"}, {"volts": "48"}, {"volts": "4.8", "low": "yes"},
    {"volts": "4.8", "after": "soon"},
])  # fmt: skip
def test_volts_that_cannot_be_are_said_and_stay(client: Client, fields: dict[str, str]) -> None:
    response = client.post(f"/cases/{CASE}/do/power-good", view="rails", **fields)
    page = response.get_data(as_text=True)
    assert response.status_code == 422
    assert 'class="problem"' in page and f'value="{fields["volts"]}"' in page


@pytest.mark.parametrize("text", ["", "soon", "-3", "1e9 s", "5 min"])
def test_a_time_that_cannot_be_is_said_beside_its_field(client: Client, text: str) -> None:
    response = client.post(f"/cases/{CASE}/do/power-good", view="rails", after=text)
    page = response.get_data(as_text=True)
    assert response.status_code == 422
    assert 'class="problem"' in page
    assert f'value="{text}"' in page


def test_a_rail_is_marked_with_its_trimmer_and_the_one_it_guards(store: Store) -> None:
    bench = Bench(store, "template:linear")
    client = Client(create_app(store).test_client())
    key = bench.file.sheet.rails[-1].key
    was = write_rail(bench.file.sheet.rail(key))
    text = f"{was} trimmer VR7 guards +12"
    client.post(f"/cases/{bench.number}/do/rail", view="rails", rail=key, was=was, text=text)
    rail = bench.file.sheet.rail(key)
    assert (rail.trimmer, rail.guards) == ("VR7", "+12 V")
    again = read_unit(write_unit(bench.file.sheet)).rail(key)
    assert (again.trimmer, again.guards) == ("VR7", "+12 V")


def test_patterns_of_the_demo_stand_above_the_bars(client: Client, demo: Store) -> None:
    said = rail_patterns(open_case(demo, CASE))
    page = plain(client.text(PAGE))
    assert said
    for pattern in said:
        assert plain(pattern.text) in page


def test_what_the_machine_did_is_a_row_of_presses(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-009/rails")
    pressed = re.findall(r'id="did-([a-z-]+)"[^>]*aria-pressed="true"', page)
    assert pressed == ["picture", "gone"]
    said = {"view": "rails", "did": "beep"}
    for times in ("1", "2", "3"):
        assert client.post("/cases/LW-009/do/did", **said, times=times).status_code == 303
    page = client.text("/cases/LW-009/rails")
    assert "beeps 3 times" in page and 'name="times" value="4"' in page
    refused = client.post("/cases/LW-009/do/did", view="rails", did="sings", times="1")
    assert refused.status_code == 422
    assert "Say what the machine did." in refused.get_data(as_text=True)
    assert 'id="did-' not in client.text("/cases/LW-014/rails")
