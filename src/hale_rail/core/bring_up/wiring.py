"""What a harness is of: rails of a source, pins of a connector, wires and what they bear.

Source: docs/formulas.md, “Harness”. A wire of gauge n is d = 0.127 mm · 92^((36 − n)/39) across,
R = ρL/(πd²/4) with ρ of copper at 20 °C; what a pin draws is shared by as many conductors as its
contacts need: ceil(I/I_contact).
"""

from __future__ import annotations

import math
from enum import Enum

from msgspec import Struct

from hale_rail.core.quantities import Unit, show

#: resistivity of annealed copper at 20 °C, Ω·m: the one that tables of wire gauges are made with
RHO_OHM_M = 1.7241e-8
#: ohms of one contact, and amperes a square millimetre of copper in a bundle
CONTACT_OHM, AMPS_A_MM2 = 0.010, 7.0
#: a share of an ampere or a volt that counts as zero
EPSILON = 1e-9


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
    carries (None: not known); `min_a` the least load it needs; `isolated`: its both ends float.
    """

    rail_v: float
    amps: float | None
    conductors: int
    awg: int | None
    pin_amps: float | None
    min_a: float | None = None
    isolated: bool = False
    is_ac: bool = False

    @property
    def name(self) -> str:
        """The rail as one says it."""
        return rail_words(self.rail_v, is_ac=self.is_ac)


class Pin(Struct, frozen=True):
    """One pin of the target: what it is, its volts and the amperes it draws (None: not known)."""

    name: str
    kind: PinKind
    rail_v: float | None = None
    amps: float | None = None
    is_ac: bool = False
    use: SignalUse | None = None

    @property
    def rail_name(self) -> str:
        """The rail it is to have, as one says it."""
        return rail_words(self.rail_v or 0.0, is_ac=self.is_ac)


class Wire(Struct, frozen=True):
    """What feeds a pin: the feed's place in the source, conductors, and the drop one way.

    `drop_v` None where the pin's current is not known; `ohm` of the wire with its contact, one
    way, None where its gauge is not known.
    """

    pin: Pin
    feed: int
    rail_v: float
    amps: float | None
    conductors: int
    drop_v: float | None
    ohm: float | None = None

    @property
    def mv_per_a(self) -> float | None:
        """Millivolts an ampere, one way with its contact; None where the wire is not known."""
        return None if self.ohm is None else 1e3 * self.ohm


def wire_ohm(awg: int, length_m: float) -> float:
    """Ohms of one conductor of a gauge (AWG; 0 for 1/0, −1 for 2/0) at 20 °C, one way."""
    across_m: float = 0.127e-3 * 92.0 ** ((36 - awg) / 39)
    return RHO_OHM_M * length_m / (math.pi / 4 * across_m * across_m)


def bundle_amps(awg: int) -> float:
    """What a conductor of a gauge bears in a bundle, in amperes: 7 A a square millimetre.

    A usual figure for chassis wiring in a small bundle: 18 AWG 5.8 A, 28 AWG 0.57 A.
    """
    across_mm: float = 0.127 * 92.0 ** ((36 - awg) / 39)
    return AMPS_A_MM2 * math.pi / 4 * across_mm * across_mm


def wire_of(pin: Pin, index: int, feed: Feed, amps: float | None, length_m: float) -> Wire:
    """The wire from a feed, by its place in the source, to a pin that carries `amps`."""
    most = feed.pin_amps
    conductors = max(1, math.ceil((amps or 0.0) / most - EPSILON)) if most else 1
    copper = wire_ohm(feed.awg, length_m) / conductors if feed.awg is not None else None
    drop = amps * copper if amps is not None and copper is not None else None
    ohm = None if copper is None else copper + CONTACT_OHM
    return Wire(pin, index, feed.rail_v, amps, conductors, drop, ohm)


def rail_words(volt: float, *, is_ac: bool = False) -> str:
    """A rail by its volts: `+5 V`, `−12 V`, `9 V AC`, `ground`."""
    if not volt:
        return "ground"
    if is_ac:
        return f"{show(volt, Unit.VOLT)} AC"
    return ("+" if volt > 0 else "") + show(volt, Unit.VOLT)
