"""Whose turn it is to write: one at a time, in a room of limited size, for a moment at most.

Who cannot be served soon is refused with a sentence, so that no thread is held that could answer
somebody who only reads.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from hale_rail.errors import LockedError
from hale_rail.store.error_mapping import BUSY

WAIT_S = 1.5
#: how many may wait; the server has more threads than this
MOST_WAITING = 8


class Turns:
    """The turns of the threads of one program; other programs are kept apart by the database."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._room = threading.BoundedSemaphore(MOST_WAITING)

    @contextmanager
    def turn(self) -> Iterator[None]:
        """A turn to write; raises LockedError when too many wait, or one's turn does not come."""
        if not self._room.acquire(blocking=False):
            raise LockedError(BUSY)
        try:
            if not self._lock.acquire(timeout=WAIT_S):
                raise LockedError(BUSY)
            try:
                yield
            finally:
                self._lock.release()
        finally:
            self._room.release()
