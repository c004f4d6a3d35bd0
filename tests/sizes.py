"""How much the tests try: a sample in `make test`, at length in `make test-all`."""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import TypeVar

T = TypeVar("T")

#: examples of a property at most; `make test-all` sets it higher
MOST = int(os.environ.get("HALE_RAIL_EXAMPLES", "12"))
#: requests and commands that the fuzz tests send
FUZZ = int(os.environ.get("HALE_RAIL_FUZZ", "400"))


#: in `make test-all` everything is tried
IS_ALL = MOST >= 100


def sampled(things: Sequence[T], share: int) -> Sequence[T]:
    """Every so many-th of a list; all of it in `make test-all`."""
    return things if IS_ALL else things[::share]


def examples(wanted: int, few: int = MOST) -> int:
    """How many examples to try of those wanted at length: all of them in `make test-all`."""
    return wanted if IS_ALL else min(wanted, few)
