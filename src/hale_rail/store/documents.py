"""Drawings and other papers: rows in the database, files under the hash of their bytes."""

from __future__ import annotations

import hashlib
import sqlite3
from pathlib import Path

from hale_rail.core.intake.drawings import Check
from hale_rail.store.append_only import AppendedRow, AppendOnly
from hale_rail.store.kept_files import write_for_good

FOLDER = "documents"
PDF, JPEG = "application/pdf", "image/jpeg"
#: a ROM's dump, which is no drawing
DUMP = "application/octet-stream"
_ENDINGS = {PDF: "pdf", JPEG: "jpg", DUMP: "bin"}


class Document(AppendedRow, frozen=True):
    """A document of a case; `unit_type_id` None: of that case alone."""

    case_id: int
    name: str
    revision: str
    media_type: str
    sha256: str
    unit_type_id: int | None


class Checked(AppendedRow, frozen=True):
    """A connection measured to prove a document, in a case by its number."""

    document_id: int
    case_id: int
    case_number: str
    one_end: str
    other_end: str
    is_drawn_joined: bool
    ohm: float

    @property
    def check(self) -> Check:
        """The connection by itself."""
        return Check(self.one_end, self.other_end, self.is_drawn_joined, self.ohm)


DOCUMENTS = AppendOnly("document", Document)
_NUMBER = "(SELECT number FROM bench_case WHERE bench_case.id = case_id)"
DRAWING_CHECKS = AppendOnly("drawing_check", Checked, looked_up={"case_number": _NUMBER})


def path_of(folder: Path, sha256: str, media_type: str) -> Path:
    """Where a document's file lies."""
    return folder / FOLDER / sha256[:2] / f"{sha256}.{_ENDINGS[media_type]}"


def put_file(folder: Path, data: bytes, media_type: str) -> str:
    """Write a document to disk for good; returns the hash that names it."""
    sha256 = hashlib.sha256(data).hexdigest()
    write_for_good(path_of(folder, sha256, media_type), data)
    return sha256


def of_case(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> list[Document]:
    """Documents of a case and of its type of unit, oldest first."""
    return DOCUMENTS.read(connection, "case_id = ? OR unit_type_id = ?", case_id, unit_type_id)


def checks_of(
    connection: sqlite3.Connection, case_id: int, unit_type_id: int | None
) -> list[Checked]:
    """Connections measured for the documents that a case has, on whatever unit."""
    of_these = "document_id IN (SELECT id FROM document WHERE case_id = ? OR unit_type_id = ?)"
    return DRAWING_CHECKS.read(connection, of_these, case_id, unit_type_id)
