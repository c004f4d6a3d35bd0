"""The one codec of records that are kept or travel: JSON by a record's own fields and types."""

from __future__ import annotations

import json
from fractions import Fraction
from typing import Any, TypeVar

import msgspec

T = TypeVar("T")


def plain(record: object) -> Any:
    """A record as dictionaries, lists, texts and numbers, in the order of its fields."""
    return msgspec.to_builtins(record, enc_hook=_written)


def record_of(data: Any, kind: type[T]) -> T:
    """A record of what `plain` made of one; raises ValueError for what is not of its kind."""
    return msgspec.convert(data, kind, dec_hook=_read)


def to_text(record: object) -> str:
    """A record as JSON; raises ValueError for a number that JSON does not have."""
    return json.dumps(plain(record), ensure_ascii=False, allow_nan=False)


def from_text(text: str, kind: type[T]) -> T:
    """A record of JSON; raises ValueError for JSON that is not of its kind."""
    return msgspec.json.decode(text, type=kind, dec_hook=_read)


def _written(value: Any) -> Any:
    """What has a code as that, a fraction as text, a number of numpy's as one of Python's.

    Raises TypeError for anything else.
    """
    if isinstance(value, Fraction):
        return str(value)
    if hasattr(value, "code"):
        return value.code
    if hasattr(value, "item"):
        return value.item()
    raise TypeError(f"{type(value).__name__} is not kept as JSON")


def _read(kind: type, value: Any) -> Any:
    """What `_written` wrote, back; raises ValueError for a code that is not known."""
    if kind is Fraction:
        return Fraction(value)
    return kind.of_code(value)  # type: ignore[attr-defined]
