"""What a report is made of, block by block: the page and the PDF lay the same blocks out."""

from __future__ import annotations

from collections.abc import Iterable
from typing import ClassVar

from msgspec import Struct

from hale_rail.core.charts import Chart


class Title(Struct, frozen=True):
    """The head of the report: number, machine, a line about it."""

    kind: ClassVar[str] = "title"
    number: str
    machine: str
    line: str


class Heading(Struct, frozen=True):
    """A heading."""

    kind: ClassVar[str] = "heading"
    text: str


class Facts(Struct, frozen=True):
    """Short texts, each with its own heading: what is read first."""

    kind: ClassVar[str] = "facts"
    rows: tuple[tuple[str, str], ...]


class Paragraph(Struct, frozen=True):
    """A text."""

    kind: ClassVar[str] = "paragraph"
    text: str


class Bullets(Struct, frozen=True):
    """A list of texts."""

    kind: ClassVar[str] = "bullets"
    texts: tuple[str, ...]


class DocumentTable(Struct, frozen=True):
    """A table; `columns` () for none; `shares` of the width; the first column names its row."""

    kind: ClassVar[str] = "table"
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    shares: tuple[float, ...]


class DocumentFigure(Struct, frozen=True):
    """A drawing with what it says."""

    kind: ClassVar[str] = "figure"
    name: str
    text: str
    chart: Chart


class Map(Struct, frozen=True):
    """The place of the unit's line map."""

    kind: ClassVar[str] = "map"


class DocumentMark(Struct, frozen=True):
    """A ring, an arrow or a word on a photo: its code, its ends in the photo's pixels, words."""

    shape: str
    start: tuple[float, float]
    end: tuple[float, float]
    words: str


class DocumentPhoto(Struct, frozen=True):
    """A photo by the hash of its bytes, with its caption, and what is drawn on it.

    `size`: its pixels, where something is.
    """

    sha256: str
    caption: str
    size: tuple[int, int] = (0, 0)
    marks: tuple[DocumentMark, ...] = ()


class Pictures(Struct, frozen=True):
    """Photos side by side."""

    kind: ClassVar[str] = "pictures"
    pictures: tuple[DocumentPhoto, ...]


class DocumentCrop(Struct, frozen=True):
    """A square of a board's photo round a part, ringed: which photo, how it is laid (`key`), where
    in mm, how large; `word` says when it was taken, `at` the moment."""

    sha256: str
    key: str
    x_mm: float
    y_mm: float
    side_mm: float
    word: str
    at: str


class PartCrops(Struct, frozen=True):
    """Crops of one part side by side, with its designator and where it is."""

    name: str
    text: str
    crops: tuple[DocumentCrop, ...]


class Crops(Struct, frozen=True):
    """Parts where they stand."""

    kind: ClassVar[str] = "crops"
    parts: tuple[PartCrops, ...]


Block = (
    Title
    | Heading
    | Facts
    | Paragraph
    | Bullets
    | DocumentTable
    | DocumentFigure
    | Map
    | Pictures
    | Crops
)


def longest(blocks: Iterable[Block]) -> int:
    """How many rows, lines or pictures the longest block of a report has."""
    return max(
        (
            len(block.rows if isinstance(block, DocumentTable) else
                block.texts if isinstance(block, Bullets) else
                block.parts if isinstance(block, Crops) else block.pictures)
            for block in blocks
            if isinstance(block, DocumentTable | Bullets | Pictures | Crops)
        ),
        default=0,
    )  # fmt: skip
