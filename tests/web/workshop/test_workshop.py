"""The workshop: settings, and its lists as tables, imported and exported."""

from __future__ import annotations

import io
import re

import pytest

from hale_rail.actions.safety import power
from hale_rail.case.workshop.workshop import meters, resistors, workshop
from hale_rail.store.database import Store
from hale_rail.web import create_app
from tests.conftest import Bench, Client

SETTINGS = {
    "touch_limit_v": "30", "school": "blanket", "tolerance": "lenient", "hours_a_day": "8,5",
    "core_c": "55", "meter": "",
}  # fmt: skip


def test_the_settings(client: Client, demo: Store) -> None:
    assert client.post("/workshop", **SETTINGS).status_code == 303
    found = workshop(demo)
    assert (found.touch_limit_v, found.school.code, found.use.hours_a_day) == (30, "blanket", 8.5)
    text = client.text("/cases/LW-031/safe").replace("\u00a0", " ")
    assert "at most 30 V" in text


def test_the_touch_limit_is_heeded_at_once_wherever_it_counts(bench: Bench) -> None:
    """On the bench page too, whose lines are kept: 45 V are dead at 60 V and not at 30 V."""
    power.remove_power(bench.store, bench.number)
    for part in bench.file.sheet.stores:
        bench.read(part.ref, "store", "45" if part.ref == "C1" else "3")
    client = Client(create_app(bench.store).test_client())
    assert "dead: safe to touch" in client.text("/")
    assert client.post("/workshop", **SETTINGS).status_code == 303
    assert "dead: safe to touch" not in client.text("/")
    assert "charged" in client.text("/")
    assert "First: is it dead?" in client.text("/cases/T-1")


def test_the_resistors_at_hand_are_those_proposed_at_once(client: Client) -> None:
    assert "100 Ω, 25 W" in client.text("/cases/LW-031/safe").replace("\u00a0", " ")
    rows = {"ohms": "330", "watts": "100", "kind": "wirewound", "max_volts": "500", "qty": "2"}
    assert client.post("/workshop/resistors", **rows).status_code == 303
    page = client.text("/cases/LW-031/safe").replace("\u00a0", " ")
    assert "330 Ω, 100 W" in page
    assert "100 Ω, 25 W" not in page


@pytest.mark.parametrize(
    ("field", "text", "says"),
    [
        ("touch_limit_v", "400", "Not a valid choice"),
        ("hours_a_day", "25", "0 to 24"),
        ("hours_a_day", "", "0 to 24"),
        ("core_c", "warm", "is not a number"),
        ("meter", "99", "not in the list"),
        ("school", "guess", "Not a valid choice"),
    ],
)
def test_a_wrong_setting_is_said_beside_its_field_and_nothing_is_lost(
    client: Client, demo: Store, field: str, text: str, says: str
) -> None:
    before = workshop(demo)
    response = client.post("/workshop", **(SETTINGS | {field: text}))
    page = response.get_data(as_text=True)
    assert response.status_code == 422
    said = re.search(rf'id="{field}-problem">([^<]+)<', page)
    assert said
    assert says in said[1]
    assert 'value="55"' in page or field == "core_c"
    assert workshop(demo) == before


def test_what_is_wrong_in_a_list_is_found_by_the_row_or_the_line(client: Client) -> None:
    """The heading is no row of the table on the screen, and is the first line of the file."""
    columns = [
        "name",
        "cap_hz",
        "esr_hz",
        "cap_percent",
        "esr_percent",
        "esr_ohm",
        "lead_ohm",
        "min_cap",
    ]
    rows = {column: ["", ""] for column in columns}
    rows |= {"name": ["Blue", "Red"], "cap_hz": ["120", "fast"]}
    page = client.post("/workshop/meters", **rows).get_data(as_text=True)
    assert "Meters, row 2: C at Hz (cap_hz): “fast” is not a number" in page
    file = (io.BytesIO(b"name,cap_hz\nBlue,120\nRed,fast\n"), "meters.csv")
    page = client.post("/workshop/meters/import", file=file).get_data(as_text=True)
    assert "Meters, line 3: C at Hz (cap_hz): “fast” is not a number" in page


def test_a_list_is_edited_as_a_table(client: Client, demo: Store) -> None:
    rows = {
        "ohms": ["10k", "", "4k7"], "watts": ["10", "", "25"],
        "kind": ["film", "", "wirewound"], "max_volts": ["500", "", "350"],
        "qty": ["3", "", ""],
    }  # fmt: skip
    assert client.post("/workshop/resistors", **rows).status_code == 303
    kept = [(r.ohm, r.kind, r.qty) for r in resistors(demo)]
    assert kept == [(10e3, "film", 3), (4700.0, "wirewound", 1)]
    refused = client.post("/workshop/resistors", **(rows | {"kind": ["carbon", "", "film"]}))
    page = refused.get_data(as_text=True)
    assert refused.status_code == 422
    assert "row 1: kind is wirewound or film" in page
    assert 'value="carbon"' in page  # nothing typed is lost
    assert len(resistors(demo)) == 2
    empty = {name: [""] for name in rows}
    assert client.post("/workshop/resistors", **empty).status_code == 303
    assert resistors(demo) == []


def test_a_list_goes_out_and_in_as_a_file(client: Client, demo: Store) -> None:
    before = resistors(demo)
    kept = client.get("/workshop/resistors.csv")
    assert "attachment" in kept.headers["Content-Disposition"]
    client.post("/workshop/resistors", ohms=["1k"], watts=["1"], kind=["film"], max_volts=["50"],
                qty=[""])  # fmt: skip
    upload = (io.BytesIO(kept.data), "resistors.csv")
    assert client.post("/workshop/resistors/import", file=upload).status_code == 303
    assert resistors(demo) == before
    for data, says in (
        (b"", "Choose a CSV file"),
        (b"\xff\xfe\x00", "UTF-8"),
        (b"ohms\n1", "lacks watts"),
        (b"x" * 300_000, "too large"),
    ):
        upload = (io.BytesIO(data), "list.csv")
        refused = client.post("/workshop/resistors/import", file=upload)
        assert refused.status_code == 422
        assert says in refused.get_data(as_text=True)
    assert resistors(demo) == before


def test_a_meter_described_anew_stays_the_one_in_use(client: Client, demo: Store) -> None:
    text = b"name,lead_ohm\nprobe,60m\nbench,\n"
    upload = (io.BytesIO(text), "meters.csv")
    assert client.post("/workshop/meters/import", file=upload).status_code == 303
    probe = next(i for i, m in meters(demo).items() if m.name == "probe")
    assert client.post("/workshop", **(SETTINGS | {"meter": str(probe)})).status_code == 303
    upload = (io.BytesIO(text.replace(b"60m", b"20m")), "meters.csv")
    client.post("/workshop/meters/import", file=upload)
    chosen = workshop(demo).meter_id
    assert chosen not in (None, probe)
    assert meters(demo)[chosen or 0].lead_ohm == 0.020
    upload = (io.BytesIO(b"name\nbench\n"), "meters.csv")
    client.post("/workshop/meters/import", file=upload)
    assert workshop(demo).meter_id is None
