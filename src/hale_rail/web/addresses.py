"""The addresses that pages ask for again and again; any other is `url_for` where it stands.

What a page holds dozens of is written out, not asked of the router; `tests/web/test_addresses.py`
holds the two to each other.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from urllib.parse import quote, urlencode

from flask import url_for

from hale_rail.web.assets import assets

#: addresses that pages hold again and again
_REMEMBERED = 4096


def whole(text: str) -> int:
    """A whole number of an address or a form; ValueError beyond what the store can count."""
    value = int(text)
    if abs(value) >= 2**53:
        raise ValueError(text)
    return value


@lru_cache(_REMEMBERED)
def bench(query: str = "", page: int = 1, kept: str = "bench") -> str:
    """The bench page, a search, or what was put away or handed back."""
    query_fields = {
        "q": query,
        "page": page if page > 1 else "",
        "kept": kept if kept != "bench" else "",
    }
    return _with_query("/", query_fields)


@lru_cache(_REMEMBERED)
def stage(
    number: str,
    key: str = "cold",
    at: str | int = "",
    saved: int | None = None,
    by: str = "",
    load: str = "",
) -> str:
    """A stage of a case: at a test point or a part's id, with the reading just saved, and so on."""
    path = _case(number) + ("" if key == "cold" else f"/{key}")
    if not (at or saved or by or load):
        return path
    return _with_query(path, {"at": at, "saved": saved, "by": by, "load": load})


@lru_cache(_REMEMBERED)
def dump(number: str, key: str) -> str:
    """A ROM's dump as it was kept."""
    return f"{_case(number)}/machine/dumps/{quote(key)}.bin"


def _with_query(path: str, query: Mapping[str, object]) -> str:
    """A path with what it is asked, where it is asked anything."""
    given = {name: value for name, value in query.items() if value}
    return f"{path}?{urlencode(given, quote_via=quote)}" if given else path


@lru_cache(_REMEMBERED)
def unfolded(number: str, key: str, at: str = "") -> str:
    """A stage's page with what its panel folds away."""
    path = stage(number, key, at)
    return f"{path}{'&' if '?' in path else '?'}unfolded=1"


@lru_cache(_REMEMBERED)
def action(number: str, name: str) -> str:
    """Where a form of a case posts to."""
    return f"{_case(number)}/do/{name}"


@lru_cache(_REMEMBERED)
def echo(number: str, at: str) -> str:
    """What a text means at a point, while it is typed."""
    return _with_query(f"{_case(number)}/echo", {"at": at})


@lru_cache(_REMEMBERED)
def beside(number: str, key: str, at: str) -> str:
    """The side list, the next step and a drawing as they are now beside a stage's point."""
    return _with_query(f"{_case(number)}/beside", {"view": key, "at": at})


@lru_cache(_REMEMBERED)
def news(number: str) -> str:
    """What other benches have added to a case meanwhile."""
    return f"{_case(number)}/news"


@lru_cache(_REMEMBERED)
def trim(number: str, at: str) -> str:
    """The trimming aid's figure for what is typed at a point."""
    return _with_query(f"{_case(number)}/trim", {"at": at})


def report(
    number: str, issued: int | None = None, *, pdf: bool = False, whole: bool = False
) -> str:
    """The report as it would be issued now, or one as it was issued; as a page or as a PDF.

    `whole`: with every row, as it is printed.
    """
    path = f"{_case(number)}/report" + (f"/{issued}" if issued else "")
    return path + (".pdf" if pdf else "") + ("?whole=1" if whole else "")


@lru_cache(_REMEMBERED)
def ledger(kind: str = "", group: str = "") -> str:
    """The ledger over all cases, by a kind of group, one of them drawn."""
    return url_for("ledger.page", kind=kind or None, group=group or None)


@lru_cache(_REMEMBERED)
def practice(number: str = "") -> str:
    """The practice page, or the end of one practice."""
    return url_for("practice.end", number=number) if number else url_for("practice.page")


def wave(number: str, record: int, what: str) -> str:
    """A wave record: `view.json` a window of it, `wave.csv`, or the `original`."""
    return f"{_case(number)}/waves/{record}/{what}"


def photo(number: str, sha256: str, thumb: bool = False) -> str:
    """A photo, or its thumbnail."""
    return f"{_case(number)}/photos/{sha256}.jpg" + ("?thumb=1" if thumb else "")


def board_picture(number: str, sha256: str, key: str, name: str = "small.jpg") -> str:
    """A picture of a board made of a photo as it is laid: the small whole, or a tile."""
    return f"{_case(number)}/photos/{sha256}/{key}/{name}"


def crop(number: str, sha256: str, key: str, x_mm: float, y_mm: float, side_mm: float) -> str:
    """A square of a board round a place, told in tenths of a millimetre."""
    tenths = "/".join(f"{10 * value:.0f}" for value in (x_mm, y_mm, side_mm))
    return f"{_case(number)}/photos/{sha256}/{key}/crop/{tenths}.jpg"


@lru_cache(_REMEMBERED)
def where(number: str, by: str = "", at: str | int = "", load: str = "", find: str = "") -> str:
    """Where a part is: a photo of a board or the board itself, a part chosen, what is sought."""
    return _with_query(f"{_case(number)}/where", {"by": by, "at": at, "load": load, "find": find})


@lru_cache(_REMEMBERED)
def workshop(what: str = "page") -> str:
    """The workshop's page, or what is done there."""
    return url_for(f"workshop.{what}")


@lru_cache(_REMEMBERED)
def sources(what: str = "page", vendor: str | None = None) -> str:
    """Where parts come from, or what is done there, with a vendor by name."""
    return url_for(f"sources.{what}", vendor=vendor)


@lru_cache(_REMEMBERED)
def order(number: str = "", what: str = "page", vendor: str | None = None) -> str:
    """The order over all open cases or for one, or a file of it."""
    return url_for(f"order.{what}", case=number or None, vendor=vendor)


def static(name: str) -> str:
    """A file that ships with the program; the digest of all of them stands in its address."""
    return f"/static/{assets().digest}/{name}"


@lru_cache(256)
def _case(number: str) -> str:
    return f"/cases/{quote(number, safe='')}"
