"""A case's number, and whether it lies on the bench or is put away."""

from __future__ import annotations

from hale_rail.actions.change import changing
from hale_rail.actions.intake.cases import checked_number
from hale_rail.errors import InputError
from hale_rail.store import cases
from hale_rail.store.database import Store


def rename(store: Store, number: str, wanted: str) -> str:
    """Give a case another number, by which it is found from then on; returns it.

    Raises InputError for a number that cannot be, or is taken.
    """
    new = checked_number(wanted)
    with changing(store, number) as change:
        old = change.file.case.number
        if new != old:
            cases.rename(change.connection, change.file.case, new)
            change.log("edited", f"{old} is {new}")
            change.number = new
    return new


def put_away(store: Store, number: str) -> None:
    """Put a case away from the bench; it can be read and worked on, and taken up again."""
    with changing(store, number) as change:
        if change.file.case.closed_at or change.file.case.put_away_at:
            raise InputError("This case is not on the bench.")
        cases.put_away(change.connection, change.case_id, change.at)
        change.log("edited", "Put away from the bench")


def take_up(store: Store, number: str) -> None:
    """Take a case that was put away to the bench again."""
    with changing(store, number) as change:
        if not change.file.case.put_away_at:
            raise InputError("This case is not put away.")
        cases.put_away(change.connection, change.case_id, None)
        change.log("edited", "Taken to the bench again")
