"""Where the workshop's parts come from: drawers, and vendors' lists in the workshop's currency."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from decimal import Decimal

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.workshop.workshop import Buying, workshop
from hale_rail.core.recap.market import Market, market
from hale_rail.core.recap.offers import Drawer, Offer, Vendor
from hale_rail.store import bad_parts
from hale_rail.store import vendors as rows
from hale_rail.store.bad_parts import BadPart
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow


class Sources(Struct, frozen=True):
    """Vendors with their terms and offers in the workshop's currency, and the drawers.

    `left_out`: vendors whose currency has no rate, so that their prices mean nothing here; `lists`
    the hash of the offers.
    """

    buying: Buying
    vendors: tuple[VendorRow, ...]
    terms: tuple[Vendor, ...]
    offers: tuple[Offer, ...]
    stock: tuple[Drawer, ...]
    left_out: tuple[str, ...]
    lists: str = ""

    @property
    def is_empty(self) -> bool:
        """True where no list and no drawer has a part."""
        return not (self.offers or self.stock)

    def row(self, name: str) -> VendorRow | None:
        """A vendor by name, or None."""
        return next((row for row in self.vendors if row.name.lower() == name.lower()), None)


#: lists are read again only when one of them changed: (vendors, currency) and what they gave
_cache: OrderedDict[str, tuple[object, Sources]] = OrderedDict()
_markets: OrderedDict[str, tuple[object, Market]] = OrderedDict()
_lock = threading.Lock()
_CACHED, _CHUNK = 8, 20_000


def sources(store: Store) -> Sources:
    """What a plan may draw on."""
    buying = workshop(store).buying
    known = tuple(rows.vendors(store.read()))
    stock = tuple(drawer for drawer in rows.drawers(store.read()) if drawer.qty)
    state = (known, buying.currency)
    with _lock:
        cached = _cache.get(store.token)
    if cached and cached[0] == state:
        return replace(cached[1], buying=buying, stock=stock)
    rates = {row.name: rate_of(row, buying.currency) for row in known}
    offers = _read_offers(store, rates)
    sources = Sources(
        buying,
        known,
        tuple(_converted(row.terms, rate) for row in known if (rate := rates[row.name])),
        offers,
        stock,
        tuple(name for name, rate in rates.items() if not rate),
        lists_hash(offers),
    )
    with _lock:
        _cache[store.token] = (state, sources)
        _cache.move_to_end(store.token)
        while len(_cache) > _CACHED:
            _cache.popitem(last=False)
    return sources


def drawers(store: Store) -> list[Drawer]:
    """Every drawer, the empty ones too."""
    return rows.drawers(store.read())


def _read_offers(store: Store, rates: Mapping[str, Decimal | None]) -> tuple[Offer, ...]:
    """The lists in the workshop's currency, read in pieces so that no single read takes long."""
    offers: list[Offer] = []
    last = 0
    while piece := rows.offers(store.read(), last, _CHUNK):
        last = piece[-1][0]
        offers += [_offer(o, rate) for _, o in piece if (rate := rates.get(o.vendor))]
    return tuple(sorted(offers, key=lambda offer: offer.vendor))


def lists_hash(offers: Sequence[Offer]) -> str:
    """The hash of what lists say, which stands for them where they are long."""
    digest = hashlib.sha256()
    for offer in offers:
        digest.update(repr(offer).encode())
    return digest.hexdigest()


def market_of(sources: Sources) -> Market:
    """Every part of the lists and drawers; made again only when one of them changed."""
    state = (sources.lists, sources.stock, sources.terms)
    with _lock:
        known = _markets.get(sources.lists)
    if known is None or known[0] != state:
        known = (state, market(sources.offers, sources.stock, sources.terms))
        with _lock:
            _markets[sources.lists] = known
            while len(_markets) > _CACHED:
                _markets.popitem(last=False)
    return known[1]


def rate_of(row: VendorRow, currency: str) -> Decimal | None:
    """What one of a vendor's currency costs in the workshop's; None while that is not known."""
    if not row.currency or row.currency == currency:
        return Decimal(1)
    return row.rate


def _converted(vendor: Vendor, rate: Decimal) -> Vendor:
    free = vendor.free_above
    return Vendor(vendor.name, vendor.shipping * rate, None if free is None else free * rate)


def _offer(offer: Offer, rate: Decimal) -> Offer:
    if rate == 1:
        return offer
    return replace(offer, prices=tuple((start, price * rate) for start, price in offer.prices))


def with_parts(sources: Sources) -> Sequence[str]:
    """Names of the vendors that offer something."""
    return sorted({offer.vendor for offer in sources.offers})


class FromSource(Struct, frozen=True):
    """What came from one source: so many fitted, and those that read bad before they were."""

    source: str
    fitted: int
    bad: tuple[BadPart, ...]


def bad_sources(store: Store) -> list[FromSource]:
    """Sources of new parts that read bad, the most first."""
    fitted = bad_parts.fitted_by_source(store.read())
    parts: dict[str, list[BadPart]] = {}
    for part in bad_parts.listed(store.read()):
        parts.setdefault(part.source, []).append(part)
    lines = [FromSource(name, fitted.get(name, 0), tuple(bad)) for name, bad in parts.items()]
    return sorted(lines, key=lambda line: -len(line.bad))
