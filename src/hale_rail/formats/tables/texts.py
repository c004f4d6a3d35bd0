"""Turns a file's bytes into text: UTF-8 with or without its mark, UTF-16 as spreadsheets save."""

from __future__ import annotations

import codecs
from pathlib import Path

from hale_rail.core.errors import InputError

#: nobody keeps a longer list
MOST_BYTES = 32 * 1024 * 1024
_LOOKED_AT = 65_536
_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)


def decoded(data: bytes, name: str) -> str:
    """The text of a file; raises InputError naming it when it is none."""
    if len(data) > MOST_BYTES:
        raise InputError(f"{name} is larger than {MOST_BYTES >> 20} MB.")
    encoding = _encoding(data)
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as error:
        if encoding == "utf-8" and _is_text(data):
            return data.decode("cp1252", errors="replace")
        raise InputError(f"{name} is not UTF-8 text: byte {error.start + 1}.") from error


def _is_text(data: bytes) -> bool:
    """True where no control byte says that it is not text: a Windows code page, most likely."""
    return not any(byte < 32 and byte not in b"\t\n\r\f" for byte in data[:_LOOKED_AT])


def _encoding(data: bytes) -> str:
    for mark, encoding in _MARKS:
        if data.startswith(mark):
            return encoding
    if data[1:2] == b"\x00" and data[:1] != b"\x00":
        return "utf-16-le"
    return "utf-16-be" if data[:1] == b"\x00" and data[1:2] != b"\x00" else "utf-8"


def read_file(path: Path) -> str:
    """The text of a file on disk; raises InputError naming it and why it cannot be read."""
    try:
        if path.is_dir():
            raise InputError(f"{path} is a folder.")
        return decoded(path.read_bytes(), str(path))
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or error
        raise InputError(f"{path} cannot be read: {reason}.") from error
