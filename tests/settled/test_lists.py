"""Lists of other vendors and positions across the mains: what is read, what is never chosen."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.recap.any_part import fit
from hale_rail.core.recap.demand import Position, RecapPolicy, choose
from hale_rail.core.recap.findings import Level
from hale_rail.core.recap.needs import Build, Mount, Needs, Role
from hale_rail.core.recap.offers import Offer
from hale_rail.core.recap.rated_parts import RatedBuild
from hale_rail.core.supply.templates import make_part
from hale_rail.formats.plans.price_lists import guessed, read_rows
from hale_rail.formats.tables.sheets import open_table
from hale_rail.formats.units.unlike_rows import unlike
from tests.cli.running import run_in

HEAD = "vendor,sku,family,value,voltage,class,temp_c,mount,pitch_mm,moq,available,price_1"


@pytest.mark.parametrize(
    ("part_year", "unit_year", "replaced", "why"),
    [
        (None, 1984, True, "42 years old"), (2015, 1984, False, "no offender"),
        (None, None, True, "of unknown year"), (None, 2010, False, "no offender"),
        (1986, 2010, True, "40 years old"),
    ],
)  # fmt: skip
def test_the_units_year_is_that_of_paper_without_one(
    part_year: int | None, unit_year: int | None, replaced: bool, why: str
) -> None:
    paper = make_part(1, "CX1", "capacitor", "main", 1, value=100e-9, volt=250.0, year=part_year,
                      family=Family.SUPPRESSION_PAPER, safety_class="X2")  # fmt: skip
    position = Position(paper, Verdict.GOOD, unit_year=unit_year)
    choice = choose(position, RecapPolicy.OFFENDERS, 2026)
    assert (choice.replace, why in choice.why) == (replaced, True), choice.why


def plan(tmp_path: Path, demand: str, catalogue: str, stock: str = "") -> Any:
    """The JSON of a plan: rows of a demand, of a catalogue and of drawers."""
    words = ["plan", "demand.csv", "catalogue.csv"]
    Path(tmp_path, "demand.csv").write_text(demand, encoding="utf-8")
    Path(tmp_path, "catalogue.csv").write_text(catalogue, encoding="utf-8")
    if stock:
        Path(tmp_path, "stock.csv").write_text(stock, encoding="utf-8")
        words += ["--stock", "stock.csv"]
    code, out, err = run_in(tmp_path, *words, "--json")
    assert code == 0, err
    return json.loads(out)


DEMAND = "id,ref,role,family,value,voltage,class,pitch_mm,primary"
STOCK = "sku,qty,origin,tested,family,value,voltage,class,pitch_mm"
NEW_Y2 = f"{HEAD}\nKestrel,Y-NEW,suppression-film,3n3,300,Y2,110,box,10,1,50,0.80"


@pytest.mark.parametrize(
    ("demand", "stock", "chosen", "says"),
    [
        # a salvaged one lies in the drawer for nothing
        ("P1,CY1,suppressor-y,suppression-film,3n3,250,Y2,10,yes",
         "Y-OLD,5,salvaged,yes,suppression-film,3n3,250,Y2,10", "Y-NEW", ""),
        ("P1,CY1,suppressor-y,suppression-paper,3n3,250,Y2,10,yes",
         "Y-PAPER,5,old-stock,yes,suppression-paper,3n3,250,Y2,10", "Y-NEW", ""),
        ("P1,CY1,suppressor-y,suppression-film,3n3,250,Y2,10,yes",
         "Y-DRAWER,5,new,yes,suppression-film,3n3,300,Y2,10", "Y-DRAWER", ""),
        # its designator, or a bare letter, says what it is
        ("P1,CY8,,film,3n3,250,,10,yes", "", "Y-NEW", ""),
        ("P1,C8,,suppression-film,3n3,250,Y,10,yes", "", "Y-NEW", ""),
        ("P1,C8,,suppression-film,3n3,250V~,X1/Y2,10,yes", "", "Y-NEW", ""),
        # an ordinary film is never chosen on the mains side while nobody says what it does there
        ("P1,C8,,film,3n3,250,,10,yes", "FILM,9,new,yes,film,3n3,630,,10", "", "say what it does"),
        ("P1,C8,coupling,film,3n3,250,,10,yes", "FILM,9,new,yes,film,3n3,630,,10", "FILM", ""),
        ("P1,C8,across-switch,film,3n3,250,,10,yes", "FILM,9,new,yes,film,3n3,630,,10", "Y-NEW",
         ""),
    ],
)  # fmt: skip
def test_a_position_across_the_mains(
    tmp_path: Path, demand: str, stock: str, chosen: str, says: str
) -> None:
    found = plan(tmp_path, f"{DEMAND}\n{demand}", NEW_Y2, f"{STOCK}\n{stock}" if stock else "")
    bought = [*(o["sku"] for o in found["order"]), *(s["sku"] for s in found["from_stock"])]
    assert bought == ([chosen] if chosen else []), found
    assert says in " ".join(unmet["reason"] for unmet in found["unmet"])


def test_a_suppressor_without_ac_volts_is_refused() -> None:
    needs = Needs("P", "CX1", Role.SUPPRESSOR_X, Family.SUPPRESSION_FILM, 100e-9, 250.0, "X2")
    (row,) = rows_of("SKU,Type,Value,Class,Price\nA,suppression-film,100n,X2,0.5")
    assert row and fit(needs, row.build).level is Level.REFUSED


def test_leads_of_an_inch_go_into_holes_of_five_millimetres(tmp_path: Path) -> None:
    for pitch in ("2.5", "2.54"):
        found = plan(
            tmp_path, f"{DEMAND}\nP1,C1,output-filter,aluminium,100u,25,,5.08,",
            f"{HEAD}\nKestrel,A,aluminium,100u,25,,105,radial,{pitch},1,9,0.10",
        )  # fmt: skip
        assert [o["sku"] for o in found["order"]] == ["A"]


def rows_of(text: str) -> list[Offer | None]:
    """The offers of a list by its own headings; None for a row that is not one."""
    table = open_table(text.encode("cp1252"), "list.csv", ("sku", "value", "price"))
    return [row.offer for row in read_rows(table, guessed(table.headings, {}), "Kestrel")]


@pytest.mark.parametrize(
    ("heading", "cell", "field", "value"),
    [
        ("Ripple [mA]", "760", "ripple_a", 0.76), ("Ripple current (A)", "0.76", "ripple_a", 0.76),
        ("ESR (mohm)", "65", "esr_ohm", 0.065), ("ESR [mOhm]", "65 ", "esr_ohm", 0.065),
        ("ESR", "0R065", "esr_ohm", 0.065), ("Voltage (kV)", "1", "volt", 1000.0),
        ("Voltage", "305V~", "volt", 305.0), ("Pitch (inch)", "0.2", "pitch_mm", 5.08),
        ("Pitch [mm]", "5.08", "pitch_mm", 5.08), ("Height (cm)", "2.5", "height_mm", 25.0),
        ("Temp", "-40..+105", "temp_c", 105.0), ("Temp", "-55 to 125 °C", "temp_c", 125.0),
        ("Mount", "THT", "mount", None), ("Mount", "sideways", "mount", None),
        ("ESR", "low", "esr_ohm", None), ("Life", "long", "life_h", None),
    ],
)  # fmt: skip
def test_a_column_under_its_own_heading(
    heading: str, cell: str, field: str, value: float | None
) -> None:
    (offer,) = rows_of(f"SKU;Type;Value;{heading};Price\nA;aluminium;100u;{cell};0,50")
    assert offer
    assert getattr(offer.build, field) == (pytest.approx(value) if value else None)


@pytest.mark.parametrize(
    ("heading", "cell", "farad"),
    [
        ("Capacitance (nF)", "100", 100e-9), ("Capacitance (nF)", "47", 47e-9),
        ("Capacitance (µF)", "0,1", 100e-9), ("Value", "104", 100e-9), ("Value", "100n", 100e-9),
        ("Capacitance [pF]", "4700", 4.7e-9), ("Capacitance (nF)", "0.1u", 100e-9),
    ],
)  # fmt: skip
def test_a_value_under_a_unit_is_no_code(heading: str, cell: str, farad: float) -> None:
    (offer,) = rows_of(f"SKU;Type;{heading};Price\nA;polyester;{cell};0,50")
    assert offer and offer.build.farad == pytest.approx(farad)


@pytest.mark.parametrize(
    ("word", "family"),
    [
        ("polyester", Family.FILM), ("MKT", Family.FILM), ("MKP", Family.FILM),
        ("X7R", Family.CERAMIC), ("NP0", Family.CERAMIC), ("Elko", Family.ALUMINIUM),
        ("tantal", Family.TANTALUM), ("metallised paper", Family.SUPPRESSION_PAPER),
    ],
)  # fmt: skip
def test_a_family_in_the_words_of_notes(word: str, family: Family) -> None:
    (offer,) = rows_of(f"SKU;Type;Value;Price\nA;{word};100n;0,50")
    assert offer and offer.build.family is family


@pytest.mark.parametrize(
    ("heading", "cell", "price"),
    [
        ("Price", "0,50", 0.5), ("Price per 100", "50", 0.5), ("Price /100", "12,00", 0.12),
        ("Price", "50 per 100", 0.5), ("Price (USD)", "0.50", 0.5), ("Price", "0.00", None),
        ("Price", "on request", None), ("Price", "-", None),
    ],
)  # fmt: skip
def test_a_price_is_one_of_a_piece_or_none(heading: str, cell: str, price: float | None) -> None:
    (offer,) = rows_of(f"SKU;Type;Value;{heading}\nA;aluminium;100u;{cell}")
    assert (float(offer.prices[0][1]) if offer else None) == (
        pytest.approx(price) if price else None
    )


@pytest.mark.parametrize(
    ("heading", "cell", "field", "value"),
    [
        ("Stock", "In stock", "available", None), ("Stock", "1,250", "available", 1250),
        ("Stock", "out of stock", "available", 0), ("MOQ", "0", "moq", 1), ("MOQ", "10", "moq", 10),
    ],
)  # fmt: skip
def test_counts_as_lists_write_them(heading: str, cell: str, field: str, value: int | None) -> None:
    (offer,) = rows_of(f"SKU;Type;Value;{heading};Price\nA;aluminium;100u;{cell};0,50")
    assert offer and getattr(offer, field) == value


@pytest.mark.parametrize(
    ("cells", "lines"),
    [
        (("47u", "100u", "220u", "470u", "1000u"), []),
        # µF that were read as pF, and one of nF
        (("47u", "100u", "220p", "470u", "1000u"), [4]),
        (("47u", "100u", "220u", "470u", "1p"), [6]),
        (("47", "100", "220"), []),
        # two rows beside are wanted: of two alone neither is the slip
        (("47u", "100p"), []),
    ],
)  # fmt: skip
def test_a_thousandfold_neighbour_is_shown(cells: tuple[str, ...], lines: list[int]) -> None:
    text = "SKU;Type;Value;Price\n" + "\n".join(
        f"A{n};aluminium;{cell};0,50" for n, cell in enumerate(cells)
    )
    table = open_table(text.encode(), "list.csv", ("sku", "type", "value", "price"))
    rows = read_rows(table, guessed(table.headings, {}), "Kettlewick")
    assert [one.line for one in unlike(rows)] == lines
    assert {one.what for one in unlike(rows)} <= {"capacitance"}


def test_a_ceramic_beside_aluminium_is_no_slip() -> None:
    text = "SKU;Type;Value;Price\nA;aluminium;470u;1\nB;ceramic;100p;1\nC;aluminium;220u;1\n"
    text += "D;ceramic;220p;1\nE;aluminium;100u;1\nF;ceramic;330p;900\nG;ceramic;1n;1\n"
    table = open_table(text.encode(), "list.csv", ("sku", "type", "value", "price"))
    rows = read_rows(table, guessed(table.headings, {}), "Kettlewick")
    assert [(one.line, one.what) for one in unlike(rows)] == []
    dear = text.replace(";900", ";1000")
    table = open_table(dear.encode(), "list.csv", ("sku", "type", "value", "price"))
    rows = read_rows(table, guessed(table.headings, {}), "Kettlewick")
    assert [(one.line, one.what) for one in unlike(rows)] == [(7, "price")]


def test_a_style_is_a_mounting_of_a_capacitor_and_a_polarity_of_a_transistor() -> None:
    text = "sku,type,value,volts,style,current,power,price\n"
    text += "C1,elko,47u,35,axial,,,0.30\nQ1,transistor,,60,pnp,3,30,0.90\n"
    table = open_table(text.encode(), "list.csv", ("sku", "price"))
    rows = read_rows(table, guessed(table.headings, {}), "Kestrel")
    can, transistor = (row.offer.build for row in rows if row.offer)
    assert isinstance(can, Build) and can.mount is Mount.AXIAL
    assert isinstance(transistor, RatedBuild) and transistor.ratings.style == "pnp"
