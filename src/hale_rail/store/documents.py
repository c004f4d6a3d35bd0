"""Drawings and other papers: rows in the database, files under the hash of their bytes."""

from __future__ import annotations

import hashlib
import sqlite3
from pathlib import Path

from msgspec import Struct

from hale_rail.core.intake.drawings import Check
from hale_rail.store.ids import new_uuid
from hale_rail.store.kept_files import write_for_good

FOLDER = "documents"
PDF, JPEG = "application/pdf", "image/jpeg"
_ENDINGS = {PDF: "pdf", JPEG: "jpg"}


class Document(Struct, frozen=True):
    """A document as stored; `unit_type_id` None: of its case alone."""

    id: int
    case_id: int
    name: str
    revision: str
    media_type: str
    sha256: str
    unit_type_id: int | None


class Checked(Struct, frozen=True):
    """A connection measured to prove a document, in a case by its number."""

    document_id: int
    case_id: int
    case_number: str
    check: Check


def path_of(folder: Path, sha256: str, media_type: str) -> Path:
    """Where a document's file lies."""
    return folder / FOLDER / sha256[:2] / f"{sha256}.{_ENDINGS[media_type]}"


def put_file(folder: Path, data: bytes, media_type: str) -> str:
    """Write a document to disk for good; returns the hash that names it."""
    sha256 = hashlib.sha256(data).hexdigest()
    write_for_good(path_of(folder, sha256, media_type), data)
    return sha256


def insert(connection: sqlite3.Connection, log_id: int, new: Document) -> None:
    """Append a document; its id is given by the store."""
    connection.execute(
        "INSERT INTO document (uuid, case_id, log_id, name, revision, media_type, sha256,"
        " unit_type_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (new_uuid(), new.case_id, log_id, new.name, new.revision, new.media_type, new.sha256,
         new.unit_type_id),
    )  # fmt: skip


def of_case(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> list[Document]:
    """Documents of a case and of its type of unit, oldest first."""
    rows = connection.execute(
        "SELECT id, case_id, name, revision, media_type, sha256, unit_type_id FROM document"
        " WHERE case_id = ? OR unit_type_id = ? ORDER BY id",
        (case_id, unit_type_id),
    )
    return [Document(*row) for row in rows]


def insert_check(
    connection: sqlite3.Connection, case_id: int, log_id: int, document_id: int, check: Check
) -> None:
    """Append a connection that was measured to prove a document."""
    connection.execute(
        "INSERT INTO drawing_check (uuid, case_id, log_id, document_id, one_end, other_end,"
        " is_drawn_joined, ohm) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (new_uuid(), case_id, log_id, document_id, check.one_end, check.other_end,
         check.is_drawn_joined, check.ohm),
    )  # fmt: skip


def checks_of(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> list[Checked]:
    """Connections measured for the documents that a case has, on whatever unit."""
    rows = connection.execute(
        "SELECT k.document_id, k.case_id, c.number, k.one_end, k.other_end, k.is_drawn_joined,"
        " k.ohm FROM drawing_check AS k JOIN document AS d ON d.id = k.document_id"
        " JOIN bench_case AS c ON c.id = k.case_id"
        " WHERE d.case_id = ? OR d.unit_type_id = ? ORDER BY k.id",
        (case_id, unit_type_id),
    )
    return [Checked(r[0], r[1], r[2], Check(r[3], r[4], bool(r[5]), r[6])) for r in rows]
