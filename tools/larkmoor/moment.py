"""The demo's own time: it is made at one moment, so that it comes out the same each time."""

from __future__ import annotations

import itertools
import random
import uuid
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from datetime import UTC, datetime, timedelta
from unittest import mock

#: the moment the demo is made at; an installed demo has its times moved to its first start
MADE_AT = datetime(2026, 11, 29, 12, 0, tzinfo=UTC)


def now() -> datetime:
    """The moment the demo is made at."""
    return MADE_AT


@contextmanager
def stopped() -> Iterator[None]:
    """The program's clock stands at that moment, a millisecond on at each look; identities come
    from a seed."""
    ticks = itertools.count()
    drawn = random.Random("larkmoor")

    def told() -> str:
        moment = MADE_AT + timedelta(milliseconds=next(ticks))
        return moment.isoformat(timespec="microseconds")

    with ExitStack() as patched:
        for name, found in (
            ("hale_rail.clock.now", told),
            ("hale_rail.clock.this_year", lambda: MADE_AT.year),
            ("uuid.uuid4", lambda: uuid.UUID(int=drawn.getrandbits(128), version=4)),
        ):
            patched.enter_context(mock.patch(name, found))
        yield
