"""Looks a workbook through before it is read: how much of everything it holds, part by part.

A workbook is a ZIP of XML that packs a thousandfold: rows without a cell, styles, one text of some
hundred megabytes. Each part is streamed and counted; nothing of it is kept.
"""

from __future__ import annotations

import io
import zipfile
import zlib
from xml.parsers import expat

from hale_rail.core.errors import InputError

_CHUNK = 64 * 1024
_MB = 1024 * 1024
#: bytes that a part may unfold to, by what its name ends with; elements that it may hold
_MOST_BYTES = {"styles.xml": 2 * _MB, "sharedStrings.xml": 64 * _MB}
_MOST_OF_A_SHEET, _MOST_OF_THE_REST = 200 * _MB, 8 * _MB
_MOST_ELEMENTS, _MOST_STYLES, _MOST_CELLS = 500_000, 20_000, 4_000_000
_MOST_DEPTH = 60
_BROKEN = (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError,
           ValueError)  # fmt: skip


def check_workbook(data: bytes, name: str, most_rows: int) -> None:
    """Raise InputError for a workbook that would take too much room, or is not one."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            for entry in archive.infolist():
                if entry.filename.endswith((".xml", ".rels")):
                    with archive.open(entry) as part:
                        _Counted(name, entry.filename, most_rows).read(part)
    except expat.ExpatError as error:
        raise InputError(f"{name} is not a workbook that can be read: {error}.") from error
    except _BROKEN as error:
        raise InputError(f"{name} is damaged: save it again.") from error


class _Counted:
    """One part of a workbook, counted as it is read."""

    def __init__(self, name: str, part: str, most_rows: int) -> None:
        self.name = name
        self.is_sheet = "worksheets/" in part
        self.most_rows = most_rows
        usual = _MOST_OF_A_SHEET if self.is_sheet else _MOST_OF_THE_REST
        self.most_bytes = next((n for end, n in _MOST_BYTES.items() if part.endswith(end)), usual)
        self.most = _MOST_STYLES if part.endswith("styles.xml") else _MOST_ELEMENTS
        if self.is_sheet:
            self.most = 3 * _MOST_CELLS
        elif part.endswith("sharedStrings.xml"):
            self.most = _MOST_CELLS
        self.elements = self.rows = self.depth = 0

    def read(self, part: object) -> None:
        """Stream the part; raises InputError once it holds more than it may."""
        parser = expat.ParserCreate()
        parser.StartElementHandler = self._begins
        parser.EndElementHandler = self._ends
        parser.StartDoctypeDeclHandler = self._refused
        size = 0
        while chunk := part.read(_CHUNK):  # type: ignore[attr-defined]
            size += len(chunk)
            if size > self.most_bytes:
                raise InputError(f"{self.name} is far too large when it is unpacked.")
            parser.Parse(chunk)
        if size:
            parser.Parse(b"", True)

    def _begins(self, tag: str, _: object) -> None:
        self.elements += 1
        self.depth += 1
        if self.is_sheet and tag.rpartition(":")[2] == "row":
            self.rows += 1
            if self.rows > self.most_rows:
                raise InputError(f"The list is longer than {self.most_rows} rows: split it.")
        if self.elements > self.most or self.depth > _MOST_DEPTH:
            raise InputError(f"{self.name} holds far more than a list does: save it as CSV.")

    def _ends(self, _: str) -> None:
        self.depth -= 1

    def _refused(self, *_: object) -> None:
        raise InputError(f"{self.name} declares a document type: save it again.")
