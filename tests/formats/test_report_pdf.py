"""The PDF of a report's blocks: its text, its fonts, its size with many parts and photos."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pypdfium2
import pytest
from PIL import Image

import hale_rail.web
from hale_rail.core.charts import Chart, Shape, Word
from hale_rail.core.report.document import (
    Block,
    Bullets,
    Crops,
    DocumentCrop,
    DocumentFigure,
    DocumentMark,
    DocumentPhoto,
    DocumentTable,
    Facts,
    Heading,
    Map,
    Paragraph,
    PartCrops,
    Pictures,
    Title,
)
from hale_rail.formats.report_pdf import report_pdf

FONTS = Path(hale_rail.web.__file__).parent / "static" / "fonts"
AT = "2026-05-01T10:00:00+00:00"
CHART = Chart(
    640.0, 100.0, "a chart",
    (Shape("gap", ((60, 10), (90, 10), (90, 80), (60, 80)), is_filled=True),
     Shape("trace", ((60, 50), (600, 40))), Shape("never-heard-of", ((60, 20), (90, 30)))),
    (Word("scale", (56, 40), "5.25 V", "end"), Word("scale", (300, 96), "10 h", "middle")),
)  # fmt: skip
ALL: list[Block] = [
    Title("T-1", "Loom <of> tests", "A unit, half-bridge forward."),
    Facts((("What was wrong", "ESR 4.8 Ω; −5 V at −4.1 V ± 20 mV; ≤ 0.1 Ω, ≈ 3 µF → √2"),)),
    Heading("Rails"),
    Paragraph("“Quoted”, Größe, naïve, 50 °C"),
    Bullets(("one", "two")),
    DocumentTable(("Rail", "Read"), (("+5 V", "5.01 V"), ("−12 V", "not read")), (0.3, 0.7)),
    DocumentTable((), (), (1.0,)),
    DocumentFigure("Soak", "pass: 24 h", CHART),
    Map(),
]


def text_of(data: bytes) -> str:
    pages = [page.get_textpage().get_text_bounded() for page in pypdfium2.PdfDocument(data)]
    return re.sub(r"\s+", " ", " ".join(pages))


def made(blocks: list[Block], photos: Path = Path("/nowhere"), chart: Chart | None = None) -> bytes:
    return report_pdf(blocks, FONTS, lambda sha256: photos / f"{sha256}.jpg", AT, chart)


def test_every_kind_of_block_is_laid_out_with_its_signs() -> None:
    text = text_of(made(ALL, chart=CHART))
    for words in ("Loom <of> tests", "ESR 4.8 Ω; −5 V at −4.1 V ± 20 mV; ≤ 0.1 Ω", "≈ 3 µF → √2",
                  "“Quoted”, Größe, naïve, 50 °C", "• one", "+5 V 5.01 V", "pass: 24 h",
                  "10 h", "page 1 of 1"):  # fmt: skip
        assert words.replace(" ", "") in text.replace(" ", ""), words


def test_its_fonts_are_in_it_and_the_same_report_gives_the_same_bytes() -> None:
    data = made(ALL)
    assert data.count(b"/FontFile2") >= 3
    assert data == made(ALL)
    assert b"D:20260501100000" in data


def square(colour: tuple[int, int, int]) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (200, 200), colour).save(out, "JPEG")
    return out.getvalue()


def test_a_spot_stands_before_and_after_side_by_side_each_ringed() -> None:
    colours = {"before, day 1": (200, 30, 30), "after, day 2": (30, 30, 200)}
    crops = tuple(DocumentCrop("0" * 64, "k", 1.0, 2.0, 32.0, word, AT) for word in colours)
    gone = (DocumentCrop("1" * 64, "k", 1.0, 2.0, 32.0, "gone", AT),)
    block = Crops((PartCrops("C13", "Main board", crops), PartCrops("C14", "elsewhere", gone)))
    data = report_pdf(
        [block], FONTS, Path, AT,
        cut=lambda crop: square(colours[crop.word]) if crop.word in colours else None,
    )  # fmt: skip
    text = text_of(data)
    assert "before, day 1" in text and "after, day 2" in text and "C13: Main board" in text
    page = pypdfium2.PdfDocument(data)[0].render(scale=72 / 25.4).to_pil()  # a pixel, 0.125 mm
    found = page.getcolors(1 << 24)
    for colour in colours.values():
        near = sum(n for n, shade in found
                   if all(abs(a - b) < 12 for a, b in zip(shade, colour, strict=True)))  # fmt: skip
        assert near > 40_000  # most of 38 mm square, the ring taken off


def test_what_is_drawn_on_a_photo_is_on_paper(tmp_path: Path) -> None:
    Image.new("RGB", (600, 400), (120, 160, 120)).save(tmp_path / f"{'2' * 64}.jpg")
    marks = tuple(
        DocumentMark(shape, (300.0, 200.0), (450.0, 200.0), words)
        for shape, words in (("ring", ""), ("arrow", ""), ("word", "cracked"))
    )
    plain, drawn = (
        made([Pictures((DocumentPhoto("2" * 64, "Q1", (600, 400), own),))], tmp_path)
        for own in ((), marks)
    )
    assert "cracked" in text_of(drawn) and "cracked" not in text_of(plain)
    dark = [
        sum(n for n, shade in pypdfium2.PdfDocument(data)[0].render(scale=2).to_pil().getcolors(
            1 << 24) if max(shade) < 60)
        for data in (plain, drawn)
    ]  # fmt: skip
    assert dark[1] > dark[0] + 500


def test_an_empty_report_and_odd_texts_are_no_error() -> None:
    assert made([]).startswith(b"%PDF")
    odd = ["", "a" * 4000, "日本 🧵 текст", "line\nline", "\t", "*_`#<b>&amp;"]
    text = text_of(made([Paragraph(one) for one in odd] + [Bullets(tuple(odd))]))
    assert "*_`#<b>&amp;" in text


@pytest.mark.parametrize("count", [6, pytest.param(24, marks=pytest.mark.exhaustive)])
def test_a_case_of_sixty_parts_with_photos_stays_small(tmp_path: Path, count: int) -> None:
    names = []
    for n in range(count):
        noise = Image.effect_noise((1600, 1200), 60).convert("RGB")
        noise.save(tmp_path / f"{n:064x}.jpg", quality=85)
        names.append(DocumentPhoto(f"{n:064x}", f"Photo {n}"))
    rows = tuple((f"C{n}", "10 µF tantalum", "ESR 1.2 Ω", "replaced: age " * 6) for n in range(60))
    blocks: list[Block] = [Title("T-1", "Loom", ""), DocumentTable((), rows, (0.1, 0.2, 0.3, 0.4)),
                           Pictures((*names, DocumentPhoto("f" * 64, "gone")))]  # fmt: skip
    data = made(blocks, tmp_path)
    assert len(data) < 2_000_000
    text = text_of(data)
    assert "C59" in text and f"Photo {count - 1}" in text and "gone" not in text
    assert len(pypdfium2.PdfDocument(data)) >= 3


def test_a_heading_never_ends_a_page() -> None:
    blocks: list[Block] = []
    for n in range(40):
        blocks += [Heading(f"Heading {n}"), Paragraph("word " * (30 + 7 * n))]
    document = pypdfium2.PdfDocument(made(blocks))
    assert len(document) > 3
    for page in document:
        lines = [
            line for line in page.get_textpage().get_text_bounded().splitlines() if line.strip()
        ]
        body = [line for line in lines if "page " not in line]
        assert not body[-1].startswith("Heading")
