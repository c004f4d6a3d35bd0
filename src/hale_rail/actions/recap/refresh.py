"""Refreshing prices from vendors' services, beside the pages; what fails leaves the old prices."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct

from hale_rail import clock
from hale_rail.bench.vendor_link import VendorAnswer, ask
from hale_rail.case.recap.sourcing import sources
from hale_rail.core.recap.offers import Offer
from hale_rail.errors import HaleRailError, InputError, ServiceError
from hale_rail.formats.plans.plan_csv import is_lost, kit_words, kits_of, read_offer
from hale_rail.store import vendors as rows
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow

_LOG = logging.getLogger("hale_rail")
_MOST_TOLD = 3
Link = Callable[[str], VendorAnswer]


class Progress(Struct, frozen=True):
    """The state of a vendor's refresh: `is_done`, and what came of it in words."""

    is_done: bool
    words: str


_AT_ONCE = threading.BoundedSemaphore(4)
_states: dict[tuple[str, str], Progress] = {}
_lock = threading.Lock()


def begin(store: Store, names: Sequence[str] = (), link: Link = ask) -> None:
    """Ask the services of some vendors, or of all that have one; none is asked twice at once."""
    wanted = [
        row for row in sources(store).vendors if row.service and (not names or row.name in names)
    ]
    if not wanted:
        raise InputError("No vendor has an address for its live stock.")
    with _lock:
        fresh = [row for row in wanted if not _is_running(store, row.name)]
        for row in fresh:
            _states[store.token, row.name] = Progress(False, "asking")
    for row in fresh:
        # daemon threads, so that stopping the server does not wait for a vendor
        threading.Thread(target=_refresh, args=(store, row, link), daemon=True).start()


def _is_running(store: Store, name: str) -> bool:
    known = _states.get((store.token, name))
    return known is not None and not known.is_done


def progress(store: Store) -> Mapping[str, Progress]:
    """The state of a data folder's refreshes, by vendor."""
    with _lock:
        return {name: state for (token, name), state in _states.items() if token == store.token}


def _refresh(store: Store, row: VendorRow, link: Link) -> None:
    try:
        with _AT_ONCE:
            words = refresh(store, row, link)
    except HaleRailError as error:
        words = str(error)
    except Exception:  # noqa: BLE001  it is logged, and the page says so
        _LOG.exception("refresh of %s failed", row.name)
        words = "This went wrong; the program's log says how. The old prices stay."
    finally:
        store.close()
    with _lock:
        _states[store.token, row.name] = Progress(True, words)


def refresh(store: Store, row: VendorRow, link: Link = ask) -> str:
    """Take one vendor's live stock and prices over; in words, how many parts.

    Raises ServiceError where nothing could be taken; that is kept beside the vendor's old prices.
    """
    try:
        answer = link(row.service)
        offers, wrong = _offers(answer, row)
    except ServiceError as error:
        with store.write() as connection:
            rows.put_problem(connection, row.id, str(error))
        raise
    with store.write() as connection:
        rows.put_offers(connection, row.id, offers, clock.now(), "its service")
    told = "; ".join(wrong[:_MOST_TOLD])
    left = f", {len(wrong)} not understood ({told})" if wrong else ""
    return f"{len(offers)} parts{left}"


def _offers(answer: VendorAnswer, row: VendorRow) -> tuple[list[Offer], list[str]]:
    """The parts of an answer; raises ServiceError for another currency, or where none is one."""
    if answer.currency and row.currency and answer.currency.upper() != row.currency.upper():
        raise ServiceError(
            f"It answers in {answer.currency[:8]}, {row.currency} is kept here: "
            "nothing was imported."
        )
    offers: dict[tuple[str, str], Offer] = {}
    wrong = []
    for number, part in enumerate(answer.parts, 1):
        try:
            offer = read_offer({**part, "vendor": row.name}, currency=row.currency)
            offers[offer.sku, offer.kit] = offer
        except InputError as error:
            wrong.append(f"part {number}: {error}")
    kits = kits_of(offers.values())
    lost = [key for key, offer in offers.items() if is_lost(offer, kits)]
    wrong += [f"{sku}: {kit_words(offers.pop((sku, kit)))}" for sku, kit in lost]
    if not offers:
        raise ServiceError(f"Not one part of the answer is understood ({wrong[0]}).")
    return list(offers.values()), wrong
