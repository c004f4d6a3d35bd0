"""What hangs on a rail, and its ohms with a part of that attached."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Iterable, Mapping
from functools import cached_property

from msgspec import Struct

from hale_rail.core.parts.families import LEADS_OHM

#: a reading's error: a share of it, and leads and contacts in ohms
_ERROR_SHARE, _ERROR_OHM = 0.02, 0.02
#: an id is part of an address
_LONGEST = 20
#: below this a rail is shorted
_SHORT_OHM = 1.0
#: what an open rail still may conduct, in S
OPEN_S = 2e-3


def free_id(name: str, ids: Collection[str]) -> str:
    """An id for a name that is not taken: letters, figures and dashes, a number if need be."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:_LONGEST] or "item"
    names = (base if n < 2 else f"{base}-{n}" for n in range(1, len(ids) + 2))
    return next(name for name in names if name not in ids)


class TreeItem(Struct, frozen=True):
    """A thing on the rail; the root (`parent` "") is the supply itself, which stays."""

    id: str
    parent: str
    name: str
    weight: float
    minutes: float


class Tree(Struct, frozen=True, dict=True):
    """What hangs on a rail, parents before their children, the root first."""

    rail: str
    items: tuple[TreeItem, ...]

    @cached_property
    def root(self) -> TreeItem:
        """The supply itself."""
        return self.items[0]

    @cached_property
    def by_id(self) -> Mapping[str, TreeItem]:
        """The items by their ids."""
        return {item.id: item for item in self.items}

    @cached_property
    def children(self) -> Mapping[str, tuple[TreeItem, ...]]:
        """What hangs on each item."""
        tree_items: dict[str, list[TreeItem]] = {item.id: [] for item in self.items}
        for item in self.items:
            if item.parent:
                tree_items[item.parent].append(item)
        return {key: tuple(items) for key, items in tree_items.items()}

    def below(self, item_id: str) -> frozenset[str]:
        """An item and everything that hangs on it."""
        below = {item_id}
        for item in self.items:
            if item.parent in below:
                below.add(item.id)
        return frozenset(below)

    def held_up(self, ids: Iterable[str]) -> frozenset[str]:
        """Of some ids those that hang together from the root, which always stays."""
        wanted = set(ids)
        held_up = {self.root.id}
        for item in self.items:
            if item.id in wanted and item.parent in held_up:
                held_up.add(item.id)
        return frozenset(held_up)


class SetReading(Struct, frozen=True):
    """The rail's ohms with a set attached (the root counted in); `ohm` inf for OL.

    `high_ohm`: the upper end where only bounds are known (a beep, whether it runs), else None.
    """

    attached: frozenset[str]
    ohm: float
    line: int = 0
    high_ohm: float | None = None

    @property
    def siemens(self) -> float:
        """The set's conductance; of bounds the greatest that it may be."""
        if math.isinf(self.ohm):
            return 0.0
        return 1 / max(self.ohm, 1e-3)

    @property
    def least_siemens(self) -> float:
        """The least conductance that it may be."""
        if self.high_ohm is None:
            return self.siemens
        return 0.0 if math.isinf(self.high_ohm) else 1 / max(self.high_ohm, 1e-3)

    @property
    def is_low(self) -> bool:
        """True for what holds a short, by more than the reading's error."""
        most = self.ohm if self.high_ohm is None else self.high_ohm
        return most + 2 * math.hypot(_ERROR_SHARE * most, _ERROR_OHM) < _SHORT_OHM

    @property
    def is_free(self) -> bool:
        """True for what holds no short, the leads' half an ohm allowed for."""
        return self.ohm >= _SHORT_OHM + LEADS_OHM[1]

    @property
    def error(self) -> float:
        """Standard deviation of the conductance."""
        if math.isinf(self.ohm) or self.high_ohm is not None:
            return OPEN_S
        ohm_error = math.hypot(_ERROR_SHARE * self.ohm, _ERROR_OHM)
        return math.hypot(ohm_error * self.siemens**2, OPEN_S)
