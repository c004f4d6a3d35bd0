"""The pages around a plan in other states: waiting, empty, hostile, in part open, refreshed."""

from __future__ import annotations

import re
import threading
import time
from decimal import Decimal
from typing import Any

import pytest

from hale_rail.actions.parts import decisions
from hale_rail.actions.recap import refresh, sourcing
from hale_rail.bench.vendor_link import VendorAnswer
from hale_rail.case.file import open_case
from hale_rail.case.recap.plans import order_plan
from hale_rail.case.recap.sourcing import bad_sources, sources
from hale_rail.case.worker import Analysis, Progress
from hale_rail.core.parts.families import Family
from hale_rail.core.recap.needs import Build, Mount
from hale_rail.core.recap.offers import Drawer, Offer, Origin, Vendor
from hale_rail.store import vendors as rows
from hale_rail.store.database import Store
from hale_rail.store.rework import REWORK_STEPS
from hale_rail.store.vendors import VendorRow
from larkmoor import catalogues
from tests.conftest import Client, part_id

CASE = "LW-014"
PAGE = f"/cases/{CASE}"
HOSTILE = '"><script>alert(1)</script>'


def ready(client: Client, path: str) -> str:
    while 'class="waiting"' in (page := client.text(path)):
        time.sleep(0.02)
    return page


class Held:
    """A plan that is computed only when it is let go."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.go = threading.Event()
        self.begun = threading.Event()
        monkeypatch.setattr("hale_rail.case.recap.plans.PLAN", Analysis("held", 1, self.compute))

    def compute(self, _: Any, progress: Progress) -> Any:
        progress(0.25)
        self.begun.set()
        self.go.wait(10)
        progress(0.5)
        return {"plans": {}, "alone": {}, "by_line": {"total": "0", "open": 0}}


WAITING = [
    (f"{PAGE}/recap", "25 % computed"), (f"{PAGE}/rework", "25 % computed"),
    ("/order", "25 % computed"), ("/order/labels", "still computed"),
    (f"/order/bench/{CASE}", "still computed"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "words"), WAITING)
def test_while_the_plan_is_computed_a_page_says_so_and_asks_again(
    client: Client, monkeypatch: pytest.MonkeyPatch, path: str, words: str
) -> None:
    held = Held(monkeypatch)
    client.text(path)
    assert held.begun.wait(10)
    page = client.text(path)
    held.go.set()
    assert words in page
    assert 'hx-trigger="load delay:1s"' in page


def test_an_order_is_stopped_and_begun_again_from_its_page(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    held = Held(monkeypatch)
    client.text("/order")
    assert held.begun.wait(10)
    assert client.post("/order/stop").status_code == 303
    page = client.text("/order")
    held.go.set()
    assert "Stopped before it was done" in page
    assert "Plan again" in page
    assert client.post("/order/again").status_code == 303


def test_a_plan_that_fails_says_so_and_breaks_no_page(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(_: Any, __: Progress) -> Any:
        raise RuntimeError("no solver")

    monkeypatch.setattr("hale_rail.case.recap.plans.PLAN", Analysis("broken", 1, broken))
    for path in (f"{PAGE}/recap", "/order"):
        assert "could not be computed" in ready(client, path)
    for path in (f"{PAGE}/rework", "/order/labels", "/order/order.csv", "/order/plan.json"):
        assert client.get(path).status_code == 200


def hostile_market(store: Store) -> None:
    """A vendor, a part and a drawer whose names would run if they were not written as text."""
    sourcing.save_vendors(store, [VendorRow(Vendor(HOSTILE, Decimal(1)), "EUR")])
    can = Build(Family.ALUMINIUM, 2200e-6, 10.0, "", 105.0, Mount.RADIAL, 5.0, 12.5, 20.0, 0.05)
    row = sources(store).vendors[0]
    with store.write() as connection:
        offer = Offer(HOSTILE, HOSTILE, can, ((1, Decimal("0.5")),))
        rows.put_offers(connection, row.id, [offer], "2026-01-02T03:04:05+00:00", HOSTILE)
    film = Build(Family.SUPPRESSION_FILM, 100e-9, 275.0, "X2", None, Mount.BOX, 15.0)
    sourcing.save_drawers(store, [Drawer(HOSTILE, film, 3, Origin.SALVAGED, False, HOSTILE)])


PATHS = ("/parts", "/order", f"/order?case={CASE}", "/order/labels", f"/order/bench/{CASE}",
         f"{PAGE}/recap", f"{PAGE}/rework")  # fmt: skip


def test_names_of_vendors_and_parts_are_written_not_run(client: Client, demo: Store) -> None:
    hostile_market(demo)
    for path in (*PATHS, f"{PAGE}/position?at={part_id(demo, CASE, 'C10')}"):
        page = ready(client, path)
        assert "<script>alert" not in page, path
    assert "&lt;script&gt;" in ready(client, "/order")
    text = client.text("/order/order.csv")
    assert '""><script>' in text
    named = client.post(
        f"{PAGE}/do/named", view="recap", part=part_id(demo, CASE, "Q1"), named=HOSTILE
    )
    assert named.status_code == 303
    assert "<script>alert" not in ready(client, f"{PAGE}/recap")


def test_what_stays_open_is_named_on_every_page(client: Client, demo: Store) -> None:
    hostile_market(demo)
    while (found := order_plan(demo, [CASE])).outcome.is_waiting:
        time.sleep(0.01)
    plan = found.plan("own")
    assert 0 < len(plan.unmet) < len(found.needs)
    order = ready(client, f"/order?case={CASE}")
    assert f"Stays open: {len(plan.unmet)} positions" in order
    for position in plan.open_positions:
        assert f"{CASE}:{found.needs[position].ref}" in order
    assert "No part fits; the nearest, " in ready(client, f"{PAGE}/recap")
    assert "without a part" in ready(client, f"{PAGE}/recap")


def test_parts_that_no_list_matches_are_named_by_hand(client: Client, demo: Store) -> None:
    page = ready(client, f"{PAGE}/recap")
    assert "PEN-Q8" in page
    q1 = part_id(demo, CASE, "Q1")
    client.post(f"{PAGE}/do/named", view="recap", part=q1, named="a switching transistor, 400 V")
    for path in (f"{PAGE}/recap", "/order", f"/order?case={CASE}", f"/order/bench/{CASE}"):
        shown = ready(client, path)
        assert "a switching transistor, 400 V" in shown
        assert "PEN-Q8" not in shown
    assert "a switching transistor" not in ready(client, "/order?case=LW-031")
    refused = client.post(f"{PAGE}/do/named", view="recap", part=q1, named="x" * 130)
    assert refused.status_code == 422
    assert "x" * 130 in refused.get_data(as_text=True)
    assert client.post(f"{PAGE}/do/named", view="recap", part=10**6, named="x").status_code == 404


def test_who_sent_bad_parts_is_told_where_parts_are_bought(client: Client, demo: Store) -> None:
    page = client.text("/parts")
    told = page.split("Who sent bad parts")[1].split("</section>")[0]
    assert 'href="/cases/LW-031/rework"' in told and "LW-031 C24" in told
    (line,) = bad_sources(demo)
    assert re.search(rf'<th scope="row">{line.source}</th>\s*<td class="num qty">1</td>', told)
    assert f'<td class="num">{line.fitted}</td>' in told and line.fitted >= 1


def test_tantalums_may_be_replaced_by_aluminium(client: Client, demo: Store) -> None:
    page = "/cases/LW-022"
    assert "aluminium in place of tantalum" in ready(client, "/order")
    client.post(f"{page}/do/tantalum", view="recap", by="offenders", tantalum="aluminium")
    after = ready(client, "/order")
    assert "aluminium in place of tantalum" not in after
    assert "LW-022:C50" in after
    wrong = client.post(f"{page}/do/tantalum", view="recap", by="offenders", tantalum="mica")
    assert wrong.status_code == 422


def test_a_part_fitted_without_the_walk_leaves_the_order(client: Client, demo: Store) -> None:
    ready(client, f"/order?case={CASE}")
    c13 = part_id(demo, CASE, "C13")
    client.post(f"{PAGE}/do/decide", view="recap", part=c13, kind="fitted", by="offenders")
    assert f"{CASE}:C13" not in ready(client, f"/order?case={CASE}")
    strip = ready(client, f"{PAGE}/rework").split('class="work-strip ')[1]
    assert (
        f'<a class="text-center text-decoration-none done" href="{PAGE}/rework?by={c13}"' in strip
    )
    decisions.decide(demo, CASE, c13, "undone")
    assert f"{CASE}:C13" in ready(client, f"/order?case={CASE}")


def test_a_refresh_is_shown_under_way_and_done(client: Client, demo: Store) -> None:
    """The stand-in for the network is a link that is let go by hand."""
    go = threading.Event()
    vendors = [VendorRow(v, "EUR", None, f"http://{k}.test/") for k, v in catalogues.KEYS.items()]
    sourcing.save_vendors(demo, vendors)
    part = {"sku": "N1", "family": "film", "value": "1u", "price_1": "0.10"}

    def link(_: str) -> VendorAnswer:
        go.wait(10)
        return VendorAnswer("EUR", [part])

    refresh.begin(demo, ["Drumlin Components"], link)
    page = client.text("/parts/prices")
    assert "Asking Drumlin Components" in page
    assert 'hx-trigger="load delay:1s"' in page
    go.set()
    while "Asking" in (page := client.text("/parts/prices")):
        time.sleep(0.01)
    assert "1 parts" in page
    assert 'hx-trigger="load' not in page
    own = [o.sku for o in sources(demo).offers if o.vendor == "Drumlin Components"]
    assert own == ["N1"]
    assert len([o for o in sources(demo).offers if o.vendor == "Pennant Passives"]) == len(
        catalogues.catalogue(catalogues.PENNANT)
    )


def test_the_recap_of_a_unit_nobody_read_asks_for_readings(client: Client, demo: Store) -> None:
    created = client.post("/cases/new", number="X-1", machine="Bare", symptom="dead",
                          start="template:dc-fed", school="proven", tolerance="strict",
                          unit_type="")  # fmt: skip
    assert created.status_code == 303
    assert "Nothing to replace by this school" in client.text("/cases/X-1/recap")
    assert "Nothing to replace yet" in client.text("/cases/X-1/rework")
    assert "Nothing to buy from a list" in client.text("/order?case=X-1")
    assert "what may stand here" in client.text("/cases/X-1/position")
    assert "No bags to label" in client.text("/order/labels?case=X-1")
    assert client.get("/order?case=NONE").status_code == 404
    assert client.get("/order/bench/NONE").status_code == 404
    assert open_case(demo, "X-1").rows.active(REWORK_STEPS) == ()


ADDRESSES = (
    "/order?case=" + "x" * 90,
    "/order?case=%00",
    "/order/order.csv?vendor=nobody",
    "/order/order.xlsx?vendor=%2F%3A",
    f"{PAGE}/position?at=99999999999999",
    f"{PAGE}/position?at=nonsense",
    f"{PAGE}/position?load=" + "y" * 500,
    f"{PAGE}/rework?by=nobody",
    f"{PAGE}/rework?by=99999999999999",
    f"{PAGE}/recap?by=none",
)


@pytest.mark.parametrize("path", ADDRESSES)
def test_no_address_breaks_a_page(client: Client, path: str) -> None:
    assert client.get(path).status_code in (200, 404)
