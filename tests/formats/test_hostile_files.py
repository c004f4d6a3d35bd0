"""Small files that would take gigabytes or minutes are refused at once, with what is wrong."""

from __future__ import annotations

import io
import struct
import zipfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook
from PIL import Image

from hale_rail.bench.driver import read_family
from hale_rail.core.errors import InputError
from hale_rail.core.procedures import OHMS
from hale_rail.formats.photos import encode_photo
from hale_rail.formats.records.waves import read_wave
from hale_rail.formats.tables import sheets
from hale_rail.formats.tables.cells import bare_cell, safe_cell
from hale_rail.formats.tables.fields import read_table, table_text
from hale_rail.formats.tables.sheets import open_table

FAMILY = '[procedures.ohms]\ncommand = "R?"\nunit = "Ω"\n'


def workbook(part: str, body: str) -> bytes:
    """A sound workbook of one row with one of its parts put in place of its own."""
    book, out = Workbook(), io.BytesIO()
    book.active.append(["sku", "price"])
    book.save(out)
    source, made = zipfile.ZipFile(out), io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in source.namelist():
            archive.writestr(name, body if name == part else source.read(name))
    return made.getvalue()


SHEET = "xl/worksheets/sheet1.xml"
ROW = '<row r="1"/>'
MAIN = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'


@pytest.mark.parametrize(
    ("part", "body", "said"),
    [
        (SHEET, f"<worksheet {MAIN}><sheetData>{ROW * 300_000}</sheetData></worksheet>",
         "longer than"),
        ("xl/styles.xml", f"<styleSheet {MAIN}><cellXfs>{'<xf/>' * 30_000}</cellXfs></styleSheet>",
         "far more than a list"),
        ("xl/styles.xml", f"<styleSheet {MAIN}>{' ' * 3_000_000}</styleSheet>", "far too large"),
        (SHEET, f"<worksheet {MAIN}>{'<a>' * 100}{'</a>' * 100}</worksheet>", "far more"),
        (SHEET, f'<!DOCTYPE x [<!ENTITY a "b">]><worksheet {MAIN}>&a;</worksheet>',
         "document type"),
        (SHEET, "<worksheet", "not a workbook"),
    ],
    ids=["rows", "styles", "spaces", "depth", "doctype", "cut"],
)  # fmt: skip
def test_a_workbook_is_counted_before_it_is_opened(part: str, body: str, said: str) -> None:
    data = workbook(part, body)
    assert len(data) < 60_000
    with pytest.raises(InputError, match=said):
        open_table(data, "list", ("sku",))


def test_what_a_sheet_says_of_its_size_is_not_believed() -> None:
    cell = '<c r="A1" t="inlineStr"><is><t>sku</t></is></c><c r="B1"><v>3</v></c>'
    body = (
        f'<worksheet {MAIN}><dimension ref="A1:XFD1048576"/><sheetData><row r="1">{cell}</row>'
        "</sheetData></worksheet>"
    )
    assert open_table(workbook(SHEET, body), "list", ("sku",)).headings[0] == "sku"


def test_rows_are_counted_without_their_cells(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sheets, "MOST_ROWS", 5)
    rows = "".join(f'<row r="{n}"/>' for n in range(1, 7))
    with pytest.raises(InputError, match="longer than 5 rows"):
        open_table(
            workbook(SHEET, f"<worksheet {MAIN}><sheetData>{rows}</sheetData></worksheet>"),
            "list",
            ("sku",),
        )


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a" + ".a" * 5_000 + " = 1\n" + FAMILY, "nested too deep"),
        ("x = " + "[" * 2_000 + "\n" + FAMILY, "nested too deep"),
        ("x = 1\n" * 4_000 + FAMILY, "16 kB at most"),
        ("overload = 5\n" + FAMILY, "list of at most"),
        ("overload = [[1]]\n" + FAMILY, "lines of at most"),
        (FAMILY + "before = 3\n", "list of at most"),
        (FAMILY + 'before = "ab"\n', "list of at most"),
        (FAMILY + "least = nan\n", "least and most are numbers"),
        (FAMILY + "least = true\n", "least and most are numbers"),
        ("timeout_s = inf\n" + FAMILY, "timeout_s"),
        ("timeout_s = 60\n" + FAMILY, "15 at most"),
        ("x = " + "9" * 5_000 + "\n" + FAMILY, "not TOML"),
        ('reply = "(?=(?P<value>a))"\n' + FAMILY, "not a pattern"),
        ('identification = "(a"\n' + FAMILY, "not a pattern"),
        ('reply = "(?P<value>(a{1000}){1000})"\n' + FAMILY, "not a pattern"),
        ("procedures = 3\n", r"procedures\.CODE"),
    ],
)
def test_a_family_is_small_and_plain(text: str, said: str) -> None:
    with pytest.raises(InputError, match=said) as told:
        read_family("mine", text)
    assert told.value.field == "text"


def test_a_pattern_takes_no_longer_than_its_answer() -> None:
    family = read_family("mine", 'identification = "^(a+)+$"\n' + FAMILY)
    assert not family.is_one("a" * 100_000 + "b")
    assert family.is_one("a" * 100_000)
    assert OHMS.code in family.procedures


def jpeg(scans: int, size: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "grey").save(out, "JPEG", progressive=True)
    data = out.getvalue()
    at = data.rindex(b"\xff\xda")
    scan = data[at:-2]
    return data[:at] + scan * scans + data[-2:]


def test_a_jpeg_of_many_scans_is_refused_and_a_usual_one_taken() -> None:
    assert encode_photo(jpeg(1, (2000, 1500)), "p.jpg").size == (2000, 1500)
    with pytest.raises(InputError, match="scans"):
        encode_photo(jpeg(400, (2000, 1500)), "p.jpg")


HEAD = b"Time,CH1\ns,V\n"
WAV = struct.pack("<4sI4s4sIHHIIHH", b"RIFF", 36, b"WAVE", b"fmt ", 16, 1, 1, 8000, 16000, 2, 16)


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("w.wav", WAV + struct.pack("<4sI", b"data", 0), "only 0 samples"),
        ("w.wav", WAV + struct.pack("<4sI", b"data", 1 << 31) + b"\x00" * 8, "samples|not a WAV"),
        (
            "w.wav",
            WAV.replace(struct.pack("<I", 8000), bytes(4))
            + struct.pack("<4sI", b"data", 64)
            + bytes(64),
            "samples|apart|not a WAV",
        ),
        ("w.wav", WAV[:20], "not a WAV"),
        (
            "w.csv",
            HEAD + b"".join(b"%d,1e300\n" % n for n in range(20)),
            "can be meant",
        ),
        (
            "w.csv",
            HEAD + b"".join(b"%de300,1\n" % n for n in range(9)),
            "apart|hole|time",
        ),
        ("w.csv", HEAD + b"".join(b"%de-300,1\n" % n for n in range(1, 20)), "apart"),
        ("w.csv", HEAD + b"".join(b"%d,1e400\n" % n for n in range(20)), "not numbers"),
        (
            "w.csv",
            HEAD + b"".join(b"1e99%d,1\n" % n for n in range(20)),
            "number|time|apart",
        ),
    ],
)
@pytest.mark.filterwarnings("ignore::RuntimeWarning")
def test_a_record_is_of_volts_and_times_that_can_be(
    tmp_path: Path, name: str, data: bytes, said: str
) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    with np.errstate(all="ignore"), pytest.raises(InputError, match=said):
        read_wave(path)


@pytest.mark.parametrize(
    ("cell", "goes_out"),
    [
        ("=1+1", "'=1+1"), ("+A1", "'+A1"), ("-A1", "'-A1"), ("@SUM(A1)", "'@SUM(A1)"),
        ("\tx", "'\tx"), ("+cmd|' /C x'!A0", "'+cmd|' /C x'!A0"), ("-5.02", "-5.02"),
        ("+5 V", "+5 V"), ("-12V", "-12V"), ("+>~1", "+>~1"), ("C1", "C1"), ("'quoted", "'quoted"),
        ("1+1", "1+1"), ("-1e-3", "-1e-3"), ("+", "'+"), ("-2+3+cmd", "'-2+3+cmd"), ("", ""),
    ],
)  # fmt: skip
def test_no_cell_is_run_as_a_formula(cell: str, goes_out: str) -> None:
    assert safe_cell(cell) == goes_out
    assert bare_cell(goes_out) == cell


@given(st.lists(st.text(st.characters(codec="utf-8", exclude_characters="\r\n\x00"), max_size=12)))
def test_a_table_comes_back_as_it_went_out(cells: list[str]) -> None:
    kept = [c.strip() for c in cells if c.strip() and not c.strip().startswith("'")]
    rows, wrong = read_table(
        table_text(("a", "b"), [(c, "x") for c in kept]), ("a",), lambda _, fields: fields["a"]
    )
    assert (rows, wrong) == (kept, [])
