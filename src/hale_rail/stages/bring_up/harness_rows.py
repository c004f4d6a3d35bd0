"""The two ends of a harness as tables: read as rows, one of them opened to edit."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.bring_up.wiring import SignalUse
from hale_rail.errors import InputError
from hale_rail.formats.tables.fields import in_table, in_words, table_cells, table_text
from hale_rail.formats.workshop.harness_csv import (
    SOURCE,
    SOURCE_NEEDED,
    TARGET,
    TARGET_NEEDED,
    read_feed,
    read_pin,
    read_source,
    read_target,
)

Choices = tuple[tuple[str, str], ...]
Cells = Sequence[str]
#: what the form calls the row that is added
NEW = "new"


class End(Struct, frozen=True):
    """One end of a harness: its columns with headings, what may be chosen, and how it is read."""

    key: str
    title: str
    one: str
    hint: str
    columns: tuple[str, ...]
    headings: tuple[str, ...]
    needed: tuple[str, ...]
    read: Callable[[str, Callable[[int], str]], Sequence[Any]]
    read_row: Callable[[Mapping[str, str]], Any]
    choices: Mapping[str, Choices]


_USES = tuple((use.value, use.value.replace("-", " ")) for use in SignalUse)
ENDS = (
    End(
        "source",
        "The new source",
        "rail",
        "Ground is rail 0. A rail of alternating volts is written as 9 VAC.",
        SOURCE,
        ("Rail, V", "Gives, A", "Conductors", "AWG", "A a contact", "Least load, A", "Isolated"),
        SOURCE_NEEDED,
        read_source,
        read_feed,
        {"isolated": (("", "no"), ("yes", "yes"))},
    ),
    End(
        "target",
        "The board’s connector",
        "pin",
        "Amperes as “6 total” are shared by the pins of that rail.",
        TARGET,
        ("Pin", "Kind", "Rail, V", "Draws, A", "Use"),
        TARGET_NEEDED,
        read_target,
        read_pin,
        {
            "kind": (
                ("rail", "rail"),
                ("ground", "ground"),
                ("signal", "signal"),
                ("nc", "not connected"),
            ),
            "use": (("", "not known"), *_USES),
        },
    ),
)


class EndTable(Struct, frozen=True):
    """One end as a page shows it: its rows, and the row that is open, by its place or `new`.

    `closed`: the row that was open before, to which the keyboard goes back.
    """

    end: End
    text: str
    columns: Sequence[str] = ()
    rows: Sequence[Cells] = ()
    problem: str = ""
    open: str = ""
    edited: Cells = ()
    row_problem: str = ""
    closed: str = ""

    @property
    def filled(self) -> list[int]:
        """The columns of ours that any row fills; all where there is no row."""
        wanted = range(len(self.end.columns))
        return [n for n in wanted if not self.rows or any(row[n] for row in self.rows)]

    def shown(self, row: Cells, n: int) -> str:
        """A cell in words."""
        chosen = dict(self.end.choices.get(self.end.columns[n], ()))
        return chosen.get(row[n], row[n].replace("-", "−")) if row[n] else ""

    def choices(self, n: int) -> Choices:
        """What the open row may choose in a column, what was pasted there included; () to type."""
        known, own = self.end.choices.get(self.end.columns[n], ()), self.edited[n]
        return (*known, (own, own)) if known and own not in dict(known) else known


class RowPress(Struct, frozen=True):
    """What was pressed: `edit`, `save`, `remove`, `cancel` or nothing; at which end and row.

    `cells`: what stands in the open row by its columns, where one is open.
    """

    what: str = ""
    end: str = ""
    place: str = ""
    cells: Mapping[str, str] = {}


def end_tables(texts: Mapping[str, str], press: RowPress | None = None) -> list[EndTable]:
    """Both ends as their texts have them, after a press."""
    return [_pressed(end, texts.get(end.key, ""), press or RowPress()) for end in ENDS]


def _pressed(end: End, text: str, press: RowPress) -> EndTable:
    try:
        columns, rows = table_cells(text, "The table", end.needed, end.columns)
    except InputError as error:
        return EndTable(end, text, problem=str(error))
    table = EndTable(end, text, columns, rows)
    if press.end == end.key and (press.place == NEW or _is_row(table, press.place)):
        table = _PRESSES.get(press.what, _kept_open)(table, press)
    return _judged(table)


def _is_row(table: EndTable, place: str) -> bool:
    return place.isascii() and place.isdecimal() and int(place) < len(table.rows)


def _judged(table: EndTable) -> EndTable:
    """The table with what is wrong in it as a whole."""
    try:
        if table.rows:
            table.end.read(table.text, in_table)
    except InputError as error:
        problem = in_words(str(error), table.end.columns, table.end.headings)
        return replace(table, problem=problem)
    return table


def _opened(table: EndTable, press: RowPress) -> EndTable:
    return replace(table, open=press.place, edited=_before(table, press.place))


def _before(table: EndTable, place: str) -> list[str]:
    """The cells of a row as it is; of a new one with what such a row usually begins with."""
    if place != NEW:
        return list(table.rows[int(place)])
    cells = dict.fromkeys(table.columns, "")
    if table.end.key == "target":
        cells |= {"pin": str(len(table.rows) + 1), "kind": "rail"}
    return list(cells.values())


def _typed(table: EndTable, press: RowPress) -> list[str]:
    """The open row's cells as typed, and what it has in columns that the page does not show."""
    before = zip(table.columns, _before(table, press.place), strict=True)
    return [press.cells.get(name, cell).strip() for name, cell in before]


def _kept_open(table: EndTable, press: RowPress) -> EndTable:
    return replace(table, open=press.place, edited=_typed(table, press))


def _saved(table: EndTable, press: RowPress) -> EndTable:
    cells = _typed(table, press)
    try:
        table.end.read_row(dict(zip(table.columns, cells, strict=True)))
    except InputError as error:
        why = in_words(str(error), table.end.columns, table.end.headings)
        return replace(table, open=press.place, edited=cells, row_problem=why)
    rows = [list(row) for row in table.rows]
    if press.place != NEW:
        rows[int(press.place)] = cells
        return _rewritten(table, rows, press.place)
    added = _rewritten(table, [*rows, cells], "")
    return _opened(added, press)


def _removed(table: EndTable, press: RowPress) -> EndTable:
    if press.place == NEW:
        return _closed(table, press)
    rows = [row for n, row in enumerate(table.rows) if str(n) != press.place]
    return _rewritten(table, rows, str(max(0, int(press.place) - 1)))


def _rewritten(table: EndTable, rows: Sequence[Cells], closed: str) -> EndTable:
    text = table_text(table.columns, rows).replace("\r\n", "\n")
    return replace(table, text=text, rows=rows, closed=closed)


def _closed(table: EndTable, press: RowPress) -> EndTable:
    return replace(table, closed=press.place)


_PRESSES: Mapping[str, Callable[[EndTable, RowPress], EndTable]] = {
    "edit": _opened,
    "save": _saved,
    "remove": _removed,
    "cancel": _closed,
}
