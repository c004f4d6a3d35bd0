"""Turns a file's bytes into text: UTF-8 with or without its mark, UTF-16 as spreadsheets save."""

from __future__ import annotations

import codecs
from pathlib import Path

from hale_rail.core.errors import InputError

#: more than this is no list that a person keeps
MOST_BYTES = 32 * 1024 * 1024
_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)


def decoded(data: bytes, name: str) -> str:
    """The text of a file; raises InputError naming it when it is none."""
    if len(data) > MOST_BYTES:
        raise InputError(f"{name} is larger than {MOST_BYTES >> 20} MB.")
    try:
        return data.decode(_encoding(data))
    except UnicodeDecodeError as error:
        raise InputError(f"{name} is no UTF-8 text: byte {error.start + 1}.") from error


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
