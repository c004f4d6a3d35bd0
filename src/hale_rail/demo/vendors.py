"""The demo's vendors: what their stand-in service tells, and where it answers this time."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from importlib import resources

from msgspec import Struct

from hale_rail.actions.recap import sourcing
from hale_rail.case.recap.sourcing import sources
from hale_rail.demo.workshop import VENDORS
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow


class StandIn(Struct, frozen=True):
    """A vendor as its stand-in tells it: its name, and its list by the columns of a price list."""

    name: str
    parts: Sequence[Mapping[str, str]]


def stand_ins() -> Mapping[str, StandIn]:
    """The vendors by the key that their address has."""
    text = (resources.files("hale_rail.demo") / VENDORS).read_text(encoding="utf-8")
    return {key: StandIn(**told) for key, told in json.loads(text).items()}


def point_to_service(store: Store, base: str) -> None:
    """Tell the vendors' rows where the stand-in service answers this time."""
    addresses = {each.name: f"{base}/{key}/parts.json" for key, each in stand_ins().items()}
    known = sources(store).vendors
    changed = [
        VendorRow(row.terms, row.currency, row.rate, addresses.get(row.name, row.service))
        for row in known
    ]
    if any(new.service != old.service for new, old in zip(changed, known, strict=True)):
        sourcing.save_vendors(store, changed)
