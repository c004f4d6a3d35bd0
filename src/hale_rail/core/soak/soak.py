"""Judges a soak: a rail's volts over hours, its trend with its uncertainty, gaps, a verdict.

Source: docs/formulas.md, “Soak”. Slope by least squares after the warm-up; its 95 % bounds by
Student's t with the effective sample size n(1 − r)/(1 + r) for the lag-1 autocorrelation r of the
residuals (r below 0 counts as 0).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import Enum
from itertools import pairwise
from statistics import median

from msgspec import Struct

from hale_rail.core.arrays import np
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, show

USUAL_HOURS, USUAL_WARM_UP_S = 24.0, 1800.0
MOST_HOURS = 10_000.0
#: a gap is an interval of more than so many usual ones
_GAP = 5.0
#: a trend counts when it reaches a limit within so many times the hours wanted
_FAR = 10.0
#: a log with gaps of more than this share of the wanted hours says too little
_SILENT = 0.25
#: shares above nominal that are an over-voltage: of a logic rail, and of any other under load
_LOGIC, _OTHER, _LOGIC_V = 0.10, 0.20, 5.5
#: blocks whose means tell how far a slope is trusted under noise of 1/f, and what they fall short
#: of by their own correlation (by simulation: at most 5 % of false alarms from 100 rows on)
_BLOCKS, _BLOCKS_FACTOR = 8, 1.3
_EPSILON = 1e-9
#: fewer rows than this have no slope with bounds
_FEWEST = 3


class SoakVerdict(Enum):
    """What is concluded of a soak."""

    PASS = "pass"
    DRIFTING = "drifting"
    FAIL = "fail"
    TOO_SHORT = "too-short"

    @property
    def words(self) -> str:
        """The verdict as one says it."""
        return self.value.replace("-", " ")


#: what the machine can do, in words; all but a test that passed are failures
EVENTS = {
    "hung": "the machine hung",
    "reset": "the machine reset itself",
    "memory-error": "its memory test found an error",
    "test-passed": "its test passed",
}
_GOOD_EVENTS = ("test-passed",)


class Sample(Struct, frozen=True):
    """One row: seconds on any clock, volts, and where known ripple in mV and °C.

    `event`: what the machine did then, by the codes of `EVENTS`; its row may lack volts (nan).
    """

    at_s: float
    volt: float
    ripple_mv: float | None = None
    celsius: float | None = None
    event: str = ""

    @property
    def has_volts(self) -> bool:
        """True where volts were read."""
        return not math.isnan(self.volt)


class SoakLimits(Struct, frozen=True):
    """What a soak is held against: limits in volts, hours wanted, seconds of warm-up.

    `ripple_mv`: the most ripple allowed, None where it is not known; `nominal_v` tells a gross
    over-voltage, which no warm-up excuses.
    """

    low_v: float
    high_v: float
    hours: float = USUAL_HOURS
    warm_up_s: float = USUAL_WARM_UP_S
    ripple_mv: float | None = None
    nominal_v: float | None = None


class Trend(Struct, frozen=True):
    """Volts an hour with 95 % bounds, and the line's volts at the last row."""

    v_per_hour: float
    low: float
    high: float
    last_v: float

    @property
    def is_proven(self) -> bool:
        """True when the bounds exclude no change."""
        return self.low > 0 or self.high < 0


class Soak(Struct, frozen=True):
    """A soak judged; hours count from the first row. Means and trend leave the warm-up out, and
    are None where no row stands behind it."""

    hours: float
    samples: int
    gaps: tuple[tuple[float, float], ...]
    mean_v: float | None
    min_v: float | None
    max_v: float | None
    trend: Trend | None
    hours_to_limit: float | None
    verdict: SoakVerdict
    reasons: tuple[str, ...]


def soak(samples: Sequence[Sample], limits: SoakLimits) -> Soak:
    """Judge a rail's rows, in order of time; raises InputError for none, or limits that cannot be.

    Order of verdicts: fail, too short, drifting, pass.
    """
    _check(samples, limits)
    rows = sorted(samples, key=lambda row: row.at_s)
    start = rows[0].at_s
    failed = next((row for row in rows if row.event and row.event not in _GOOD_EVENTS), None)
    if failed:
        rows = [row for row in rows if row.at_s <= failed.at_s]
    hours = (rows[-1].at_s - start) / 3600
    gaps = _gaps([(row.at_s - start) / 3600 for row in rows])
    read = [row for row in rows if row.has_volts]
    warm = [row for row in read if row.at_s - start >= limits.warm_up_s - _EPSILON]
    volts = [row.volt for row in warm]
    fitted = trend([(row.at_s - start) / 3600 for row in warm], volts)
    reach = _to_limit(fitted, limits)
    verdict, reasons = _verdict(warm, hours, fitted, reach, limits)
    silent = max((end - begin for begin, end in gaps), default=0.0)
    if verdict in (SoakVerdict.PASS, SoakVerdict.DRIFTING) and silent > _SILENT * limits.hours:
        verdict = SoakVerdict.TOO_SHORT
        reasons.insert(
            0, f"{silent:.1f} h without a row: more than a quarter of {limits.hours:g} h."
        )
    urgent = _urgent(read, failed, start, limits)
    if urgent:
        verdict, reasons = SoakVerdict.FAIL, [*urgent, *reasons]
    reasons += [f"Nothing was read from {begin:.2f} h to {end:.2f} h." for begin, end in gaps]
    return Soak(
        hours,
        len(rows),
        gaps,
        float(np.mean(volts)) if volts else None,
        min(volts, default=None),
        max(volts, default=None),
        fitted,
        reach,
        verdict,
        (*reasons, *_further(warm)),
    )


def _urgent(
    rows: Sequence[Sample], failed: Sample | None, start_s: float, limits: SoakLimits
) -> list[str]:
    """What fails a soak at any time, the warm-up included: over-voltage, and the machine itself."""
    urgent = []
    if limits.nominal_v:
        limit = abs(limits.nominal_v) * (1 + (_LOGIC if _is_logic(limits.nominal_v) else _OTHER))
        over = [r for r in rows if r.volt * limits.nominal_v > 0 and abs(r.volt) > limit + _EPSILON]
        if over:
            worst = max(over, key=lambda row: abs(row.volt))
            urgent.append(
                f"Over-voltage: {show(worst.volt, Unit.VOLT, 4)} at "
                f"{(worst.at_s - start_s) / 3600:.2f} h. Power off at once."
            )
    if failed:
        after = (failed.at_s - start_s) / 3600
        urgent.append(
            f"After {after:.2f} h {EVENTS.get(failed.event, failed.event)}: it ends there."
        )
    return urgent


def _is_logic(nominal_v: float) -> bool:
    return 0 < nominal_v <= _LOGIC_V


def _check(samples: Sequence[Sample], limits: SoakLimits) -> None:
    if not any(row.has_volts for row in samples):
        raise InputError("There is no row with volts to judge.")
    if not limits.low_v < limits.high_v:
        raise InputError("The lower limit must be below the upper one.", field="low")
    if not 0 < limits.hours <= MOST_HOURS:
        raise InputError(f"Hours: above 0, at most {MOST_HOURS:g}.", field="hours")
    if limits.warm_up_s < 0:
        raise InputError("The warm-up cannot be below 0.", field="warm_up")


def _gaps(hours: Sequence[float]) -> tuple[tuple[float, float], ...]:
    """Intervals of more than five times the median one."""
    steps = [later - former for former, later in pairwise(hours)]
    if not steps:
        return ()
    most = _GAP * median(steps) * (1 + _EPSILON)
    return tuple((former, later) for former, later in pairwise(hours) if later - former > most)


def trend(hours: Sequence[float], volts: Sequence[float]) -> Trend | None:
    """The slope of volts over hours with its 95 % bounds; None for fewer than three rows."""
    if len(hours) < _FEWEST or max(hours) - min(hours) < _EPSILON:
        return None
    time, volt = np.asarray(hours), np.asarray(volts)
    centred = time - time.mean()
    square = float(centred @ centred)
    slope = float(centred @ (volt - volt.mean()) / square)
    rest = volt - volt.mean() - slope * centred
    last = float(volt.mean() + slope * centred[-1])
    rest_square = float(rest @ rest)
    if rest_square <= len(volts) * (1e-12 * float(np.abs(volt).max())) ** 2:
        slope = 0.0 if float(np.ptp(volt)) == 0 else slope  # a line without noise
        return Trend(slope, slope, slope, last)
    half = max(_half_width(rest, rest_square, square), _by_blocks(time, volt))
    return Trend(slope, slope - half, slope + half, last)


def _half_width(rest: np.ndarray, rest_square: float, square: float) -> float:
    """Half the 95 % bounds of a slope, by the effective sample size of its residuals."""
    from scipy.special import stdtrit

    count = len(rest)
    lag = max(float(rest[:-1] @ rest[1:]) / rest_square, 0.0)
    effective = min(max(count * (1 - lag) / (1 + lag), _FEWEST), count)
    freedom = effective - 2
    error = math.sqrt(rest_square / freedom / square)
    return float(stdtrit(freedom, 0.975)) * error


def _by_blocks(time: np.ndarray, volt: np.ndarray) -> float:
    """Half the 95 % bounds of a slope by the means of blocks; 0 for too few rows."""
    from scipy.special import stdtrit

    size = len(time) // _BLOCKS
    if size < _FEWEST:
        return 0.0
    times, volts = (a[: size * _BLOCKS].reshape(_BLOCKS, size).mean(axis=1) for a in (time, volt))
    centred = times - times.mean()
    square = float(centred @ centred)
    slope = float(centred @ (volts - volts.mean())) / square
    rest = volts - volts.mean() - slope * centred
    error = math.sqrt(float(rest @ rest) / (_BLOCKS - 2) / square)
    return _BLOCKS_FACTOR * float(stdtrit(_BLOCKS - 2, 0.975)) * error


def _to_limit(trend: Trend | None, limits: SoakLimits) -> float | None:
    """Hours from the last row to where a proven trend meets a limit; None where it does not."""
    if trend is None or not trend.is_proven:
        return None
    limit = limits.high_v if trend.v_per_hour > 0 else limits.low_v
    return max((limit - trend.last_v) / trend.v_per_hour, 0.0)


def _verdict(
    warm: Sequence[Sample],
    hours: float,
    trend: Trend | None,
    reach: float | None,
    limits: SoakLimits,
) -> tuple[SoakVerdict, list[str]]:
    out = _outside(warm, limits)
    if out:
        return SoakVerdict.FAIL, out
    if hours < limits.hours * (1 - _EPSILON):
        return SoakVerdict.TOO_SHORT, [f"{hours:.2f} h of {limits.hours:g} h are done."]
    if len(warm) < _FEWEST:
        return SoakVerdict.TOO_SHORT, [f"Only {len(warm)} rows follow the warm-up."]
    if trend and reach is not None and reach <= _FAR * limits.hours:
        slope = show(abs(trend.v_per_hour), Unit.VOLT, 2)
        way = "rises" if trend.v_per_hour > 0 else "falls"
        return SoakVerdict.DRIFTING, [f"It {way} {slope} an hour: at a limit in {reach:.0f} h."]
    far = f"a trend would reach one in {reach:.0f} h" if reach is not None else "no trend is proven"
    return SoakVerdict.PASS, [f"{hours:.2f} h within its limits; {far}."]


def _outside(warm: Sequence[Sample], limits: SoakLimits) -> list[str]:
    """What is outside its limits behind the warm-up, volts first."""
    outside = []
    edge = _EPSILON * max(abs(limits.low_v), abs(limits.high_v))
    low = [row.volt for row in warm if row.volt < limits.low_v - edge]
    high = [row.volt for row in warm if row.volt > limits.high_v + edge]
    for volts, worst, limit, way in (
        (low, min(low, default=0.0), limits.low_v, "below"),
        (high, max(high, default=0.0), limits.high_v, "above"),
    ):
        if volts:
            rows = "1 row" if len(volts) == 1 else f"{len(volts)} rows"
            figure, edge_words = show(worst, Unit.VOLT, 4), show(limit, Unit.VOLT, 4)
            outside.append(f"{rows} {way} {edge_words}, the worst {figure}.")
    ripple = [row.ripple_mv for row in warm if row.ripple_mv is not None]
    if limits.ripple_mv is not None and ripple and max(ripple) > limits.ripple_mv * (1 + _EPSILON):
        outside.append(f"Ripple up to {max(ripple):.4g} mV, allowed {limits.ripple_mv:.4g} mV.")
    return outside


def _further(warm: Sequence[Sample]) -> list[str]:
    """What ripple and temperature did, where they were read."""
    further = []
    ripple = [row.ripple_mv for row in warm if row.ripple_mv is not None]
    heat = [row.celsius for row in warm if row.celsius is not None]
    if ripple:
        further.append(f"Ripple {min(ripple):.3g} to {max(ripple):.3g} mV.")
    if heat:
        further.append(f"Temperature {min(heat):.3g} to {max(heat):.3g} °C.")
    return further
