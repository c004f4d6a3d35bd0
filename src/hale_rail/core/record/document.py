"""What a report is made of, block by block: the page and the PDF lay the same blocks out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from hale_rail.core.charts import Chart


@dataclass(frozen=True)
class Title:
    """The head of the report: number, machine, a line about it."""

    number: str
    machine: str
    line: str


@dataclass(frozen=True)
class Heading:
    """A heading."""

    text: str


@dataclass(frozen=True)
class Facts:
    """Short texts, each with its own heading: what is read first."""

    rows: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Paragraph:
    """A text."""

    text: str


@dataclass(frozen=True)
class Bullets:
    """A list of texts."""

    texts: tuple[str, ...]


@dataclass(frozen=True)
class Table:
    """A table; `columns` () for none; `shares` of the width; the first column names its row."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    shares: tuple[float, ...]


@dataclass(frozen=True)
class Figure:
    """A drawing with what it says."""

    name: str
    text: str
    chart: Chart


@dataclass(frozen=True)
class Map:
    """The place of the unit's line map."""


@dataclass(frozen=True)
class Picture:
    """A photo by the hash of its bytes, with its caption."""

    sha256: str
    caption: str


@dataclass(frozen=True)
class Pictures:
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
