"""What power does to a unit: the loads, the ways a supply behaves, and what comes of it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import Enum

from msgspec import Struct, field

from hale_rail.core.simulate.circuit import Circuit
from hale_rail.core.simulate.ripples import Ripple

_HARNESS_OHM = 0.004
#: of a raw supply's volts, as a share of the rail's
RAW_SHARE = 1.6


class AppliedLoad(Enum):
    """What draws from the rails."""

    NONE = "no-load"
    DUMMY = "dummy"
    MACHINE = "machine"


class RunMode(Enum):
    """What a powered unit does."""

    RUNS = "runs"
    HICCUP = "hiccup"
    SILENT = "silent"
    LATE = "late"
    OFF = "off"


class RailState(Struct, frozen=True):
    """A rail under power: volts at the supply end, both ends of their jumping, and amperes."""

    low_v: float
    high_v: float
    ampere: float


class PowerOutcome(Struct, frozen=True):
    """What happens when power is applied.

    `blown`: what the fuse then looks like, `clean-gap` or `blackened`, or ""; `trips` the breaker;
    `destroyed` names what power took along; `smokes`; `bulk_v` volts on the mains side's stores.
    """

    mode: RunMode
    rails: Mapping[str, RailState] = field(default_factory=dict)
    blown: str = ""
    trips: bool = False
    smokes: bool = False
    destroyed: tuple[tuple[str, str], ...] = ()
    bulk_v: float = 0.0
    ripples: Mapping[str, Ripple] = field(default_factory=dict)


def at_place(circuit: Circuit, key: str, state: RailState, place: str) -> RailState:
    """A rail at its connector or its far end: less what harness and contacts lose."""
    if place in ("", "supply"):
        return state
    board = next((b for b in circuit.boards if b.rail == key), None)
    contact = board.contact_ohm if board else 0.0
    ohm = contact / 2 if place == "connector" else contact + _HARNESS_OHM
    sign = math.copysign(1.0, state.high_v)
    lost = sign * min(abs(state.high_v), state.ampere * ohm)
    return RailState(state.low_v - lost, state.high_v - lost, state.ampere)
