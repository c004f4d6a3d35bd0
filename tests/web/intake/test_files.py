"""Units and readings out of a case as files, and in again: the same judgements come of them."""

from __future__ import annotations

import io

import pytest

from hale_rail.actions.imports import import_readings, plan_readings
from hale_rail.actions.intake import sheets
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.name_lookup import name_of
from hale_rail.case.parts.parts import parts
from hale_rail.case.rails.rails import rails
from hale_rail.case.safety.energy import energy
from hale_rail.case.shorts.grounds import grounds
from hale_rail.errors import ConflictError
from hale_rail.formats.readings.readings_csv import read_readings
from hale_rail.store.database import Store
from tests.conftest import Client

DEMO = ("LW-014", "LW-022", "LW-031", "LW-009")


def upload(text: str, name: str) -> tuple[io.BytesIO, str]:
    return io.BytesIO(text.encode()), name


def judged(case: CaseFile) -> dict[str, object]:
    """All that is said of a case, by the names of its parts and rails."""
    said: dict[str, object] = {
        name_of(case, f.part): (f.state.value, [r.text for r in f.judgement.reasons])
        for f in parts(case).values()
    }
    said |= {f"{g.rail.key} ground": g.side_text for g in grounds(case)}
    for volts in rails(case):
        for load, (_, verdict) in volts.by_load.items():
            said[f"{volts.rail.key} {load.code}"] = verdict.verdict
    return said | {"energy": energy(case).energy}


@pytest.mark.parametrize("number", DEMO)
def test_what_goes_out_comes_in_and_is_judged_alike(
    client: Client, demo: Store, number: str
) -> None:
    unit = client.text(f"/cases/{number}/unit.json")
    readings = client.text(f"/cases/{number}/readings.csv")
    fields = {"file_number": "IN-1", "file_symptom": "as told", "unit": upload(unit, "unit.json")}
    assert client.post("/cases/new/from-file", **fields).status_code == 303
    sent = {"view": "intake", "readings": upload(readings, "r.csv")}
    answer = client.post("/cases/IN-1/do/take-readings", **sent)
    page = answer.get_data(as_text=True)
    assert answer.status_code == 303, page
    assert judged(open_case(demo, "IN-1")) == judged(open_case(demo, number))
    assert client.text("/cases/IN-1/unit.json") == unit
    again, wrong = read_readings(client.text("/cases/IN-1/readings.csv"))
    assert (len(again), wrong) == (len(read_readings(readings)[0]), [])


@pytest.mark.parametrize(
    ("path", "fields", "says"),
    [
        ("/cases/new/from-file", {"file_symptom": "dead"}, "Choose a UNIT.json"),
        ("/cases/new/from-file", {"file_symptom": "dead", "unit": ("{", "u.json")}, "no JSON"),
        ("/cases/new/from-file", {"unit": ("{}", "u.json")}, "Say what it does wrong"),
        ("/cases/LW-014/do/take-unit", {"view": "intake"}, "Choose a UNIT.json"),
        (
            "/cases/LW-014/do/take-unit",
            {"view": "intake", "unit": ("[]", "u.json")},
            "not an object",
        ),
        (
            "/cases/LW-014/do/take-unit",
            {"view": "intake", "unit": ('{"topology": "linear"}', "u.json")},
            "open a case from it",
        ),
        (
            "/cases/LW-014/do/take-unit",
            {
                "view": "intake",
                "unit": ('{"topology":"flyback","parts":[{"ref":"C1","kind":"fuse"}]}', "u.json"),
            },
            "C1 is a fuse there",
        ),
        (
            "/cases/LW-014/do/take-readings",
            {"view": "intake", "readings": ("a,b", "r")},
            "header lacks",
        ),
        ("/workshop/patterns", {"unit": ("\x00\x01", "u.json")}, "no JSON"),
    ],
)
def test_a_file_that_cannot_be_is_told_beside_its_field(
    client: Client, path: str, fields: dict[str, object], says: str
) -> None:
    sent = {k: upload(*v) if isinstance(v, tuple) else v for k, v in fields.items()}
    answer = client.post(path, **{"file_number": "IN-2", **sent})
    assert answer.status_code == 422
    assert says in answer.get_data(as_text=True)


def test_a_file_corrects_parts_and_adds_new_ones_and_bad_rows_are_told(
    client: Client, demo: Store
) -> None:
    unit = (
        '{"topology":"flyback","parts":[{"ref":"C1","kind":"capacitor","value":0.0002,"volt":400},'
        '{"ref":"C99","kind":"capacitor","line":"+5","value":"104","family":"ceramic"}]}'
    )
    before = open_case(demo, "LW-014").sheet
    fields = {"view": "intake", "unit": upload(unit, "unit.json")}
    assert client.post("/cases/LW-014/do/take-unit", **fields).status_code == 303
    after = open_case(demo, "LW-014")
    values = {p.ref: p.value for p in after.sheet.parts}
    assert (values["C1"], values["C99"]) == (pytest.approx(2e-4), pytest.approx(1e-7))
    assert len(after.sheet.parts) == len(before.parts) + 1
    text = "target,procedure,condition,value\nC99,c,lifted,98n\nC98,c,lifted,98n\nC99,c,lifted,x\n"
    count = len(after.rows.readings)
    for leave_out, code, more in (({}, 422, 0), ({"leave_out": "y"}, 303, 1)):
        fields = {"view": "intake", "readings": upload(text, "r.csv"), **leave_out}
        answer = client.post("/cases/LW-014/do/take-readings", **fields)
        assert answer.status_code == code
        assert len(open_case(demo, "LW-014").rows.readings) == count + more
        page = answer.get_data(as_text=True)
        assert ("Line 3: there is no part or rail" in page) == ("Line 4: " in page) == (not more)


def test_a_pattern_goes_out_and_in(client: Client, demo: Store) -> None:
    unit = client.text("/cases/LW-014/unit.json").replace('"name": "', '"name": "Second ')
    assert client.post("/workshop/patterns", unit=upload(unit, "u.json")).status_code == 303
    page = client.text("/workshop")
    path = page.rpartition('aria-label="Export Second')[0].rpartition('href="')[2].partition('"')[0]
    assert client.text(path) == unit
    assert client.get("/workshop/patterns/999.json").status_code == 404
    twice = client.post("/workshop/patterns", unit=upload(unit, "u.json"))
    assert twice.status_code == 422


def test_a_new_part_in_a_file_is_not_a_correction(demo: Store) -> None:
    head = "target,procedure,condition,value\n"
    text = head + "F1,ohms,in-circuit,OL\nF1,replaced,,1.25 A\nF1,ohms,in-circuit,0.2\n"
    plan = plan_readings(open_case(demo, "LW-009"), read_readings(text)[0])
    assert plan.problems == ()
    import_readings(demo, "LW-009", plan)
    facts = next(f for f in parts(open_case(demo, "LW-009")).values() if f.part.ref == "F1")
    assert facts.state.value == "replaced"
    assert facts.former is not None
    assert facts.former.state.value == "failed"


def test_a_plan_made_before_the_sheet_was_changed_is_not_written(demo: Store) -> None:
    rows, _ = read_readings("target,procedure,condition,value\nF1,ohms,in-circuit,0.2\n")
    plan = plan_readings(open_case(demo, "LW-014"), rows)
    sheets.add_parts(demo, "LW-014", "C99 100n 63V film +5")
    with pytest.raises(ConflictError):
        import_readings(demo, "LW-014", plan)
