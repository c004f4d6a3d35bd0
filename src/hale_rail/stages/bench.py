"""The bench: open cases with the one thing to do next, from lines kept for each."""

from __future__ import annotations

import re
from dataclasses import dataclass

from hale_rail.case.file import CaseFile, open_case
from hale_rail.stages.next_step import bench_line
from hale_rail.store import bench_lines, cases
from hale_rail.store.bench_lines import BenchLine
from hale_rail.store.database import Store

PAGE = 25
_MOST_WORDS = 8


@dataclass(frozen=True)
class Shown:
    """A case on the bench page."""

    number: str
    machine: str
    symptom: str
    line: BenchLine


def bench(
    store: Store, query: str, *, is_open: bool = True, page: int = 1
) -> tuple[list[Shown], int]:
    """Cases that match every word of the query, newest action first, and how many there are.

    A kept line that is behind its case is made anew by whoever looks.
    """
    rows, total = cases.search(
        store.read(),
        query.split()[:_MOST_WORDS],
        is_open=is_open,
        limit=PAGE,
        offset=PAGE * (page - 1),
    )
    lines = [found.line or refresh_line(open_case(store, found.number)) for found in rows]
    return [
        Shown(found.number, found.machine, found.symptom, line)
        for found, line in zip(rows, lines, strict=True)
    ], total


def refresh_line(case: CaseFile) -> BenchLine:
    """Compute a case's line and keep it; outside any transaction that changes the case."""
    line = bench_line(case)
    with case.store.jot() as connection:
        bench_lines.put(connection, case.case.id, case.case.revision, line)
    return line


def suggest_number(store: Store) -> str:
    """The next free number in the manner of the newest ones."""
    taken = cases.newest_numbers(store.read())
    counts = [int(m[1]) for n in taken if (m := re.search(r"(\d+)$", n))]
    prefix = re.sub(r"\d+$", "", taken[-1]) if taken else "HR-"
    return f"{prefix or 'HR-'}{max(counts, default=0) + 1:03d}"
