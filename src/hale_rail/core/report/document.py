"""What a report is made of, block by block: the page and the PDF lay the same blocks out."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from hale_rail.core.charts import Chart


class Title(Struct, frozen=True):
    """The head of the report: number, machine, a line about it."""

    number: str
    machine: str
    line: str


class Heading(Struct, frozen=True):
    """A heading."""

    text: str


class Facts(Struct, frozen=True):
    """Short texts, each with its own heading: what is read first."""

    rows: tuple[tuple[str, str], ...]


class Paragraph(Struct, frozen=True):
    """A text."""

    text: str


class Bullets(Struct, frozen=True):
    """A list of texts."""

    texts: tuple[str, ...]


class Table(Struct, frozen=True):
    """A table; `columns` () for none; `shares` of the width; the first column names its row."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    shares: tuple[float, ...]


class Figure(Struct, frozen=True):
    """A drawing with what it says."""

    name: str
    text: str
    chart: Chart


class Map(Struct, frozen=True):
    """The place of the unit's line map."""


class Picture(Struct, frozen=True):
    """A photo by the hash of its bytes, with its caption."""

    sha256: str
    caption: str


class Pictures(Struct, frozen=True):
    """Photos side by side."""

    pictures: tuple[Picture, ...]


Block = Title | Heading | Facts | Paragraph | Bullets | Table | Figure | Map | Pictures


def longest(blocks: Iterable[Block]) -> int:
    """How many rows, lines or pictures the longest block of a report has."""
    return max(
        (
            len(block.rows if isinstance(block, Table) else
                block.texts if isinstance(block, Bullets) else block.pictures)
            for block in blocks
            if isinstance(block, Table | Bullets | Pictures)
        ),
        default=0,
    )  # fmt: skip
