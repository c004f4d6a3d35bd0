"""Reads the cases ahead that were worked on last, so that the first hand finds them judged."""

from __future__ import annotations

from contextlib import suppress

from hale_rail.case.file import open_case
from hale_rail.errors import HaleRailError
from hale_rail.stages.frame.bench import bench
from hale_rail.stages.frame.next_step import next_step, side_list
from hale_rail.store.database import Store

#: how many cases; as many as a bench has in hand
_RECENT = 6


def read_ahead(store: Store) -> None:
    """Open the newest cases of the bench and compute what every page of one shows.

    A case that cannot be opened tells so when somebody opens it.
    """
    with suppress(HaleRailError):
        for line in bench(store, "")[0][:_RECENT]:
            case = open_case(store, line.number)
            side_list(case)
            next_step(case)
