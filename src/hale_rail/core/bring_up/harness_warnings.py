"""What is to be minded of a planned harness: currents, contacts, drops, signals.

Source: docs/formulas.md, “Harness”.
"""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.core.bring_up.wiring import EPSILON, Feed, Pin, PinKind, SignalUse, Wire, bundle_amps
from hale_rail.core.quantities import Unit, show

#: a drop above this share of the rail's volts, both ways, is told
MOST_DROP = 0.02


def minded(feeds: Sequence[Feed], pins: Sequence[Pin], wires: Sequence[Wire]) -> list[str]:
    """Sentences, the source's rails first, then its wires, its drops and its signals."""
    minded = []
    for index, feed in enumerate(feeds):
        own = [wire for wire in wires if wire.feed == index]
        minded += _of_feed(feed, own)
    for wire in wires:
        minded += _of_wire(feeds[wire.feed], wire)
    minded += _unknown(wires)
    minded += _wires_limits(feeds, wires)
    if not any(not feed.rail_v for feed in feeds) and wires:
        minded.append("The source names no ground: give its conductors as rail 0.")
    if not any(pin.kind is PinKind.GROUND for pin in pins):
        minded.append("The connector names no ground pin: nothing carries the current back.")
    minded += _drops(wires)
    for pin in pins:
        if pin.kind is PinKind.SIGNAL:
            minded.append(_signal(pin))
    return minded


def _of_feed(feed: Feed, own: Sequence[Wire]) -> list[str]:
    name = feed.name
    drawn = sum(wire.amps or 0.0 for wire in own)
    result = []
    if feed.amps is not None and drawn > feed.amps + EPSILON:
        result.append(
            f"{name}: the pins draw {show(drawn, Unit.AMPERE)}, the source gives "
            f"{show(feed.amps, Unit.AMPERE)}."
        )
    wanted = sum(wire.conductors for wire in own)
    is_known = any(wire.amps for wire in own)
    if wanted > feed.conductors and is_known and feed.pin_amps:
        result.append(
            f"{name}: {wanted} conductors are wanted, the source has {feed.conductors}: its "
            f"contacts would carry more than {show(feed.pin_amps, Unit.AMPERE)} each."
        )
    if feed.min_a and feed.rail_v and is_known and drawn < feed.min_a - EPSILON:
        ohm = abs(feed.rail_v) / (feed.min_a - drawn)
        watt = feed.rail_v**2 / ohm
        result.append(
            f"{name}: the source wants at least {show(feed.min_a, Unit.AMPERE)}, the pins draw "
            f"{show(drawn, Unit.AMPERE)}: load it with {show(ohm, Unit.OHM, 2)}, rated "
            f"{show(2 * watt, Unit.WATT, 2)} or more ({show(watt, Unit.WATT, 2)} of heat)."
        )
    return result


def _of_wire(feed: Feed, wire: Wire) -> list[str]:
    name, pin = feed.name, wire.pin
    result = []
    if wire.amps is not None and feed.pin_amps and wire.amps > feed.pin_amps + EPSILON:
        result.append(
            f"Pin {pin.name}: one contact of the target carries {show(wire.amps, Unit.AMPERE)}; "
            f"such a contact is rated {show(feed.pin_amps, Unit.AMPERE)}. Use a second pin of the "
            "rail, or solder to the board."
        )
    wanted = pin.rail_v or 0.0
    if abs(feed.rail_v - wanted) > EPSILON * abs(wanted) + EPSILON:
        off = feed.rail_v / wanted - 1
        result.append(
            f"Pin {pin.name}: {name} of the source feeds {pin.rail_name}, {off:+.1%} off."
        )
    return result


def _unknown(wires: Sequence[Wire]) -> list[str]:
    """One sentence for all pins whose current is not known, with millivolts an ampere."""
    unknown = [wire for wire in wires if wire.amps is None]
    if not unknown:
        return []
    names = ", ".join(wire.pin.name for wire in unknown)
    told = [wire.mv_per_a for wire in unknown if wire.mv_per_a is not None]
    rate = f": {max(told):.3g} mV an ampere at most" if told else ""
    pins = "Pin" if len(unknown) == 1 else "Pins"
    return [f"{pins} {names}: the current is not known, so the drop cannot be told{rate}."]


def _wires_limits(feeds: Sequence[Feed], wires: Sequence[Wire]) -> list[str]:
    """Conductors that carry more than their own gauge bears in a bundle, a sentence a feed."""
    wires_limits = []
    for index, feed in enumerate(feeds):
        if feed.awg is None:
            continue
        most = bundle_amps(feed.awg)
        hot = [w for w in wires if w.feed == index and w.amps and w.amps / w.conductors > most]
        if hot:
            names = ", ".join(wire.pin.name for wire in hot)
            each = max((wire.amps or 0.0) / wire.conductors for wire in hot)
            wires_limits.append(
                f"{feed.name}, pin {names}: {show(each, Unit.AMPERE)} through one "
                f"conductor of AWG {feed.awg}, which bears {show(most, Unit.AMPERE, 2)} in a "
                "bundle: more conductors, or thicker ones."
            )
    return wires_limits


def _drops(wires: Sequence[Wire]) -> list[str]:
    """Pins whose drop, with the ground's, is more than a small share of their rail."""
    back = max((wire.drop_v or 0.0 for wire in wires if not wire.rail_v), default=0.0)
    drops = []
    for wire in wires:
        if not wire.rail_v or wire.drop_v is None:
            continue
        lost = wire.drop_v + back
        if lost > MOST_DROP * abs(wire.rail_v):
            drops.append(
                f"Pin {wire.pin.name}: {show(lost, Unit.VOLT, 2)} are lost there and back at full "
                f"load, {lost / abs(wire.rail_v):.1%} of {wire.pin.rail_name}: more "
                "conductors, thicker or shorter ones."
            )
    return drops


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
