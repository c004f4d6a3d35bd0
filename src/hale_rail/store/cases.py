"""Cases: their own fields, and which are on the bench."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import astuple

from hale_rail.core.coded_words import Coded
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.store.bench_lines import COLUMNS, SET_ASIDE, BenchLine
from hale_rail.store.ids import new_uuid
from hale_rail.store.search import holds


class Case(Struct, frozen=True):
    """A case as stored; `version` counts edits of its texts, `revision` everything done to it."""

    id: int
    uuid: str
    number: str
    machine: str
    symptom: str
    before: str
    sheet_id: int
    unit_type_id: int | None
    school: str
    tolerance: str
    opened_at: str
    closed_at: str | None
    outcome: str | None
    version: int
    revision: int
    touched_at: str
    put_away_at: str | None


class Fields(Struct, frozen=True):
    """What a person writes of a case; `unit_type_id` None: not known to be like another."""

    machine: str
    symptom: str
    before: str
    school: str
    tolerance: str
    unit_type_id: int | None = None

    @classmethod
    def of(cls, case: Case) -> Fields:
        """As they stand."""
        return cls(*(getattr(case, name) for name in cls.__struct_fields__))


_FIELDS = Fields.__struct_fields__


def insert(
    connection: sqlite3.Connection, number: str, fields: Fields, sheet_id: int, opened_at: str
) -> int:
    """Open a case; raises InputError when the number is taken."""
    try:
        cursor = connection.execute(
            f"INSERT INTO bench_case (uuid, number, sheet_id, opened_at, touched_at,"
            f" {', '.join(_FIELDS)}) VALUES (?, ?, ?, ?, ?{', ?' * len(_FIELDS)})",
            (new_uuid(), number, sheet_id, opened_at, opened_at, *astuple(fields)),
        )
    except sqlite3.IntegrityError as error:
        if "number" not in str(error):
            raise
        raise InputError(_number_in_use(number), field="number") from error
    return cursor.lastrowid or 0


def by_number(connection: sqlite3.Connection, number: str) -> Case:
    """A case by its number; raises NotFoundError."""
    row = connection.execute("SELECT * FROM bench_case WHERE number = ?", (number,)).fetchone()
    if row is None:
        raise NotFoundError(f"There is no case {number}.")
    return Case(*row)


def update(connection: sqlite3.Connection, case: Case, fields: Fields) -> None:
    """Edit a case; raises ConflictError when it changed since `case.version`."""
    cursor = connection.execute(
        f"UPDATE bench_case SET {', '.join(f'{name} = ?' for name in _FIELDS)},"
        " version = version + 1 WHERE id = ? AND version = ?",
        (*astuple(fields), case.id, case.version),
    )
    if cursor.rowcount == 0:
        raise ConflictError("Another tab saved this case first. Your text is still here.")


def close(
    connection: sqlite3.Connection, case_id: int, closed_at: str | None, outcome: str | None
) -> None:
    """Hand a case back, or (both None) take it to the bench again."""
    connection.execute(
        "UPDATE bench_case SET closed_at = ?, outcome = ?, version = version + 1 WHERE id = ?",
        (closed_at, outcome, case_id),
    )


def rename(connection: sqlite3.Connection, case: Case, number: str) -> None:
    """Give a case another number; raises InputError when it is taken."""
    try:
        connection.execute(
            "UPDATE bench_case SET number = ?, version = version + 1 WHERE id = ?",
            (number, case.id),
        )
    except sqlite3.IntegrityError as error:
        raise InputError(_number_in_use(number), field="number") from error


def _number_in_use(number: str) -> str:
    return f"There is a case {number} already. Choose another number."


def put_away(connection: sqlite3.Connection, case_id: int, at: str | None) -> None:
    """Put a case away from the bench, or (None) take it there again."""
    connection.execute(
        "UPDATE bench_case SET put_away_at = ?, version = version + 1 WHERE id = ?", (at, case_id)
    )


def touch(connection: sqlite3.Connection, case_id: int, at: str) -> None:
    """Count one more thing done to a case."""
    connection.execute(
        "UPDATE bench_case SET revision = revision + 1, touched_at = ? WHERE id = ?", (at, case_id)
    )


def newest_numbers(connection: sqlite3.Connection) -> list[str]:
    """Numbers taken, in the order the cases were opened; those of practice have their own."""
    rows = connection.execute(f"SELECT number FROM bench_case AS c WHERE {REAL} ORDER BY id")
    return [row["number"] for row in rows]


class ListedCase(Struct, frozen=True):
    """A case as the bench lists it; `line` None while the kept one is behind the case."""

    number: str
    machine: str
    symptom: str
    line: BenchLine | None


class CasePlace(Coded):
    """Where a case is: on the bench, put away from it, or handed back."""

    BENCH = ("bench", "On the bench")
    AWAY = ("away", "Put away")
    BACK = ("back", "Handed back")


#: a case of the workshop, not one of practice
REAL = "c.id NOT IN (SELECT case_id FROM practice)"
_KEPT_WHERE = {
    CasePlace.BENCH: "c.closed_at IS NULL AND c.put_away_at IS NULL",
    CasePlace.AWAY: "c.closed_at IS NULL AND c.put_away_at IS NOT NULL",
    CasePlace.BACK: "c.closed_at IS NOT NULL",
}
#: a case of the workshop that is on the bench
ON_BENCH = f"{_KEPT_WHERE[CasePlace.BENCH]} AND {REAL}"
#: all cases but those of practice, which are few: asking for each would take far longer
_COUNT = (
    "SELECT (SELECT count(*) FROM bench_case AS c WHERE {0}) - (SELECT count(*) FROM practice AS p"
    " WHERE EXISTS (SELECT 1 FROM bench_case AS c WHERE c.id = p.case_id AND {0}))"
)
#: hits of a search that are counted at most: nobody turns more pages
MOST_FOUND = 250


_LISTED = (
    "SELECT c.number, c.machine, c.symptom, c.revision, b.revision AS line_revision, "
    + ", ".join(f"b.{name} AS line_{name}" for name in COLUMNS)
    + " FROM bench_case AS c"
)


def search(
    connection: sqlite3.Connection,
    words: Mapping[str, Sequence[str]],
    kept: CasePlace,
    *,
    limit: int,
    offset: int,
) -> tuple[list[ListedCase], int]:
    """Cases that hold every word, newest action first, and how many; of a search at most one more
    than `MOST_FOUND` are counted.

    A word is held by the case's texts, a part's designator, a rail, a note, or what was seen:
    `words` gives the codes of the findings that it may name.
    """
    if words:
        ids = _ids(connection, words, kept)
        total, chosen = len(ids), ids[offset : offset + limit]
        where, values = f"c.id IN ({', '.join('?' * len(chosen))})", chosen
        limit, offset = len(chosen), 0
    else:
        where, values = f"{_KEPT_WHERE[kept]} AND {REAL}", []
        total = connection.execute(_COUNT.format(_KEPT_WHERE[kept])).fetchone()[0]
    rows = connection.execute(
        f"{_LISTED} LEFT JOIN bench_line AS b ON b.case_id = c.id WHERE {where}"
        " ORDER BY c.touched_at DESC, c.id DESC LIMIT ? OFFSET ?",
        [*values, limit, offset],
    )
    return [_listed(row) for row in rows], total


def _listed(row: sqlite3.Row) -> ListedCase:
    is_fresh = row["line_revision"] == row["revision"]
    line = BenchLine(*(row[f"line_{name}"] for name in COLUMNS)) if is_fresh else None
    return ListedCase(row["number"], row["machine"], row["symptom"], line)


#: of so many that press most those that can be worked at come first
_LOOKED_AT = 60


def pressing(
    connection: sqlite3.Connection, urgency: int, today: str, limit: int
) -> list[ListedCase]:
    """Cases on the bench that stand in a state, or whose next step is this pressing or more.

    The most pressing first, of equal ones the newest action; last those that wait beyond `today`,
    or soak. The urgency is written out: only then SQLite walks the index of the pressing in its
    order, and stops where enough were found.
    """
    states = ", ".join(repr(state) for state in SET_ASIDE)
    is_aside = f"b.state IN ({states}) AND NOT (b.until <> '' AND b.until <= ?) AS is_aside"
    rows = connection.execute(
        f"{_LISTED} JOIN bench_line AS b ON b.case_id = c.id JOIN ("
        f"SELECT c.id, b.urgency, c.touched_at, {is_aside}"
        " FROM bench_line AS b JOIN bench_case AS c ON c.id = b.case_id"
        f" WHERE {ON_BENCH} AND b.revision = c.revision"
        f" AND (b.state <> '' OR b.urgency >= {int(urgency)})"
        f" ORDER BY b.urgency DESC LIMIT {_LOOKED_AT}"
        ") AS p ON p.id = c.id ORDER BY p.is_aside, p.urgency DESC, p.touched_at DESC LIMIT ?",
        (today, limit),
    )
    return [_listed(row) for row in rows]


def _ids(
    connection: sqlite3.Connection, words: Mapping[str, Sequence[str]], kept: CasePlace
) -> list[int]:
    """Ids of the cases that hold every word, newest action first, as far as they are counted.

    The plus keeps SQLite on the index of their order: it stops where enough were found.
    """
    held = [holds(connection, "+c.id", word, codes) for word, codes in words.items()]
    held.sort(key=lambda one: one.cost)  # rare words first
    where = [_KEPT_WHERE[kept], REAL, *(one.condition for one in held)]
    values = [value for one in held for value in one.values]
    rows = connection.execute(
        f"SELECT c.id FROM bench_case AS c WHERE {' AND '.join(where)}"
        f" ORDER BY c.touched_at DESC, c.id DESC LIMIT {MOST_FOUND + 1}", values,
    )  # fmt: skip
    return [row[0] for row in rows]
