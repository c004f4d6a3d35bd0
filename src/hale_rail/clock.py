"""The one place that reads the clock, so that core stays free of it."""

from __future__ import annotations

from datetime import UTC, datetime


def now() -> str:
    """The moment in UTC, ISO 8601 with microseconds."""
    return datetime.now(UTC).isoformat(timespec="microseconds")


def this_year() -> int:
    """The year in UTC, that ages are counted to."""
    return datetime.now(UTC).year
