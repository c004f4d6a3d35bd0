"""`hale-rail plan` with lists as spreadsheets save them, and with whatever a cell may hold."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hale_rail.cli import main
from hale_rail.formats.plans.plan_csv import CATALOGUE_COLUMNS, DEMAND_COLUMNS, STOCK_COLUMNS
from tests.sizes import examples

DEMAND = {"id": "a", "ref": "C1", "role": "start-up", "family": "aluminium", "value": "47u",
          "voltage": "35"}  # fmt: skip
PART = {"sku": "S1", "family": "aluminium", "value": "47u", "voltage": "35", "temp_c": "105"}
OFFER = {**PART, "vendor": "P", "price_1": "0.25"}
DRAWER = {**PART, "sku": "D1", "qty": "5", "origin": "new", "tested": "yes"}
VENDOR = {"vendor": "P", "shipping": "4.90", "free_above": "40"}


def table(columns: tuple[str, ...], *rows: dict[str, str], delimiter: str = ",") -> str:
    out = io.StringIO()
    writer = csv.DictWriter(out, columns, delimiter=delimiter, restval="")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def plan(folder: Path, *options: str, **files: str | bytes) -> tuple[int, dict[str, Any], str]:
    given_files: dict[str, str | bytes] = {
        "demand": table(DEMAND_COLUMNS, DEMAND),
        "catalogue": table(CATALOGUE_COLUMNS, OFFER),
        "stock": table(STOCK_COLUMNS, DRAWER),
        "vendors": table(("vendor", "shipping", "free_above"), VENDOR),
    }
    given_files |= files
    paths = {name: folder / f"{name}.csv" for name in given_files}
    for name, text in given_files.items():
        paths[name].write_bytes(text if isinstance(text, bytes) else text.encode())
    arguments = ["plan", str(paths["demand"]), str(paths["catalogue"])]
    arguments += ["--stock", str(paths["stock"]), "--vendors", str(paths["vendors"])]
    done = CliRunner().invoke(main, [*arguments, *options, "--json"])
    if done.exit_code == 0:
        return 0, json.loads(done.stdout), done.stderr
    assert done.exception is None or isinstance(done.exception, SystemExit), done.exception
    return done.exit_code, {}, done.stderr


SAVED = [
    ("a byte-order mark", lambda text: text.encode("utf-8-sig")),
    ("UTF-16", lambda text: text.encode("utf-16")),
    ("Windows line ends", lambda text: text.replace("\n", "\r\n").encode()),
    ("tabs", lambda text: text.replace(",", "\t").encode()),
    ("semicolons", lambda text: text.replace(",", ";").encode()),
    ("blank rows", lambda text: text.replace("\n", "\n\n,,\n").encode()),
]


@pytest.mark.parametrize("save", [s[1] for s in SAVED], ids=[s[0] for s in SAVED])
def test_lists_are_read_as_spreadsheets_save_them(tmp_path: Path, save: Any) -> None:
    files = {
        "demand": save(table(DEMAND_COLUMNS, DEMAND)),
        "catalogue": save(table(CATALOGUE_COLUMNS, OFFER)),
        "stock": save(table(STOCK_COLUMNS, DRAWER)),
    }
    code, found, _ = plan(tmp_path, **files)
    assert code == 0
    assert found["problems"] == []
    assert found["from_stock"] == [{"sku": "D1", "qty": 1, "covers": ["a"]}]


def test_a_decimal_comma_between_semicolons_is_a_decimal_comma(tmp_path: Path) -> None:
    offer = {**OFFER, "price_1": "0,25", "pitch_mm": "7,5", "esr_ohm": "0,4"}
    vendors = "vendor;shipping;free_above\nP;4,90;40,00\n"
    empty = table(STOCK_COLUMNS)
    code, found, _ = plan(
        tmp_path, catalogue=table(CATALOGUE_COLUMNS, offer, delimiter=";"), vendors=vendors,
        stock=empty,
    )  # fmt: skip
    assert code == 0
    assert found["total"] == 5.15


SPELT = ["47u", "47uF", "47 µF", "0.047mF?", "47000n", "47000nF", "47000000p", "47"]


@pytest.mark.parametrize("value", SPELT)
def test_the_same_value_in_any_spelling_is_one_value(tmp_path: Path, value: str) -> None:
    offer = {**OFFER, "value": value}
    _, found, __ = plan(
        tmp_path, catalogue=table(CATALOGUE_COLUMNS, offer), stock=table(STOCK_COLUMNS)
    )
    if value.endswith("?"):
        assert [p["line"] for p in found["problems"]] == [2]
        assert found["unmet"][0]["id"] == "a"
    else:
        assert [line["covers"] for line in found["order"]] == [["a"]]


cells = st.one_of(
    st.text(max_size=12),
    st.sampled_from(["", "0", "-1", "1e400", "nan", "inf", "1,234", "=1+1", "²", "10mF", "104",
                     "OL", "short", "None", "x" * 300, "1e-30", "9" * 40, "\x00", "½", "４７"]),
)  # fmt: skip


@settings(max_examples=examples(120), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.sampled_from(["demand", "catalogue", "stock", "vendors"]),
    st.data(),
)
def test_no_cell_gives_a_traceback_and_no_row_is_lost_in_silence(
    tmp_path: Path, which: str, data: st.DataObject
) -> None:
    """A bad row is named with its line; a position is bought, from stock, or open with a reason."""
    columns, row = {
        "demand": (DEMAND_COLUMNS, DEMAND), "catalogue": (CATALOGUE_COLUMNS, OFFER),
        "stock": (STOCK_COLUMNS, DRAWER), "vendors": (tuple(VENDOR), VENDOR),
    }[which]  # fmt: skip
    column = data.draw(st.sampled_from(columns))
    bad = {**row, column: data.draw(cells)}
    code, found, err = plan(tmp_path, **{which: table(columns, bad)})
    assert "Traceback" not in err
    if code:
        assert code == 2
        assert err
        return
    named = {c for line in (*found["order"], *found["from_stock"]) for c in line["covers"]}
    named |= {one["id"] for one in found["unmet"]}
    assert len(named) == 1 or any(p["line"] == 2 for p in found["problems"])
    assert all(one["reason"] for one in found["unmet"])
    assert found["total"] >= 0
