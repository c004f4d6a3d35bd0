"""What the cases on the bench want bought, without opening those that did not change.

An order over all of them so grows with what is bought, not with how many cases there are.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from contextlib import suppress

from msgspec import Struct

from hale_rail import clock
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.recap.demands import named, own_demand
from hale_rail.case.recap.recap import others
from hale_rail.case.workshop.workshop import workshop
from hale_rail.core.recap.rated_parts import AnyNeeds
from hale_rail.errors import NotFoundError, StoreError
from hale_rail.formats.codec import from_text, to_text
from hale_rail.store import demands
from hale_rail.store.database import Store

#: goes up when the same case comes to want something else
_VERSION = 3


class ByHand(Struct, frozen=True):
    """A part that is bought by hand: where it is, its kind and rating, what is bought."""

    case: str
    part_id: int
    ref: str
    kind: str
    rating: str
    named: str


class Demand(Struct, frozen=True):
    """What is to be bought for a case: of lists, and by hand."""

    number: str
    needs: tuple[AnyNeeds, ...]
    by_hand: tuple[ByHand, ...]


class Demands(Struct, frozen=True):
    """What is known of all cases on the bench, and the share of them that is known (0 to 1)."""

    demands: tuple[Demand, ...]
    share: float


def demand_of(case: CaseFile) -> Demand:
    """What is to be bought for one case by its own school."""
    by_hand = tuple(
        ByHand(case.number, other.part.id, other.part.ref, line.kind.name, line.rating,
               named(case, other.part))
        for line in others(case)
        for other in line.others
        if not other.is_fitted and (named(case, other.part) or not line.kind.rules)
    )  # fmt: skip
    return Demand(case.number, tuple(own_demand(case)), by_hand)


def demands_of(store: Store, numbers: Sequence[str]) -> Demands:
    """What some cases want bought; raises NotFoundError."""
    return Demands(tuple(demand_of(open_case(store, number)) for number in numbers), 1.0)


def all_demands(store: Store, patience_s: float) -> Demands:
    """What is to be bought for every case on the bench, as far as patience goes."""
    by = _judged_by(store)
    changed = demands.stale(store.read(), by)
    ends_s, done = time.monotonic() + patience_s, 0
    unkept: list[Demand] = []
    for number in changed:
        with suppress(NotFoundError):  # it was renamed meanwhile
            unkept += _keep(open_case(store, number), by)
        done += 1
        if time.monotonic() > ends_s:
            break
    known = [from_text(body, Demand) for _, body in demands.kept(store.read(), by)]
    told = {demand.number: demand for demand in (*known, *unkept)}
    share = 1.0 if done == len(changed) else done / len(changed)
    return Demands(tuple(told[number] for number in sorted(told)), share)


def _judged_by(store: Store) -> str:
    """What a demand follows from beside its case: the year, and the workshop's own lifetimes."""
    return f"{_VERSION}|{clock.this_year()}|{workshop(store).priors.suppressor_years}"


def _keep(case: CaseFile, judged_by: str) -> list[Demand]:
    """Keep a case's demand; returns it where it cannot be kept."""
    demand = demand_of(case)
    is_any = bool(demand.needs or demand.by_hand)
    body = to_text(demand) if is_any else demands.NOTHING
    try:
        with case.store.jot() as connection:
            demands.put(connection, case.case.id, case.case.revision, judged_by, body)
    except StoreError:
        return [demand] if is_any else []
    return []
