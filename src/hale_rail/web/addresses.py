"""Every address of the interface, built here and nowhere else.

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
    return _asked("/", query_fields)


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
    return _asked(path, {"at": at, "saved": saved, "by": by, "load": load})


def _asked(path: str, query: Mapping[str, object]) -> str:
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
    return f"{_case(number)}/echo?{urlencode({'at': at}, quote_via=quote)}"


@lru_cache(_REMEMBERED)
def beside(number: str, key: str, at: str) -> str:
    """The side list, the next step and a drawing as they are now beside a stage's point."""
    return f"{_case(number)}/beside?{urlencode({'view': key, 'at': at}, quote_via=quote)}"


@lru_cache(_REMEMBERED)
def news(number: str) -> str:
    """What other benches have added to a case meanwhile."""
    return f"{_case(number)}/news"


@lru_cache(_REMEMBERED)
def trim(number: str, at: str) -> str:
    """The trimming aid's figure for what is typed at a point."""
    return f"{_case(number)}/trim?{urlencode({'at': at}, quote_via=quote)}"


def report(
    number: str, issued: int | None = None, *, pdf: bool = False, whole: bool = False
) -> str:
    """The report as it would be issued now, or one as it was issued; as a page or as a PDF.

    `whole`: with every row, as it is printed.
    """
    path = f"{_case(number)}/report" + (f"/{issued}" if issued else "")
    return path + (".pdf" if pdf else "") + ("?whole=1" if whole else "")


def bundle(number: str) -> str:
    """The whole case as a bundle."""
    return f"{_case(number)}/bundle.zip"


@lru_cache(_REMEMBERED)
def ledger(kind: str = "", group: str = "") -> str:
    """The ledger over all cases, by a kind of group, one of them drawn."""
    return url_for("ledger.page", kind=kind or None, group=group or None)


@lru_cache(_REMEMBERED)
def practice(number: str = "") -> str:
    """The practice page, or the end of one practice."""
    return url_for("practice.end", number=number) if number else url_for("practice.page")


def practice_start() -> str:
    """Where a unit for practice is chosen."""
    return url_for("practice.start")


def practice_end(number: str) -> str:
    """Where the fault of a practice is named."""
    return url_for("practice.name_fault", number=number)


def instruments() -> str:
    """The workshop's instruments."""
    return url_for("instruments.page")


def instrument_add() -> str:
    """Where an instrument is added."""
    return url_for("instruments.add")


def instrument_ask() -> str:
    """Where an instrument is asked who it is."""
    return url_for("instruments.ask")


def instrument_assign() -> str:
    """Where an instrument is assigned to procedures."""
    return url_for("instruments.assign")


def instrument_remove() -> str:
    """Where an instrument is taken off the list."""
    return url_for("instruments.remove")


def instrument_family() -> str:
    """Where a family of instruments is described."""
    return url_for("instruments.family")


def new_from_bundle() -> str:
    """Where a case is taken in from a bundle."""
    return url_for("files.from_bundle")


def recap_csv(number: str, by: str = "") -> str:
    """The recap list as a file."""
    return url_for("recap.as_csv", number=number, by=by or None)


def document(number: str, document_id: int) -> str:
    """A drawing of a case or its type."""
    return f"{_case(number)}/documents/{document_id}"


def board_file(number: str, rail: str) -> str:
    """A rail's map as a file."""
    return f"{_case(number)}/board.json?{urlencode({'by': rail}, quote_via=quote)}"


def trace_table(number: str, rail: str) -> str:
    """The readings on a rail's map as a table."""
    return f"{_case(number)}/trace.csv?{urlencode({'by': rail}, quote_via=quote)}"


def board_table(number: str, rail: str) -> str:
    """A rail's map as a table."""
    return f"{_case(number)}/board.csv?{urlencode({'by': rail}, quote_via=quote)}"


def board_picture(number: str, rail: str) -> str:
    """The photo under a rail's map."""
    return f"{_case(number)}/board.jpg?{urlencode({'by': rail}, quote_via=quote)}"


def wave(number: str, record: int, what: str) -> str:
    """A wave record: `view.json` a window of it, `wave.csv`, or the `original`."""
    return f"{_case(number)}/waves/{record}/{what}"


def machine_file(number: str, name: str) -> str:
    """A file of the end of the work: `harness.csv`, `soak.csv`, `continuity/1.csv`."""
    return f"{_case(number)}/{quote(name)}"


def photo(number: str, sha256: str, thumb: bool = False) -> str:
    """A photo, or its thumbnail."""
    return f"{_case(number)}/photos/{sha256}.jpg" + ("?thumb=1" if thumb else "")


@lru_cache(_REMEMBERED)
def new_case() -> str:
    """The form that opens a case."""
    return url_for("new_case.page")


def new_symptoms() -> str:
    """What the symptom of a new case may mean."""
    return url_for("new_case.symptoms")


def preview() -> str:
    """The preview of a pasted list."""
    return url_for("new_case.preview")


@lru_cache(_REMEMBERED)
def workshop(what: str = "page") -> str:
    """The workshop's page, or what is done there."""
    return url_for(f"workshop.{what}")


def list_of(home: str, what: str, key: str) -> str:
    """What is done with a list by its key, on the page where it is."""
    return url_for(f"{home}.{what}", key=key)


@lru_cache(_REMEMBERED)
def sources(what: str = "page", vendor: str | None = None) -> str:
    """Where parts come from, or what is done there, with a vendor by name."""
    return url_for(f"sources.{what}", vendor=vendor)


@lru_cache(_REMEMBERED)
def order(number: str = "", what: str = "page", vendor: str | None = None) -> str:
    """The order over all open cases or for one, or a file of it."""
    return url_for(f"order.{what}", case=number or None, vendor=vendor)


def bench_sheet(number: str) -> str:
    """A case's positions in working order, for the bench, on paper."""
    return url_for("order.bench", number=number)


def unit_file(number: str) -> str:
    """A case's sheet as a file."""
    return url_for("files.unit", number=number)


def readings_file(number: str) -> str:
    """A case's readings as a file."""
    return url_for("files.readings", number=number)


def new_from_file() -> str:
    """Where a case is opened from a file."""
    return url_for("files.from_file")


def pattern_file(pattern: int) -> str:
    """A pattern as a file."""
    return url_for("files.pattern", pattern=pattern)


def new_pattern() -> str:
    """Where a file is kept as a pattern."""
    return url_for("files.take_pattern")


def static(name: str) -> str:
    """A file that ships with the program; the digest of all of them stands in its address."""
    return f"/static/{assets().digest}/{name}"


def sign_in(after: str = "") -> str:
    """The sign-in page; `after`: where to go from there."""
    return url_for("auth.sign_in_form", after=after or None)


def sign_out() -> str:
    """Where a bench signs out."""
    return url_for("auth.sign_out")


def this_bench() -> str:
    """The name of this bench."""
    return url_for("auth.bench_name")


@lru_cache(256)
def _case(number: str) -> str:
    return f"/cases/{quote(number, safe='')}"
