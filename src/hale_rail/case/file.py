"""A case as it is looked at: its rows, and facets that are computed when they are asked for.

A facet is a function of a case file under `@facet`, one module each. It is computed once a state of
the case; a case that did not change is not computed again, one that did computes what is asked of
it. Facets may keep what follows from parts of the case under the ids of the rows it follows from
(`CaseFile.kept`), so that a change computes only what it touched.
"""

from __future__ import annotations

import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

from hale_rail.case.rows import Rows, read_rows, records_state
from hale_rail.case.workshop.workshop import Workshop, read_workshop
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import SCHOOLS, RecapPolicy
from hale_rail.core.supply.sheet import Sheet
from hale_rail.store import cases
from hale_rail.store.cases import Case
from hale_rail.store.database import Store

T = TypeVar("T")
_CACHED = 64
#: cases that a thread caches; a person works on one at a time
_SEEN_HERE = 4


class CaseFile:
    """One state of a case. `kept` outlives it: facets keep there what a change may leave true."""

    def __init__(self, store: Store, rows: Rows, workshop: Workshop, kept: dict[Any, Any]) -> None:
        self.store = store
        self.rows = rows
        self.workshop = workshop
        self.kept = kept
        self.made: dict[Any, Any] = {}

    def keep(self, key: object, follows_from: object, make: Callable[[], T]) -> T:
        """What `make` gives, made again only when what it follows from is no longer the same."""
        known: tuple[object, T] | None = self.kept.get(key)
        if known is None or known[0] != follows_from:
            known = self.kept[key] = (follows_from, make())
        return known[1]

    @property
    def case(self) -> Case:
        """The case's own fields."""
        return self.rows.case

    @property
    def number(self) -> str:
        """The case's number."""
        return self.rows.case.number

    @property
    def sheet(self) -> Sheet:
        """The unit's sheet as now corrected."""
        return self.rows.sheet

    @property
    def school(self) -> RecapPolicy:
        """How much is replaced in this case."""
        return SCHOOLS[self.rows.case.school]

    @property
    def tolerance(self) -> Tolerance:
        """How far rails may be off in this case, where the sheet does not say."""
        return Tolerance(self.rows.case.tolerance)


def facet(compute: Callable[[CaseFile], T]) -> Callable[[CaseFile], T]:
    """Make a function of a case file a facet: computed when first asked for, then kept."""

    @wraps(compute)
    def computed(case: CaseFile) -> T:
        made = case.made
        if compute not in made:
            made[compute] = compute(case)
        value: T = made[compute]
        return value

    return computed


def following(
    outside: Callable[[CaseFile], object],
) -> Callable[[Callable[[CaseFile], T]], Callable[[CaseFile], T]]:
    """Make a facet that also follows from what comes beside the rows, such as an analysis that
    ends: it is computed again once that is no longer the same."""

    def make(compute: Callable[[CaseFile], T]) -> Callable[[CaseFile], T]:
        @wraps(compute)
        def computed(case: CaseFile) -> T:
            state = outside(case)
            known: tuple[object, T] | None = case.made.get(compute)
            if known is None or known[0] != state:
                known = case.made[compute] = (state, compute(case))
            return known[1]

        return computed

    return make


_cache: OrderedDict[tuple[str, int], CaseFile] = OrderedDict()
_lock = threading.Lock()


def open_case(store: Store, number: str) -> CaseFile:
    """The case by its number as it is now; raises NotFoundError.

    While nobody has written since this thread last opened it, it is the same.
    """
    state = store.data_version()
    seen = store.seen_here()
    known: tuple[int, CaseFile] | None = seen.get(number)
    if known and known[0] == state and _cache.get((store.token, known[1].case.id)) is known[1]:
        return known[1]
    with store.snapshot() as connection:
        case = open_through(store, connection, number)
    if len(seen) >= _SEEN_HERE:
        seen.clear()
    seen[number] = (state, case)
    return case


def open_through(store: Store, connection: sqlite3.Connection, number: str) -> CaseFile:
    """The case as one connection sees it, so that an action checks what it then changes."""
    case = cases.by_number(connection, number)
    workshop = read_workshop(connection)
    key = (store.token, case.id)
    with _lock:
        known = _cache.get(key)
    if (
        known
        and known.case == case
        and known.workshop == workshop
        and known.rows.records_state == records_state(connection, case)
    ):
        return known
    same = known if known and known.case.revision <= case.revision else None
    rows = read_rows(connection, case, same.rows if same else None)
    made = CaseFile(store, rows, workshop, same.kept if same else {})
    with _lock:
        _cache[key] = made
        _cache.move_to_end(key)
        while len(_cache) > _CACHED:
            _cache.popitem(last=False)
    return made


def is_known(store: Store, number: str) -> bool:
    """True when some state of the case was read already, so that reading it on costs little."""
    with _lock:
        return any(key[0] == store.token and f.number == number for key, f in _cache.items())


def forget() -> None:
    """Drop what was read and computed, so that the next opening starts over."""
    with _lock:
        _cache.clear()
