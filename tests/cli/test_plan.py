"""`hale-rail plan`: the contract, bad files, and nothing but the JSON on stdout."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from .running import run_in

DEMAND = """id,ref,role,family,value,voltage,class,mount,pitch_mm,max_height_mm,rail_v,bank,qty
a,C10,start-up,aluminium,47u,35,,radial,5,25,,out,1
b,C11,start-up,aluminium,47u,35,,radial,5,25,,out,2
c,CX1,suppressor-x,suppression-paper,100n,250,X2,box,15,,,,1
d,C1,bulk,aluminium,150u,400,,snap-in,10,30,,,1
e,C2,bulk,aluminium,?,400,,,,,,,1
"""
CATALOGUE = """vendor,sku,family,value,voltage,class,temp_c,mount,pitch_mm,diameter_mm,height_mm,\
esr_ohm,ripple_a,life_h,moq,pack,available,price_1,price_10,price_100
P,P1,aluminium,47u,35,,105,radial,5,6,11,,,2000,1,1,100,0.30,0.20,0.10
Q,Q1,aluminium,47u,50,,105,radial,7.5,6,11,,,2000,1,1,100,0.25,,
Q,Q2,suppression-film,0.1u,275,X2,110,box,15,6,12,,,,1,1,9,0.40,,
Q,Q3,aluminium,180u,450,,105,snap-in,10,25,32,0.4,1,2000,1,1,,2.50,,
Q,Q4,aluminium,180u,450,,105,snap-in,10,25,32,0.4,1,2000,1,1,,lots,,
"""
VENDORS = "vendor,shipping,free_above\nP,4.00,20\nQ,3.00,\n"
STOCK = "sku,family,value,voltage,temp_c,mount,pitch_mm,height_mm,qty,origin,tested\n"
STOCK += "D1,aluminium,47u,35,105,radial,5,11,3,salvaged,no\n"


def run(folder: Path, *options: str, **files: str) -> tuple[int, str, str]:
    """The command over files of these names; (exit code, stdout, stderr)."""
    given = {"demand": DEMAND, "catalogue": CATALOGUE} | files
    for name, text in given.items():
        (folder / f"{name}.csv").write_text(text, encoding="utf-8")
    paths = ["demand.csv", "catalogue.csv"]
    for name in ("stock", "vendors"):
        paths += [f"--{name}", f"{name}.csv"] if name in given else []
    return run_in(folder, "plan", *paths, *options)


def asked(folder: Path, *options: str, **files: str) -> dict[str, Any]:
    code, out, err = run(folder, *options, "--json", **files)
    assert code == 0, err
    found: dict[str, Any] = json.loads(out)
    return found


def test_the_answer_is_the_cheapest_order_with_what_stays_open(tmp_path: Path) -> None:
    found = asked(tmp_path, vendors=VENDORS)
    assert found["order"] == [
        {"vendor": "Q", "sku": "Q1", "qty": 3, "unit_price": 0.25, "cost": 0.75,
         "covers": ["a", "b"], "spares": 0},
        {"vendor": "Q", "sku": "Q2", "qty": 1, "unit_price": 0.4, "cost": 0.4, "covers": ["c"],
         "spares": 0},
    ]  # fmt: skip
    assert found["shipping"] == {"Q": 3.0}
    assert found["total"] == 4.15
    assert found["gap"] == 0
    assert [(one["id"], one["nearest"]) for one in found["unmet"]] == [("d", "Q3"), ("e", None)]
    assert "2\u00a0mm too tall" in found["unmet"][0]["reason"]
    assert found["unmet"][1]["reason"].startswith("line 6: value")
    assert {flag["id"] for flag in found["flags"]} == {"a", "b"}
    assert [(Path(p["file"]).name, p["line"]) for p in found["problems"]] == [
        ("demand.csv", 6),
        ("catalogue.csv", 6),
    ]


def test_stock_spares_and_the_limit_of_vendors(tmp_path: Path) -> None:
    found = asked(tmp_path, "--spares", "10%", vendors=VENDORS, stock=STOCK)
    assert found["from_stock"] == [{"sku": "D1", "qty": 3, "covers": ["a", "b"]}]
    assert {flag["id"] for flag in found["flags"]} == {"a", "b"}
    assert [(line["sku"], line["qty"]) for line in found["order"]] == [("Q2", 2)]
    only = asked(tmp_path, "--max-vendors", "1", vendors="vendor,shipping\nP,0\nQ,9\n")
    assert [line["vendor"] for line in only["order"]] == ["Q", "Q"]


def test_words_for_a_person_and_problems_on_stderr(tmp_path: Path) -> None:
    code, out, err = run(tmp_path, vendors=VENDORS)
    assert code == 0
    assert "Total: 4.15 (proven the cheapest)" in out
    assert "Open: d: no part fits" in out
    assert "catalogue.csv:6: price_1: “lots” is not a price" in err


BAD = [
    ({"demand": "ref,value\nC1,1u\n"}, (), "demand.csv: The header lacks id, family"),
    ({"demand": "id,family,value\n"}, (), "demand.csv: there is no row in it"),
    ({"catalogue": "sku\n"}, (), "catalogue.csv: The header lacks vendor, family, value"),
    ({"stock": "sku\n"}, (), "stock.csv: The header lacks qty"),
    ({"vendors": "name\n"}, (), "vendors.csv: The header lacks vendor"),
    ({}, ("--spares", "some"), "--spares is a share"),
]


@pytest.mark.parametrize(("files", "options", "why"), BAD)
def test_a_file_that_cannot_be_used_is_named(
    tmp_path: Path, files: dict[str, str], options: tuple[str, ...], why: str
) -> None:
    code, out, err = run(tmp_path, *options, **files)
    assert code == 2
    assert not out
    assert why in err
    assert "Traceback" not in err


def test_an_empty_catalogue_leaves_every_position_open(tmp_path: Path) -> None:
    found = asked(tmp_path, catalogue=CATALOGUE.splitlines()[0] + "\n")
    assert [one["id"] for one in found["unmet"]] == ["a", "b", "c", "d", "e"]
    assert found["total"] == 0
