"""From a case to a plan: demands by sheet and by hand, currencies, what is left out, orders."""

from __future__ import annotations

import threading
import time
from decimal import Decimal
from typing import Any

import pytest
from msgspec.structs import replace

from hale_rail.actions.parts import decisions
from hale_rail.actions.recap import recap, sourcing
from hale_rail.actions.report import closing
from hale_rail.case import worker
from hale_rail.case.file import CaseFile
from hale_rail.case.recap import kept_demands, plans
from hale_rail.case.recap.demands import needs_of, own_demand, to_buy
from hale_rail.case.recap.kept_demands import Demands, all_demands
from hale_rail.case.recap.plans import OWN, BuyingCost, OrderPlans, Planned, case_plan, order_plan
from hale_rail.case.recap.sourcing import sources
from hale_rail.case.worker import STOPPED, Analysis, Progress
from hale_rail.case.workshop.workshop import Buying
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.markings import CapacitorMarking, FuseMarking
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.core.recap.needs import Build, Mount, Role
from hale_rail.core.recap.offers import Drawer, Offer, Vendor
from hale_rail.store import vendors as rows
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow
from hale_rail.web import create_app
from tests.conftest import Bench

PARTS = ("C31 100u 25V +5 bank Z low-esr\nC32 100u 25V +5 bank Z\nC33 10u 16V tantalum +5\n"
         "C34 22u +5")  # fmt: skip
CAN = Build(Family.ALUMINIUM, 100e-6, 25.0, "", 105.0, Mount.RADIAL, 5.0, 8.0, 12.0, 0.2)


def done(ask: Any) -> Planned:
    while (found := ask()).outcome.is_waiting:
        time.sleep(0.01)
    planned: Planned = found
    return planned


def list_of(store: Store, name: str, *offers: Offer) -> None:
    row = next(v for v in sources(store).vendors if v.name == name)
    with store.write() as connection:
        rows.put_offers(connection, row.id, offers, "2026-01-02T03:04:05+00:00", "list")


@pytest.fixture
def recapped(store: Store) -> Bench:
    made = Bench(store, parts=PARTS)
    for ref in ("C31", "C32", "C33", "C34"):
        decisions.decide(store, made.number, made.id_of(ref), "replace", "wanted so")
    return made


def test_a_demand_follows_from_the_sheet(recapped: Bench) -> None:
    asked = {n.ref: n for n in own_demand(recapped.file)}
    assert set(asked) == {"C31", "C32", "C33", "C34"}
    first = asked["C31"]
    assert (first.farad, first.volt, first.rail_v) == (pytest.approx(100e-6), 25.0, 5.0)
    assert (first.grade, asked["C32"].grade) == (Grade.LOW, Grade.GENERAL)
    assert first.bank == asked["C32"].bank != ""
    assert asked["C33"].bank == ""
    assert asked["C33"].role is Role.DECOUPLING
    assert asked["C34"].volt is None
    for lacking in (CapacitorMarking(volt=25.0), CapacitorMarking(100e-6), FuseMarking(1.0)):
        part = replace(recapped.part("C31"), marking=lacking)
        assert needs_of(recapped.file, part) is None


def test_what_a_person_says_of_a_position_outranks_the_sheet(recapped: Bench) -> None:
    part = recapped.id_of("C31")
    typed = {"role": "start-up", "mount": "radial", "pitch_mm": "5,08", "max_diameter_mm": "8 mm",
             "max_height_mm": "13", "temp_c": "105", "esr_max_ohm": "0R4", "ripple_a": "250m",
             "grade": "general", "old_height_mm": "12"}  # fmt: skip
    recap.save_demand(recapped.store, recapped.number, part, typed)
    found = needs_of(recapped.file, recapped.part("C31"))
    assert found is not None
    assert (found.role, found.mount, found.pitch_mm) == (Role.START_UP, Mount.RADIAL, 5.08)
    assert (found.max_diameter_mm, found.max_height_mm, found.temp_c) == (8.0, 13.0, 105.0)
    assert (found.esr_max_ohm, found.ripple_a, found.grade) == (0.4, 0.25, Grade.GENERAL)
    recap.save_demand(recapped.store, recapped.number, part, {})
    back = needs_of(recapped.file, recapped.part("C31"))
    assert back is not None
    assert (back.mount, back.grade, back.role) == (None, Grade.LOW, Role.OUTPUT_FILTER)


def test_what_is_in_or_left_out_is_not_bought(recapped: Bench) -> None:
    for ref, kind in (("C31", "fitted"), ("C33", "left-out")):
        decisions.decide(recapped.store, recapped.number, recapped.id_of(ref), kind, "so it is")
    for school in RecapPolicy:
        asked = {n.ref for n in to_buy(recapped.file, school)}
        assert not asked & {"C31", "C33"}
        assert asked >= {"C32", "C34"}


def test_a_case_may_prefer_aluminium_to_tantalum(recapped: Bench) -> None:
    store = recapped.store
    stock = [Drawer("AL", Build(Family.ALUMINIUM, 10e-6, 25.0, "", 105.0), 9)]
    sourcing.save_drawers(store, stock)
    position = f"{recapped.number}/{recapped.id_of('C33')}"
    plan = done(lambda: case_plan(recapped.file)).plan("proven")
    assert "aluminium in place of tantalum" in plan.flags_by_position[position][0]
    recap.say_of_board(store, recapped.number, "", {"tantalum": "aluminium"})
    plan = done(lambda: case_plan(recapped.file)).plan("proven")
    assert plan.chosen[position].sku == "AL"
    assert position not in plan.flags_by_position


def test_lists_in_another_currency_are_counted_at_their_rate_or_left_out(recapped: Bench) -> None:
    store = recapped.store
    vendors = [VendorRow(Vendor("HERE", Decimal(2)), "EUR"),
               VendorRow(Vendor("THERE", Decimal(1), Decimal(20)), "GBP", Decimal("1.5")),
               VendorRow(Vendor("NOWHERE"), "USD")]  # fmt: skip
    sourcing.save_vendors(store, vendors)
    for row in vendors:
        list_of(store, row.name, Offer(row.name, f"{row.name}1", CAN, ((1, Decimal("0.10")),)))
    found = sources(store)
    assert {o.vendor: o.prices[0][1] for o in found.offers} == {
        "HERE": Decimal("0.10"),
        "THERE": Decimal("0.150"),
    }
    assert {t.name: (t.shipping, t.free_above) for t in found.terms} == {
        "HERE": (Decimal(2), None),
        "THERE": (Decimal("1.5"), Decimal(30)),
    }
    assert found.left_out == ("NOWHERE",)
    plan = done(lambda: case_plan(recapped.file)).plan("proven")
    assert plan.total == Decimal("1.5") + 3 * Decimal("0.15")
    sourcing.save_buying(store, Buying(currency="USD"))
    assert sources(store).left_out == ("HERE",)


def test_one_order_over_several_cases_and_each_by_itself(store: Store) -> None:
    benches = [Bench(store, parts="C31 100u 25V +5", number=f"T-{n}") for n in (1, 2)]
    for bench in benches:
        decisions.decide(store, bench.number, bench.id_of("C31"), "replace", "wanted so")
    sourcing.save_vendors(store, [VendorRow(Vendor("V", Decimal(3)))])
    list_of(store, "V", Offer("V", "S", CAN, ((1, Decimal("0.50")),)))
    sourcing.save_buying(store, Buying(spares_below=Decimal(0)))
    found = done(lambda: order_plan(store))
    totals = {name: str(p.total) for name, p in found.result.plans.items()}
    assert totals == {OWN: "4.00", "T-1": "3.50", "T-2": "3.50"}
    assert found.result.alone == {"V": BuyingCost(Decimal("4.00"), 0)}
    only = done(lambda: order_plan(store, ["T-2"]))
    assert list(only.result.plans) == [OWN]
    assert set(only.needs) == {f"T-2/{benches[1].id_of('C31')}"}


def test_without_a_part_or_without_a_demand_nothing_is_computed(recapped: Bench) -> None:
    empty = case_plan(recapped.file)
    assert empty.sources.is_empty
    assert empty.result == OrderPlans()
    sourcing.save_drawers(recapped.store, [Drawer("S", CAN, 4)])
    other = Bench(recapped.store, "template:dc-fed", number="T-2")
    assert order_plan(recapped.store, [other.number]).result == OrderPlans()


def test_a_stopped_analysis_ends_at_once_and_is_begun_anew(store: Store) -> None:
    hold, begun, ended = threading.Event(), threading.Event(), threading.Event()

    def compute(_: Any, progress: Progress) -> Any:
        begun.set()
        hold.wait(10)
        try:
            progress(0.5)
        finally:
            ended.set()
        return 7

    analysis = Analysis("slow", 1, compute)
    assert worker.ask(store, analysis, "x").is_waiting
    assert begun.wait(10)
    worker.stop(store, analysis, "x")
    stopped = worker.ask(store, analysis, "x")
    assert (stopped.is_stopped, stopped.problem) == (True, STOPPED)
    hold.set()
    assert ended.wait(10)
    assert worker.ask(store, analysis, "x").is_stopped
    worker.again(store, analysis, "x")
    while (found := worker.ask(store, analysis, "x")).is_waiting:
        time.sleep(0.01)
    assert found.result == 7
    worker.stop(store, analysis, "x")
    assert worker.ask(store, analysis, "x").result == 7


def test_a_plan_under_way_is_stopped_and_begun_again(recapped: Bench) -> None:
    sourcing.save_drawers(recapped.store, [Drawer("S", CAN, 4)])
    planned = done(lambda: case_plan(recapped.file))
    plans.stop(recapped.store, planned)
    assert done(lambda: case_plan(recapped.file)).result == planned.result
    plans.again(recapped.store, planned)
    assert done(lambda: case_plan(recapped.file)).result == planned.result


def test_an_order_opens_the_cases_that_changed_and_no_others(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Past the number of cases that are kept in memory too; a closed one is bought for no more."""
    benches = [Bench(store, number=f"T-{n:03d}", start="template:linear") for n in range(80)]
    benches[3].look("C1", "bulge")
    opened: list[str] = []
    real = kept_demands.open_case

    def counted(of: Store, number: str) -> CaseFile:
        opened.append(number)
        return real(of, number)

    monkeypatch.setattr(kept_demands, "open_case", counted)
    found = all_demands(store, 60.0)
    assert found.share == 1.0
    assert len(opened) == 80
    assert [demand.number for demand in found.demands] == ["T-003"]
    opened.clear()
    assert all_demands(store, 60.0) == found
    assert opened == []
    benches[70].look("C2", "leak")
    assert [d.number for d in all_demands(store, 60.0).demands] == ["T-003", "T-070"]
    assert opened == ["T-070"]
    closing.hand_back(store, "T-003", benches[3].version, "as-it-is")
    assert [d.number for d in all_demands(store, 60.0).demands] == ["T-070"]


def test_where_many_cases_changed_an_order_says_how_far_it_is(store: Store) -> None:
    for n in range(4):
        Bench(store, number=f"T-{n}", start="template:linear").look("C1", "bulge")
    shares = []
    while not shares or shares[-1] < 1:
        shares.append(all_demands(store, 0.0).share)
    assert shares == [1 / 4, 1 / 3, 1 / 2, 1.0]
    assert len(all_demands(store, 0.0).demands) == 4


def test_an_order_that_is_gathered_still_has_its_pages(
    demo: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Nothing is planned yet: each says so, or is empty, and none breaks."""
    client = create_app(demo).test_client()
    monkeypatch.setattr(plans, "all_demands", lambda *_: Demands((), 0.5))
    assert "50 % computed" in client.get("/order").text
    for path in ("/order/plan.json", "/order/order.csv", "/order/order.xlsx", "/order/labels"):
        assert client.get(path).status_code == 200, path
