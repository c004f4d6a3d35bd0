"""The ripple lab's pages: records in, described, windows for the screen, out, aside."""

from __future__ import annotations

import csv
import io
import re
import shutil
import time
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace

from hale_rail.case.file import open_case
from hale_rail.case.ripple.waves import analysis_of, question_of, split_of, wave_records
from hale_rail.case.safety.energy import energy
from hale_rail.core.ripple.bands import BANDS
from hale_rail.core.safety.energy import Energy
from hale_rail.formats.records.ripple_record import RippleRecord
from hale_rail.stages.ripple import ripple
from hale_rail.stages.stage import PageQuery
from hale_rail.store.database import Store
from larkmoor import waves as demo_waves
from tests.conftest import Client

CASE = "LW-031"
PAGE = f"/cases/{CASE}/ripple"
ROWS = "".join(f"{i * 1e-5:.5f},{5 + 0.02 * np.sin(i / 9):.4f}\n" for i in range(6000))


def ready(demo: Store, number: str = CASE) -> list[RippleRecord]:
    """Every record's analysis once it is computed."""
    found = []
    for record in wave_records(open_case(demo, number)):
        while (outcome := analysis_of(open_case(demo, number), record)).is_waiting:
            time.sleep(0.02)
        assert not outcome.problem
        found.append(outcome.result.ripple)
    return found


def bring(client: Client, text: str = ROWS, number: str = CASE, **fields: str) -> Any:
    given = {"rail": "+5 V", "load": "machine"} | fields
    file = (io.BytesIO(text.encode()), "wave.csv")
    return client.post(f"/cases/{number}/do/wave", view="ripple", wave=file, **given)


def test_the_demos_records_show_what_was_put_into_them(demo: Store) -> None:
    truths = {
        "LW-031": [w.truth for w in demo_waves.editor_before() + demo_waves.editor_after()],
        "LW-022": [w.truth for w in demo_waves.draftmaster_raw()],
        "LW-009": [w.truth for w in demo_waves.terminal(2930e-6, "", 6)
                   + demo_waves.terminal(4700e-6, "", 7)],
    }  # fmt: skip
    assert all(truths.values())
    for number, expected in truths.items():
        for result, truth in zip(ready(demo, number), expected, strict=True):
            cause = result.causes[0]
            assert cause.code == truth.cause
            if truth.value is not None:
                assert cause.estimate is not None
                assert cause.estimate.value == pytest.approx(truth.value, rel=0.2)
                assert cause.estimate.low <= truth.value <= cause.estimate.high


def test_the_page_shows_the_verdict_first_the_causes_and_what_was_before(
    client: Client, demo: Store
) -> None:
    ready(demo)
    page = client.text(PAGE)
    assert "100 mV</b>" in page.replace("\u00a0", " ")
    assert "not judged" in page
    assert "× less" in page  # against the record before the rework
    assert "wave-before" in page
    records = wave_records(open_case(demo, CASE))
    first = client.text(f"{PAGE}?by={records[0].id}")
    assert "output ESR high" in first
    assert "no verdict on the shape" in first
    assert "sound:" in client.text(f"{PAGE}?by={records[1].id}")
    bare = client.text(f"{PAGE}?by={records[-1].id}&load=none")
    assert "wave-before" not in bare
    ready(demo, "LW-009")
    recapped = ripple.page(open_case(demo, "LW-009"), PageQuery())  # by decision, not by the walk
    assert recapped.before is not None
    assert recapped.before.result.verdict == "fail"
    assert recapped.shown.result.verdict == "pass"
    named = ripple.page(open_case(demo, CASE), PageQuery(load=str(records[2].id)))
    assert named.before.record.id == records[2].id


def test_a_record_is_brought_in_and_makes_the_unit_live(client: Client, demo: Store) -> None:
    assert energy(open_case(demo, CASE)).energy is not Energy.LIVE
    response = bring(client, load_a="9 A", limit_v="80m", is_ac="dc")
    assert response.status_code == 303
    record = wave_records(open_case(demo, CASE))[-1]
    assert (record.row.name, record.load) == ("wave.csv", "machine")
    asked = record.question
    assert (asked.load_a, asked.limit_v, asked.is_ac, asked.full_load_a) == (9.0, 0.08, False, 15.0)
    assert energy(open_case(demo, CASE)).energy is Energy.LIVE
    ready(demo)
    page = client.text(response.headers["Location"])
    assert re.search(r"80.mV\s+allowed", page)
    assert "CSV: commas" in page


def test_what_the_sheet_knows_of_a_rail_is_asked_of_its_record(demo: Store) -> None:
    raw = wave_records(open_case(demo, "LW-022"))[0].question
    assert (raw.nominal_v, raw.is_raw, raw.nominal_farad) == (18.0, True, 2200e-6)
    case = open_case(demo, CASE)
    rail = replace(case.sheet.rail("+5 V"), ripple_mv=80.0)
    assert question_of(case, rail, {}).limit_v == pytest.approx(0.08)
    before = question_of(case, rail, {"is_raw": True, "nominal_v": 9.0})
    assert (before.is_raw, before.limit_v) == (True, None)  # the sheet's is that of the output
    out = wave_records(case)[0].question
    assert out.nominal_farad == pytest.approx(3 * 3300e-6)
    assert out.stage is not None
    assert out.stage.code == "forward"
    assert 0 < (out.bank_esr_ohm or 0) < 0.05


BAD = ROWS.replace("0.00100,", "zero,", 1)


@pytest.mark.parametrize(("text", "fields", "says"), [
    (BAD, {}, "Line 101: “zero"),
    ("hello", {}, "not a wave record"),
    (ROWS, {"load": "?"}, "Say the load"),
    (ROWS, {"load_a": "9 V"}, "is a voltage"),
    (ROWS, {"limit_v": "0"}, "above 0"),
    (ROWS, {"channel": "x"}, "whole number"),
    (ROWS, {"channel": "4"}, "no channel 4"),
    (ROWS, {"is_raw": "yes"}, "About how many volts"),
    (ROWS, {"interval_s": "soon"}, "0.4us"),
    (ROWS, {"switching_hz": "fast"}, "66k"),
    (ROWS, {"delimiter": "x"}, "Choose one of the list"),
])  # fmt: skip
def test_what_is_wrong_is_said_and_nothing_is_lost(
    client: Client, demo: Store, text: str, fields: dict[str, str], says: str
) -> None:
    before = len(wave_records(open_case(demo, CASE)))
    response = bring(client, text, **({"delta_a": "1.23"} | fields))
    page = response.get_data(as_text=True)
    assert response.status_code == 422
    assert says in page
    assert 'value="1.23"' in page
    assert len(wave_records(open_case(demo, CASE))) == before


def test_no_file_and_no_rail_are_told(client: Client) -> None:
    response = client.post(f"/cases/{CASE}/do/wave", view="ripple", rail="+5 V", load="dummy")
    assert "Choose a file" in response.get_data(as_text=True)
    assert bring(client, rail="+99 V").status_code == 404


def test_a_record_is_read_anew_as_it_is_described(client: Client, demo: Store) -> None:
    bring(client)
    record = wave_records(open_case(demo, CASE))[-1]
    said = {"view": "ripple", "record": str(record.id), "load": "dummy"}
    more = {"volt_scale": "10", "time_column": "0", "interval_s": "2us", "channel": "2"}
    response = client.post(f"/cases/{CASE}/do/wave-said", **said, **more)
    assert response.status_code == 303
    result = ready(demo)[-1]
    assert result.record.dt_s == pytest.approx(2e-6)
    assert result.mean_v == pytest.approx(50, rel=0.01)
    page = client.text(response.headers["Location"])
    assert '<option selected value="10">' in page
    refused = client.post(f"/cases/{CASE}/do/wave-said", **said, channel="7")
    assert "no channel 7" in refused.get_data(as_text=True)
    gone = client.post(f"/cases/{CASE}/do/wave-said", **(said | {"record": "9999"}))
    assert gone.status_code == 404


def test_a_record_put_aside_leaves_the_lab_and_its_power(client: Client, demo: Store) -> None:
    bring(client)
    record = wave_records(open_case(demo, CASE))[-1]
    client.post(f"/cases/{CASE}/do/wave-aside", view="ripple", record=str(record.id),
                reason="probe on ground")  # fmt: skip
    case = open_case(demo, CASE)
    assert record.id not in [r.id for r in wave_records(case)]
    assert energy(case).energy is not Energy.LIVE
    assert "probe on ground" in client.text(f"/cases/{CASE}/log")


def test_a_window_holds_no_more_than_the_screen_and_loses_no_peak(
    client: Client, demo: Store
) -> None:
    ready(demo)
    record = wave_records(open_case(demo, CASE))[0]
    address = f"/cases/{CASE}/waves/{record.id}/view.json"
    split = split_of(open_case(demo, CASE), record)
    assert split is not None
    whole = client.get(f"{address}?px=300&bands={','.join(BANDS)}").get_json()
    volts = np.asarray(split.wave.volt)
    low, high = whole["traces"]["raw"]
    assert len(low) == 300
    assert max(high) == pytest.approx(volts.max() - split.mean_v, abs=1e-4)
    assert min(low) == pytest.approx(volts.min() - split.mean_v, abs=1e-4)
    assert set(whole["traces"]) == {"raw", *BANDS}
    near = client.get(f"{address}?from=0.01&to=0.0102&px=2000&bands=switching,none").get_json()
    assert len(near["traces"]["raw"][0]) == 100
    assert set(near["traces"]) == {"raw", "switching"}
    assert near["from_s"] == pytest.approx(0.01)
    for odd in ("from=5&to=1", "from=nan", "px=0", "px=-3&from=-1&to=1e9", "bands=x"):
        assert client.get(f"{address}?{odd}").status_code in (200, 404)
    assert client.get(f"/cases/{CASE}/waves/999/view.json").status_code == 404


def test_a_record_goes_out_as_csv_and_as_it_came(client: Client, demo: Store) -> None:
    bring(client)
    ready(demo)
    record = wave_records(open_case(demo, CASE))[-1]
    base = f"/cases/{CASE}/waves/{record.id}"
    original = client.get(f"{base}/original")
    assert original.get_data(as_text=True) == ROWS
    assert f"record-{record.id}.csv" in original.headers["Content-Disposition"]
    out = client.get(f"{base}/wave.csv")
    assert "attachment" in out.headers["Content-Disposition"]
    rows = list(csv.reader(io.StringIO(out.get_data(as_text=True))))
    assert rows[:2] == [["Time", "Volts"], ["s", "V"]]
    assert len(rows) == 6002
    assert float(rows[2][1]) == pytest.approx(5.0, abs=1e-3)


def test_the_view_is_made_again_when_it_was_thrown_away(client: Client, demo: Store) -> None:
    ready(demo)
    from hale_rail.case.ripple import waves

    waves._ready.clear()
    client.text(PAGE)
    waves._ready.clear()
    shutil.rmtree(demo.folder / "records" / "views")
    assert "wave-now" in client.text(PAGE)


def test_the_lab_asks_for_the_record_after_the_rework(demo: Store) -> None:
    step = ripple.next_step(open_case(demo, CASE))
    assert step is not None
    assert "+5 V again" in step.text
    assert ripple.page(open_case(demo, CASE), PageQuery(by="+5 V")).shown is not None
