"""Price lists as vendors send them: what is read, what is not, line by line, nothing lost."""

from __future__ import annotations

import io
import zipfile
from decimal import Decimal

import pytest
from openpyxl import Workbook, load_workbook

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family
from hale_rail.core.recap.needs import Build, Mount
from hale_rail.core.recap.offers import Offer
from hale_rail.core.recap.orders import OrderLine
from hale_rail.formats.plans.order_files import (
    COLUMNS,
    build_cells,
    order_csv,
    order_rows,
    order_xlsx,
    read_back,
)
from hale_rail.formats.plans.plan_csv import read_catalogue
from hale_rail.formats.plans.price_lists import (
    ALL_WORDS,
    check_mapping,
    guessed,
    offers_of,
    read_rows,
)
from hale_rail.formats.tables import sheets
from hale_rail.formats.tables.sheets import MOST_ROWS, open_table

HEAD = "Part no;Type;Capacitance;Voltage;Price;Price 10+;Stock\n"
MESSY = (
    "Kettlewick Surplus;;;;;;\nPrices without tax;;;;;;\n;;;;;;\n"
    + HEAD
    + "KW1;film;100n;63;€ 0,35;0,30 EUR;1 000\n"
    ";;;;;;\n"
    "KW2;film;100n;63;=E5*2;;\n"
    "KW3;film;100n;63;-0,35;;\n"
    "KW4;film;100n;63;ask us;;\n"
    "KW5;film;100n;63;1,234;;\n"
    "KW6;jelly;100n;63;1;;\n"
    "KW7;film;0,1u;63;1.234,50;;\n"
    "KW1;film;100n;63;1;;\n"
    ";film;100n;63;1;;\n"
)


def read(text: str | bytes, **more: str):
    data = text.encode() if isinstance(text, str) else text
    table = open_table(data, "list", ALL_WORDS)
    mapping = {**guessed(table.headings, {}), **more}
    return table, mapping, read_rows(table, mapping, "Kettlewick")


def test_a_messy_list_is_read_line_by_line() -> None:
    table, mapping, rows = read(MESSY)
    assert table.skipped == 3
    assert mapping["value"] == "Capacitance"
    assert [(o.sku, o.prices[0][1]) for o in offers_of(rows)] == [
        ("KW1", Decimal("0.35")),
        ("KW7", Decimal("1234.50")),
    ]
    assert offers_of(rows)[0].available == 1000
    told = {row.line: row.problem for row in rows if row.problem}
    reasons = {7: "formula", 8: "below 0", 9: "not a price", 10: "can mean", 11: "jelly",
               13: "line 5 already", 14: "vendor and sku"}  # fmt: skip
    assert told.keys() == reasons.keys()
    assert all(words in told[line] for line, words in reasons.items())


def workbook(*rows: tuple[object, ...], merged: str = "") -> bytes:
    book = Workbook()
    for row in rows:
        book.active.append(row)
    if merged:
        book.active.merge_cells(merged)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_workbook_with_merged_headings_is_read() -> None:
    data = workbook(
        ("Drumlin list",),
        ("", "", "", "", "Price per piece", None, None),
        ("SKU", "Family", "Value", "Volts", 1, 10, 100),
        ("D1", "ceramic", "104", 50, 0.25, 0.2, "0,15"),
        ("D2", "film", "1u", 63, "=A1*2", None, None),
        merged="E2:G2",
    )
    table, mapping, rows = read(data)
    assert table.headings[4:] == ("Price per piece 1", "Price per piece 10", "Price per piece 100")
    assert [mapping[f"price_{n}"] for n in (1, 10, 100)] == list(table.headings[4:])
    offer = offers_of(rows)[0]
    assert offer.build.farad == pytest.approx(100e-9)
    assert [str(price) for _, price in offer.prices] == ["0.25", "0.2", "0.15"]
    assert "formula" in rows[1].problem


def test_a_price_in_another_currency_is_not_taken_for_one_of_the_lists() -> None:
    text = "sku,family,value,price,price 10+\n"
    text += "a,film,1u,€0.10,0.09\nb,film,1u,$0.10,\nc,film,1u,0.10,0.09 GBP\nd,film,1u,1 EUR,\n"
    table = open_table(text.encode(), "list", ALL_WORDS)
    rows = read_rows(table, guessed(table.headings, {}), "V", "EUR")
    assert [row.offer.sku for row in rows if row.offer] == ["a", "d"]
    assert [row.problem for row in rows if row.problem] == [
        "a price in USD, where the list is in EUR",
        "a price in GBP, where the list is in EUR",
    ]
    assert len(offers_of(read_rows(table, guessed(table.headings, {}), "V"))) == 4
    catalogue = "vendor,sku,family,value,price_1\nP,a,film,1u,$1\nP,b,film,1u,€1\nQ,c,film,1u,2\n"
    offers, wrong = read_catalogue(catalogue)
    assert [o.sku for o in offers] == ["a", "c"]
    assert wrong == [(3, "a price in EUR, where the list is in USD")]


def test_columns_are_remembered_and_may_be_the_same_for_every_row() -> None:
    table = open_table(b"A,B,C\nx1,10u,0.10\n", "list", ALL_WORDS)
    chosen = {"sku": "A", "value": "B", "price_1": "C", "family": "=aluminium"}
    mapping = check_mapping(guessed(table.headings, chosen), table.headings)
    found = offers_of(read_rows(table, mapping, "V"))
    assert [(o.sku, o.build.family) for o in found] == [("x1", Family.ALUMINIUM)]
    for name, why in (("sku", "part number"), ("family", "family"), ("price_1", "price")):
        with pytest.raises(InputError, match=why):
            check_mapping({**mapping, name: ""}, table.headings)
    with pytest.raises(InputError, match="no column"):
        check_mapping({**mapping, "moq": "gone"}, table.headings)


BAD = [
    (b"", "no row"), (b"\x89PNG\r\n\x1a\n\x00", "not UTF-8"), (b"PK\x03\x04 broken", "damaged"),
    (b"\xff\xfe\x00", "not UTF-8"), (b'a,b\n"unclosed' + b"x" * 200_000, "field larger"),
]  # fmt: skip


@pytest.mark.parametrize(("data", "why"), BAD)
def test_a_file_that_is_no_list_is_refused_with_a_sentence(data: bytes, why: str) -> None:
    with pytest.raises(InputError, match=why):
        open_table(data, "list", ALL_WORDS)


def test_a_workbook_of_something_else_is_refused() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("readme.txt", "not a workbook")
    with pytest.raises(InputError, match="not a workbook"):
        open_table(out.getvalue(), "list", ALL_WORDS)


@pytest.mark.parametrize("most", [pytest.param(200_000, marks=pytest.mark.exhaustive), 2_000])
def test_so_many_rows_are_read_and_more_are_refused(
    most: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Two hundred thousand; a short list is held to a limit as short."""
    limit = MOST_ROWS if most == 200_000 else most + 1  # with the heading
    monkeypatch.setattr(sheets, "MOST_ROWS", limit)
    line = "KW{n};film;100n;63;0,35;;\n"
    text = HEAD + "".join(line.replace("{n}", str(n)) for n in range(most))
    _, __, rows = read(text)
    assert len(rows) == most
    assert not any(row.problem for row in rows)
    too_long = HEAD + "a;b\n" * (limit + 1)
    with pytest.raises(InputError, match="longer than"):
        open_table(too_long.encode(), "list", ALL_WORDS)


BUILD = Build(Family.SUPPRESSION_FILM, 2.2e-9, 250.0, "X1/Y2", 110.0, Mount.BOX, 10.0, 13.0, 12.0,
              None, None, 1000.0)  # fmt: skip
ORDER = [
    OrderLine(Offer("A/B: [x]", "=S1", BUILD, ()), 12, Decimal("0.35"), 10, ("LW-1/7", "LW-1/8")),
    OrderLine(Offer("C", "S2", Build(Family.FILM, 1e-11), ()), 1, Decimal("1.00"), 1, ("LW-1/9",)),
]
NAMES = {"LW-1/7": "LW-1:C7", "LW-1/8": "LW-1:C8"}


def test_an_order_goes_out_as_csv_and_comes_back_filled_in() -> None:
    rows = order_rows(ORDER, NAMES, "EUR")
    text = order_csv(rows)
    assert "'=S1,12,0.35,4.20,EUR,2,LW-1:C7 LW-1:C8,2200,2.2,0.0022" in text
    assert len(order_rows(ORDER, NAMES, "EUR", "C")) == 1
    filled = [(*row[:-1], "10" if row[0] == "C" else "") for row in rows]
    found = read_back(order_csv(filled))
    assert [(d.sku, d.qty, d.build.farad) for d in found.drawers] == [("S2", 10, 1e-11)]
    wrong = read_back(order_csv([(*rows[0][:-1], "many"), (*rows[1][:-1], "1")]))
    assert [line for line, _ in wrong.wrong] == [2]
    with pytest.raises(InputError, match="received"):
        read_back("sku,qty\nS1,2\n")


def test_an_order_as_a_workbook_has_a_sheet_a_vendor_and_numbers_as_numbers() -> None:
    book = load_workbook(io.BytesIO(order_xlsx(order_rows(ORDER, NAMES, "EUR"))))
    assert [sheet.title for sheet in book] == ["AB x", "C"]
    first = book.worksheets[0]
    assert tuple(cell.value for cell in first[1]) == COLUMNS
    row = dict(zip(COLUMNS, (cell.value for cell in first[2]), strict=True))
    assert (row["qty"], row["unit_price"], row["cost"], row["sku"]) == (12, 0.35, 4.2, "'=S1")
    assert row["class"] == "X1/Y2"
    assert [s.title for s in load_workbook(io.BytesIO(order_xlsx([])))] == ["Order"]


def test_a_parts_description_survives_its_cells() -> None:
    from hale_rail.formats.plans.plan_csv import PART_COLUMNS
    from hale_rail.formats.units.part_fields import read_build

    for farad in (1e-11, 4.7e-10, 2.2e-9, 100e-9, 10e-6, 2.2e-3, 15e-3):
        build = Build(BUILD.family, farad, 275.0, "X2", None, None, 15.0, 18.0, 12.5, 0.035, 1.2)
        cells = dict(zip(PART_COLUMNS, build_cells(build), strict=True))
        assert read_build(cells) == build
