"""Patterns of an instrument's answers, by an engine whose time grows with the text alone (RE2)."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from hale_rail.errors import InputError


@lru_cache(maxsize=256)
def compiled(text: str) -> Any:
    """A pattern as RE2 has it; raises InputError for one that is not one, or looks back."""
    import re2

    options = re2.Options()
    options.log_errors = False
    try:
        return re2.compile(text, options)
    except re2.error as error:
        why = error.args[0].decode() if error.args and isinstance(error.args[0], bytes) else error
        raise InputError(f"“{text[:40]}” is not a pattern: {why}.", field="text") from error
