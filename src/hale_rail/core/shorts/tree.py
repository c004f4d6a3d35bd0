"""What hangs on a rail, and its ohms with a part of that attached."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Iterable, Mapping
from functools import cached_property

from msgspec import Struct

#: a reading's error: a share of it, and leads and contacts in ohms
_ERROR_SHARE, _ERROR_OHM = 0.02, 0.02
#: an id is part of an address
_LONGEST = 20
#: what an open rail still may conduct, in S
OPEN_S = 2e-3


def free_id(name: str, taken: Collection[str]) -> str:
    """An id for a name that is not taken: letters, figures and dashes, a number if need be."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:_LONGEST] or "item"
    names = (base if n < 2 else f"{base}-{n}" for n in range(1, len(taken) + 2))
    return next(found for found in names if found not in taken)


class Item(Struct, frozen=True):
    """A thing on the rail; the root (`parent` "") is the supply itself, which stays."""

    id: str
    parent: str
    name: str
    weight: float
    minutes: float


class Tree(Struct, frozen=True, dict=True):
    """What hangs on a rail, parents before their children, the root first."""

    rail: str
    items: tuple[Item, ...]

    @cached_property
    def root(self) -> Item:
        """The supply itself."""
        return self.items[0]

    @cached_property
    def by_id(self) -> Mapping[str, Item]:
        """The items by their ids."""
        return {item.id: item for item in self.items}

    @cached_property
    def children(self) -> Mapping[str, tuple[Item, ...]]:
        """What hangs on each item."""
        found: dict[str, list[Item]] = {item.id: [] for item in self.items}
        for item in self.items:
            if item.parent:
                found[item.parent].append(item)
        return {key: tuple(items) for key, items in found.items()}

    def below(self, item_id: str) -> frozenset[str]:
        """An item and everything that hangs on it."""
        found = {item_id}
        for item in self.items:
            if item.parent in found:
                found.add(item.id)
        return frozenset(found)

    def held_up(self, ids: Iterable[str]) -> frozenset[str]:
        """Of some ids those that hang together from the root, which always stays."""
        wanted = set(ids)
        found = {self.root.id}
        for item in self.items:
            if item.id in wanted and item.parent in found:
                found.add(item.id)
        return frozenset(found)


class SetReading(Struct, frozen=True):
    """The rail's ohms with a set attached (the root counted in); `ohm` inf for OL."""

    attached: frozenset[str]
    ohm: float
    line: int = 0

    @property
    def siemens(self) -> float:
        """The set's conductance."""
        if math.isinf(self.ohm):
            return 0.0
        return 1 / max(self.ohm, 1e-3)

    @property
    def error(self) -> float:
        """Standard deviation of the conductance."""
        ohm_error = math.hypot(_ERROR_SHARE * self.ohm, _ERROR_OHM)
        if math.isinf(self.ohm):
            return OPEN_S
        return math.hypot(ohm_error * self.siemens**2, OPEN_S)
