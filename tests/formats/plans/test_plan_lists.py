"""The lists of a plan as vendors and people write them: prices, counts, sizes, bad rows by line."""

from __future__ import annotations

from decimal import Decimal

import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.recap.needs import Mount, Role
from hale_rail.core.recap.offers import Origin
from hale_rail.formats.plans.plan_csv import read_catalogue, read_demand, read_drawers, read_vendors
from hale_rail.formats.tables.money import read_count, read_price, show_price

PRICES = [
    ("0.35", "0.35"), ("0,35", "0.35"), (",5", "0.5"), ("€ 0,35", "0.35"), ("$1.20", "1.20"),
    ("12,50 EUR", "12.50"), ("GBP 3", "3"), ("1.234,50", "1234.50"), ("1,234.50", "1234.50"),
    ("1 234,50", "1234.50"), ("1'234.50", "1234.50"), ("0.125", "0.125"), ("12.500", "12.5"),
    ("1,234,567.8", None), ("1.234.567", "1234567"), ("3.", "3"), ("0", "0"),
]  # fmt: skip
BAD_PRICES = [
    ("1,234", "can mean 1.234 or 1234"), ("=A1*2", "formula"), ("-0.35", "below 0"),
    ("cheap", "not a price"), ("", "not a price"),
    ("0.3.5", "not a price"), ("1,2,3", "not a price"),
    ("9999999999", "more than any part"), ("nan", "not a price"), ("1e5", "not a price"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "price"), PRICES)
def test_a_price_is_read_exactly(text: str, price: str | None) -> None:
    if price in (None, "1234567"):
        with pytest.raises(InputError, match="more than any part"):
            read_price(text)
    else:
        assert read_price(text) == Decimal(price or "")


@pytest.mark.parametrize(("text", "why"), BAD_PRICES)
def test_a_price_that_is_none_is_refused_with_the_reason(text: str, why: str) -> None:
    with pytest.raises(InputError, match=why):
        read_price(text)


def test_a_price_is_written_with_all_its_decimals() -> None:
    shown = [show_price(Decimal(p)) for p in ("2", "0.5", "0.125", "10.10")]
    assert shown == ["2.00", "0.50", "0.125", "10.10"]
    assert show_price(Decimal(3), "EUR") == "3.00\u00a0EUR"


COUNTS = [("100", 100), ("1 000", 1000), (">500", 500), ("1000+", 1000), ("12.0", 12)]


@pytest.mark.parametrize(("text", "count"), COUNTS)
def test_a_count_is_read(text: str, count: int) -> None:
    assert read_count(text, "qty") == count


@pytest.mark.parametrize("text", ["", "-1", "1,50", "1.5", "ten", "²", "1e3", "9" * 30])
def test_a_count_that_is_none_is_refused(text: str) -> None:
    with pytest.raises(InputError, match="qty is"):
        read_count(text, "qty")


DEMAND = """id,ref,role,family,value,voltage,class,mount,pitch_mm,max_height_mm,temp_c,rail_v,qty
a,C1,output-filter,aluminium,2200uF/10V,,,radial,"5,08",25 mm,105 °C,+5 V,2
b,C2,,tantalum,106,16,,,,,,−12,
c,,suppressor-x,suppression-film,0.1u,275 VAC,x2,box,15,,,,
,C3,,film,1u,,,,,,,,
a,C4,,film,1u,,,,,,,,
d,C5,sideways,film,1u,,,,,,,,
e,C6,,jelly,1u,,,,,,,,
f,C7,,film,1u,,X9,,,,,,
g,C8,,film,1u,,,,-5,,,,
h,C9,,aluminium,10mF,,,,,,,,
i,C9,,aluminium,10u,,,,,,,,0
j,C9,,aluminium,10u,40000,,,,,,,
"""


def test_demand_is_read_and_each_bad_row_named_with_its_line() -> None:
    rows, wrong, ids = read_demand(DEMAND)
    first, second, third = rows
    assert (first.farad, first.volt, first.pitch_mm, first.max_height_mm) == (2.2e-3, 10, 5.08, 25)
    assert (first.temp_c, first.rail_v, first.qty, first.mount) == (105, 5, 2, Mount.RADIAL)
    assert second.farad == pytest.approx(10e-6)
    assert (second.role, second.is_role_assumed, second.rail_v) == (Role.DECOUPLING, True, -12)
    assert (third.safety_class, third.volt) == ("X2", 275)
    reasons = ["no id", "line 2 already", "sideways", "jelly", "X9", "pitch_mm", "10 µF or 10 mF",
               "qty is 1 or more", "is rated"]  # fmt: skip
    assert [line for line, _ in wrong] == list(range(5, 14))
    for (_, text), reason in zip(wrong, reasons, strict=True):
        assert reason in text
    assert ids == dict(zip(range(7, 14), "defghij", strict=True))


def test_catalogue_stock_and_vendors_are_read() -> None:
    text = (
        "vendor;sku;family;value;voltage;class;pack;available;price_1;price_10;price_100\n"
        "P;S1;ceramic;104;50;;5;1 000;0,20;0,15;\n"
        "P;S2;film;100n;275;X1/Y2;;;;1,10;0,90\n"
        "P;S1;ceramic;104;50;;;;1;;\nP;S3;film;1u;;;;;;;\nP;S4;film;1u;;;;;free;;\n"
        ";S5;film;1u;;;;;1;;\n"
    )
    offers, wrong = read_catalogue(text)
    assert [(o.sku, o.build.farad, o.pack, o.available) for o in offers] == [
        ("S1", pytest.approx(100e-9), 5, 1000),
        ("S2", pytest.approx(100e-9), 1, None),
    ]
    assert offers[1].build.classes == {"X1", "Y2"}
    assert offers[1].prices == ((10, Decimal("1.10")), (100, Decimal("0.90")))
    assert offers[1].price_at(9) is None
    assert offers[1].order_for(3) == (10, Decimal("1.10"))
    assert [line for line, _ in wrong] == [4, 5, 6, 7]
    assert "price_1: “free” is not a price" in wrong[2][1]

    drawers, bad = read_drawers(
        "sku,family,value,qty,origin,tested\nD1,film,1u,3,old stock,no\nD2,film,1u,2,new,yes\n"
        "D3,film,1u,many,,\nD4,film,1u,1,found,\n"
    )
    assert [(d.origin, d.is_tested, d.is_trusted) for d in drawers] == [
        (Origin.OLD_STOCK, False, False),
        (Origin.NEW, True, True),
    ]
    assert [line for line, _ in bad] == [4, 5]

    vendors, bad = read_vendors('vendor,shipping,free_above\nP,"4,90",40\nQ,,\nP,1,\nR,-1,\n')
    assert [(v.name, v.shipping, v.free_above) for v in vendors] == [
        ("P", Decimal("4.90"), Decimal(40)),
        ("Q", Decimal(0), None),
    ]
    assert [line for line, _ in bad] == [4, 5]
