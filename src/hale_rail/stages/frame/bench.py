"""The bench: open cases with the one thing to do next, from lines kept for each."""

from __future__ import annotations

import re
from contextlib import suppress

from msgspec import Struct

from hale_rail import clock
from hale_rail.case.file import CaseFile, open_case
from hale_rail.core.parts.looks import BY_CODE, SOUND
from hale_rail.errors import StoreError
from hale_rail.stages.frame.next_step import bench_line
from hale_rail.stages.stage import Urgency
from hale_rail.store import bench_lines, cases, search
from hale_rail.store.bench_lines import BenchLine
from hale_rail.store.cases import CasePlace, ListedCase
from hale_rail.store.database import Store

PAGE = 25
#: cases that are shown with what to do first
_FIRST = 6
#: characters of a day in a time
_DAY = 10
_MOST_WORDS = 8
#: shorter words are not looked up as findings
_LEAST_LETTERS = 3


class BenchRow(Struct, frozen=True):
    """A case on the bench page."""

    number: str
    machine: str
    symptom: str
    line: BenchLine

    @property
    def is_due(self) -> bool:
        """True once the day has come up to which it waits."""
        return bool(self.line.until) and self.line.until <= clock.now()[:_DAY]


def bench(
    store: Store, query: str, kept: CasePlace = CasePlace.BENCH, *, page: int = 1
) -> tuple[tuple[BenchRow, ...], int]:
    """Cases that hold every word of the query, newest action first, and how many there are.

    A kept line that is behind its case is made again by the next reader.
    """
    if query:
        _take_in_what_changed(store)
    rows, total = cases.search(
        store.read(),
        {word: _findings(word) for word in query.split()[:_MOST_WORDS]},
        kept,
        limit=PAGE,
        offset=PAGE * (page - 1),
    )
    return tuple(_row(store, row) for row in rows), total


def _row(store: Store, row: ListedCase) -> BenchRow:
    line = row.line or refresh_line(open_case(store, row.number))
    return BenchRow(row.number, row.machine, row.symptom, line)


def first(store: Store) -> tuple[BenchRow, ...]:
    """What to do first over all cases on the bench: the most pressing, those whose parts are due,
    and last those that wait or soak."""
    today = clock.now()[:_DAY]
    pressing = cases.pressing(store.read(), Urgency.FAULT, today, _FIRST)
    return tuple(_row(store, row) for row in pressing)


def is_new(store: Store) -> bool:
    """True for a workshop that never had a case."""
    return not cases.newest_numbers(store.read())


def _take_in_what_changed(store: Store) -> None:
    """Have the search know the cases as they are now; where that cannot be kept it knows them as
    they stood."""
    with suppress(StoreError):
        while search.is_due(store.read()):
            with store.jot() as connection:
                if not search.take_in(connection):
                    return


def _findings(word: str) -> list[str]:
    """Codes of the findings that a word names: `crazed`, `bulg`."""
    low = word.lower()
    if len(low) < _LEAST_LETTERS:
        return []
    return [
        code for code, f in BY_CODE.items() if code != SOUND and low in f"{code} {f.words.lower()}"
    ]


def refresh_line(case: CaseFile) -> BenchLine:
    """Compute a case's line and keep it; outside any transaction that changes the case.

    Where it cannot be kept, what was saved before is saved all the same: who looks makes it again.
    """
    line = bench_line(case)
    with suppress(StoreError), case.store.jot() as connection:
        bench_lines.put(connection, case.case.id, case.case.revision, line)
    return line


def keep_line(case: CaseFile) -> None:
    """Keep a case's line where the kept one is behind; who shows the case has computed it."""
    if bench_lines.revision_of(case.store.read(), case.case.id) != case.case.revision:
        refresh_line(case)


def suggest_number(store: Store) -> str:
    """The next free number in the manner of the newest ones."""
    suggest_number = cases.newest_numbers(store.read())
    counts = [int(m[1]) for n in suggest_number if (m := re.search(r"(\d+)$", n))]
    prefix = re.sub(r"\d+$", "", suggest_number[-1]) if suggest_number else "HR-"
    return f"{prefix or 'HR-'}{max(counts, default=0) + 1:03d}"
