"""The workshop: settings, and its lists as tables, imported and exported."""

from __future__ import annotations

import io
import re
from html import unescape

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
    upload = (io.BytesIO(b"ohms,watts,max_volts\n330,100,500\n"), "resistors.csv")
    assert client.post("/workshop/resistors/import", file=upload).status_code == 303
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
    pasted = "name\tC at Hz\nBlue\t120\nRed\tfast\n"
    page = client.post("/workshop/meters/paste", rows=pasted).get_data(as_text=True)
    assert "Meters, row 2: C at Hz (“C at Hz”): “fast” is not a number" in page
    assert "Red\tfast" in page  # nothing pasted is lost
    file = (io.BytesIO(b"name,cap_hz\nBlue,120\nRed,fast\n"), "meters.csv")
    page = client.post("/workshop/meters/import", file=file).get_data(as_text=True)
    assert "Meters, line 3: C at Hz (“C at Hz”): “fast” is not a number" in page


def test_a_list_is_read_as_a_table_and_one_row_is_opened(client: Client, demo: Store) -> None:
    before = resistors(demo)
    page = client.text("/workshop")
    assert 'name="ohms"' not in page
    page = client.text("/workshop?edit=resistors:1")
    assert page.count('name="ohms"') == 1 and 'value="470"' in page
    was = unescape(re.findall(r'name="was" value="([^"]*)"', page)[0])
    row = {
        "row": "1",
        "was": was,
        "ohms": "480",
        "watts": "50",
        "kind": "carbon",
        "max_volts": "500",
        "qty": "1",
    }
    refused = client.post("/workshop/resistors/row", **row)
    page = refused.get_data(as_text=True)
    assert refused.status_code == 422
    assert "row 2: “kind” is wirewound or film" in page
    assert 'value="carbon"' in page and 'value="480"' in page  # nothing typed is lost
    assert resistors(demo) == before
    assert client.post("/workshop/resistors/row", **(row | {"kind": "film"})).status_code == 303
    assert [r.ohm for r in resistors(demo)][:3] == [100.0, 480.0, 1000.0]
    stale = client.post("/workshop/resistors/row", **(row | {"kind": "film"}))
    assert stale.status_code == 409 and "changed meanwhile" in stale.get_data(as_text=True)
    page = client.text("/workshop?edit=resistors:1")
    was = unescape(re.findall(r'name="was" value="([^"]*)"', page)[0])
    gone = client.post("/workshop/resistors/row", row="1", was=was, do="remove")
    assert gone.status_code == 303
    new = {
        "row": "new",
        "ohms": "10k",
        "watts": "10",
        "kind": "film",
        "max_volts": "500",
        "qty": "3",
    }
    assert client.post("/workshop/resistors/row", **new).status_code == 303
    after = [r.ohm for r in resistors(demo)]
    assert 480.0 not in after and after[-1] == 10e3 and len(after) == len(before)


@pytest.mark.parametrize(
    "pasted",
    [
        "22\t10\twirewound\t100\t2\n33\t10\n",
        "W;Ω\n10;22\n10;33\n",  # the table's own words, in any order
        "ohms,watts\n22,10\n33,10\n",
    ],
)
def test_rows_are_pasted_and_taken_in_by_one_press(
    client: Client, demo: Store, pasted: str
) -> None:
    before = resistors(demo)
    assert client.post("/workshop/resistors/paste", rows=pasted).status_code == 303
    assert [(r.ohm, r.watt) for r in resistors(demo)[len(before) :]] == [(22, 10), (33, 10)]
    for text, says in (("", "Paste a row"), ("1,2,3,4,5,6", "more than 5 cells"), ("x,1", "x")):
        refused = client.post("/workshop/resistors/paste", rows=text)
        assert refused.status_code == 422 and says in refused.get_data(as_text=True)


def test_a_list_goes_out_and_in_as_a_file(client: Client, demo: Store) -> None:
    before = resistors(demo)
    kept = client.get("/workshop/resistors.csv")
    assert "attachment" in kept.headers["Content-Disposition"]
    client.post("/workshop/resistors/row", row="new", ohms="1k", watts="1", kind="film")
    upload = (io.BytesIO(kept.data), "resistors.csv")
    assert client.post("/workshop/resistors/import", file=upload).status_code == 303
    assert resistors(demo) == before
    for data, says in (
        (b"", "Choose a CSV file"),
        (b"\xff\xfe\x00", "UTF-8"),
        (b"ohms\n1", "lacks “W”"),
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
