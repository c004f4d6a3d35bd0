"""Analyses a wave record of a rail: figures, bands, verdict, causes, and what it cannot show.

Source: docs/formulas.md, “Ripple”.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.arrays import np
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailVerdict, Tolerance, school_share
from hale_rail.core.ripple.bands import Split, split
from hale_rail.core.ripple.causes import SHAPE_RATE, causes
from hale_rail.core.ripple.cycle import LOWEST_HZ
from hale_rail.core.ripple.mains import FEWEST, MAINS_HZ, PERIODS, Samples
from hale_rail.core.ripple.question import Cause, Estimate, RippleQuestion
from hale_rail.core.ripple.screen import clipped, without_odd
from hale_rail.core.ripple.wave import Wave, resolution_v

#: the usual limit: shares of nominal on regulated and raw rails, and the least in volts
REGULATED, RAW, LEAST_V = 0.01, 0.10, 0.050
#: what an oscilloscope's volts are trusted to
SCOPE_ERROR = 0.03
#: the instrument's floor, in its own steps
FLOOR_STEPS = 3
#: a mean below this share of nominal says that the record was coupled AC
AC_SHARE = 0.2
#: the usual limit of bandwidth, and the samples a second that let it be shown
BANDWIDTH_HZ, _FOR_BANDWIDTH = 20e6, 2.5
_CLOSER = "Take one at 5 µs/div."
#: samples a second below which no switching can be seen
_BLIND_HZ = 4 * LOWEST_HZ
#: times its nominal volts that no rail's record shows
_ODD_TIMES = 10.0
#: the share of what is slower than switching that says that mains are there
_MAINS_SEEN = 0.2

PROBING = (
    "Both: a short ground spring across the output pins (a long ground lead makes spikes that are "
    "not there), AC coupling, 20 MHz limit."
)
CAPTURES = (
    "Mains ripple: 20 ms/div, the whole screen and two mains periods at least.",
    "Switching: 5 µs/div, at least ten samples a cycle.",
    PROBING,
)


class RippleAnalysis(Struct, frozen=True, eq=False):
    """A record's figures in volts and seconds, its split, and what is concluded.

    `limited_vpp_v` and `limited_rms_v` within 20 MHz, None where the sampling does not reach so
    far; `mean_verdict` of the mean against the strict band, not judged when coupled AC.
    """

    split: Split
    mean_v: float
    vpp_v: float
    rms_v: float
    limited_vpp_v: float | None
    limited_rms_v: float | None
    resolution_v: float
    limit_v: float
    is_default_limit: bool
    is_ac: bool
    verdict: RailVerdict
    mean_verdict: RailVerdict
    causes: tuple[Cause, ...]
    limits: tuple[str, ...]
    captures: tuple[str, ...]

    @property
    def judged_vpp_v(self) -> float:
        """The p-p that is held against the limit: within 20 MHz where that is known."""
        return self.vpp_v if self.limited_vpp_v is None else self.limited_vpp_v

    @property
    def switching_hz(self) -> float | None:
        """The switching frequency as seen on the output, or None."""
        return self.split.cycle.hz if self.split.cycle else None

    @property
    def mains_hz(self) -> float | None:
        """The mains frequency as found, or None where none is seen."""
        part = self.split.low.part
        return part.hz if part and part.share > _MAINS_SEEN else None


def usual_limit(nominal_v: float, *, is_raw: bool) -> float:
    """The limit in volts p-p where the sheet says none: 1 % and 50 mV at least; raw rails 10 %."""
    if is_raw:
        return RAW * abs(nominal_v)
    return max(REGULATED * abs(nominal_v), LEAST_V)


def analyse(wave: Wave, question: RippleQuestion) -> RippleAnalysis:
    """Analyse a record; raises InputError for a rail of 0 V or a limit that cannot be."""
    if not question.nominal_v:
        raise InputError("The rail's nominal volts are needed, and not 0.")
    limit = question.limit_v or usual_limit(question.nominal_v, is_raw=question.is_raw)
    wave = without_odd(wave)
    is_ac = question.is_ac
    mean = float(wave.volt.mean())
    _ask_of_volts(wave, question)
    if is_ac is None:
        is_ac = abs(mean) < AC_SHARE * abs(question.nominal_v)
    made = split(wave, question.mains_hz, question.switching_hz, question.nominal_v)
    vpp = float(made.overview["raw"][1].max() - made.overview["raw"][0].min())
    limited = _limited(wave)
    judged = limited[0] if limited else vpp
    step = resolution_v(wave.volt)
    verdict, limits = _verdict(wave, question, made, judged, limit, step)
    cut = clipped(wave, question, is_ac=is_ac)
    if cut:
        verdict, limits = RailVerdict.NOT_JUDGED, [f"{cut} a division.", *limits]
    causes = [] if cut else _found(made, question, judged, limit, verdict, step)
    return RippleAnalysis(
        made,
        mean,
        vpp,
        float(np.sqrt(np.mean((wave.volt - mean) ** 2))),
        limited[0] if limited else None,
        limited[1] if limited else None,
        step,
        limit,
        question.limit_v is None,
        is_ac,
        verdict,
        RailVerdict.NOT_JUDGED if cut else _of_mean(mean, question.nominal_v, is_ac=is_ac),
        tuple(causes),
        (*wave.notes, *_notes_on_limit(question, limit), *limits),
        CAPTURES if any("no verdict" in text for text in limits) else CAPTURES[2:],
    )


def _ask_of_volts(wave: Wave, question: RippleQuestion) -> None:
    """Raise InputError for volts that this rail cannot have, where the file says no unit."""
    most = float(np.abs(wave.volt).max())
    if wave.says_unit or most <= _ODD_TIMES * abs(question.nominal_v):
        return
    raise InputError(
        f"up to {most:.3g} V on a rail of {question.nominal_v:g} V, and no unit stands in its "
        "heading. Are the numbers millivolts? Say so: --volt-unit mV."
    )


def _limited(wave: Wave) -> tuple[float, float] | None:
    """p-p and RMS within 20 MHz: a moving average whose −3 dB lies there; None below 50 MS/s,
    or where the record is shorter than two of it.

    Source: a moving average of T has its −3 dB at 0.443/T.
    """
    if wave.rate_hz < _FOR_BANDWIDTH * BANDWIDTH_HZ:
        return None
    width = max(1, round(0.443 / (BANDWIDTH_HZ * wave.dt_s)))
    if 2 * width > len(wave.volt):
        return None
    total = np.concatenate(([0.0], np.cumsum(wave.volt - wave.volt.mean())))
    mean: Samples = (total[width:] - total[:-width]) / width
    return float(np.ptp(mean)), float(np.sqrt(np.mean(mean * mean)))


def _notes_on_limit(question: RippleQuestion, limit_v: float) -> tuple[str, ...]:
    if question.limit_v is not None:
        return ()
    kind = "raw rail, 10 % of nominal" if question.is_raw else "1 % of nominal, 50 mV at least"
    return (f"No limit is given: {show(limit_v, Unit.VOLT)} is the usual one ({kind}).",)


def _of_mean(mean_v: float, nominal_v: float, *, is_ac: bool) -> RailVerdict:
    """The mean against the strict band, within the instrument's error of its edge marginal."""
    if is_ac:
        return RailVerdict.NOT_JUDGED
    allowed = school_share(nominal_v, Tolerance.STRICT) * abs(nominal_v)
    error = SCOPE_ERROR * abs(mean_v)
    return _against(abs(mean_v - nominal_v), allowed, error)


def _against(value: float, limit: float, error: float) -> RailVerdict:
    if value > limit + error:
        return RailVerdict.FAIL
    return RailVerdict.MARGINAL if value > limit - error else RailVerdict.PASS


def _verdict(
    wave: Wave, question: RippleQuestion, made: Split, vpp_v: float, limit_v: float, step_v: float
) -> tuple[RailVerdict, list[str]]:
    """The verdict, and what the record cannot show; what it cannot show cannot pass."""
    verdict = _against(vpp_v, limit_v, SCOPE_ERROR * vpp_v + step_v)
    mains, switching = _too_short(wave, question), _too_slow(wave, question, made)
    texts = [*mains, *switching]
    if vpp_v <= FLOOR_STEPS * step_v * 1.001:
        texts.append(
            f"The p-p is within {FLOOR_STEPS} steps of {show(step_v, Unit.VOLT, 3)}: at the "
            "instrument's floor."
        )
    is_switcher = question.stage is not None and question.stage.is_switching
    is_blind = bool(mains) or (is_switcher and bool(switching) and made.cycle is None)
    if is_blind and verdict is not RailVerdict.FAIL:
        return RailVerdict.NOT_JUDGED, texts
    return verdict, texts


def _too_short(wave: Wave, question: RippleQuestion) -> list[str]:
    hz = question.mains_hz or MAINS_HZ[0]
    if wave.rate_hz < FEWEST * hz:
        text = f"Sampled {wave.rate_hz:.3g} times a second: no verdict on mains ripple."
        return [f"{text} Take one at 20 ms/div."]
    if wave.length_s * hz >= PERIODS * 0.995:
        return []
    needed = show(PERIODS / hz, Unit.SECOND)
    text = f"Shorter than two mains periods ({needed}): no verdict on mains ripple."
    return [f"{text} Take one at 20 ms/div."]


def _too_slow(wave: Wave, question: RippleQuestion, made: Split) -> list[str]:
    too_slow = made.cycle.hz if made.cycle else question.switching_hz
    if too_slow and wave.rate_hz < SHAPE_RATE * too_slow:
        cycle = f"{wave.rate_hz / too_slow:.1f} samples a cycle of {too_slow / 1e3:.3g} kHz"
        return [f"{cycle}: no verdict on the shape of the switching ripple. {_CLOSER}"]
    is_linear = question.stage is not None and not question.stage.is_switching
    if not too_slow and not is_linear and wave.rate_hz < _BLIND_HZ * SHAPE_RATE:
        seen = f"Nothing above {wave.rate_hz / 2e3:.3g} kHz shows at this sampling"
        return [f"{seen}: no verdict on switching ripple or spikes. {_CLOSER}"]
    return []


def _found(
    made: Split,
    question: RippleQuestion,
    vpp_v: float,
    limit_v: float,
    verdict: RailVerdict,
    step_v: float,
) -> list[Cause]:
    is_over = vpp_v > limit_v - SCOPE_ERROR * vpp_v - step_v
    all_causes = causes(made, question, limit_v, made.hiccup_s) if is_over or made.hiccup_s else []
    if all_causes or is_over:
        return all_causes
    margin = limit_v - vpp_v
    text = f"{show(vpp_v, Unit.VOLT, 3)} of {show(limit_v, Unit.VOLT, 3)}"
    if verdict is RailVerdict.NOT_JUDGED:
        text += ", as far as this record shows"
    error = SCOPE_ERROR * vpp_v + step_v
    estimate = Estimate("margin", margin, margin - error, margin + error, "V")
    return [Cause("clean", 1.0, f"{text}.", estimate)]
