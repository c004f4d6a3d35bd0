"""Plans a harness from a source of power to a connector: conductors, drops, what is missing.

Source: docs/formulas.md, “Harness”. A wire of gauge n is d = 0.127 mm · 92^((36 − n)/39) across,
R = ρL/(πd²/4) with ρ of copper at 20 °C; what a pin draws is shared by as many conductors as its
contacts need: ceil(I/I_contact).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import Enum

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.machine.missing import advice
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import Tolerance, school_share

#: resistivity of annealed copper at 20 °C, Ω·m: the one that tables of wire gauges are made with
RHO_OHM_M = 1.7241e-8
USUAL_M, MOST_M = 0.4, 20.0
#: what ground, a pin that is not connected, and a signal read at most, in volts
GROUND_V, NOTHING_V, SIGNAL_V = 0.05, 0.2, 5.25
#: a source within this share of a pin's volts feeds it
_SAME = 0.05
#: a drop above this share of the rail's volts, both ways, is told
MOST_DROP = 0.02
_EPSILON = 1e-9


class PinKind(Enum):
    """What a pin of a connector is."""

    RAIL = "rail"
    GROUND = "ground"
    SIGNAL = "signal"
    NC = "nc"


class SignalUse(Enum):
    """What a signal pin is for, where it is known."""

    POWER_GOOD = "power-good"
    REMOTE_ON = "remote-on"
    TICK = "tick"
    SENSE = "sense"


class Feed(Struct, frozen=True):
    """One rail of a source, ground as 0 V.

    `amps` it gives (None for ground), `conductors` in all, their gauge, and what one contact
    carries; `min_a` the least load it wants; `isolated`: its both ends float.
    """

    rail_v: float
    amps: float | None
    conductors: int
    awg: int
    pin_amps: float
    min_a: float | None = None
    isolated: bool = False


class Pin(Struct, frozen=True):
    """One pin of the target: what it is, its volts and the amperes it draws (None: not known)."""

    name: str
    kind: PinKind
    rail_v: float | None = None
    amps: float | None = None
    use: SignalUse | None = None


class Wire(Struct, frozen=True):
    """What feeds a pin: the feed's place in the source, conductors, and the drop one way.

    `drop_v` None where the pin's current is not known.
    """

    pin: Pin
    feed: int
    rail_v: float
    amps: float | None
    conductors: int
    drop_v: float | None


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


class Harness(Struct, frozen=True):
    """The plan: wires in the target's order, what is missing, warnings, and what to check."""

    wires: tuple[Wire, ...]
    missing: tuple[tuple[float, str], ...]
    warnings: tuple[str, ...]
    joints: tuple[Joint, ...]
    expected: tuple[Expected, ...]


def wire_ohm(awg: int, length_m: float) -> float:
    """Ohms of one conductor of a gauge (AWG; 0 for 1/0, −1 for 2/0) at 20 °C, one way."""
    across_m: float = 0.127e-3 * 92.0 ** ((36 - awg) / 39)
    return RHO_OHM_M * length_m / (math.pi / 4 * across_m * across_m)


def plan(feeds: Sequence[Feed], pins: Sequence[Pin], length_m: float = USUAL_M) -> Harness:
    """The harness from a source's feeds to a connector's pins; raises InputError."""
    _check(feeds, pins, length_m)
    ground_a = _ground_amps(pins)
    left = [feed.amps if feed.amps is not None else math.inf for feed in feeds]
    wires: list[Wire] = []
    missing: dict[float, float] = {}
    for pin in pins:
        if pin.kind not in (PinKind.RAIL, PinKind.GROUND):
            continue
        volt = pin.rail_v or 0.0
        amps = pin.amps if pin.amps is not None or pin.kind is PinKind.RAIL else ground_a
        index = _feed(feeds, left, volt)
        if index is None:
            missing[volt] = missing.get(volt, 0.0) + (amps or 0.0)
            continue
        left[index] -= amps or 0.0
        wires.append(_wire(pin, index, feeds[index], amps, length_m))
    rails = [(feed.rail_v, rest, feed.isolated)
             for feed, rest in zip(feeds, left, strict=True) if feed.rail_v]  # fmt: skip
    told = tuple((volt, advice(volt, amps, rails)) for volt, amps in missing.items())
    return Harness(
        tuple(wires),
        told,
        tuple(_warnings(feeds, pins, wires)),
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
    drawn = [(pin.rail_v or 0.0, pin.amps or 0.0) for pin in pins if pin.kind is PinKind.RAIL]
    back = max(
        sum(amps for volt, amps in drawn if volt > 0), sum(amps for volt, amps in drawn if volt < 0)
    )
    grounds = [pin for pin in pins if pin.kind is PinKind.GROUND]
    told = sum(pin.amps for pin in grounds if pin.amps is not None)
    open_pins = sum(pin.amps is None for pin in grounds)
    return max(back - told, 0.0) / open_pins if open_pins else None


def _feed(feeds: Sequence[Feed], left: Sequence[float], volt: float) -> int | None:
    """The feed of a pin's volts: the nearest, and of equal ones that with most amperes left."""
    near = [
        (abs(feed.rail_v - volt), -rest, index)
        for index, (feed, rest) in enumerate(zip(feeds, left, strict=True))
        if abs(feed.rail_v - volt) <= _SAME * abs(volt) + _EPSILON
    ]
    return min(near)[2] if near else None


def _wire(pin: Pin, index: int, feed: Feed, amps: float | None, length_m: float) -> Wire:
    conductors = max(1, math.ceil((amps or 0.0) / feed.pin_amps - _EPSILON))
    ohm = wire_ohm(feed.awg, length_m) / conductors
    drop = amps * ohm if amps is not None else None
    return Wire(pin, index, feed.rail_v, amps, conductors, drop)


def rail_words(volt: float) -> str:
    """A rail by its volts: `+5 V`, `−12 V`, `ground`."""
    if not volt:
        return "ground"
    return ("+" if volt > 0 else "") + show(volt, Unit.VOLT)


def _warnings(feeds: Sequence[Feed], pins: Sequence[Pin], wires: Sequence[Wire]) -> list[str]:
    found = []
    for index, feed in enumerate(feeds):
        own = [wire for wire in wires if wire.feed == index]
        found += _of_feed(feed, own)
    for wire in wires:
        found += _of_wire(feeds[wire.feed], wire)
    if not any(not feed.rail_v for feed in feeds) and wires:
        found.append("The source names no ground: give its conductors as rail 0.")
    if not any(pin.kind is PinKind.GROUND for pin in pins):
        found.append("The connector names no ground pin: nothing carries the current back.")
    found += _drops(wires)
    for pin in pins:
        if pin.kind is PinKind.SIGNAL:
            found.append(_signal(pin))
    return found


def _of_feed(feed: Feed, own: Sequence[Wire]) -> list[str]:
    name = rail_words(feed.rail_v)
    drawn = sum(wire.amps or 0.0 for wire in own)
    found = []
    if feed.amps is not None and drawn > feed.amps + _EPSILON:
        found.append(
            f"{name}: the pins draw {show(drawn, Unit.AMPERE)}, the source gives "
            f"{show(feed.amps, Unit.AMPERE)}."
        )
    wanted = sum(wire.conductors for wire in own)
    if wanted > feed.conductors:
        found.append(
            f"{name}: {wanted} conductors are wanted, the source has {feed.conductors}: its "
            f"contacts would carry more than {show(feed.pin_amps, Unit.AMPERE)} each."
        )
    if feed.min_a and feed.rail_v and drawn < feed.min_a - _EPSILON:
        ohm = abs(feed.rail_v) / (feed.min_a - drawn)
        watt = feed.rail_v**2 / ohm
        found.append(
            f"{name}: the source wants at least {show(feed.min_a, Unit.AMPERE)}, the pins draw "
            f"{show(drawn, Unit.AMPERE)}: load it with {show(ohm, Unit.OHM, 2)}, rated "
            f"{show(2 * watt, Unit.WATT, 2)} or more ({show(watt, Unit.WATT, 2)} of heat)."
        )
    return found


def _of_wire(feed: Feed, wire: Wire) -> list[str]:
    name, pin = rail_words(wire.rail_v), wire.pin
    found = []
    if wire.amps is None:
        found.append(f"Pin {pin.name}: its current is not known, so its drop is not.")
    elif wire.amps > feed.pin_amps + _EPSILON:
        found.append(
            f"Pin {pin.name}: one contact of the target carries {show(wire.amps, Unit.AMPERE)}; "
            f"such a contact is rated {show(feed.pin_amps, Unit.AMPERE)}. Use a second pin of the "
            "rail, or solder to the board."
        )
    wanted = pin.rail_v or 0.0
    if abs(feed.rail_v - wanted) > _EPSILON * abs(wanted) + _EPSILON:
        off = feed.rail_v / wanted - 1
        found.append(
            f"Pin {pin.name}: {name} of the source feeds {rail_words(wanted)}, {off:+.1%} off."
        )
    return found


def _drops(wires: Sequence[Wire]) -> list[str]:
    """Pins whose drop, with the ground's, is more than a small share of their rail."""
    back = max((wire.drop_v or 0.0 for wire in wires if not wire.rail_v), default=0.0)
    found = []
    for wire in wires:
        if not wire.rail_v or wire.drop_v is None:
            continue
        lost = wire.drop_v + back
        if lost > MOST_DROP * abs(wire.rail_v):
            found.append(
                f"Pin {wire.pin.name}: {show(lost, Unit.VOLT, 2)} are lost there and back at full "
                f"load, {lost / abs(wire.rail_v):.1%} of {rail_words(wire.rail_v)}: more "
                "conductors, thicker or shorter ones."
            )
    return found


_SIGNALS = {
    SignalUse.POWER_GOOD: (
        "power good: the board waits for it. Take the source's own where it has one (high, 2.4 V "
        "or more, 100 to 500 ms after the rails); else a supervisor on +5 V that waits as long. "
        "Tied to +5 V through 1 kΩ it comes at once and the board may start badly."
    ),
    SignalUse.REMOTE_ON: (
        "remote on: the source starts only when its own remote-on line is strapped to ground. "
        "Strap it by a switch, and see that nothing else drives it."
    ),
    SignalUse.TICK: (
        "mains-frequency tick: a direct-current source has none. Look for the board's jumper that "
        "takes the tick from its own oscillator, or make 50 or 60 Hz at logic level."
    ),
    SignalUse.SENSE: (
        "sense: joined to its rail at the connector, or the source runs away upwards."
    ),
}


def _signal(pin: Pin) -> str:
    if pin.use:
        return f"Pin {pin.name}, {_SIGNALS[pin.use]}"
    return (
        f"Pin {pin.name} is a signal: find out which before it is wired: power good, remote on, "
        "a mains-frequency tick (or its jumper), or sense."
    )


def _joints(pins: Sequence[Pin], wires: Sequence[Wire]) -> list[Joint]:
    """Each wire end to end, then each pair of rails that must stay apart at the connector."""
    found = [Joint(f"source {rail_words(w.rail_v)}", f"pin {w.pin.name}", True) for w in wires]
    first: dict[float, Wire] = {}
    for wire in wires:
        first.setdefault(wire.rail_v, wire)
    rails = list(first.values())
    found += [
        Joint(f"pin {one.pin.name}", f"pin {other.pin.name}", False)
        for place, one in enumerate(rails)
        for other in rails[place + 1 :]
    ]
    fed = {wire.pin.name for wire in wires}
    ground = next((wire for wire in wires if not wire.rail_v), None)
    for pin in pins:
        if ground and pin.name not in fed and pin.kind is not PinKind.GROUND:
            found.append(Joint(f"pin {ground.pin.name}", f"pin {pin.name}", False))
    return found


def _expected(pins: Sequence[Pin]) -> list[Expected]:
    """What each pin reads, the source on and the board not connected: strict limits."""
    found = []
    for pin in pins:
        if pin.kind is PinKind.RAIL and pin.rail_v:
            share = school_share(pin.rail_v, Tolerance.STRICT)
            ends = sorted((pin.rail_v * (1 - share), pin.rail_v * (1 + share)))
            found.append(Expected(pin.name, pin.rail_v, ends[0], ends[1]))
        elif pin.kind is PinKind.GROUND:
            found.append(Expected(pin.name, 0.0, -GROUND_V, GROUND_V))
        elif pin.kind is PinKind.NC:
            found.append(Expected(pin.name, None, -NOTHING_V, NOTHING_V))
        else:
            found.append(Expected(pin.name, None, -GROUND_V, SIGNAL_V))
    return found
