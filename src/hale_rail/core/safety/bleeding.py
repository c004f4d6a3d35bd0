"""Stored energy and bleeding it away.

Sources: E = ½CV²; V(t) = V0·exp(−t/RC), so t = RC·ln(V0/V1); peak power V0²/R; two timed
readings give RC = (t2−t1)/ln(V1/V2). A wirewound resistor takes five times its
rating for up to five seconds.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, joules, show, show_duration
from hale_rail.core.quantity_text import AT_ONCE_S

TOUCH_LIMIT_V = 60.0
#: above this an ohm or ESR meter is damaged
METER_LIMIT_V = 5.0
#: volts from which a charge is a shock, and the joules from which it throws, hurts, kills
SHOCK_V, THROWS_J, HURTS_J, KILLS_J = 60.0, 0.05, 0.35, 10.0
#: joules from which a charge below that burns and welds
SPARK_J = 1.0
PULSE_FACTOR, PULSE_S = 5.0, 5.0


class PowerResistor(Struct, frozen=True):
    """A power resistor at hand: ohms, rated watts, `wirewound` or `film`, rated volts, how many."""

    ohm: float
    watt: float
    kind: str
    max_volt: float
    qty: int = 1


class Bleed(Struct, frozen=True):
    """Bleeding through one resistance: seconds, watts at the start, joules into the resistor."""

    ohm: float
    tau_s: float
    time_s: float
    peak_w: float
    energy_j: float


class BleederProposal(Struct, frozen=True):
    """A resistor of the stock, what it does, and why it was taken."""

    resistor: PowerResistor
    bleed: Bleed
    why: str


def stored_energy(farad: float, volt: float) -> float:
    """E = ½CV² in joules."""
    return 0.5 * farad * volt * volt


def shock_words(energy_j: float, volt: float) -> str:
    """What an energy at its voltage does to a hand, a tool or a meter.

    Source: docs/formulas.md, “Stored energy”. Volts and joules together say it.
    """
    if abs(volt) >= SHOCK_V:
        if energy_j >= KILLS_J:
            return "can kill; a tool laid across it goes off with a bang and spits metal"
        if energy_j >= HURTS_J:
            return "a shock that hurts and throws the hand"
        if energy_j >= THROWS_J:
            return "a shock that throws the hand"
        return "a sting, enough to make a hand jerk"
    if energy_j > SPARK_J:
        return "no shock, but a spark that burns, welds a ring and pits a probe"
    if abs(volt) > METER_LIMIT_V:
        return "no shock; it damages a meter on ohms"
    return "no shock, low enough for a meter"


def volts_after(volt: float, tau_s: float, seconds: float) -> float:
    """V(t) = V0·exp(−t/RC)."""
    return volt * math.exp(-seconds / tau_s)


def bleed(farad: float, volt: float, ohm: float, limit_volt: float = TOUCH_LIMIT_V) -> Bleed:
    """Bleed `farad` from `volt` to `limit_volt` through `ohm`; raises InputError on nonsense."""
    check_store(farad, volt, limit_volt)
    if not ohm > 0 or math.isinf(ohm):
        raise InputError("A bleed resistor needs a resistance above 0 Ω.")
    tau = ohm * farad
    return Bleed(
        ohm, tau, time_to(volt, limit_volt, tau), volt * volt / ohm, stored_energy(farad, volt)
    )


def time_to(volt: float, limit_volt: float, tau_s: float) -> float:
    """Seconds from `volt` down to `limit_volt`; 0 when it is there already."""
    if abs(volt) <= limit_volt:
        return 0.0
    return tau_s * math.log(abs(volt) / limit_volt)


def allowed_watt(resistor: PowerResistor, pulse_s: float) -> float:
    """Peak power the resistor takes for a bleed that lasts `pulse_s`."""
    if resistor.kind == "wirewound" and pulse_s <= PULSE_S:
        return PULSE_FACTOR * resistor.watt
    return resistor.watt


def _in(seconds: float) -> str:
    """`at once`, `in 3.8 s`."""
    text = show_duration(seconds)
    return text if seconds < AT_ONCE_S else f"in {text}"


def propose(
    farad: float, volt: float, stock: Sequence[PowerResistor], limit_volt: float = TOUCH_LIMIT_V
) -> BleederProposal | None:
    """The resistor of the stock that reaches the limit soonest within its ratings, or None."""
    check_store(farad, volt, limit_volt)
    best: BleederProposal | None = None
    for resistor in stock:
        if resistor.max_volt < abs(volt) or not resistor.qty:
            continue
        this = bleed(farad, volt, resistor.ohm, limit_volt)
        allowed = allowed_watt(resistor, this.time_s)
        if this.peak_w > allowed or (best and best.bleed.time_s <= this.time_s):
            continue
        why = (
            f"reaches {show(limit_volt, Unit.VOLT)} soonest, {_in(this.time_s)}; "
            f"peak {show(this.peak_w, Unit.WATT)} of {show(allowed, Unit.WATT)} allowed"
        )
        if allowed > resistor.watt:
            why += f" ({show(resistor.watt, Unit.WATT)} wirewound, five times for five seconds)"
        best = BleederProposal(resistor, this, why)
    return best


def self_discharge_tau(readings: Sequence[tuple[float, float]]) -> float:
    """RC in seconds from two or more `(seconds, volts)`; least squares on ln V when more than two.

    Raises InputError when the times or volts cannot be those of a discharge.
    """
    if len(readings) < 2:
        raise InputError("Two timed readings are needed to tell the self-discharge.")
    points = sorted((t, abs(v)) for t, v in readings)
    if any(v <= 0 for _, v in points):
        raise InputError("A reading of 0 V gives no rate: take both while volts remain.")
    mean_t = sum(t for t, _ in points) / len(points)
    mean_y = sum(math.log(v) for _, v in points) / len(points)
    spread = sum((t - mean_t) ** 2 for t, _ in points)
    if spread == 0:
        raise InputError("The readings were taken at the same time: they give no rate.")
    slope = sum((t - mean_t) * (math.log(v) - mean_y) for t, v in points) / spread
    if slope >= 0:
        raise InputError("The volts do not fall: something still feeds the capacitor.")
    return -1 / slope


def check_decay(readings: Sequence[tuple[float, float]]) -> None:
    """Raise InputError, with what was read, unless every reading is below the one before it."""
    ordered = sorted(readings)
    for (t1, v1), (t2, v2) in pairwise(ordered):
        shown = f"{v1:g} V at {t1:g} s, {v2:g} V at {t2:g} s"
        if v1 * v2 < 0:
            raise InputError(f"The volts change sign: {shown}. That is not a discharge.")
        if abs(v2) > abs(v1):
            raise InputError(f"The volts rise: {shown}. Something still feeds the capacitor.")
        if abs(v2) == abs(v1) and t2 > t1:
            raise InputError(f"The volts do not fall: {shown}. They give no rate.")


def bleeder_text(measured_tau_s: float, expected_tau_s: float) -> str:
    """Whether the fitted bleeder works, from measured against expected RC."""
    shown = f"RC {show(measured_tau_s, Unit.SECOND)} measured, {show(expected_tau_s, Unit.SECOND)}"
    if measured_tau_s > 2 * expected_tau_s:
        return f"{shown} expected: the fitted bleeder is open, or drifted far up."
    if measured_tau_s < 0.5 * expected_tau_s:
        return f"{shown} expected: something besides the bleeder drains it."
    return f"{shown} expected: the fitted bleeder works."


def cautions(farad: float, volt: float) -> list[str]:
    """What to keep in mind while bleeding this store."""
    energy = stored_energy(farad, volt)
    cautions = [f"{joules(energy)} stored: {shock_words(energy, volt)}."]
    if abs(volt) > TOUCH_LIMIT_V:
        cautions.append(
            "Unplug first. Not with a screwdriver: through a resistor on insulated leads."
        )
        cautions.append(
            f"The resistor and its leads must be rated for {show(abs(volt), Unit.VOLT)}."
        )
    cautions.append(
        "Read again some minutes later: dielectric absorption brings part of the voltage back. "
        f"Below {METER_LIMIT_V:g} V before an ohm or ESR meter is connected."
    )
    cautions.append(
        "Local codes and licensed practice come first; no reading makes live work safe."
    )
    return cautions


def check_store(farad: float, volt: float, limit_volt: float) -> None:
    """Raise InputError unless a capacitor of this size can stand at this voltage."""
    if not 0 < farad <= 1:
        raise InputError("The capacitor must be above 0 F and at most 1 F.")
    if not 0 <= abs(volt) <= 50e3:
        raise InputError("The voltage must lie within 50 kV.")
    if not limit_volt > 0:
        raise InputError("The limit must be above 0 V.")
