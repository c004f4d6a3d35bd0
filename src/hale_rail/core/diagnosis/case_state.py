"""What a case says beside its facts: the state of the tests, and what is proven."""

from __future__ import annotations

from collections.abc import Callable, Collection

from msgspec import Struct

from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.parts.part import Part


class BenchTestState(Struct, frozen=True):
    """The state of a test: the parts and how many points of it are unread, of how many; its result.

    `is_bad`, `is_good`: what was read or said of all of it; `hidden`: parts, by id, that what
    stands beside them hides, so that they are read lifted.
    """

    test: BenchTest
    parts: tuple[Part, ...] = ()
    share_left: float = 1.0
    is_bad: bool = False
    is_good: bool = False
    is_done: bool = False
    hidden: frozenset[int] = frozenset()


class Known(Struct, frozen=True):
    """What the case says beside its facts: the state of the tests, and which faults are proven.

    `failed`: ids of parts that were proven to have failed, replaced since or not; `was_proven`: of
    a fault whose part was replaced, that the former part was; `is_asked`:
    something was said or read; `is_gone`: the complaint was gone at the last power-on.
    """

    test_states: tuple[BenchTestState, ...]
    is_proven: Callable[[Fault], bool]
    failed: Collection[int]
    was_proven: Callable[[Fault], bool]
    is_asked: bool
    is_gone: bool = False
