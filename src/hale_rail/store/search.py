"""What a search looks through: texts and notes, designators, rails, what the eye found.

All of it is derived from the cases' rows. A case that changed since is taken in again before the
next search; where it cannot be, what was known of it is searched.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from msgspec import Struct

#: a shorter text has no piece that the index could name
_PIECE = 3
#: as many cases as have a word that is not rare
_RARE = 300
_SOME = "SELECT count(*) FROM (SELECT 1 FROM search_text WHERE search_text MATCH ? LIMIT ?)"
#: cases imported per transaction, so that someone who saves does not wait for a thousand
AT_A_TIME = 50
_DUE = (
    "SELECT c.id, c.sheet_id FROM search_due AS d JOIN bench_case AS c ON c.id = d.case_id LIMIT ?"
)
_BODY = (
    "INSERT INTO search_text (rowid, body) SELECT c.id, c.number || char(10) || c.machine ||"
    " char(10) || c.symptom || char(10) || c.before || char(10) || coalesce((SELECT"
    " group_concat(text, char(10)) FROM log WHERE case_id = c.id AND kind = 'note'), '')"
    " FROM bench_case AS c WHERE c.id = ?"
)
_PARTS = "SELECT 'part:' || lower(ref), :case FROM current_part WHERE sheet_id = :sheet"
_RAILS = (
    "SELECT 'rail:' || lower(replace(replace(key, ' ', ''), '−', '-')), :case FROM current_rail"
    " WHERE sheet_id = :sheet"
)
_SEEN = (
    "SELECT 'seen:' || f.code, :case FROM look AS k JOIN look_finding AS f ON f.look_id = k.id"
    " WHERE k.case_id = :case"
    " AND k.id = (SELECT max(id) FROM look WHERE case_id = :case AND part_id = k.part_id)"
)


def is_due(connection: sqlite3.Connection) -> bool:
    """True where a case changed since it was taken in."""
    return connection.execute("SELECT 1 FROM search_due LIMIT 1").fetchone() is not None


def take_in(connection: sqlite3.Connection) -> int:
    """Take some of the cases in, as they are now, that changed since; returns how many."""
    due = connection.execute(_DUE, (AT_A_TIME,)).fetchall()
    for case_id, sheet_id in due:
        connection.execute("DELETE FROM search_text WHERE rowid = ?", (case_id,))
        connection.execute("DELETE FROM search_tag WHERE case_id = ?", (case_id,))
        connection.execute(_BODY, (case_id,))
        connection.execute(
            f"INSERT OR IGNORE INTO search_tag {_PARTS} UNION {_RAILS} UNION {_SEEN}",
            {"case": case_id, "sheet": sheet_id},
        )
        connection.execute("DELETE FROM search_due WHERE case_id = ?", (case_id,))
    return len(due)


class SearchCondition(Struct, frozen=True):
    """The condition that a case holds a word, its values, and how much it asks: 0 for a word that
    the index finds, 1 for one looked for case by case, 2 for one that many cases have."""

    condition: str
    values: Sequence[object]
    cost: int


def holds(
    connection: sqlite3.Connection, column: str, word: str, findings: Sequence[str]
) -> SearchCondition:
    """How the case of an id holds a word; `findings` are those that the word may name.

    The index answers for a word that few cases have. One that many have, or that is too short for
    it, is looked for case by case, which ends where enough were found.
    """
    low = word.lower()
    plain = low.replace("−", "-")
    tags = [f"part:{low}", f"rail:{plain}", f"rail:{plain}v", *(f"seen:{f}" for f in findings)]
    tagged = f"SELECT case_id FROM search_tag WHERE tag IN ({', '.join('?' * len(tags))})"
    value, cost = '"' + word.replace('"', '""') + '"', 1
    if len(word) >= _PIECE:
        cost = 0 if _is_rare(connection, value) else 2
    if cost == 0:
        text = f"{column} IN (SELECT rowid FROM search_text WHERE search_text MATCH ?)"
    else:
        value = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        text = (
            f"EXISTS (SELECT 1 FROM search_text_content AS t WHERE t.id = {column}"
            " AND t.c0 LIKE ? ESCAPE '\\')"
        )
    return SearchCondition(f"({text} OR {column} IN ({tagged}))", [value, *tags], cost)


def _is_rare(connection: sqlite3.Connection, value: str) -> bool:
    result = connection.execute(_SOME, (value, _RARE)).fetchone()[0]
    return bool(result < _RARE)
