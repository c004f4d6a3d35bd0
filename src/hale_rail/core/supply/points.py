"""Test points: what can be read where, how it is said, and in which order it is best done."""

from __future__ import annotations

import math
import re
from collections.abc import Collection
from dataclasses import dataclass, replace
from enum import Enum

from hale_rail.core.errors import InputError, QuantityError, RangeError
from hale_rail.core.parts.families import ESR_METER_MIN_F, Family
from hale_rail.core.parts.others import BASE, JUNCTION_V, PAIRS
from hale_rail.core.quantities import Measured, Unit, read, read_span, show, show_exact, tidy
from hale_rail.core.supply.inspection import codes_for
from hale_rail.core.supply.sheet import Kind, Rail, Station

IN_CIRCUIT, LIFTED = "in circuit", "lifted"
ISOLATED, ATTACHED = "isolated", "attached"
NORMAL, REVERSED = "normal", "reversed"
#: more than this through a capacitor is a slip of the prefix
_MOST_LEAK_A = 0.5
#: the longest a station's id can be
_ID_DIGITS = 15
#: multiples of the marked value from which a prefix was mistyped; in circuit neighbours may add
_MOST_LIFTED, _MOST_IN_CIRCUIT = 20.0, 1000.0


class Quantity(Enum):
    """What is read: its code, its name in a sentence, on a button, and its unit (None: a word)."""

    ESR = ("esr", "ESR", "ESR", Unit.OHM)
    CAPACITANCE = ("cap", "capacitance", "C", Unit.FARAD)
    LEAKAGE = ("leak", "leakage", "leakage", Unit.AMPERE)
    RESISTANCE = ("ohm", "resistance", "ohms", Unit.OHM)
    FORWARD = ("forward", "forward", "forward", Unit.VOLT)
    REVERSE = ("reverse", "reversed", "reversed", Unit.VOLT)
    FRESH_ESR = ("fresh-esr", "fresh ESR", "fresh ESR", Unit.OHM)
    FRESH_CAP = ("fresh-cap", "fresh C", "fresh C", Unit.FARAD)
    LOOK = ("look", "look", "look", None)
    BATTERY = ("battery", "backup battery", "battery", Unit.VOLT)
    STORE = ("store", "volts held", "held", Unit.VOLT)
    RAIL = ("rail", "volts", "volts", Unit.VOLT)
    GROUND = ("ground", "ohms to ground", "to ground", Unit.OHM)
    INJECT = ("inject", "low injection", "injected", Unit.OHM)

    def __init__(self, code: str, label: str, short: str, unit: Unit | None) -> None:
        self.code = code
        self.label = label
        self.short = short
        self.unit = unit


#: the most a junction's drop or a backup battery shows
_MOST_VOLT = {Quantity.FORWARD: 5.0, Quantity.REVERSE: 5.0, Quantity.BATTERY: 15.0}
BY_CODE = {quantity.code: quantity for quantity in Quantity}
#: readings that send hands and an ohm or ESR meter into the unit
COLD = {
    Quantity.ESR,
    Quantity.CAPACITANCE,
    Quantity.LEAKAGE,
    Quantity.RESISTANCE,
    Quantity.FORWARD,
    Quantity.REVERSE,
}
_SETTINGS = {
    Quantity.FRESH_ESR: ("",),
    Quantity.FRESH_CAP: ("",),
    Quantity.STORE: ("",),
    Quantity.LOOK: ("",),
    Quantity.BATTERY: ("",),
    Quantity.RAIL: ("no load", "dummy", "in the machine"),
    Quantity.GROUND: (ISOLATED, ATTACHED),
    Quantity.INJECT: (ISOLATED, ATTACHED),
}


@dataclass(frozen=True)
class Point:
    """One thing to read: a station's id or a rail's key, the quantity, and how it is taken."""

    quantity: Quantity
    station_id: int | None = None
    rail_key: str = ""
    setting: str = ""
    polarity: str = ""

    @property
    def key(self) -> str:
        """The point as one word for an address, undone by `parse_key`."""
        target = str(self.station_id) if self.station_id is not None else f"r{self.rail_key}"
        return "~".join((target, self.quantity.code, self.setting, self.polarity))


@dataclass(frozen=True)
class Typed:
    """A reading as typed and understood; `ampere` the current of a low injection."""

    value: float
    high: float
    digit: float
    echo: str
    ampere: float | None = None


def parse_key(key: str) -> Point:
    """The point of an address; raises InputError when there is none such."""
    parts = key.split("~")
    if len(parts) != 4 or parts[1] not in BY_CODE:
        raise InputError("That is not a test point of this unit.")
    target, code, setting, polarity = parts
    quantity = BY_CODE[code]
    known = ("", NORMAL, REVERSED, *(name for names in PAIRS.values() for name in names))
    if setting not in settings(quantity) or polarity not in known:
        raise InputError("That is not a test point of this unit.")
    if target.startswith("r"):
        return Point(quantity, None, target[1:], setting, polarity)
    if not (target.isascii() and target.isdecimal() and len(target) <= _ID_DIGITS):
        raise InputError("That is not a test point of this unit.")
    return Point(quantity, int(target), "", setting, polarity)


def settings(quantity: Quantity) -> tuple[str, ...]:
    """How a quantity can be taken; the first is the usual way."""
    return _SETTINGS.get(quantity, (IN_CIRCUIT, LIFTED))


def polarities(kind: Kind | None, quantity: Quantity) -> tuple[str, ...]:
    """Which way round, or across which junction, a quantity is read; ("",) where it is all one."""
    if quantity is Quantity.GROUND:
        return (NORMAL, REVERSED)
    if kind in PAIRS and quantity in (Quantity.FORWARD, Quantity.REVERSE):
        return PAIRS[kind]
    if kind is Kind.TRANSISTOR and quantity is Quantity.RESISTANCE:
        return ("", BASE)
    return ("",)


def quantities(station: Station) -> tuple[Quantity, ...]:
    """What can be read at a station, the most telling first."""
    if station.kind is Kind.CAPACITOR:
        wet = (Quantity.ESR, Quantity.CAPACITANCE, Quantity.LEAKAGE, Quantity.RESISTANCE)
        dry = (Quantity.CAPACITANCE, Quantity.RESISTANCE, Quantity.LEAKAGE)
        has_esr = station.family in (
            Family.ALUMINIUM, Family.ALUMINIUM_BIPOLAR, Family.TANTALUM, Family.POLYMER,
        )  # fmt: skip
        readable = (station.value or 0.0) >= ESR_METER_MIN_F
        found = wet if has_esr and readable else dry
        fresh = (Quantity.FRESH_ESR,) if Quantity.ESR in found else (Quantity.FRESH_CAP,)
        store = (Quantity.STORE,) if station.is_store else ()
        return (*found, Quantity.LOOK, *store, *fresh)
    if station.kind in JUNCTION_V:
        return (Quantity.RESISTANCE, Quantity.FORWARD, Quantity.REVERSE, Quantity.LOOK)
    if station.kind is Kind.BOARD:
        return (Quantity.LOOK, Quantity.BATTERY)
    if station.kind in (Kind.CONNECTOR, Kind.INLET):
        return (Quantity.LOOK,)
    return (Quantity.RESISTANCE, Quantity.LOOK)


def understand(point: Point, text: str, station: Station | None, rail: Rail | None) -> Typed:
    """Read what was typed at a point; raises QuantityError or RangeError with what to do."""
    if point.quantity is Quantity.LOOK:
        return _understand_look(text, station)
    if point.quantity is Quantity.INJECT:
        return _understand_injection(text)
    unit = point.quantity.unit or Unit.OHM
    measured = (read_span if point.quantity is Quantity.RAIL else read)(text, unit)
    if point.quantity in (Quantity.FORWARD, Quantity.REVERSE):
        measured = _drop_in_millivolts(measured)
    _check(point, measured, station, rail)
    echo = show_exact(measured.value, unit)
    if measured.is_span:
        echo += f" to {show_exact(measured.high, unit)}"
    if measured.hint:
        echo += f" ({measured.hint})"
    return Typed(measured.value, measured.high, measured.resolution, echo)


def _drop_in_millivolts(measured: Measured) -> Measured:
    """A junction's drop as many meters show it: `543` is 543 mV."""
    if not re.fullmatch(r"\d{2,4}", tidy(measured.typed)):
        return measured
    value, resolution = measured.value / 1000, measured.resolution / 1000
    return replace(measured, value=value, high=value, resolution=resolution, hint="read as mV")


def _understand_look(text: str, station: Station | None) -> Typed:
    words = tidy(text).lower().replace(",", " ").replace(";", " ").split()
    known = [c.code for c in codes_for(station)] if station else []
    unknown = [word for word in words if word not in known]
    if not words or unknown:
        raise QuantityError(f"Write what you see: {', '.join(known)}.")
    return Typed(0.0, 0.0, 0.0, " ".join(words))


def _understand_injection(text: str) -> Typed:
    """`0.4 V 120 mA`: volts, then amperes, apart by a space or a slash."""
    parts = tidy(text).replace("/", " ").replace(";", " ").split()
    for cut in range(1, len(parts)):
        try:
            volt = read(" ".join(parts[:cut]), Unit.VOLT, allow_words=False)
            ampere = read(" ".join(parts[cut:]), Unit.AMPERE, allow_words=False)
        except QuantityError:
            continue
        if not 0 < volt.value <= 1.3:
            raise RangeError("Inject above 0 V and at most 1.3 V; 0.3 to 0.5 V proves.")
        if ampere.value <= 0:
            raise RangeError("The current must be above 0 A.")
        ohm = volt.value / ampere.value
        echo = f"{show(volt.value, Unit.VOLT)}, {show(ampere.value, Unit.AMPERE)}: "
        return Typed(ohm, ohm, 0.0, echo + show(ohm, Unit.OHM), ampere.value)
    raise QuantityError("Write the volts, then the current: 0.4 V 120 mA.")


def _check(point: Point, measured: Measured, station: Station | None, rail: Rail | None) -> None:
    """Refuse what no part of this kind can show."""
    if point.quantity in (Quantity.STORE, Quantity.RAIL, Quantity.BATTERY) and measured.is_over:
        raise QuantityError("OL is no voltage: choose a higher range and read again.")
    rated = station.volt if station and point.quantity is Quantity.STORE else None
    if station and rated and abs(measured.value) > 1.5 * rated:
        raise RangeError(
            f"{show(measured.value, Unit.VOLT)} across {station.ref}, a {rated:g} V part? "
            "It would have burst. Check the range and the leads."
        )
    if rail and point.quantity is Quantity.RAIL:
        limit = max(5 * abs(rail.nominal_v), 60.0)
        if max(abs(measured.value), abs(measured.high)) > limit:
            raise RangeError(
                f"{show(measured.value, Unit.VOLT)} on {rail.key}? Check the range and the leads."
            )
    if point.quantity in _MOST_VOLT and not measured.is_over:
        most = _MOST_VOLT[point.quantity]
        if not 0 <= measured.value <= most:
            raise RangeError(
                f"{show(measured.value, Unit.VOLT)}? Here a meter shows 0 to {most:g} V, or OL: "
                "check the range and the leads."
            )
    if point.quantity is Quantity.LEAKAGE and _MOST_LEAK_A < measured.value < math.inf:
        raise RangeError(
            f"{show(measured.value, Unit.AMPERE)} through a capacitor? Write 12u for microamperes."
        )
    if point.quantity in COLD and not measured.is_over and measured.value < 0:
        raise RangeError("This reading cannot be negative: check the leads.")
    marked = station.value if station and point.quantity is Quantity.CAPACITANCE else None
    most = _MOST_LIFTED if point.setting == LIFTED else _MOST_IN_CIRCUIT
    if marked and not measured.is_over and measured.value >= most * marked:
        raise RangeError(
            f"{show(measured.value, Unit.FARAD)} at a part of {show_exact(marked, Unit.FARAD)}? "
            "Check the prefix: p, n or u."
        )


def next_undone(order: list[Point], done: Collection[str], after: str = "") -> Point | None:
    """The first point of `order` behind `after` (then from the start) that is not done."""
    keys = [point.key for point in order]
    start = keys.index(after) + 1 if after in keys else 0
    turned = order[start:] + order[:start]
    return next((point for point in turned if point.key not in done and point.key != after), None)
