"""The workshop's instruments, and the families that it added."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.errors import InputError, NotFoundError


class StoredInstrument(Struct, frozen=True):
    """An instrument: its address, its family's code, the procedures that it takes."""

    id: int
    name: str
    address: str
    family: str
    procedures: tuple[str, ...]


def listed(connection: sqlite3.Connection) -> list[StoredInstrument]:
    """Every instrument, in the order in which they were added."""
    rows = connection.execute(
        "SELECT id, name, address, family, procedures FROM instrument ORDER BY id"
    )
    return [
        StoredInstrument(i, name, address, family, tuple(json.loads(codes)))
        for i, name, address, family, codes in rows
    ]


def by_id(connection: sqlite3.Connection, instrument_id: int) -> StoredInstrument:
    """One instrument; raises NotFoundError."""
    instrument = next((i for i in listed(connection) if i.id == instrument_id), None)
    if instrument is None:
        raise NotFoundError("That instrument is no longer in the list.")
    return instrument


def for_procedure(connection: sqlite3.Connection, procedure: str) -> StoredInstrument | None:
    """The instrument that takes a procedure; the one added last where several do."""
    return next((i for i in reversed(listed(connection)) if procedure in i.procedures), None)


def insert(
    connection: sqlite3.Connection, name: str, address: str, family: str, procedures: Sequence[str]
) -> int:
    """Add an instrument; raises InputError for a name that is taken."""
    try:
        cursor = connection.execute(
            "INSERT INTO instrument (name, address, family, procedures) VALUES (?, ?, ?, ?)",
            (name, address, family, json.dumps(list(procedures))),
        )
    except sqlite3.IntegrityError as error:
        raise InputError("There is an instrument of this name already.", field="name") from error
    return cursor.lastrowid or 0


def assign(connection: sqlite3.Connection, instrument_id: int, procedures: Sequence[str]) -> None:
    """Say which procedures an instrument takes."""
    connection.execute(
        "UPDATE instrument SET procedures = ? WHERE id = ?",
        (json.dumps(list(procedures)), instrument_id),
    )


def remove(connection: sqlite3.Connection, instrument_id: int) -> None:
    """Take an instrument off the list."""
    connection.execute("DELETE FROM instrument WHERE id = ?", (instrument_id,))


def families(connection: sqlite3.Connection) -> dict[str, str]:
    """The added families' TOML, by code."""
    return dict(connection.execute("SELECT code, body FROM instrument_family ORDER BY code"))


def put_family(connection: sqlite3.Connection, code: str, body: str) -> None:
    """Add a family, or describe one again."""
    connection.execute(
        "INSERT INTO instrument_family VALUES (?, ?) ON CONFLICT (code) DO UPDATE SET"
        " body = excluded.body",
        (code, body),
    )
