"""Identities of rows that travel between data folders."""

from __future__ import annotations

import uuid


def new_uuid() -> str:
    """A random identity of 36 characters."""
    return str(uuid.uuid4())
