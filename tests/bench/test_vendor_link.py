"""A vendor's service asked over a real socket, in each way in which it can fail."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from decimal import Decimal

import pytest
from waitress import wasyncore
from waitress.server import create_server

from hale_rail.actions.recap import refresh, sourcing
from hale_rail.bench import vendor_link
from hale_rail.bench.reach import REACH
from hale_rail.bench.vendor_link import VendorAnswer, ask, parsed
from hale_rail.case.recap.sourcing import sources
from hale_rail.core.recap.offers import Vendor
from hale_rail.demo import vendor_service
from hale_rail.demo.vendor_service import MODES, create_service
from hale_rail.errors import InputError, ServiceError
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow

PARTS = [{"sku": "S1", "family": "film", "value": "100n", "price_1": "0.35", "available": "9"},
         {"sku": "S2", "family": "film", "value": "100n", "price_1": "often"}]  # fmt: skip


class Service:
    """The stand-in on a port of its own, and a vendor of a workshop that has its address."""

    def __init__(self, store: Store) -> None:
        self.app = create_service({"v": PARTS})
        self.server = create_server(self.app, host="127.0.0.1", port=0, threads=2)
        self.thread = threading.Thread(target=self.server.run, daemon=True)
        self.thread.start()
        REACH.add_own([self.server.effective_port])
        self.base = f"http://127.0.0.1:{self.server.effective_port}"
        self.address = f"{self.base}/v/parts.json"
        self.store = store
        sourcing.save_vendors(store, [VendorRow(Vendor("V"), "EUR", None, self.address)])

    def stop(self) -> None:
        """Close it in its own thread: closed from another one its numbers are given again while it
        still waits on them, and whoever gets them waits for ever."""
        self.server.trigger.pull_trigger(lambda: wasyncore.close_all(self.server._map))
        self.thread.join(10)

    def answers(self, mode: str) -> None:
        self.app.test_client().post("/", data={"vendor": "v", "mode": mode})

    @property
    def row(self) -> VendorRow:
        return sources(self.store).vendors[0]


@pytest.fixture
def service(store: Store, monkeypatch: pytest.MonkeyPatch) -> Iterator[Service]:
    monkeypatch.setattr(vendor_service, "_SLOW_S", 0.3)
    monkeypatch.setattr(vendor_service, "_SILENT_S", 1.5)
    made = Service(store)
    yield made
    made.stop()


def test_live_prices_are_taken_and_what_is_not_understood_is_told(service: Service) -> None:
    words = refresh.refresh(service.store, service.row)
    assert words == "1 parts, 1 not understood (part 2: price_1: “often” is not a price)"
    found = sources(service.store)
    assert [(o.sku, o.prices[0][1]) for o in found.offers] == [("S1", Decimal("0.35"))]
    assert service.row.priced_from == "its service"
    assert service.row.priced_at


def test_a_kit_is_refreshed_with_what_lies_in_it(store: Store) -> None:
    """A number may be sold alone and lie in a kit; what lies in a kit without a row is told."""
    sourcing.save_vendors(store, [VendorRow(Vendor("V"), "EUR", None, "http://v.test/")])
    single = {"sku": "A", "family": "film", "value": "1u", "price_1": "0.10"}
    inside = {"sku": "A", "family": "film", "value": "1u", "kit": "K", "per_kit": "4"}
    parts = [
        single, inside, {"sku": "K", "family": "kit", "price_1": "2.00"},
        {"sku": "B", "family": "film", "value": "2u", "kit": "L", "per_kit": "1"},
    ]  # fmt: skip
    row = sources(store).vendors[0]
    words = refresh.refresh(store, row, lambda _: VendorAnswer("EUR", parts))
    assert words == "3 parts, 1 not understood (B: kit L has no row of its own with a price)"
    assert {(o.sku, o.kit) for o in sources(store).offers} == {("A", ""), ("A", "K"), ("K", "")}


FAILS = {
    "failing": "answered 503",
    "silent": "No answer within",
    "empty": "no part at all",
    "malformed": "not JSON",
    "strange": "Not one part",
}


@pytest.mark.parametrize("mode", FAILS)
def test_a_service_that_fails_leaves_the_old_prices_and_says_so(
    service: Service, mode: str
) -> None:
    refresh.refresh(service.store, service.row)
    before = sources(service.store).offers
    service.answers(mode)
    with pytest.raises(ServiceError, match=FAILS[mode]):
        refresh.refresh(service.store, service.row, lambda address: ask(address, 0.5))
    assert sources(service.store).offers == before
    assert FAILS[mode] in service.row.problem
    service.answers("live")
    refresh.refresh(service.store, service.row)
    assert service.row.problem == ""


def test_a_slow_service_is_waited_for_beside_the_page(service: Service) -> None:
    service.answers("slow")
    refresh.begin(service.store)
    assert not refresh.progress(service.store)["V"].is_done
    refresh.begin(service.store)
    for _ in range(200):
        if refresh.progress(service.store)["V"].is_done:
            break
        threading.Event().wait(0.02)
    assert refresh.progress(service.store)["V"].words.startswith("1 parts")


def test_every_mode_of_the_stand_in_is_tried() -> None:
    assert set(MODES) == {*FAILS, "live", "slow"}


def test_no_service_no_address_and_another_currency_are_told(store: Store) -> None:
    sourcing.save_vendors(store, [VendorRow(Vendor("V"), "GBP", Decimal("1.2"))])
    with pytest.raises(InputError, match="No vendor has an address"):
        refresh.begin(store)
    row = sources(store).vendors[0]
    answer = vendor_link.VendorAnswer("EUR", [PARTS[0]])
    with pytest.raises(ServiceError, match="GBP is kept here"):
        refresh.refresh(store, row, lambda _: answer)
    for address in ("file:///etc/passwd", "ftp://127.0.0.1/x", "http://127.0.0.1:1/x"):
        with pytest.raises(ServiceError):
            ask(address, 0.5)


@pytest.mark.parametrize(
    "data", [b"", b" ", b"[]", b"{}", b'{"parts": 3}', b'{"parts": [1]}', b"[" * 100_000, b"\xff"]
)
def test_an_answer_of_another_shape_is_refused(data: bytes) -> None:
    with pytest.raises(ServiceError):
        parsed(data)
