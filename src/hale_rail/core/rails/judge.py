"""Judges a rail's voltage against its sheet, at one load.

Source: docs/formulas.md, “Rails”. A reading has an uncertainty; inside the band by more than that
passes, within it of the edge is marginal, beyond is a failure. Every verdict is tied to its load.
"""

from __future__ import annotations

import math
from enum import Enum

from msgspec import Struct

from hale_rail.core.procedures import VOLTS, Accuracy, Condition, is_turned, rounding
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.core.targets import Place

#: the loads a rail is read at, the least telling first
LOADS = (Condition.NO_LOAD, Condition.DUMMY, Condition.MACHINE)


class Tolerance(Enum):
    """How far a rail may be off where its sheet does not say."""

    STRICT = "strict"
    LENIENT = "lenient"


class RailVerdict(Enum):
    """What is concluded of a rail at one load."""

    PASS = "pass"
    MARGINAL = "marginal"
    FAIL = "fail"
    NOT_JUDGED = "not-judged"

    @property
    def words(self) -> str:
        """The verdict as one says it."""
        return self.value.replace("-", " ")

    @property
    def shape(self) -> str:
        """The shape that it takes, by the code of a part's state."""
        return _SHAPES[self.value]


_SHAPES = {"pass": "good", "marginal": "worn", "fail": "failed", "not-judged": "unproven"}
#: share above nominal at which power is removed at once: a logic rail, any other under load, and
#: any other without a load
OVERVOLTAGE, LOADED_OVERVOLTAGE, GROSS_OVERVOLTAGE = 0.10, 0.20, 0.25
#: the highest nominal volts of a rail that feeds logic
LOGIC_V = 5.5
#: shares below and above nominal of a raw rail, unloaded and loaded
RAW_UNLOADED, RAW_LOADED = (0.15, 0.35), (0.15, 0.20)
#: the same of alternating volts from a transformer: the mains' own tenth, and its regulation
AC_UNLOADED, AC_LOADED = (0.10, 0.30), (0.15, 0.15)
_EPSILON = 1e-9


class RailReading(Struct, frozen=True):
    """A rail as read: volts (`high_v` the far end of a jumping one), last digit's weight, load.

    `accuracy`: that of the meter it was read with; `place` where along its line; `ampere` the
    load's current where known; `in_switcher`: the unit switches the mains, so that this
    rail is behind a switching stage; `taken`: its place in time among the others.
    """

    rail: Rail
    low_v: float
    high_v: float
    digit_v: float
    load: Condition
    accuracy: Accuracy = VOLTS.accuracy
    place: Place = Place.NONE
    ampere: float | None = None
    in_switcher: bool = False
    taken: int = 0

    @property
    def ends(self) -> tuple[float, float]:
        """Both ends of a jumping reading, the same twice for a still one."""
        return self.low_v, self.high_v

    def uncertainty_v(self, volt: float) -> float:
        """The meter's error at `volt`, in volts."""
        return self.accuracy.error(volt, self.digit_v, Unit.VOLT)

    @property
    def is_turned(self) -> bool:
        """True when its sign is not the rail's; alternating volts have none."""
        return not self.rail.is_ac and is_turned(self.low_v, self.high_v, self.rail.nominal_v)

    @property
    def is_over(self) -> bool:
        """True for an over-voltage: power is removed at once.

        The figure itself counts, and for a logic rail the meter's error below the limit too; how
        it was rounded never does.
        """
        if self.is_turned:
            return False
        limit = abs(self.rail.nominal_v) * (1 + overvoltage(self.rail, self.load))
        error = self.uncertainty_v(limit) if is_logic(self.rail) else 0.0
        return self.most_v + error > limit + _EPSILON

    @property
    def most_v(self) -> float:
        """The higher end in the direction of the rail's sign."""
        sign = math.copysign(1.0, self.rail.nominal_v)
        return max(sign * end for end in self.ends)

    @property
    def rounding_v(self) -> float:
        """Half of the last digit as typed, where the meter shows more; else 0."""
        return max(rounding(end, self.digit_v, Unit.VOLT) for end in self.ends)

    @property
    def present_v(self) -> float:
        """The end further from nothing, without its sign."""
        return max(abs(end) for end in self.ends)

    @property
    def absent_v(self) -> float:
        """The end nearer to nothing, without its sign."""
        return min(abs(end) for end in self.ends)


class RailJudgement(Struct, frozen=True):
    """A verdict with its band in volts (lower, upper), the uncertainty, and sentences."""

    verdict: RailVerdict
    band_v: tuple[float, float]
    uncertainty_v: float
    off_share: float
    text: str
    advice: str = ""
    #: True when a regulator may have passed its input through
    is_pass_through: bool = False

    @property
    def is_off(self) -> bool:
        """True where it neither passes nor is left unjudged."""
        return self.verdict in (RailVerdict.FAIL, RailVerdict.MARGINAL)


def is_logic(rail: Rail) -> bool:
    """True for a rail that feeds logic: positive, up to 5.5 V."""
    return not rail.is_ac and 0 < rail.nominal_v <= LOGIC_V


def overvoltage(rail: Rail, load: Condition = Condition.MACHINE) -> float:
    """The share above nominal from which power is removed at once.

    10 % of a logic rail; of others 20 % under load and 25 % without, never inside the rail's own
    band.
    """
    if is_logic(rail):
        return OVERVOLTAGE
    usual = GROSS_OVERVOLTAGE if load is Condition.NO_LOAD else LOADED_OVERVOLTAGE
    if rail.tolerance:
        return max(usual, rail.tolerance[1])
    if rail.is_ac:
        return max(usual, (AC_UNLOADED if load is Condition.NO_LOAD else AC_LOADED)[1])
    raw = RAW_UNLOADED if load is Condition.NO_LOAD else RAW_LOADED
    return max(usual, raw[1]) if rail.regulation is Regulation.RAW else usual


def school_share(nominal_v: float, tolerance: Tolerance) -> float:
    """How far a regulated rail may be off where its sheet does not say, as a share of nominal."""
    return 0.10 if tolerance is Tolerance.LENIENT or nominal_v < 0 else 0.05


def band(
    rail: Rail, tolerance: Tolerance, load: Condition = Condition.MACHINE
) -> tuple[float, float]:
    """Lower and upper limit in volts, lower first.

    The sheet's own tolerance when it has one; a raw rail −15 % to +35 % unloaded, to +20 % loaded;
    else strict (±5 %, negative rails ±10 %) or lenient (±10 %).
    """
    if rail.tolerance:
        low, high = rail.tolerance
    elif rail.is_ac:
        low, high = AC_UNLOADED if load is Condition.NO_LOAD else AC_LOADED
    elif rail.regulation is Regulation.RAW:
        low, high = RAW_UNLOADED if load is Condition.NO_LOAD else RAW_LOADED
    else:
        low = high = school_share(rail.nominal_v, tolerance)
    ends = rail.nominal_v * (1 - low), rail.nominal_v * (1 + high)
    return min(ends), max(ends)


def judge(reading: RailReading, tolerance: Tolerance) -> RailJudgement:
    """Judge one rail at one load; the worse end of a jumping reading counts."""
    rail, limits = reading.rail, band(reading.rail, tolerance, reading.load)
    rank = (RailVerdict.FAIL, RailVerdict.MARGINAL, RailVerdict.PASS)
    verdicts = {end: _against(end, limits, reading.uncertainty_v(end)) for end in reading.ends}
    verdict = min(verdicts.values(), key=rank.index)
    worst = max(
        (end for end in reading.ends if verdicts[end] is verdict),
        key=lambda volt: abs(volt - rail.nominal_v),
    )
    error = reading.uncertainty_v(worst)
    off = worst / rail.nominal_v - 1
    text = _sentence(reading, worst, error, limits, off)
    if reading.is_turned:
        advice = "Leads the other way round? Turn them and read again."
        return RailJudgement(RailVerdict.NOT_JUDGED, limits, error, off, text, advice)
    if reading.is_over:
        passed = rail.regulation is Regulation.LINEAR
        is_unloaded = reading.load is Condition.NO_LOAD
        over = RailVerdict.FAIL if is_unloaded or not is_logic(rail) else verdict
        return RailJudgement(over, limits, error, off, text, _overvoltage(rail), passed)
    if reading.load is Condition.NO_LOAD and _is_behind_switch(reading):
        if _is_loop_high(reading):
            return RailJudgement(RailVerdict.FAIL, limits, error, off, text, _LOOP_HIGH)
        advice = _minimum_load(rail)
        return RailJudgement(RailVerdict.NOT_JUDGED, limits, error, off, text, advice)
    if _is_rounded_away(reading, limits):
        return RailJudgement(RailVerdict.NOT_JUDGED, limits, error, off, text, _rounded(reading))
    return RailJudgement(verdict, limits, error, off, text)


def _is_rounded_away(reading: RailReading, limits: tuple[float, float]) -> bool:
    """True where what was rounded off is more than the meter's error, on both sides of a limit."""
    half = reading.rounding_v
    return half > max(reading.uncertainty_v(end) for end in reading.ends) and any(
        end - half < limit - _EPSILON and end + half > limit + _EPSILON
        for end in reading.ends
        for limit in limits
    )


def _rounded(reading: RailReading) -> str:
    half = reading.rounding_v
    low, high = min(reading.ends) - half, max(reading.ends) + half
    return (
        f"As typed it is {show(low, Unit.VOLT)} to {show(high, Unit.VOLT)}: type the decimals that "
        "the meter shows."
    )


def _sentence(
    reading: RailReading, worst: float, error: float, limits: tuple[float, float], off: float
) -> str:
    jumps = "" if reading.low_v == reading.high_v else "jumping, worse end "
    jumps += "AC, " if reading.rail.is_ac else ""
    place = f" at the {reading.place.words}" if reading.place is not Place.NONE else ""
    return (
        f"{jumps}{show(worst, Unit.VOLT, 4)} ±{show(error, Unit.VOLT, 2)} against "
        f"{show(limits[0], Unit.VOLT, 4)} to {show(limits[1], Unit.VOLT, 4)}, "
        f"{reading.load.words}{place}: {_signed(off)}"
    )


def _is_behind_switch(reading: RailReading) -> bool:
    is_dc = not reading.rail.is_ac
    return is_dc and (reading.in_switcher or reading.rail.regulation.is_switching)


#: a main loop that stands high without a load is out of control
_LOOP_HIGH = "A main loop above +10 % without a load: remove power, look at its feedback."


def _is_loop_high(reading: RailReading) -> bool:
    """A main loop above +10 %, which no missing load explains."""
    rail = reading.rail
    most = abs(rail.nominal_v) * (1 + OVERVOLTAGE)
    return rail.regulation is Regulation.MAIN and reading.most_v > most + _EPSILON


def _against(volt: float, limits: tuple[float, float], error: float) -> RailVerdict:
    margin = min(volt - limits[0], limits[1] - volt)
    if margin > error:
        return RailVerdict.PASS
    return RailVerdict.MARGINAL if margin >= -error else RailVerdict.FAIL


def _signed(share: float) -> str:
    return f"{100 * share:+.1f} %".replace("-", "−")


def _minimum_load(rail: Rail) -> str:
    """Which dummy gives a switching supply the load it needs to be judged at."""
    start = "Without a load a switching supply is not judged: many need their minimum load"
    amps = rail.load_min_a or (0.1 * rail.load_max_a if rail.load_max_a else None)
    if not amps:
        return f"{start}, on the main rail above all."
    ohm, watt = abs(rail.nominal_v) / amps, abs(rail.nominal_v) * amps
    return (
        f"{start}. A dummy of {show(ohm, Unit.OHM)} rated {show(2 * watt, Unit.WATT, 2)} "
        f"or more draws {show(amps, Unit.AMPERE, 2)} from {rail.key}."
    )


def _overvoltage(rail: Rail) -> str:
    text = "Remove power at once."
    if rail.regulation is Regulation.LINEAR:
        text += " The regulator may have passed its input through: suspect every part on this rail."
    return text
