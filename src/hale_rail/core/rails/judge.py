"""Judges a rail's voltage against its sheet, and a set of readings together.

Source: docs/formulas.md, “Rails”. A reading has an uncertainty; inside the band by more than that
passes, within it of the edge is marginal, beyond is a failure. Every verdict is tied to its load.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from hale_rail.core.procedures import VOLTS, Accuracy, Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.sheet import Rail, Regulation

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


#: share above nominal at which power is removed from a logic rail at once
OVERVOLTAGE = 0.10
_EPSILON = 1e-9


@dataclass(frozen=True)
class RailReading:
    """A rail as read: volts (`high_v` the far end of a jumping one), last digit's weight, load.

    `accuracy`: that of the meter it was read with.
    """

    rail: Rail
    low_v: float
    high_v: float
    digit_v: float
    load: Condition
    accuracy: Accuracy = VOLTS.accuracy

    def uncertainty_v(self, volt: float) -> float:
        """The meter's error at `volt`, in volts."""
        return self.accuracy.error(volt, self.digit_v)


@dataclass(frozen=True)
class RailJudgement:
    """A verdict with its band in volts (lower, upper), the uncertainty, and sentences."""

    verdict: RailVerdict
    band_v: tuple[float, float]
    uncertainty_v: float
    off_share: float
    text: str
    advice: str = ""
    #: True when a regulator may have passed its input through
    is_pass_through: bool = False


@dataclass(frozen=True)
class Pattern:
    """What a set of readings says together."""

    code: str
    text: str
    urgent: bool = False


def band(rail: Rail, tolerance: Tolerance) -> tuple[float, float]:
    """Lower and upper limit in volts, lower first.

    The sheet's own tolerance when it has one; else strict (±5 %, negative rails ±10 %) or lenient
    (±10 %).
    """
    if rail.tolerance:
        low, high = rail.tolerance
    else:
        share = 0.10 if tolerance is Tolerance.LENIENT or rail.nominal_v < 0 else 0.05
        low = high = share
    ends = rail.nominal_v * (1 - low), rail.nominal_v * (1 + high)
    return min(ends), max(ends)


def judge(reading: RailReading, tolerance: Tolerance) -> RailJudgement:
    """Judge one rail at one load; the worse end of a jumping reading counts."""
    rail, limits = reading.rail, band(reading.rail, tolerance)
    ends = (reading.low_v, reading.high_v)
    rank = (RailVerdict.FAIL, RailVerdict.MARGINAL, RailVerdict.PASS)
    verdicts = [_against(volt, limits, reading.uncertainty_v(volt)) for volt in ends]
    verdict = min(verdicts, key=rank.index)
    worst = max(ends, key=lambda volt: abs(volt - rail.nominal_v))
    error = reading.uncertainty_v(worst)
    off = worst / rail.nominal_v - 1
    jumps = "" if reading.low_v == reading.high_v else "jumping, worse end "
    text = (
        f"{jumps}{show(worst, Unit.VOLT, 4)} ±{show(error, Unit.VOLT, 2)} against "
        f"{show(limits[0], Unit.VOLT, 4)} to {show(limits[1], Unit.VOLT, 4)}, "
        f"{reading.load.words}: {_signed(off)}"
    )
    over = max(end / rail.nominal_v for end in ends) > 1 + OVERVOLTAGE + _EPSILON
    if reading.load is Condition.NO_LOAD and rail.regulation.is_switching and not over:
        return RailJudgement(RailVerdict.NOT_JUDGED, limits, error, off, text, _minimum_load(rail))
    if not (over and verdict is RailVerdict.FAIL):
        return RailJudgement(verdict, limits, error, off, text)
    passed = rail.regulation is Regulation.LINEAR
    return RailJudgement(verdict, limits, error, off, text, _overvoltage(rail), passed)


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


def patterns(readings: Sequence[RailReading], tolerance: Tolerance) -> list[Pattern]:
    """What readings taken at one kind of load say together, the urgent first."""
    off = {r.rail.key: judge(r, tolerance).off_share for r in readings}
    by_key = {r.rail.key: r for r in readings}
    found = [*_presence(by_key), *_over(by_key, off)]
    found += _together(by_key, off)
    return sorted(found, key=lambda pattern: not pattern.urgent)


def _presence(by_key: dict[str, RailReading]) -> list[Pattern]:
    """−5 V missing while +12 V is there destroys three-rail memory."""
    plus12 = next((r for r in by_key.values() if 11 < r.rail.nominal_v < 13), None)
    minus5 = next((r for r in by_key.values() if -5.6 < r.rail.nominal_v < -4.4), None)
    if plus12 is None or minus5 is None:
        return []
    if plus12.low_v > 6 and minus5.high_v > -2.5:
        text = "−5 V is missing while +12 V is there: power off at once, three-rail memory dies."
        return [Pattern("minus5-missing", text, urgent=True)]
    return []


def _over(by_key: dict[str, RailReading], off: dict[str, float]) -> list[Pattern]:
    logic = [key for key, r in by_key.items() if 0 < r.rail.nominal_v <= 5.5]
    return [
        Pattern("overvoltage", f"{key} is above +10 %: remove power at once.", urgent=True)
        for key in logic
        if off[key] > OVERVOLTAGE + _EPSILON
    ]


def _together(by_key: dict[str, RailReading], off: dict[str, float]) -> list[Pattern]:
    """All off in proportion, one alone, or an auxiliary high beside a right main rail."""
    strays = {key: share for key, share in off.items() if abs(share) > 0.03}
    main = next((k for k, r in by_key.items() if r.rail.regulation is Regulation.MAIN), None)
    if len(off) >= 3 and len(strays) == len(off):
        shares = list(strays.values())
        if max(shares) - min(shares) < 0.04 and max(shares) * min(shares) > 0:
            way = "low" if shares[0] < 0 else "high"
            text = f"All rails {way} together, in proportion: reference, feedback or trimmer."
            return [Pattern("all-together", text)]
    if main and abs(off[main]) <= 0.03:
        high = [key for key, share in strays.items() if share > 0.05]
        aux = [k for k in high if by_key[k].rail.regulation is Regulation.AUXILIARY]
        if aux:
            text = f"{main} is right and {', '.join(aux)} high: {main} underloaded, or "
            return [Pattern("cross-regulation", text + "the auxiliary unloaded.")]
    if len(off) >= 2 and len(strays) == 1:
        key = next(iter(strays))
        text = f"{key} alone is off: its own rectifier, filter or regulator."
        return [Pattern("one-rail", text)]
    return []
