"""Fills the demo's drawers and price lists, and says what its positions ask."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail import clock
from hale_rail.actions.recap import rework as steps
from hale_rail.actions.recap import sourcing
from hale_rail.actions.recap.recap import save_demand, save_ratings
from hale_rail.case.file import open_case
from hale_rail.case.recap.rework import Job, jobs, new_points
from hale_rail.case.recap.sourcing import sources
from hale_rail.core.procedures import NEW_CAP, NEW_ESR
from hale_rail.core.recap.needs import Build
from hale_rail.core.recap.offers import Offer
from hale_rail.core.recap.rework import ReworkAct
from hale_rail.formats.plans.order_files import build_cells
from hale_rail.formats.plans.plan_csv import PART_COLUMNS
from hale_rail.store import vendors as rows
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow
from larkmoor import catalogues
from larkmoor.hand import Hand

_CAN = {"mount": "radial", "temp_c": "105"}
#: what positions ask, by case: pitch, greatest diameter, greatest height, the old can's size
_ROOM: dict[str, dict[str, tuple[str, str, str, str, str]]] = {
    "LW-014": {
        "C10": ("5", "13", "28", "12.5", "25"),
        "C11": ("5", "13", "28", "12.5", "25"),
        "C12": ("5", "13", "28", "12.5", "25"),
        "C13": ("5", "13", "28", "12.5", "25"),
        "C2": ("2.5", "8", "16", "8", "12"),
        "C14": ("5", "12.5", "25", "12.5", "20"),
    },
    "LW-031": {
        "C20": ("7.5", "18", "36", "16", "31"),
        "C21": ("7.5", "18", "36", "16", "31"),
        "C22": ("7.5", "18", "36", "16", "31"),
        "C23": ("7.5", "16", "36", "16", "30"),
        "C24": ("7.5", "16", "36", "16", "30"),
        "C27": ("2.5", "6.3", "12", "6.3", "11"),
    },
}
#: where the first new part that was taken read bad
_BAD_FIRST = "C24"
_BOX = {"CX1": "15", "CX2": "15", "CY1": "10", "CY2": "10"}


def fill(store: Store) -> None:
    """Vendors with their lists, and the drawers."""
    sourcing.save_vendors(store, [VendorRow(vendor, "EUR") for vendor in catalogues.VENDORS])
    sourcing.save_drawers(store, catalogues.stock())
    known = {row.name: row.id for row in sources(store).vendors}
    with store.write() as connection:
        for vendor in catalogues.VENDORS:
            offers = catalogues.catalogue(vendor)
            rows.put_offers(connection, known[vendor.name], offers, clock.now(), "demo list")


def measure_room(hand: Hand) -> None:
    """What a person measured at the board: pitch, room, and the old cans."""
    for ref, (pitch, wide, tall, old_wide, old_tall) in _ROOM.get(hand.number, {}).items():
        typed = {
            **_CAN,
            "pitch_mm": pitch,
            "max_diameter_mm": wide,
            "max_height_mm": tall,
            "old_diameter_mm": old_wide,
            "old_height_mm": old_tall,
        }
        save_demand(hand.store, hand.number, hand.part(ref).id, typed, hand.moment())
    for ref, pitch in _BOX.items():
        if any(part.ref == ref for part in hand.sheet.parts):
            typed = {"mount": "box", "pitch_mm": pitch}
            save_demand(hand.store, hand.number, hand.part(ref).id, typed, hand.moment())


def rework(hand: Hand, *refs: str) -> None:
    """Walk positions through the rework, each new part read before it is fitted."""
    for ref in refs:
        part_id = hand.part(ref).id
        for act in _job(hand, part_id).acts:
            if act is ReworkAct.MEASURED and ref == _BAD_FIRST:
                _measure(hand, _job(hand, part_id), 4.0)
                steps.take_another(hand.store, hand.number, part_id, hand.moment())
            if act is ReworkAct.MEASURED:
                _measure(hand, _job(hand, part_id))
            steps.step(hand.store, hand.number, part_id, act.code, hand.moment())


def _job(hand: Hand, part_id: int) -> Job:
    found = jobs(open_case(hand.store, hand.number))
    return next(job for job in found if job.part.id == part_id)


def _measure(hand: Hand, job: Job, times: float = 1.0) -> None:
    """What a new part shows: a little less than its list says, a bad one `times` the ESR."""
    build = job.new.build if job.new else None
    if not isinstance(build, Build):
        return
    figures = {NEW_ESR: times * build.esr_ohm if build.esr_ohm else None, NEW_CAP: build.farad}
    for point in new_points(job):
        value = figures.get(point.procedure)
        if value:
            hand.read(point, f"{0.96 * value:.3g}" + ("" if point.procedure is NEW_ESR else "F"))


def rate(hand: Hand, ref: str, **said: str) -> None:
    """Say what a part that is not a capacitor is rated for, read off the old one."""
    save_ratings(hand.store, hand.number, hand.part(ref).id, said, hand.moment())


def told() -> Mapping[str, Mapping[str, Any]]:
    """The vendors as their stand-in service tells them, by the key of its address."""
    return {
        key: {
            "name": vendor.name,
            "parts": [_told(offer) for offer in catalogues.catalogue(vendor)],
        }
        for key, vendor in catalogues.KEYS.items()
    }


def _told(offer: Offer) -> dict[str, str]:
    return {
        "sku": offer.sku,
        **dict(zip(PART_COLUMNS, build_cells(offer.build), strict=True)),
        "moq": str(offer.moq),
        "pack": str(offer.pack),
        "kit": offer.kit,
        "per_kit": str(offer.per_kit or ""),
        "available": "" if offer.available is None else str(offer.available),
        **{f"price_{start}": str(price) for start, price in offer.prices},
    }
