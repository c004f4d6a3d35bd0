"""Vendors, lists, drawers, notes and steps in the store: exact money, nothing lost, append-only."""

from __future__ import annotations

import sqlite3
from decimal import Decimal

import pytest
from msgspec.structs import replace

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.ratings import Ratings
from hale_rail.core.recap.needs import Build, Mount
from hale_rail.core.recap.offers import Drawer, Offer, Origin, Vendor
from hale_rail.core.recap.rated_parts import KIT, WARES, RatedBuild
from hale_rail.store import cases, log
from hale_rail.store import vendors as rows
from hale_rail.store.database import Store
from hale_rail.store.rework import RECAP_NOTES, REWORK_STEPS, REWORK_STRIKES, RecapNote, ReworkStep
from hale_rail.store.vendors import VendorRow
from tests.conftest import Bench

AT = "2026-01-02T03:04:05.000000+00:00"
FULL = Build(Family.SUPPRESSION_FILM, 100e-9, 275.0, "X1/Y2", 110.0, Mount.BOX, 15.0, 18.0, 12.5,
             0.4, 0.2, 5000.0)  # fmt: skip
BARE = Build(Family.FILM, 1e-6)
A = VendorRow(Vendor("A", Decimal("4.90"), Decimal("45.00")), "EUR", None, "http://a.test/x")
B = VendorRow(Vendor("B"), "GBP", Decimal("1.17345"))


def kept(store: Store) -> dict[str, VendorRow]:
    return {row.name: row for row in rows.vendors(store.read())}


def put(store: Store, *wanted: VendorRow) -> None:
    with store.write() as connection:
        rows.put_vendors(connection, wanted)


def test_vendors_come_back_to_the_last_digit(store: Store) -> None:
    put(store, A, B)
    found = kept(store)
    assert {name: replace(row, id=0) for name, row in found.items()} == {"A": A, "B": B}
    assert str(found["B"].rate) == "1.17345"


def test_a_vendor_that_left_and_came_back_has_its_list_and_columns_still(store: Store) -> None:
    put(store, A, B)
    row = kept(store)["A"]
    offer = Offer("A", "S1", FULL, ((1, Decimal("0.350")), (10, Decimal("0.3"))), 5, 5, 0)
    with store.write() as connection:
        rows.put_mapping(connection, row.id, {"sku": "Part no", "family": "=film"})
        rows.put_offers(connection, row.id, [offer, replace(offer, sku="S2", build=BARE)], AT, "l")
    put(store, B)
    assert set(kept(store)) == {"B"}
    assert rows.offers(store.read()) == []
    put(store, replace(A, terms=Vendor("a", Decimal(1))))
    again = kept(store)["a"]
    assert again.mapping == {"sku": "Part no", "family": "=film"}
    assert (again.priced_at, again.priced_from) == (AT, "l")
    (_, first), (last, second) = rows.offers(store.read())
    assert rows.offers(store.read(), last) == []
    assert len(rows.offers(store.read(), 0, 1)) == 1
    assert first == replace(offer, vendor="a")
    assert str(first.prices[0][1]) == "0.350"
    assert second.build == BARE


def test_parts_of_any_kind_and_kits_come_back_as_they_were_kept(store: Store) -> None:
    put(store, A)
    row = kept(store)["A"]
    fuse = RatedBuild(WARES["fuse"], Ratings(value=1.6, volt=250.0, speed="T", case="5x20"))
    offers = [
        Offer("A", "F", fuse, ((1, Decimal("0.20")),)),
        Offer("A", "K", RatedBuild(KIT), ((1, Decimal(5)),)),
        Offer("A", "S1", FULL, (), kit="K", per_kit=4),
        Offer("A", "S1", FULL, ((1, Decimal(1)),)),
    ]
    drawer = Drawer("F", fuse, 3, Origin.SALVAGED, False, "bag 4")
    with store.write() as connection:
        rows.put_offers(connection, row.id, offers, AT, "list")
        rows.put_drawers(connection, [drawer])
    assert [offer for _, offer in rows.offers(store.read())] == offers
    assert rows.drawers(store.read()) == [drawer]


def test_a_new_list_takes_the_old_ones_place_and_clears_what_failed(store: Store) -> None:
    put(store, A)
    row = kept(store)["A"]
    with store.write() as connection:
        rows.put_problem(connection, row.id, "No answer.")
    assert kept(store)["A"].problem == "No answer."
    for sku in ("S1", "S2"):
        with store.write() as connection:
            offer = Offer("A", sku, BARE, ((1, Decimal(1)),))
            rows.put_offers(connection, row.id, [offer], AT, "list")
    assert [o.sku for _, o in rows.offers(store.read())] == ["S2"]
    assert kept(store)["A"].problem == ""


def test_drawers_come_back_and_may_hold_one_part_twice(store: Store) -> None:
    wanted = [Drawer("S1", FULL, 5, Origin.OLD_STOCK, False, "1991"), Drawer("S1", FULL, 2),
              Drawer("S2", BARE, 0, Origin.SALVAGED, True)]  # fmt: skip
    with store.write() as connection:
        rows.put_drawers(connection, wanted)
    assert rows.drawers(store.read()) == wanted
    with store.write() as connection:
        rows.add_drawers(connection, wanted[:1])
    assert len(rows.drawers(store.read())) == 4


def test_the_same_order_is_received_once(store: Store) -> None:
    with store.write() as connection:
        taken = [rows.note_received(connection, sha * 64, AT, 3) for sha in ("a", "b", "a")]
    assert taken == [True, True, False]


REFUSED = [
    "INSERT INTO vendor (uuid, name) SELECT substr(uuid, 1, 36), '' FROM log",
    "UPDATE vendor SET mapping = 'no json'",
    "UPDATE offer SET moq = 0",
    "UPDATE offer SET available = -1",
    "UPDATE drawer SET origin = 'found'",
    "UPDATE drawer SET qty = -1",
    "INSERT INTO buying VALUES ('mood', 'blue')",
    "UPDATE rework_step SET step = 'fitted'",
    "DELETE FROM rework_step",
    "UPDATE rework_strike SET reason = 'none'",
    "DELETE FROM rework_strike",
    "UPDATE recap_note SET body = '{}'",
    "DELETE FROM recap_note",
    "UPDATE rework_strike SET step_id = 0",
]


@pytest.mark.parametrize("statement", REFUSED)
def test_what_cannot_be_or_may_not_be_changed_is_refused(store: Store, statement: str) -> None:
    bench = Bench(store)
    put(store, A)
    with store.write() as connection:
        case_id = cases.by_number(connection, bench.number).id
        offer = Offer("A", "S1", BARE, ((1, Decimal(1)),))
        rows.put_offers(connection, kept(store)["A"].id, [offer], AT, "list")
        rows.put_drawers(connection, [Drawer("S1", BARE, 1)])
        part = bench.id_of("C10")
        entries = [log.append(connection, case_id, AT, "decision", "x") for _ in range(3)]
        step = REWORK_STEPS.insert(connection, case_id, entries[0], ReworkStep(part, "out"))
        REWORK_STRIKES.strike(connection, case_id, entries[1], step, "no")
        RECAP_NOTES.insert(connection, case_id, entries[2], RecapNote(part, "", {"pitch_mm": "5"}))
    with pytest.raises(sqlite3.IntegrityError), store.write() as connection:
        connection.execute(statement)


def test_steps_and_notes_are_read_on_from_where_one_was(store: Store) -> None:
    bench = Bench(store)
    case_id = cases.by_number(store.read(), bench.number).id
    part = bench.id_of("C10")
    with store.write() as connection:
        for step in ("out", "cleared"):
            entry = log.append(connection, case_id, AT, "decision", step)
            REWORK_STEPS.insert(connection, case_id, entry, ReworkStep(part, step, "{}"))
        for board, body in (("", {"method": "cut"}), ("P1", {"plane": "yes"})):
            entry = log.append(connection, case_id, AT, "edited", board)
            RECAP_NOTES.insert(connection, case_id, entry, RecapNote(None, board, body))
    first, second = REWORK_STEPS.of_case(store.read(), case_id)
    assert (first.step, first.part_id, first.note) == ("out", part, "{}")
    assert REWORK_STEPS.of_case(store.read(), case_id, first.id) == [second]
    notes = RECAP_NOTES.of_case(store.read(), case_id)
    assert [(n.board, n.part_id, n.body) for n in notes] == [
        ("", None, {"method": "cut"}),
        ("P1", None, {"plane": "yes"}),
    ]
    assert RECAP_NOTES.of_case(store.read(), case_id, notes[0].id) == notes[1:]
    assert REWORK_STRIKES.of_case(store.read(), case_id) == []
