"""Every address of the interface, built here and nowhere else.

What a page holds dozens of is written out, not asked of the router; `tests/web/test_pages.py` holds
the two to each other.
"""

from __future__ import annotations

from urllib.parse import quote, urlencode

from flask import url_for

VIEWS = (
    "map",
    "safe",
    "look",
    "diagnosis",
    "capacitors",
    "recap",
    "rails",
    "shorts",
    "log",
    "intake",
)


def whole(text: str) -> int:
    """A whole number of an address or a form; ValueError beyond what the store can count."""
    value = int(text)
    if abs(value) >= 2**53:
        raise ValueError(text)
    return value


def bench(query: str = "", page: int = 1, closed: bool = False) -> str:
    return url_for(
        "bench.page", q=query or None, page=page if page > 1 else None, closed=int(closed) or None
    )


def view(
    number: str, name: str = "map", at: str = "", said: int | None = None, by: str = ""
) -> str:
    """A view of a case: at a test point, with the reading just saved, or by another school."""
    path = _case(number) + ("" if name == "map" else f"/{name}")
    asked = {"at": at, "said": said, "by": by}
    query = urlencode({key: value for key, value in asked.items() if value}, quote_via=quote)
    return f"{path}?{query}" if query else path


def new_case() -> str:
    return url_for("new_case.page")


def preview() -> str:
    return url_for("new_case.preview")


def action(number: str, name: str) -> str:
    """Where a form of a case posts to: read, strike, power, guard, decide, note, edit, parts."""
    return f"{_case(number)}/{name.replace('_', '-')}"


def echo(number: str, at: str) -> str:
    return url_for("record.echo", number=number, at=at)


def recap_csv(number: str, by: str = "") -> str:
    return url_for("case.recap_csv", number=number, by=by or None)


def photo(number: str, sha256: str, thumb: bool = False) -> str:
    return url_for("case.photo", number=number, sha256=sha256, thumb=int(thumb) or None)


def workshop() -> str:
    return url_for("workshop.page")


def static(name: str) -> str:
    return f"/static/{name}"


def _case(number: str) -> str:
    return f"/cases/{quote(number, safe='')}"
