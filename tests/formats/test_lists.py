"""The triage table, the resistor stock and the recap list as CSV."""

from __future__ import annotations

import csv
import io

import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.decisions import Decision, DecisionKind
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.ratings import Ratings
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.recap.demand import Position, RecapLine
from hale_rail.core.recap.other_parts import other, other_lines
from hale_rail.core.supply.templates import make_part
from hale_rail.formats.plans.recap_csv import COLUMNS, write_recap
from hale_rail.formats.readings.triage_csv import read_triage
from hale_rail.formats.tables.fields import table_text, tolerance
from hale_rail.formats.workshop import meters_csv, stock_csv
from hale_rail.formats.workshop.meters_csv import read_meters
from hale_rail.formats.workshop.stock_csv import USUAL_V, read_stock

HEADER = "id,ref,family,value,voltage,lifted,cap,esr,visual,year,tolerance,grade,class,bank"


def test_a_row_in_full() -> None:
    rows, problems = read_triage(
        f"{HEADER}\n7,C7,aluminium,4700u,16,yes,4100u,0R05,bulge;leak,1984,-10/+50%,low,,A\n"
    )
    assert problems == []
    row = rows[0]
    assert (row.id, row.ref, row.bank, row.lifted, row.line) == ("7", "C7", "A", True, 2)
    assert row.cap.family is Family.ALUMINIUM
    assert (row.cap.grade, row.cap.year, row.cap.tolerance) == (Grade.LOW, 1984, (0.1, 0.5))
    assert row.readings.visual == ("bulge", "leak")
    assert row.readings.farad is not None
    assert row.readings.farad.value == pytest.approx(4.1e-3)


def test_order_extra_columns_separators_and_marks_do_not_matter() -> None:
    for text in (
        "value,mood,id,family\n10u,blue,a,film\n",
        "\ufeffid;family;value\na;film;10u\n",
        "ID\tFamily\tValue\r\na\tfilm\t10u\r\n",
    ):
        rows, problems = read_triage(text)
        assert ([row.id for row in rows], problems) == (["a"], [])


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"id": ""}, "no id"),
        ({"family": "velvet"}, "family"),
        ({"value": ""}, "value"),
        ({"value": "5 F"}, "between 0 F and 1 F"),
        ({"voltage": "0"}, "is rated"),
        ({"lifted": "maybe"}, "yes or no"),
        ({"cap": "0.15 Ω"}, "is a resistance"),
        ({"esr": "-1"}, "between"),
        ({"visual": "sad"}, "visual code"),
        ({"year": "84"}, "not a year"),
        ({"grade": "superb"}, "grade"),
        ({"class": "Z9"}, "class"),
        ({"tolerance": "lots"}, "not a tolerance"),
    ],
)
def test_a_bad_row_is_named_and_the_rest_are_read(fields: dict[str, str], says: str) -> None:
    base = dict.fromkeys(HEADER.split(","), "")
    base.update(id="1", family="aluminium", value="10u", voltage="25")
    out = io.StringIO()
    writer = csv.DictWriter(out, base)
    writer.writeheader()
    writer.writerow(base | fields)
    writer.writerow(base | {"id": "2"})
    rows, problems = read_triage(out.getvalue())
    assert [row.id for row in rows] == ["2"]
    assert [problem.line for problem in problems] == [2]
    assert says in problems[0].text.replace("\u00a0", " ")


def test_ids_are_unique_and_rows_no_longer_than_the_header() -> None:
    rows, problems = read_triage("id,family,value\n1,film,1n\n1,film,2n\n2,film,1n,x\n")
    assert [row.id for row in rows] == ["1"]
    assert [problem.line for problem in problems] == [3, 4]
    assert "line 2 already" in problems[0].text


def test_no_header_is_no_table() -> None:
    with pytest.raises(InputError, match="lacks id, family, value"):
        read_triage("1,film,10n\n")


@pytest.mark.parametrize(
    ("text", "shares"),
    [("20%", (0.2, 0.2)), ("±5 %", (0.05, 0.05)), ("-10/+50%", (0.1, 0.5)),
     ("−20%/+80%", (0.2, 0.8)), ("10", (0.1, 0.1))],
)  # fmt: skip
def test_tolerance(text: str, shares: tuple[float, float]) -> None:
    assert tolerance(text) == pytest.approx(shares)


def test_the_stock() -> None:
    stock = read_stock("ohms,watts,kind,max_volts\n4k7,10,wirewound,500\n\n22k,3,Film,350 V\n")
    assert [(r.ohm, r.watt, r.kind, r.max_volt) for r in stock] == [
        (4700.0, 10.0, "wirewound", 500.0),
        (22e3, 3.0, "film", 350.0),
    ]
    again = table_text(stock_csv.COLUMNS, [stock_csv.cells(resistor) for resistor in stock])
    assert read_stock(again) == stock


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("ohms\n1k\n", "lacks watts"),
        ("ohms,watts,kind,max_volts\n1k,1,carbon,500\n", "line 2.*wirewound or film"),
        ("ohms,watts,kind,max_volts\n0,1,film,500\n", "above 0"),
        ("ohms,watts,kind,max_volts\n1k,much,film,500\n", "not a power"),
    ],
)
def test_a_bad_stock_names_its_line(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        read_stock(text)


def test_the_meters() -> None:
    meters = read_meters(
        "name,cap_hz,esr_hz,cap_percent,esr_percent,esr_ohm,lead_ohm,min_cap\n"
        "bench,100,,1,2.5,5m,20m,470n\nplain\n"
    )
    assert meters[0] == Meter(100.0, 100e3, 0.01, 0.025, 0.005, "bench", 0.020, 470e-9)
    assert meters[1] == Meter(name="plain")
    again = table_text(meters_csv.COLUMNS, [meters_csv.cells(meter) for meter in meters])
    assert read_meters(again) == meters


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("cap_hz\n120\n", "lacks name"),
        ("name,cap_hz\nA,fast\n", "line 2.*not a number"),
        ("name,cap_hz\nA,0\n", "between"),
        ("name,lead_ohm\nA,20 nF\n", "is a capacitance"),
        ("name\nA\nA\n", "line 3.*twice"),
        ("name,cap_hz\n,120\n", "needs a name"),
    ],
)
def test_a_bad_meter_names_its_line(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        read_meters(text)


def test_the_recap_list_as_csv() -> None:
    known = {"value": 2.2e-3, "volt": 10.0, "family": Family.ALUMINIUM}
    part = make_part(1, "=C1", "capacitor", "+5 V", 1, **known)
    line = RecapLine(
        2.2e-3, 10.0, Family.ALUMINIUM, "", (Position(part, Verdict.FAILED),), ("bad",)
    )
    fuse = make_part(2, "F1", "fuse", "main", 2, value=1.25, volt=250.0)
    bridges = [make_part(i, f"BR{i}", "bridge", "main", i, volt=600.0) for i in (1, 2)]
    kept, fitted = Decision(DecisionKind.KEEP, "good"), Decision(DecisionKind.FITTED, "new")
    found = [
        other(fuse, PartState.FAILED, None),
        other(bridges[0], PartState.FAILED, None),
        other(bridges[1], PartState.REPLACED, fitted),
    ]
    assert other(fuse, PartState.FAILED, kept) is None
    assert other(fuse, PartState.WORN, None) is None
    others = other_lines((o for o in found if o), lambda p: Ratings(value=p.value, volt=p.volt))
    rows = list(csv.reader(io.StringIO(write_recap([line], others))))
    assert tuple(rows[0]) == COLUMNS
    assert rows[1] == [
        "1", "", "2200000", "2200", "10", "aluminium", "", "'=C1", "bad", "0", "",
    ]  # fmt: skip
    assert rows[2][:1] + rows[2][4:8] == ["1", "250", "fuse", "", "F1"]
    assert rows[2][10].startswith("1.25\u00a0A 250\u00a0V; same current, speed")
    assert rows[3][:1] + rows[3][4:] == [
        "2", "600", "bridge", "", "BR1 BR2", "found failed; replaced already", "1", "600\u00a0V",
    ]  # fmt: skip


def test_a_stock_needs_no_kind_and_no_greatest_volts() -> None:
    (found,) = read_stock("ohms,watts\n10,25\n")
    assert (found.kind, found.max_volt, found.qty) == ("wirewound", USUAL_V, 1)
    (other,) = read_stock("ohms,watts,kind,max_volts,qty\n10,25,film,350,2\n")
    assert (other.kind, other.max_volt, other.qty) == ("film", 350.0, 2)
