"""What a record's bands say of the supply, each cause with its evidence and its number.

Source: docs/formulas.md, “Ripple”.
"""

from __future__ import annotations

import math

from hale_rail.core.arrays import np
from hale_rail.core.quantities import Unit, show
from hale_rail.core.ripple.bands import Split
from hale_rail.core.ripple.mains import Samples
from hale_rail.core.ripple.question import Cause, Estimate, RailSource, RippleQuestion
from hale_rail.core.ripple.shapes import CycleFit, fit

#: a cause that explains less of the p-p does not stand first
_FIRST = 0.1
#: the mains' share of the p-p from which they are a cause
_OF_PP = 0.2
#: how far a line at half the switching frequency stands above the noise
_ABOVE_NOISE = 8.0
#: a band below this share of the limit cannot explain a failure
_MATTERS = 0.25
#: the mains band beside the rectified one, from which half of the rectifier is missing
HALF_WAVE = 0.5
#: a shape that spends so much of its time so near its top is flat there
_FLAT_TIME, _FLAT_DEPTH = 0.25, 0.10
#: the choke's ripple current as shares of full load; the diode's peak as multiples of the load
FORWARD_DELTA, FLYBACK_PEAK = (0.2, 0.4), (2.5, 5.0)
#: the full load is at most so many times what is drawn, where nobody says it
_MOST_FULL = 4.0
#: how a part of the switching band must show to be told
_PART = 0.35
#: ESR·C of half the longer part of the cycle and more: the triangle is ESR's
_ESR_RC = 0.5
#: what is left is bursts, not noise, above this kurtosis (noise has 3)
BURSTS = 4.5
_BURST_SHARE, _SUBHARMONIC = 0.15, 0.10
#: samples a cycle that a word on its shape needs
SHAPE_RATE = 10.0
#: sound parts read within this factor of what is expected
_AS_EXPECTED_ESR, _AS_EXPECTED_CAP = 1.3, 0.8
#: how far an estimate from a fitted slope is trusted
_SLOPE_ERROR = 0.10
_FITS = 0.6


def causes(made: Split, question: RippleQuestion, limit_v: float, hiccup_s: float) -> list[Cause]:
    """The causes of a record that is over its limit, the one that explains most first."""
    total = sum(made.vpp.values()) or 1.0
    share = {name: volt / total for name, volt in made.vpp.items()}
    if hiccup_s:
        return [_hiccup(hiccup_s, share["slow"])]
    least = _MATTERS * limit_v
    causes = [*_of_mains(made, question, share, least)]
    causes += _of_switching(made, question, share, least)
    causes += _of_rest(made, share, least)
    causes.sort(key=lambda cause: -cause.share)
    return causes if not causes or causes[0].share >= _FIRST else []


def _hiccup(period_s: float, share: float) -> Cause:
    return Cause(
        "hiccup",
        share,
        f"The rail comes and collapses every {show(period_s, Unit.SECOND, 3)}.",
        Estimate("period", period_s, 0.95 * period_s, 1.05 * period_s, "s"),
        advice="An overload, a shorted rail, or a dry start-up capacitor: rail to ground first.",
    )


def _of_mains(
    made: Split, question: RippleQuestion, share: dict[str, float], least: float
) -> list[Cause]:
    part = made.low.part
    if part is None:
        return []
    both = question.sign * (part.mains + part.rectified)
    depth = float(np.ptp(both))
    if max(made.vpp["mains"], made.vpp["rectified"], depth) < least or not part.stands:
        return []
    if depth < _OF_PP * float(made.overview["raw"][1].max() - made.overview["raw"][0].min()):
        return []
    ratio = made.vpp["mains"] / made.vpp["rectified"] if made.vpp["rectified"] else math.inf
    is_half = ratio >= HALF_WAVE and made.vpp["mains"] >= least / 2
    causes = [_half_wave(ratio, share["mains"])] if is_half else []
    is_switcher = made.cycle is not None or bool(question.stage and question.stage.is_switching)
    of_rest = share["rectified"] + (0.0 if is_half else share["mains"])
    if not is_switcher and _is_flat(both):
        return [*causes, _dropout(depth, of_rest, question)]
    if is_switcher:
        return [*causes, _bulk(of_rest)]
    shape = both if is_half else question.sign * part.rectified
    cause = _filter(made, question, shape, part.hz, of_rest, is_half)
    return [*causes, cause] if cause else causes


def _half_wave(ratio: float, share: float) -> Cause:
    return Cause(
        "half-wave",
        share,
        f"The mains frequency itself has {ratio:.2f} of the amplitude at twice that: every "
        "second half wave is missing.",
        Estimate("ratio", ratio, 0.9 * ratio, 1.1 * ratio, ""),
        advice="One diode of the bridge is open, or one half of the winding.",
    )


def _is_flat(shape: Samples) -> bool:
    """True for a shape that stays at its top and falls out of it in notches."""
    top, depth = float(np.quantile(shape, 0.98)), float(np.ptp(shape))
    near = float(np.mean(shape > top - _FLAT_DEPTH * depth))
    return near >= _FLAT_TIME and float(shape.mean()) > float((shape.max() + shape.min()) / 2)


def _dropout(depth: float, share: float, question: RippleQuestion) -> Cause:
    deep = show(depth, Unit.VOLT, 3)
    return Cause(
        "regulator-dropout",
        share,
        f"Flat at the regulated value with notches {deep} deep: the regulator's input lacks that "
        f"headroom at its lowest{' at this load' if question.load_a else ''}.",
        Estimate("notch-depth", depth, 0.95 * depth, 1.05 * depth, "V"),
        advice="Record the raw rail before it: its filter is low, or the mains.",
    )


def _bulk(share: float) -> Cause:
    return Cause(
        "filter-capacitance-low",
        share,
        "Twice the mains frequency comes through to the output: the bulk capacitor on the mains "
        "side holds too little, and the loop cannot follow. This record does not tell its value.",
        advice="Make safe, then read the bulk capacitor's C and ESR.",
    )


def _filter(
    made: Split, question: RippleQuestion, shape: Samples, hz: float, share: float, is_half: bool
) -> Cause | None:
    """The raw filter's capacitance from the slope of its discharge, C = I/|dV/dt|."""
    slope = _discharge(shape, hz)
    if question.load_a is None or slope <= 0:
        if is_half:
            return None  # a missing half wave explains it until the load is known
        text = "The rail falls in a straight slope between the mains' crests"
        return Cause("filter-capacitance-low", share, f"{text}; give the load to tell C.",
                     advice=_READ_FILTER)  # fmt: skip
    farad = question.load_a / slope
    nominal = question.nominal_farad
    if (nominal and farad >= _AS_EXPECTED_CAP * nominal) or (is_half and not nominal):
        return None
    amps = show(question.load_a, Unit.AMPERE)
    text = f"The rail falls by {slope:.3g} V/s between the crests: at {amps} "
    text += f"that is {show(farad, Unit.FARAD, 3)}"
    renewed = None
    if nominal:
        text += f" of {show(nominal, Unit.FARAD, 3)}, {100 * farad / nominal:.0f} %"
        rest = sum(v for k, v in made.vpp.items() if k not in ("mains", "rectified"))
        renewed = float(np.ptp(shape)) * farad / nominal + rest
    error = _SLOPE_ERROR * farad
    estimate = Estimate("capacitance", farad, farad - error, farad + error, "F")
    return Cause("filter-capacitance-low", share, f"{text}.", estimate, nominal, renewed,
                 _READ_FILTER)  # fmt: skip


_READ_FILTER = "Read the filter capacitor's C, or fit a new one."


#: the straight part of a discharge, as shares of its time
_STRAIGHT = (0.4, 0.92)


def _discharge(shape: Samples, hz: float) -> float:
    """Volts a second that a mains period's shape falls by where its discharge is straight.

    Behind the step that ESR makes when the charging ends: the later half of the way down, without
    its end.
    """
    size = len(shape)
    turned = np.roll(shape, -int(shape.argmax()))
    bottom = int(turned.argmin())
    # of two equal discharges in a period, take the first
    half = size // 2
    if bottom > half and np.ptp(turned[:half]) > 0.7 * np.ptp(turned):
        bottom = int(turned[:half].argmin())
    falling = turned[: bottom + 1]
    if len(falling) < 4:
        return 0.0
    inner = np.arange(int(_STRAIGHT[0] * len(falling)), int(_STRAIGHT[1] * len(falling)))
    if len(inner) < 3:
        return 0.0
    slope = np.polyfit(inner / (size * hz), falling[inner], 1)[0]
    return -float(slope)


def _of_switching(
    made: Split, question: RippleQuestion, share: dict[str, float], least: float
) -> list[Cause]:
    if made.cycle is None:
        return []
    result = []
    one, two = made.vpp["switching"], made.vpp["subharmonic"]
    if one >= least:
        result += _of_stage(made, question, share["switching"], best_fit(made, question), least)
    if two >= _SUBHARMONIC * one and two >= least / 2 and two > _ABOVE_NOISE * made.folded.noise_v:
        result.append(_subharmonic(two / one if one else math.inf, share["subharmonic"]))
    return result


def _subharmonic(ratio: float, share: float) -> Cause:
    return Cause(
        "subharmonic",
        share,
        f"Half the switching frequency has {ratio:.2f} of the amplitude at the whole: every second "
        "pulse differs.",
        Estimate("ratio", ratio, 0.9 * ratio, 1.1 * ratio, ""),
        advice="The loop's compensation or the input capacitor; uneven halves of a bridge.",
    )


def best_fit(made: Split, question: RippleQuestion) -> CycleFit:
    """The fit of the stage that is known, else of the one that fits better."""
    shape = question.sign * made.folded.one
    if question.stage and question.stage.is_switching:
        return fit(shape, is_flyback=question.stage is RailSource.FLYBACK)
    forward, flyback = fit(shape, is_flyback=False), fit(shape, is_flyback=True)
    return flyback if flyback.explained > forward.explained + 0.02 else forward


def _of_stage(
    made: Split, question: RippleQuestion, share: float, fitted: CycleFit, least: float
) -> list[Cause]:
    """ESR, capacitance or both, by the parts that each has in the cycle's shape."""
    whole = fitted.esr_v + fitted.cap_v
    if made.cycle and made.wave.rate_hz < SHAPE_RATE * made.cycle.hz:
        text = "Ripple at the switching frequency; sampled too seldom to tell ESR from capacitance"
        return [Cause("output-esr-high", share, f"{text}.", advice=_CLOSER)]
    if whole <= 0 or fitted.explained < _FITS:
        text = "Ripple at the switching frequency, of a shape that fits neither stage"
        return [Cause("output-esr-high", share, f"{text}.", advice=_READ_BANK)]
    esr_share, cap_share = fitted.esr_v / whole, fitted.cap_v / whole
    is_esr = fitted.rc_periods() >= _ESR_RC * fitted.longer or esr_share >= _PART
    is_cap = (
        fitted.rc_periods() < _ESR_RC * fitted.longer or cap_share >= _PART
    ) and fitted.cap_v >= least
    result = []
    if is_esr and fitted.esr_v >= least / 2:
        result.append(_esr(made, question, share * esr_share, fitted))
    if is_cap:
        result.append(_capacitance(made, question, share * cap_share, fitted))
    return [cause for cause in result if cause]


_CLOSER = "Take a record at 5 µs/div; most often it is the ESR of a dried bank."
_READ_BANK = "Read the bank's ESR and C; lift what hides behind its neighbours."


def delta_range(question: RippleQuestion, fitted: CycleFit) -> tuple[float, float, float] | None:
    """The current's p-p in amperes: likely, least, most; None where nothing tells it."""
    if question.delta_a:
        return question.delta_a, question.delta_a, question.delta_a
    if fitted.is_flyback:
        if not question.load_a:
            return None
        peak = 2 * question.load_a / (fitted.duty * (1 + fitted.kept))
        if fitted.explained < 0.8:
            low, high = (factor * question.load_a for factor in FLYBACK_PEAK)
            return (low + high) / 2, low, high
        return peak, 0.85 * peak, 1.15 * peak
    if question.full_load_a:
        low, high = (factor * question.full_load_a for factor in FORWARD_DELTA)
        return (low + high) / 2, low, high
    if not question.load_a:
        return None
    low, high = FORWARD_DELTA[0] * question.load_a, FORWARD_DELTA[1] * _MOST_FULL * question.load_a
    return math.sqrt(low * high), low, high


def _esr(made: Split, question: RippleQuestion, share: float, fitted: CycleFit) -> Cause | None:
    shape = "a step and a ramp" if fitted.is_flyback else "a triangle"
    text = f"{show(fitted.esr_v, Unit.VOLT, 3)} at the switching frequency, {shape}"
    current = delta_range(question, fitted)
    if current is None:
        needed = "the load" if fitted.is_flyback else "the full load or the choke's ripple current"
        return Cause("output-esr-high", share, f"{text}; give {needed} to tell the ESR.",
                     advice=_READ_BANK)  # fmt: skip
    likely, least, most = current
    ohm = fitted.esr_v / likely
    expected = question.bank_esr_ohm
    if expected and fitted.esr_v / least <= _AS_EXPECTED_ESR * expected:
        return None
    text += f": {show(ohm, Unit.OHM, 3)} at {show(likely, Unit.AMPERE, 3)} peak to peak"
    renewed = None
    if expected:
        text += f", where {show(expected, Unit.OHM, 3)} is expected of the bank"
        rest = sum(made.vpp.values()) - made.vpp["switching"] + fitted.cap_v
        renewed = fitted.esr_v * min(1.0, expected / ohm) + rest
    estimate = Estimate("esr", ohm, 0.95 * fitted.esr_v / most, 1.05 * fitted.esr_v / least, "Ω")
    return Cause("output-esr-high", share, f"{text}.", estimate, expected, renewed, _READ_BANK)


def _capacitance(
    made: Split, question: RippleQuestion, share: float, fitted: CycleFit
) -> Cause | None:
    shape = "falls straight while the diode is off" if fitted.is_flyback else "is rounded"
    text = f"The cycle {shape}: {show(fitted.cap_v, Unit.VOLT, 3)} of it is capacitance"
    current = delta_range(question, fitted)
    if current is None or made.cycle is None:
        return Cause("output-capacitance-low", share, f"{text}.", advice=_READ_BANK)
    # v = (ΔI/(f·C))·∫: for a triangle that is ΔI/(8·f·C) from peak to peak
    farads = [amps / (made.cycle.hz * fitted.cap_unit) for amps in current]
    nominal = question.nominal_farad
    if nominal and farads[1] >= _AS_EXPECTED_CAP * nominal:
        return None
    text += f", {show(farads[0], Unit.FARAD, 3)}"
    renewed = None
    if nominal:
        text += f" of {show(nominal, Unit.FARAD, 3)}"
        rest = sum(made.vpp.values()) - made.vpp["switching"] + fitted.esr_v
        renewed = fitted.cap_v * min(1.0, farads[0] / nominal) + rest
    estimate = Estimate("capacitance", farads[0], 0.95 * farads[1], 1.05 * farads[2], "F")
    return Cause("output-capacitance-low", share, f"{text}.", estimate, nominal, renewed,
                 _READ_BANK)  # fmt: skip


def _of_rest(made: Split, share: dict[str, float], least: float) -> list[Cause]:
    height = made.vpp["spikes"]
    total = sum(made.vpp.values())
    if height < max(least, _BURST_SHARE * total) or made.kurtosis < BURSTS:
        return []
    return [
        Cause(
            "hf-spikes",
            share["spikes"],
            f"Narrow bursts {show(height, Unit.VOLT, 3)} high at the switching edges "
            f"(kurtosis {made.kurtosis:.0f}).",
            Estimate("height", height, 0.9 * height, 1.1 * height, "V"),
            advice="The probe first: a short ground spring across the output pins. If they stay: "
            "the ceramic beside the bank, the snubber, the ground.",
        )
    ]
