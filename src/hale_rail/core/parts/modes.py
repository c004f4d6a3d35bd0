"""How parts fail: the modes by which every kind says, in its own module, what can go wrong with it.

Source: docs/formulas.md, “Where to look next”.
"""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.coded_words import Coded


class FaultMode(Coded):
    """A way to fail; `words` follow the part's designator."""

    SHORT = ("short", "shorted")
    OPEN = ("open", "open")
    DRY = ("dry", "dried out")
    LEAKY = ("leaky", "leaking")
    HIGH = ("high", "risen in value")
    REVERSED = ("reversed", "fitted the wrong way round")
    TURNS = ("turns", "with shorted turns")
    DEAD = ("dead", "dead")
    DRIFT = ("drift", "drifted")
    WORN = ("worn", "with worn contacts")
    JOINT = ("joint", "with a cracked joint")
    OVERLOAD = ("overload", "drawing too much")
    FAULTY = ("faulty", "faulty by itself")
    NO_LOAD = ("no-load", "without its minimum load")
    WRONG = ("wrong", "set wrongly")
    STUCK = ("stuck", "with an output stuck low")
    BRIDGE = ("bridge", "with two pins bridged")
    OPEN_SOCKET = ("open-socket", "with an open contact in its socket")


def never(_: object) -> tuple[FaultMode, ...]:
    """No mode: for a kind that does not fail by itself."""
    return ()


MODES = {mode.code: mode for mode in FaultMode}


def failing(*modes: FaultMode) -> Callable[[object], tuple[FaultMode, ...]]:
    """The same modes for every part of a kind."""
    return lambda _: modes
