"""The one place that reads the clock, so that core stays free of it."""

from __future__ import annotations

from datetime import UTC, datetime


def now() -> str:
    """This moment in UTC, ISO 8601 with microseconds."""
    return datetime.now(UTC).isoformat(timespec="microseconds")


def this_year() -> int:
    return datetime.now(UTC).year
