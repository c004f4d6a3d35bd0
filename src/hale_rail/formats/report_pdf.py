"""Lays a report's blocks out as a PDF, with its own fonts embedded."""

from __future__ import annotations

import io
import logging
import math
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from hale_rail.core.charts import Chart, Shape
from hale_rail.core.places.marks import MarkShape
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
    Pictures,
    Title,
)

_MARGIN, _LINE = 16.0, 5.0
_TEXT, _SMALL, _HEAD = 10.0, 8.5, 13.0
_ACCENT, _MUTED, _RULE, _INK = (10, 95, 99), (82, 96, 93), (197, 205, 200), (23, 32, 31)
#: how a chart's kinds look on paper: colour of the line (None: none), its width, colour inside
_LOOKS: dict[str, tuple[tuple[int, int, int] | None, float, tuple[int, int, int]]] = {
    "trace": (_ACCENT, 0.35, _ACCENT), "before": ((150, 160, 157), 0.2, _MUTED),
    "limit": ((176, 39, 27), 0.3, _MUTED), "grid": (_RULE, 0.15, _MUTED),
    "axis": (_RULE, 0.2, _MUTED), "gap": (_MUTED, 0.1, (224, 228, 225)),
    "warm-up": (None, 0.0, (232, 236, 232)), "trend": (None, 0.0, (226, 206, 160)),
    "bounds": (None, 0.0, (214, 228, 226)), "fit": ((125, 82, 0), 0.35, _MUTED),
    "track": ((125, 137, 133), 0.6, _MUTED), "live": ((239, 185, 58), 1.8, _MUTED),
    "cold": ((169, 201, 196), 1.8, _MUTED), "box": (_MUTED, 0.2, (251, 252, 250)),
    "good": ((23, 102, 58), 0.3, (23, 102, 58)), "worn": ((125, 82, 0), 0.3, (251, 240, 212)),
    "failed": ((176, 39, 27), 0.4, (176, 39, 27)),
    "unproven": ((88, 65, 154), 0.3, (255, 255, 255)),
    "replaced": (_ACCENT, 0.4, (255, 255, 255)), "core": (None, 0.0, _ACCENT),
    "unseen": (_MUTED, 0.25, (255, 255, 255)),
}  # fmt: skip
_USUAL_LOOK = (_MUTED, 0.2, _RULE)
#: pixels of a photo on paper, and beyond how many photos they are made smaller
_PHOTO_PX, _SMALL_PX, _MANY = 720, 420, 8
#: how large a crop of a board's photo is on paper
_CROP_MM = 38.0
#: what rings are drawn with, one over the other: colour and width
_RINGED = (((255, 255, 255), 1.4), ((16, 20, 20), 0.6))
_LOG = logging.getLogger("fontTools")


def report_pdf(
    blocks: Sequence[Block],
    fonts: Path,
    photos: Callable[[str], Path],
    at: str,
    line_map: Chart | None = None,
    cut: Callable[[DocumentCrop], bytes | None] = lambda _: None,
) -> bytes:
    """A report's blocks as a PDF of A4 pages.

    `fonts` the folder of the faces that ship, `photos` where a photo's file lies by its hash, `at`
    the moment that it bears, `line_map` what is drawn where the blocks have the map, `cut` a crop
    of a board's photo as JPEG.
    """
    _LOG.setLevel(logging.ERROR)
    pdf = _paper(fonts, at)
    layout = _Layout(
        pdf, photos, line_map, sum(len(b.pictures) for b in blocks if isinstance(b, Pictures)), cut
    )
    for block in blocks:
        layout.lay(block)
    return bytes(pdf.output())


def _paper(fonts: Path, at: str) -> Any:
    from fpdf import FPDF

    class Paper(FPDF):
        """Pages with their number at the foot."""

        def footer(self) -> None:
            """The page's number, and of what."""
            self.set_y(-12)
            self.set_font("Text", size=_SMALL)
            self.set_text_color(*_MUTED)
            self.cell(0, 5, f"{self.title}, page {self.page_no()} of {{nb}}", align="R")

    pdf = Paper(format="A4")
    faces = (
        ("Text", "", "source-sans-3-latin-400"), ("Text", "B", "source-sans-3-latin-600"),
        ("Greek", "", "source-sans-3-greek-400"), ("Greek", "B", "source-sans-3-greek-600"),
        ("Label", "", "sofia-sans-condensed-latin-500"),
        ("Label", "B", "sofia-sans-condensed-latin-700"),
        ("Signs", "", "jetbrains-mono-latin-500"), ("Signs", "B", "jetbrains-mono-latin-700"),
        ("More", "", "jetbrains-mono-signs-700"), ("More", "B", "jetbrains-mono-signs-700"),
    )  # fmt: skip
    for family, style, name in faces:
        pdf.add_font(family, style, fonts / f"{name}-normal.woff2")
    pdf.set_fallback_fonts(["Greek", "Signs", "More"], exact_match=False)
    pdf.set_margins(_MARGIN, _MARGIN, _MARGIN)
    pdf.set_auto_page_break(auto=True, margin=_MARGIN)
    pdf.set_creation_date(datetime.fromisoformat(at))
    pdf.set_creator("Hale Rail")
    pdf.set_lang("en")
    pdf.add_page()
    return pdf


class _Layout:
    """A PDF under way: lays one block after another."""

    def __init__(
        self,
        pdf: Any,
        photos: Callable[[str], Path],
        line_map: Chart | None,
        count: int,
        cut: Callable[[DocumentCrop], bytes | None],
    ) -> None:
        self.pdf = pdf
        self.cut = cut
        self.photos = photos
        self.line_map = line_map
        self.pixels = _PHOTO_PX if count <= _MANY else _SMALL_PX
        self._lays: dict[type, Callable[[Any], None]] = {
            Title: self._title,
            Heading: self._heading,
            Facts: self._facts,
            DocumentFigure: self._figure,
            Paragraph: self._paragraph,
            Bullets: self._bullets,
            DocumentTable: self._table,
            Map: self._map,
            Pictures: self._pictures,
            Crops: self._crops,
        }

    def lay(self, block: Block) -> None:
        """Lay a block out where the last one ended."""
        self._lays[type(block)](block)

    def _font(self, family: str, style: str, size: float, colour: tuple[int, int, int]) -> None:
        self.pdf.set_font(family, style, size)
        self.pdf.set_text_color(*colour)

    def _text(self, text: str, line: float = _LINE) -> None:
        self.pdf.multi_cell(0, line, text, new_x="LMARGIN", new_y="NEXT", align="L")

    def _title(self, block: Title) -> None:
        self.pdf.set_title(f"{block.number} {block.machine}")
        self._font("Label", "B", 13, _ACCENT)
        self._text(block.number, 6)
        self._font("Label", "B", 24, _INK)
        self._text(block.machine, 10)
        self._font("Text", "", _TEXT, _MUTED)
        self._text(block.line)
        self.pdf.ln(2)

    def _heading(self, block: Heading) -> None:
        if self.pdf.get_y() > self.pdf.h - 45:
            self.pdf.add_page()
        self.pdf.ln(3)
        self._font("Label", "B", _HEAD, _INK)
        self._text(block.text, 6)
        y = self.pdf.get_y()
        self.pdf.set_draw_color(*_INK)
        self.pdf.set_line_width(0.3)
        self.pdf.line(_MARGIN, y, self.pdf.w - _MARGIN, y)
        self.pdf.ln(1.5)

    def _facts(self, block: Facts) -> None:
        for name, text in block.rows:
            self.pdf.ln(1)
            self._font("Label", "B", 11.5, _ACCENT)
            self._text(name)
            self._font("Text", "", _TEXT + 0.5, _INK)
            self._text(text, 5.2)

    def _paragraph(self, block: Paragraph) -> None:
        self._font("Text", "", _TEXT, _INK)
        self._text(block.text)

    def _bullets(self, block: Bullets) -> None:
        self._font("Text", "", _TEXT, _INK)
        for text in block.texts:
            self.pdf.set_x(_MARGIN)
            self.pdf.cell(4, _LINE, "•")
            self._text(text)

    def _table(self, block: DocumentTable) -> None:
        from fpdf.enums import TableBordersLayout
        from fpdf.fonts import FontFace

        if not block.rows:
            return
        self._font("Text", "", _SMALL, _INK)
        self.pdf.set_draw_color(*_RULE)
        self.pdf.set_line_width(0.15)
        head = FontFace(family="Label", emphasis="", color=_MUTED)
        with self.pdf.table(
            col_widths=block.shares, line_height=4.3, text_align="L", padding=(0.7, 1),
            borders_layout=TableBordersLayout.HORIZONTAL_LINES, headings_style=head,
            first_row_as_headings=bool(block.columns),
        ) as table:  # fmt: skip
            if block.columns:
                table.row(block.columns)
            for row in block.rows:
                cells = table.row()
                for place, text in enumerate(row):
                    cells.cell(text, style=FontFace(emphasis="B") if place == 0 else None)
        self.pdf.ln(1)

    def _map(self, _: Map) -> None:
        if self.line_map:
            self._placed(self.line_map, 0.0)

    def _figure(self, block: DocumentFigure) -> None:
        self._placed(block.chart, 12.0)
        self._font("Text", "", _SMALL + 0.5, _INK)
        self._text(block.text, 4.4)

    def _placed(self, chart: Chart, below: float) -> None:
        """A chart across the page, on the next one where it and `below` mm have no room."""
        scale = (self.pdf.w - 2 * _MARGIN) / chart.wide
        if self.pdf.get_y() + chart.tall * scale + below > self.pdf.h - _MARGIN:
            self.pdf.add_page()
        self._chart(chart, scale)

    def _chart(self, chart: Chart, scale: float) -> None:
        left, top = _MARGIN, self.pdf.get_y()
        for shape in chart.shapes:
            self._shape(shape, left, top, scale)
        for word in chart.words:
            self._font("Text", "", 7, _MUTED)
            width = self.pdf.get_string_width(word.text)
            shift = {"end": width, "middle": width / 2}.get(word.anchor, 0.0)
            x, y = word.at
            self.pdf.text(left + x * scale - shift, top + y * scale, word.text)
        self.pdf.set_fill_color(255)  # white again, as the tables behind it expect
        self.pdf.set_y(top + chart.tall * scale + 1)

    def _shape(self, shape: Shape, left: float, top: float, scale: float) -> None:
        line, width, inside = _LOOKS.get(shape.kind, _USUAL_LOOK)
        points = [(left + x * scale, top + y * scale) for x, y in shape.points]
        self.pdf.set_line_width(width or 0.1)
        self.pdf.set_draw_color(*(line or inside))
        if not shape.is_filled:
            self.pdf.polyline(points)
            return
        self.pdf.set_fill_color(*inside)
        self.pdf.polygon(points, style="DF" if line else "F")

    def _pictures(self, block: Pictures) -> None:
        wide = (self.pdf.w - 2 * _MARGIN - 8) / 3
        for begin in range(0, len(block.pictures), 3):
            row = [(p, self._photo(p)) for p in block.pictures[begin : begin + 3]]
            there = [(picture, found) for picture, found in row if found]
            if not there:
                continue
            tall = max(wide * height / width for _, (_, (width, height)) in there)
            if self.pdf.get_y() + tall + 10 > self.pdf.h - _MARGIN:
                self.pdf.add_page()
            top = self.pdf.get_y()
            for place, (picture, (data, _)) in enumerate(there):
                x = _MARGIN + place * (wide + 4)
                self.pdf.image(data, x=x, y=top, w=wide, alt_text=picture.caption)
                for mark in picture.marks:
                    self._mark(mark, (x, top), wide / picture.size[0])
                self._font("Text", "", _SMALL, _MUTED)
                self.pdf.set_xy(x, top + tall + 1)
                self.pdf.multi_cell(wide, 4, picture.caption, align="L")
            self.pdf.set_xy(_MARGIN, top + tall + 11)

    def _mark(self, mark: DocumentMark, corner: tuple[float, float], scale: float) -> None:
        """A ring, an arrow or a word on a photo, dark over light."""
        (x, y), (ex, ey) = (
            (corner[0] + at[0] * scale, corner[1] + at[1] * scale) for at in (mark.start, mark.end)
        )
        for colour, width in _RINGED:
            self.pdf.set_draw_color(*colour)
            self.pdf.set_line_width(width)
            if mark.shape == MarkShape.RING.code:
                radius = math.dist((x, y), (ex, ey))
                self.pdf.ellipse(x - radius, y - radius, 2 * radius, 2 * radius)
            elif mark.shape == MarkShape.ARROW.code:
                self.pdf.line(x, y, ex, ey)
                turn = math.atan2(ey - y, ex - x)
                for side in (turn - 0.4, turn + 0.4):
                    self.pdf.line(ex, ey, ex - 2.5 * math.cos(side), ey - 2.5 * math.sin(side))
        if mark.words:
            self._font("Label", "B", _SMALL, (255, 255, 255))
            self.pdf.set_fill_color(16, 20, 20)
            self.pdf.set_xy(x, y - 5)
            self.pdf.cell(self.pdf.get_string_width(mark.words) + 2, 4, mark.words, fill=True)
            self.pdf.set_fill_color(255)

    def _crops(self, block: Crops) -> None:
        """Two parts side by side, each with its crops and what they are of."""
        room = (self.pdf.w - 2 * _MARGIN - 6) / 2
        tall = _CROP_MM + 16
        for begin in range(0, len(block.parts), 2):
            if self.pdf.get_y() + tall > self.pdf.h - _MARGIN:
                self.pdf.add_page()
            top = self.pdf.get_y()
            for place, part in enumerate(block.parts[begin : begin + 2]):
                left = _MARGIN + place * (room + 6)
                for nth, shown in enumerate(part.crops):
                    self._crop(shown, left + nth * (_CROP_MM + 2), top)
                self._font("Text", "", _SMALL, _MUTED)
                self.pdf.set_xy(left, top + _CROP_MM + 5)
                self.pdf.multi_cell(room, 4, f"{part.name}: {part.text}", align="L")
            self.pdf.set_xy(_MARGIN, top + tall)

    def _crop(self, shown: DocumentCrop, left: float, top: float) -> None:
        data = self.cut(shown)
        if data:
            self.pdf.image(io.BytesIO(data), x=left, y=top, w=_CROP_MM, alt_text=shown.word)
        radius = _CROP_MM / 7
        middle = (left + _CROP_MM / 2 - radius, top + _CROP_MM / 2 - radius)
        for colour, width in _RINGED:
            self.pdf.set_draw_color(*colour)
            self.pdf.set_line_width(width)
            self.pdf.ellipse(*middle, 2 * radius, 2 * radius)
        self._font("Text", "", _SMALL, _MUTED)
        self.pdf.set_xy(left, top + _CROP_MM)
        self.pdf.cell(_CROP_MM, 4, shown.word)

    def _photo(self, picture: DocumentPhoto) -> tuple[io.BytesIO, tuple[int, int]] | None:
        """A photo as small as paper needs it, or None where its file is gone."""
        from PIL import Image

        path = self.photos(picture.sha256)
        if not path.exists():
            return None
        with Image.open(path) as image:
            small = image.convert("RGB")
        small.thumbnail((self.pixels, self.pixels))
        out = io.BytesIO()
        small.save(out, "JPEG", quality=72, optimize=True)
        out.seek(0)
        return out, small.size
