"""The one codec of records that are kept or travel: JSON by a record's own fields and types."""

from __future__ import annotations

import json
from typing import Any, TypeVar

import msgspec

T = TypeVar("T")


def plain(record: object) -> Any:
    """A record as dictionaries, lists, texts and numbers, in the order of its fields."""
    return msgspec.to_builtins(record, enc_hook=_number)


def to_text(record: object) -> str:
    """A record as JSON; raises ValueError for a number that JSON does not have."""
    return json.dumps(plain(record), ensure_ascii=False, allow_nan=False)


def from_text(text: str, kind: type[T]) -> T:
    """A record of JSON; raises ValueError for JSON that is not of its kind."""
    return msgspec.json.decode(text, type=kind)


def _number(value: Any) -> Any:
    """A number of numpy's as one of Python's; raises TypeError for anything else."""
    if hasattr(value, "item"):
        return value.item()
    raise TypeError(f"{type(value).__name__} is not kept as JSON")
