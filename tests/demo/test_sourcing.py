"""The demo's vendors, drawers and rework: consistent lists, and a story that holds."""

from __future__ import annotations

import json
from collections import Counter

import pytest

from hale_rail.actions.recap import sourcing as actions
from hale_rail.case.file import open_case
from hale_rail.case.recap.plans import case_plan
from hale_rail.case.recap.rework import jobs, judge_new, new_part_readings
from hale_rail.case.recap.sourcing import sources
from hale_rail.core.parts.families import Family, Grade, typical_esr
from hale_rail.core.procedures import NEW_CAP, NEW_ESR
from hale_rail.core.recap.needs import Build
from hale_rail.core.recap.rated_parts import RatedBuild
from hale_rail.core.recap.rework import ReworkAct
from hale_rail.demo.vendor_service import create_service
from hale_rail.demo.vendors import point_to_service, stand_ins
from hale_rail.formats.plans.plan_csv import read_offer
from hale_rail.store.database import Store
from larkmoor import catalogues


@pytest.mark.parametrize("vendor", catalogues.VENDORS, ids=lambda vendor: vendor.name)
def test_a_list_is_the_same_each_time_and_believable(vendor: catalogues.Vendor) -> None:
    offers = catalogues.catalogue(vendor)
    assert offers == catalogues.catalogue(vendor)
    assert max(Counter(offer.sku for offer in offers).values()) == 1
    for offer in offers:
        assert offer.vendor == vendor.name
        prices = [price for _, price in offer.prices]
        assert prices == sorted(prices, reverse=True)
        assert all(price > 0 for price in prices) and bool(prices) != bool(offer.kit)
        build = offer.build
        if isinstance(build, RatedBuild):
            continue
        if build.family is Family.ALUMINIUM and build.esr_ohm and (build.volt or 0) < 160:
            typical = typical_esr(build.family, build.farad, build.volt, Grade.LOW)
            assert typical is not None
            assert 0.9 < build.esr_ohm / typical.ohm < 1.2


def test_the_stand_in_tells_the_lists_as_they_are() -> None:
    rows = {key: each.parts for key, each in stand_ins().items()}
    assert set(rows) == set(catalogues.KEYS)
    client = create_service(rows).test_client()
    for key, vendor in catalogues.KEYS.items():
        told = json.loads(client.get(f"/{key}/parts.json").data)["parts"]
        offers = [read_offer({**part, "vendor": vendor.name}) for part in told]
        expected = catalogues.catalogue(vendor)
        assert [o.sku for o in offers] == [o.sku for o in expected]
        for offer, listed in zip(offers, expected, strict=True):
            assert offer.prices == listed.prices
            assert (offer.kit, offer.per_kit) == (listed.kit, listed.per_kit)
            if isinstance(offer.build, Build) and isinstance(listed.build, Build):
                assert offer.build.farad == pytest.approx(listed.build.farad)
            else:
                assert offer.build == listed.build
    assert client.get("/nobody/parts.json").status_code == 404
    assert b"Stand-in vendors" in client.get("/").data
    assert client.post("/", data={"vendor": "nobody", "mode": "live"}).status_code == 303


def test_the_vendors_are_pointed_to_where_the_stand_in_answers_this_time(demo: Store) -> None:
    for port in (5081, 40123):
        point_to_service(demo, f"http://127.0.0.1:{port}")
        found = {row.name: row.service for row in sources(demo).vendors}
        assert found["Pennant Passives"] == f"http://127.0.0.1:{port}/pennant/parts.json"
        assert all(f":{port}/" in address for address in found.values())
    assert len(sources(demo).offers) > 90
    actions.save_vendors(demo, [])
    point_to_service(demo, "http://127.0.0.1:1")
    assert sources(demo).vendors == ()


def test_the_pattern_editor_is_reworked_as_far_as_its_parts_came(demo: Store) -> None:
    case = open_case(demo, "LW-031")
    found = {job.part.ref: job for job in jobs(case)}
    walked = {ref for ref, job in found.items() if job.is_fitted}
    assert walked == {"C27", "C23", "C24"}
    for ref in walked:
        job = found[ref]
        assert job.next is None
        assert {
            ReworkAct.OUT,
            ReworkAct.POLARITY,
            ReworkAct.MEASURED,
            ReworkAct.FITTED,
            ReworkAct.LOOKED,
        } <= set(job.done)
        taken = new_part_readings(case, job)
        assert {NEW_ESR, NEW_CAP} == set(taken)
        judged = judge_new(job, taken)
        assert judged is not None
        assert judged.verdict.value == "good"
        assert job.new is not None
        assert job.new.sku in (job.facts.decision.reason if job.facts.decision else "")
    open_refs = {needs.ref for needs in case_plan(case).needs.values()}
    assert open_refs >= {"C20", "C21", "C22"}
    assert not open_refs & walked


def test_the_drawers_hold_every_origin_and_each_is_used_as_it_may_be(demo: Store) -> None:
    stock = sources(demo).stock
    assert {drawer.origin.code for drawer in stock} == {"new", "old-stock", "salvaged"}
    assert {drawer.is_trusted for drawer in stock} == {True, False}
