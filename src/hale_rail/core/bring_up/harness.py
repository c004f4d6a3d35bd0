"""Plans a harness from a source of power to a connector: conductors, drops, what is missing.

Source: docs/formulas.md, “Harness”. A wire of gauge n is d = 0.127 mm · 92^((36 − n)/39) across,
R = ρL/(πd²/4) with ρ of copper at 20 °C; what a pin draws is shared by as many conductors as its
contacts need: ceil(I/I_contact).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.bring_up.harness_warnings import minded
from hale_rail.core.bring_up.missing import ac_advice, advice
from hale_rail.core.bring_up.wiring import EPSILON, Feed, Pin, PinKind, Wire, rail_words, wire_of
from hale_rail.core.errors import InputError
from hale_rail.core.rails.judge import AC_UNLOADED, Tolerance, school_share

USUAL_M, MOST_M = 0.4, 20.0
#: what ground, a pin that is not connected, and a signal read at most, in volts
GROUND_V, NOTHING_V, SIGNAL_V = 0.05, 0.2, 5.25
#: a source within this share of a pin's volts feeds it
_SAME = 0.05


class Joint(Struct, frozen=True):
    """Two places that must connect, or must not: `source +5 V` and `pin 1`."""

    one: str
    other: str
    is_joined: bool


class Expected(Struct, frozen=True):
    """What a pin must read before the board is connected; None for a pin that carries nothing."""

    pin: str
    rail_v: float | None
    low_v: float
    high_v: float
    is_ac: bool = False


class Harness(Struct, frozen=True):
    """The plan: wires in the target's order, what is missing, warnings, and what to check."""

    wires: tuple[Wire, ...]
    missing: tuple[tuple[float, str], ...]
    warnings: tuple[str, ...]
    joints: tuple[Joint, ...]
    expected: tuple[Expected, ...]


def plan(feeds: Sequence[Feed], pins: Sequence[Pin], length_m: float = USUAL_M) -> Harness:
    """The harness from a source's feeds to a connector's pins; raises InputError."""
    _check(feeds, pins, length_m)
    ground_a = _ground_amps(pins)
    left = [feed.amps if feed.amps is not None else math.inf for feed in feeds]
    wires: list[Wire] = []
    missing: dict[tuple[float, bool], float] = {}
    for pin in pins:
        if pin.kind not in (PinKind.RAIL, PinKind.GROUND):
            continue
        volt = pin.rail_v or 0.0
        amps = pin.amps if pin.amps is not None or pin.kind is PinKind.RAIL else ground_a
        index = _feed(feeds, left, volt, is_ac=pin.is_ac)
        if index is None:
            missing[volt, pin.is_ac] = missing.get((volt, pin.is_ac), 0.0) + (amps or 0.0)
            continue
        left[index] -= amps or 0.0
        wires.append(wire_of(pin, index, feeds[index], amps, length_m))
    rails = [(feed.rail_v, rest, feed.isolated)
             for feed, rest in zip(feeds, left, strict=True)
             if feed.rail_v and not feed.is_ac]  # fmt: skip
    told = tuple(
        (volt, ac_advice(volt, amps) if is_ac else advice(volt, amps, rails))
        for (volt, is_ac), amps in missing.items()
    )
    return Harness(
        tuple(wires),
        told,
        tuple(minded(feeds, pins, wires)),
        tuple(_joints(pins, wires)),
        tuple(_expected(pins)),
    )


def _check(feeds: Sequence[Feed], pins: Sequence[Pin], length_m: float) -> None:
    if not 0 < length_m <= MOST_M:
        raise InputError(f"A harness is longer than 0 and at most {MOST_M:g} m.", field="length")
    if not feeds:
        raise InputError("The source has no rail.", field="source")
    if not pins:
        raise InputError("The target has no pin.", field="target")


def _ground_amps(pins: Sequence[Pin]) -> float | None:
    """What a ground pin without a current of its own carries back: the larger of what positive and
    negative rails draw, less what is told of other ground pins, shared by those that are left."""
    rails = [pin for pin in pins if pin.kind is PinKind.RAIL and not pin.is_ac]
    drawn = [(pin.rail_v or 0.0, pin.amps or 0.0) for pin in rails]
    if all(pin.amps is None for pin in rails):
        return None
    back = max(
        sum(amps for volt, amps in drawn if volt > 0), sum(amps for volt, amps in drawn if volt < 0)
    )
    grounds = [pin for pin in pins if pin.kind is PinKind.GROUND]
    told = sum(pin.amps for pin in grounds if pin.amps is not None)
    open_pins = sum(pin.amps is None for pin in grounds)
    return max(back - told, 0.0) / open_pins if open_pins else None


def _feed(feeds: Sequence[Feed], left: Sequence[float], volt: float, *, is_ac: bool) -> int | None:
    """The feed of a pin's volts: the nearest, and of equal ones that with most amperes left."""
    near = [
        (abs(feed.rail_v - volt), -rest, index)
        for index, (feed, rest) in enumerate(zip(feeds, left, strict=True))
        if feed.is_ac is is_ac and abs(feed.rail_v - volt) <= _SAME * abs(volt) + EPSILON
    ]
    return min(near)[2] if near else None


def _joints(pins: Sequence[Pin], wires: Sequence[Wire]) -> list[Joint]:
    """Each wire end to end, then each pair of rails that must stay apart at the connector."""
    joints = [
        Joint(f"source {rail_words(w.rail_v, is_ac=w.pin.is_ac)}", f"pin {w.pin.name}", True)
        for w in wires
    ]
    first: dict[int, Wire] = {}
    for wire in wires:
        first.setdefault(wire.feed, wire)
    rails = list(first.values())
    joints += [
        Joint(f"pin {one.pin.name}", f"pin {other.pin.name}", False)
        for place, one in enumerate(rails)
        for other in rails[place + 1 :]
    ]
    fed = {wire.pin.name for wire in wires}
    ground = next((wire for wire in wires if not wire.rail_v), None)
    for pin in pins:
        if ground and pin.name not in fed and pin.kind is not PinKind.GROUND:
            joints.append(Joint(f"pin {ground.pin.name}", f"pin {pin.name}", False))
    return joints


def _expected(pins: Sequence[Pin]) -> list[Expected]:
    """What each pin reads, the source on and the board not connected: strict limits."""
    expected = []
    for pin in pins:
        if pin.kind is PinKind.RAIL and pin.rail_v:
            share = school_share(pin.rail_v, Tolerance.STRICT)
            below, above = AC_UNLOADED if pin.is_ac else (share, share)
            ends = sorted((pin.rail_v * (1 - below), pin.rail_v * (1 + above)))
            expected.append(Expected(pin.name, pin.rail_v, ends[0], ends[1], pin.is_ac))
        elif pin.kind is PinKind.GROUND:
            expected.append(Expected(pin.name, 0.0, -GROUND_V, GROUND_V))
        elif pin.kind is PinKind.NC:
            expected.append(Expected(pin.name, None, -NOTHING_V, NOTHING_V))
        else:
            expected.append(Expected(pin.name, None, -GROUND_V, SIGNAL_V))
    return expected
