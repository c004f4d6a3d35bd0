"""Readings and strikes: appended, never changed."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping

from msgspec import Struct, field

from hale_rail.core import procedures
from hale_rail.core.procedures import (
    CONDITIONS,
    Accuracy,
    Condition,
    Point,
    Procedure,
    ReadingSource,
    Understood,
)
from hale_rail.core.targets import Place, Target, TargetKind
from hale_rail.store import sheets
from hale_rail.store.append_only import Strikes
from hale_rail.store.ids import new_uuid

_SOURCES = {source.value: source for source in ReadingSource}


class Reading(Struct, frozen=True):
    """A reading as stored (SI); `high` is the far end of a jumping one, `figures` further numbers.

    `log_id` is its place in time among everything done to the case; `meter_id` None: a usual meter.
    """

    id: int
    log_id: int
    point: Point
    typed: str
    value: float
    high: float
    digit: float
    accuracy: Accuracy
    meter_id: int | None
    source: ReadingSource
    taken_at: str
    supersedes: int | None
    figures: Mapping[str, float] = field(default_factory=dict)

    @property
    def target(self) -> Target:
        """What it is a reading of."""
        return self.point.target

    @property
    def procedure(self) -> Procedure:
        """How it was taken."""
        return self.point.procedure

    @property
    def condition(self) -> Condition:
        """Under what condition it was taken."""
        return self.point.condition

    @property
    def error(self) -> float:
        """The meter's own uncertainty at it (SI)."""
        return self.accuracy.error(self.value, self.digit, self.procedure.unit)

    @property
    def key(self) -> str:
        """Its point's key."""
        return self.point.key


class NewReading(Struct, frozen=True):
    """A reading to be kept: the point, what was understood of what was typed, and with what."""

    point: Point
    typed: str
    understood: Understood
    accuracy: Accuracy
    meter_id: int | None
    source: ReadingSource
    taken_at: str
    supersedes: int | None


def insert(
    connection: sqlite3.Connection, case_id: int, sheet_id: int, log_id: int, new: NewReading
) -> int:
    """Append a reading; returns its id. Raises NotFoundError for a rail the sheet has not."""
    target = target_id(connection, case_id, sheet_id, new.point.target)
    meant, how = new.understood, new.accuracy
    cursor = connection.execute(
        "INSERT INTO reading (uuid, case_id, log_id, target_id, procedure, condition, typed, value,"
        " high, digit, accuracy_share, accuracy_digits, accuracy_fixed, meter_id, source, taken_at,"
        " supersedes) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, target, new.point.procedure.code,
         new.point.condition.code, new.typed, meant.value, meant.high, meant.digit, how.share,
         how.digits, how.fixed, new.meter_id, new.source.value, new.taken_at, new.supersedes),
    )  # fmt: skip
    reading_id = cursor.lastrowid or 0
    connection.executemany(
        "INSERT INTO reading_figure VALUES (?, ?, ?)",
        [(reading_id, name, value) for name, value in meant.figures.items()],
    )
    return reading_id


def target_id(connection: sqlite3.Connection, case_id: int, sheet_id: int, target: Target) -> int:
    """The row of a target, made when it is first read; NotFoundError for no rail of the sheet."""
    is_rail = target.kind is TargetKind.RAIL
    rail = sheets.rail_id(connection, sheet_id, target.rail) if is_rail else None
    values = (case_id, target.kind.value, target.part_id, rail, target.place.value, target.plus,
              target.minus)  # fmt: skip
    where = "case_id = ? AND kind = ? AND part_id IS ? AND rail_id IS ? AND place = ?"
    row = connection.execute(
        f"SELECT id FROM target WHERE {where} AND plus = ? AND minus = ?", values
    ).fetchone()
    if row is not None:
        return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO target (case_id, kind, part_id, rail_id, place, plus, minus)"
        " VALUES (?, ?, ?, ?, ?, ?, ?)",
        values,
    )
    return cursor.lastrowid or 0


def of_case(connection: sqlite3.Connection, case_id: int, after: int = 0) -> list[Reading]:
    """Readings of a case with ids above `after`, oldest first, struck and superseded ones too."""
    rows = connection.execute(
        "SELECT r.id, r.log_id, r.target_id, r.procedure, r.condition, r.typed, r.value, r.high,"
        " r.digit, r.accuracy_share, r.accuracy_digits, r.accuracy_fixed, r.meter_id, r.source,"
        " r.taken_at, r.supersedes, t.kind, t.part_id, rail.key, t.place, t.plus, t.minus"
        " FROM reading AS r JOIN target AS t ON t.id = r.target_id"
        " LEFT JOIN rail ON rail.id = t.rail_id WHERE r.case_id = ? AND r.id > ? ORDER BY r.id",
        (case_id, after),
    ).fetchall()
    figures: dict[int, dict[str, float]] = {}
    for row in connection.execute(
        "SELECT f.* FROM reading_figure AS f JOIN reading AS r ON r.id = f.reading_id"
        " WHERE r.case_id = ? AND r.id > ?",
        (case_id, after),
    ):
        figures.setdefault(row["reading_id"], {})[row["name"]] = row["value"]
    known = {procedure.code: procedure for procedure in procedures.PROCEDURES}
    points: dict[tuple[int, str, str], Point] = {}
    result = []
    for row in rows:
        where = (row["target_id"], row["procedure"], row["condition"])
        point = points.get(where)
        if point is None:
            point = Point(_target(row), known[row["procedure"]], CONDITIONS[row["condition"]])
            points[where] = point
        result.append(
            Reading(
                row["id"], row["log_id"], point, row["typed"], row["value"], row["high"],
                row["digit"],
                Accuracy(row["accuracy_share"], row["accuracy_digits"], row["accuracy_fixed"]),
                row["meter_id"], _SOURCES[row["source"]], row["taken_at"], row["supersedes"],
                figures.get(row["id"], {}),
            )
        )  # fmt: skip
    return result


def _target(row: sqlite3.Row) -> Target:
    return Target(
        TargetKind(row["kind"]), row["part_id"], row["key"] or "", Place(row["place"]),
        row["plus"], row["minus"],
    )  # fmt: skip


READING_STRIKES = Strikes("strike", "reading_id")
