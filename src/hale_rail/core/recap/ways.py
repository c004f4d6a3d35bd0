"""Other ways to buy the same: each vendor alone, and line by line, for comparison."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from hale_rail.core.recap.buying import Plan, settled
from hale_rail.core.recap.market import Market, Terms
from hale_rail.core.recap.matching import groups_of, match
from hale_rail.core.recap.optimise import line_by_line
from hale_rail.core.recap.rated import AnyNeeds


def from_alone(at: Market, vendor: str) -> Market:
    """The market with one vendor only; what is at hand stays."""
    items = tuple(
        replace(item, offers=[offer for offer in item.offers if offer.vendor == vendor])
        for item in at.items
    )
    return Market(tuple(i for i in items if i.offers or i.drawers), at.vendors)


def by_line(demand: Sequence[AnyNeeds], at: Market, terms: Terms) -> Plan:
    """What one buys who takes for each line what is cheapest there, and pays what is sent."""
    matches = match(groups_of(demand), at.items)
    return settled(matches, at, terms, line_by_line(matches, at, terms))
