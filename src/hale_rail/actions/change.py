"""One action on a case: a short transaction, and an entry in the log.

What an action checks it reads of the case as its own transaction sees it; only what was added since
the case was last read is read there. What follows from the change, the bench page's line too, is
computed after the commit, outside the write lock, by the next reader.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TypeVar

from msgspec import Struct

from hale_rail import clock
from hale_rail.case.file import CaseFile, is_known, open_case, open_through
from hale_rail.errors import InputError
from hale_rail.store import cases, log
from hale_rail.store.append_only import AppendedRow, AppendOnly, Strikes
from hale_rail.store.database import Store

R = TypeVar("R", bound=AppendedRow)


class Change(Struct):
    """An open transaction on a case, as it was before, and the moment of the change.

    `after`: the case as it is once the change is committed, as it was before until then;
    `number`: its number then.
    """

    connection: sqlite3.Connection
    file: CaseFile
    at: str
    after: CaseFile
    number: str

    @property
    def case_id(self) -> int:
        """The case's id."""
        return self.file.case.id

    def log(self, kind: str, text: str) -> int:
        """Add to the case's log; returns the entry's id, to which what was done refers."""
        return log.append(self.connection, self.case_id, self.at, kind, text)

    def append(self, table: AppendOnly[R], log_id: int, row: R) -> int:
        """Add a row to one of the case's tables, under an entry of its log; returns its id."""
        return table.insert(self.connection, self.case_id, log_id, row)

    def strike(self, strikes: Strikes, log_id: int, row_id: int, reason: str) -> None:
        """Put a row of the case aside; raises InputError where it is aside already."""
        try:
            strikes.strike(self.connection, self.case_id, log_id, row_id, reason)
        except sqlite3.IntegrityError as error:
            raise InputError("That was struck out already.") from error


@contextmanager
def changing(store: Store, number: str, at: str | None = None) -> Iterator[Change]:
    """A transaction on a case; raises NotFoundError. `at` is the moment, now when not given."""
    if not is_known(store, number):  # reading it takes long, so it is done before the lock
        open_case(store, number)
    moment = at or clock.now()
    with store.write() as connection:
        file = open_through(store, connection, number)
        change = Change(connection, file, moment, file, number)
        yield change
        cases.touch(connection, change.case_id, moment)
    change.after = open_case(store, change.number)
