"""What a search looks through: texts and notes, designators, rails, what the eye found.

All of it is derived from the cases' rows. A case that changed since is taken in anew before the
next search; where it cannot be, what was known of it is searched.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

#: a shorter text has no piece that the index could name
_PIECE = 3
_STALE = (
    "SELECT c.id, c.sheet_id, c.revision FROM bench_case AS c"
    " LEFT JOIN search_state AS s ON s.case_id = c.id WHERE s.revision IS NOT c.revision"
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


def stale(connection: sqlite3.Connection) -> list[tuple[int, int, int]]:
    """Id, sheet and revision of the cases that changed since they were taken in."""
    return [(row[0], row[1], row[2]) for row in connection.execute(_STALE)]


def take_in(connection: sqlite3.Connection, cases: Sequence[tuple[int, int, int]]) -> None:
    """Take cases in as they stand."""
    for case_id, sheet_id, revision in cases:
        connection.execute("DELETE FROM search_text WHERE rowid = ?", (case_id,))
        connection.execute("DELETE FROM search_tag WHERE case_id = ?", (case_id,))
        connection.execute(_BODY, (case_id,))
        connection.execute(
            f"INSERT OR IGNORE INTO search_tag {_PARTS} UNION {_RAILS} UNION {_SEEN}",
            {"case": case_id, "sheet": sheet_id},
        )
        connection.execute("INSERT OR REPLACE INTO search_state VALUES (?, ?)", (case_id, revision))


def holds(word: str, findings: Sequence[str]) -> tuple[str, list[object]]:
    """The condition that a case `c` holds a word, and its values; `findings` it may name."""
    low = word.lower()
    plain = low.replace("−", "-")
    tags = [f"part:{low}", f"rail:{plain}", f"rail:{plain}v", *(f"seen:{f}" for f in findings)]
    marks = ", ".join("?" * len(tags))
    if len(word) < _PIECE:
        like = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        text, value = "SELECT rowid FROM search_text WHERE body LIKE ? ESCAPE '\\'", like
    else:
        text = "SELECT rowid FROM search_text WHERE search_text MATCH ?"
        value = '"' + word.replace('"', '""') + '"'
    tagged = f"SELECT case_id FROM search_tag WHERE tag IN ({marks})"
    return f"c.id IN ({text} UNION {tagged})", [value, *tags]
