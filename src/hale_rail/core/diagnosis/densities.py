"""How likely a figure is, given what a part, a rail or its volts are: densities by class.

Source: docs/formulas.md, “Where to look next”. Figures are taken on a logarithmic scale, where the
spread of parts and of faults is even; an open meter (infinity) is a class of its own. All are
smooth, so that 79 % and 81 % of nominal weigh nearly alike.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from hale_rail.core.arrays import Floats, np
from hale_rail.core.diagnosis.facts import GroundFact, ReadValue
from hale_rail.core.diagnosis.views import (
    DRY,
    GROUND,
    LEAKY,
    NEAR,
    OPEN,
    SHORT,
    SOUND,
    STATES,
    VOLTS,
)
from hale_rail.core.parts.families import leakage_limit_a, typical_esr
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.part import MAINS_LINE, Part

#: no figure is impossible: each reading may be a slip, anywhere on the scale (per unit of ln), or
#: an open meter
SLIP = 0.01
_ANYWHERE, _OPEN_SLIP = 0.04, 0.03
_LEAST = 1e-6
#: ohms between which a bound is added up, and in how many steps
_LEAST_OHM, _MOST_OHM, _STEPS = 0.02, 1e8, 60
#: a capacitor's share of nominal: sound, dry, open; ln of the middle and its spread
_C_SOUND, _C_DRY, _C_OPEN = (0.0, 0.11), (math.log(0.48), 0.42), (math.log(0.03), 1.0)
_ESR_SOUND, _ESR_DRY = (0.0, 0.5), (math.log(7.0), 0.9)
_HIGH_C = (math.log(1.8), 0.4)
#: ohms: middle and spread in ln, and the share that reads open
_OHMS: Mapping[str, tuple[float, float, float]] = {
    SHORT: (math.log(0.3), 1.1, 0.0), NEAR: (math.log(2.5), 0.9, 0.0),
    LEAKY: (math.log(600.0), 2.4, 0.02),
}  # fmt: skip
_CONDUCTS = ("fuse", "inlet", "lead", "switch", "filter", "choke")
#: below this a drop is not a junction's, with what stands beside it in circuit
SHORT_DROP_V = 0.08
#: seconds for which an ohmmeter is held to a capacitor, and a capacitor of which nothing is known
_CHARGING_S, _USUAL_FARAD = 8.0, 100e-6
#: of a shorted part with several junctions, how often all of them are; of an open one
_ALL_SHORT, _ALL_OPEN = 0.2, 0.25


def normal(x: float, middle: float, spread: float) -> float:
    """The density of a bell."""
    z = (x - middle) / spread
    return math.exp(-0.5 * z * z) / (spread * math.sqrt(2 * math.pi))


def _ln(value: float) -> float:
    return math.log(max(value, _LEAST))


def of_part(part: Part, figure: ReadValue, *, is_lifted: bool) -> Floats | None:
    """Densities by state of a figure, shape (states,); None where it tells nothing of the part.

    Of a reading that jumps both ends count; one that bounds counts by the chance of all that it
    leaves.
    """
    if figure.procedure == "ohms" and is_bound(figure.value, figure.high):
        every = [
            (_ohms(part, value, is_lifted=is_lifted), share)
            for value, share in _left_by(figure.value, figure.high)
        ]
        left = [sum(f.get(s, f.get(SOUND, 0.0)) * w for f, w in every) for s in STATES]
        return _may_slip(np.array(left), 0.5)
    ends = {figure.value, figure.high}
    result = [_at(part, figure, value, is_lifted=is_lifted) for value in ends]
    known = [f for f in result if f is not None]
    if not known:
        return None
    slips = [_OPEN_SLIP if math.isinf(value) else _ANYWHERE for value in ends]
    shares = np.array([[f.get(state, f.get(SOUND, 0.0)) for state in STATES] for f in known])
    return _may_slip(shares.mean(axis=0), sum(slips) / len(slips))


def is_bound(value: float, high: float) -> bool:
    """True for a reading that only bounds: below, or above, a figure."""
    return (value <= 0.0 < high < math.inf) or (0.0 < value < high == math.inf)


def _left_by(value: float, high: float) -> list[tuple[float, float]]:
    """What a bound leaves: figures even in ln with the width that each stands for, and an open
    meter above."""
    low, top = math.log(max(value, _LEAST_OHM)), math.log(min(high, _MOST_OHM))
    width = max(top - low, 0.0) / _STEPS
    left = [(math.exp(low + (n + 0.5) * width), width) for n in range(_STEPS)]
    return [*left, (math.inf, 1.0)] if math.isinf(high) else left


def _may_slip(densities: Floats, slip: float) -> Floats:
    """Densities of what was read, which with a small chance is a slip."""
    return (1 - SLIP) * densities + SLIP * slip


def _at(
    part: Part, figure: ReadValue, value: float, *, is_lifted: bool
) -> Mapping[str, float] | None:
    if figure.procedure == "ohms":
        return _ohms(part, value, is_lifted=is_lifted)
    if figure.procedure == "breakdown":
        return _breakdown(part, value, is_lifted=is_lifted)
    if figure.procedure == "transfer":
        dark = _bell(value, _ln(1e6), 2.0, 0.8)
        return {SOUND: _bell(value, _ln(300.0), 2.0, 0.01), OPEN: dark, SHORT: dark}
    if part.kind is not capacitor.KIND:
        return None
    if figure.procedure == "c":
        return _farads(part, figure, value)
    if figure.procedure == "esr":
        return _esr(part, figure, value)
    return _leak(part, value) if figure.procedure == "leak" else None


#: volts across a zener fed through a resistor, as shares of the marked: middle and spread in ln;
#: sound, shorted, leaking, and open with the feed's whole volts across it
_BREAKS = {SOUND: (0.0, 0.05), SHORT: (-5.0, 1.0), LEAKY: (-0.6, 0.4), OPEN: (1.1, 0.5)}


def _breakdown(part: Part, value: float, *, is_lifted: bool) -> Mapping[str, float] | None:
    """Volts across a zener; in circuit a parallel path may hold a sound one down."""
    if part.kind.code != "zener" or not part.value or math.isinf(value):
        return None
    x = math.log(max(value, 0.001) / part.value)
    breakdown = {state: normal(x, *_BREAKS[state]) for state in _BREAKS}
    if not is_lifted:
        beside = normal(x, -0.9, 0.9)
        breakdown = {state: 0.75 * density + 0.25 * beside for state, density in breakdown.items()}
    return breakdown


def _share(value: float, bell: tuple[float, float], error: float) -> float:
    return normal(value, bell[0], math.hypot(bell[1], error))


def _banked(bell: tuple[float, float], bank: int) -> tuple[float, float]:
    """One part of a bank: what it lost is shared among all."""
    if bank < 2:
        return bell
    middle = (bank - 1 + math.exp(bell[0])) / bank
    return math.log(middle), max(bell[1] / bank, 0.06)


def _farads(part: Part, figure: ReadValue, value: float) -> Mapping[str, float] | None:
    if not part.value:
        return None
    nominal = part.value * figure.bank
    x, error = _ln(value / nominal), figure.error / max(value, 1e-15)
    low, high = part.tolerance or (-0.2, 0.2)
    spread = max(_C_SOUND[1], (high - low) / 4)
    sound = _share(x, (max(0.0, (high + low) / 3), spread), error)
    dry = _share(x, _C_DRY, error)
    if figure.bank > 1:
        dry = 0.5 * dry + 0.5 * _share(x, _banked(_C_DRY, figure.bank), error)
    return {
        SOUND: sound,
        DRY: dry,
        OPEN: _share(x, _banked(_C_OPEN, figure.bank), error),
        SHORT: 0.5 * _share(x, _HIGH_C, error) + 0.5 * _share(x, _C_OPEN, error),
        NEAR: 0.5 * sound + 0.5 * _share(x, _HIGH_C, error),
        LEAKY: 0.6 * sound + 0.4 * _share(x, _HIGH_C, error),
    }


def _esr(part: Part, figure: ReadValue, value: float) -> Mapping[str, float] | None:
    if not part.family or not part.value:
        return None
    known = typical_esr(part.family, part.value, part.volt, part.grade)
    if known is None:
        return None
    if math.isinf(value):
        return {SOUND: 0.0005, DRY: 0.3, OPEN: 0.6, SHORT: 0.0005, NEAR: 0.0005, LEAKY: 0.001}
    typical = known.ohm / figure.bank
    error = figure.error / max(value, typical)
    x = _ln(max(value, 0.02 * typical) / typical)
    sound, dry = _share(x, _ESR_SOUND, error), _share(x, _ESR_DRY, error)
    if figure.bank > 1:
        dry = 0.4 * dry + 0.6 * _share(x, (math.log(figure.bank / (figure.bank - 0.8)), 0.5), error)
    short = _share(_ln(max(value, 0.01)), (math.log(0.08), 1.0), error)
    return {
        SOUND: sound, DRY: dry, OPEN: _share(x, (3.5, 1.2), error), SHORT: short, NEAR: sound,
        LEAKY: sound,
    }  # fmt: skip


def _leak(part: Part, value: float) -> Mapping[str, float] | None:
    if not part.family or not part.value:
        return None
    limit = leakage_limit_a(part.family, part.value, part.volt or 16.0) or 1e-6
    x = _ln(max(value, limit * 1e-3) / limit)
    return {
        SOUND: normal(x, -1.5, 1.3), LEAKY: normal(x, 3.0, 1.8), SHORT: normal(x, 6.0, 2.0),
        NEAR: normal(x, 6.0, 2.0),
    }  # fmt: skip


def _ohms(part: Part, value: float, *, is_lifted: bool) -> Mapping[str, float]:
    """Ohms across a part."""
    ohms = {state: _bell(value, *_OHMS[state]) for state in (SHORT, NEAR, LEAKY)}
    kind = part.kind.code
    if kind in _CONDUCTS or (kind == "transformer"):
        sound = _bell(value, _ln(0.4), 1.3 if kind != "transformer" else 2.4, 0.0001)
        ohms |= {SOUND: sound, SHORT: sound, NEAR: sound, LEAKY: sound}
        is_alone = is_lifted or part.line == MAINS_LINE
        middle, share = (1e6, 0.7) if is_alone else (5e4, 0.5)
        ohms[OPEN] = _bell(value, _ln(middle), 2.6, share)
    elif kind in ("resistor", "trimmer", "thermistor") and part.value:
        near = 0.25 if kind == "thermistor" else 0.07
        sound = _bell(value, _ln(part.value), near, 0.001)
        is_above = value > part.value * (1 + near)
        high = 0.3 * _bell(value, _ln(part.value * 2), 0.7, 0.0) * is_above
        high += 0.7 * _bell(value, _ln(part.value * 20), 1.5, 0.8)
        if not is_lifted and kind != "thermistor":
            # what stands beside it lowers a sound one, and hides an open one
            beside = 0.0 if is_above else normal(_ln(value), _ln(part.value / 4), 1.3)
            sound, high = 0.55 * sound + 0.45 * beside, 0.55 * high + 0.45 * beside
        ohms[SOUND], ohms[OPEN] = sound, high
    elif kind == "capacitor" and part.family is not None and part.family.is_wet:
        # a large can still charges from the meter: what it shows falls with its capacitance
        middle = _ln(min(max(_CHARGING_S / (part.value or _USUAL_FARAD), 150.0), 1e6))
        free = 0.1 if not is_lifted else 0.25
        ohms[SOUND] = _bell(value, middle, 1.7, free)
        ohms[LEAKY] = _bell(value, middle - 4.0, 1.2, 0.01)
        ohms[OPEN] = _bell(value, _ln(1e5), 2.6, 0.5)
    else:
        free = 0.35 if not is_lifted else 0.75
        ohms[SOUND] = _bell(value, _ln(2e4), 2.8, free)
        ohms[OPEN] = _bell(value, _ln(5e4), 2.6, min(0.95, free + 0.2))
    return ohms


def _bell(value: float, middle: float, spread: float, open_share: float) -> float:
    """A bell in ln over finite ohms, and a share that reads open."""
    if math.isinf(value):
        return max(open_share, _LEAST)
    return (1 - open_share) * normal(_ln(max(value, 0.02)), middle, spread)


def of_pairs(figures: Sequence[ReadValue], *, is_lifted: bool) -> Floats:
    """Densities by state of all junction drops of one part together, shape (states,).

    One junction of several is what fails, or all are: a mixture over them, since a bridge with one
    arm shorted reads sound at the three others.
    """
    read = [(f.pair, _drop(f, is_lifted=is_lifted)) for f in figures]
    arms = sorted({pair for pair, _ in read})
    conducting = sorted({f.pair for f in figures if not f.blocks}) or arms
    sound = math.prod(own[SOUND] for _, own in read)

    def one(state: str, of: Sequence[str], share_all: float) -> float:
        every = math.prod(own[state] for _, own in read)
        mixed = [
            math.prod(own[state if pair == arm else SOUND] for pair, own in read) for arm in of
        ]
        if len(of) < 2:
            return mixed[0]
        return share_all * every + (1 - share_all) * sum(mixed) / len(mixed)

    classes = {
        SOUND: sound, SHORT: one(SHORT, arms, _ALL_SHORT), NEAR: one(NEAR, arms, _ALL_SHORT),
        OPEN: one(OPEN, conducting, _ALL_OPEN),
    }  # fmt: skip
    values = np.array([classes.get(state, sound) for state in STATES])
    return _may_slip(values, 0.02 ** len(read))


def _drop(figure: ReadValue, *, is_lifted: bool) -> Mapping[str, float]:
    """A junction's drop: short, a drop, or open, by the way of the pins."""
    value = figure.value
    if math.isinf(value):
        kind = OPEN
    elif value < SHORT_DROP_V:
        kind = SHORT
    else:
        kind = SOUND
    if figure.forward and not figure.blocks:
        usual = {SHORT: 0.01, SOUND: 0.98, OPEN: 0.006}
        hidden = 0.25 if not is_lifted else 0.01
        is_open = {SHORT: 0.01, SOUND: hidden, OPEN: 0.99 - hidden}
    else:
        blocked = 0.6 if not is_lifted else 0.98
        usual = {SHORT: 0.01, SOUND: 0.99 - blocked, OPEN: blocked}
        is_open = {SHORT: 0.01, SOUND: 0.95 - 0.95 * blocked, OPEN: 0.04 + 0.95 * blocked}
    short = {SHORT: 0.93, SOUND: 0.06, OPEN: 0.004}
    near = {SHORT: 0.7, SOUND: 0.29, OPEN: 0.01}
    return {SOUND: max(usual[kind], 0.005), SHORT: short[kind], NEAR: near[kind],
            OPEN: max(is_open[kind], 0.005)}  # fmt: skip


#: ohms of a rail to ground and their spread where nothing is known of it, by whether boards are
#: attached and whether they are of logic: a full logic board has 5 to 100 Ω by itself
_UNKNOWN = {(True, True): (30.0, 1.5), (True, False): (300.0, 2.0), (False, False): (300.0, 2.0)}
#: the spread where the sheet or a like unit tells; ohms with the leads reversed
_KNOWN, _TURNED = 0.7, (80.0, 1.3)


def of_ground(fact: GroundFact) -> Floats:
    """Densities of a rail's ohms to ground by class, shape (classes,).

    Of a reading that jumps its lower end counts, one that bounds counts by the chance of all that
    it leaves; with the leads reversed junctions conduct, so that it tells of a short alone.
    """
    kind = (fact.is_attached, fact.is_attached and fact.is_logic)
    usual = (fact.expected, _KNOWN) if fact.expected else _UNKNOWN[kind]
    usual = _TURNED if fact.is_reversed else usual
    if is_bound(fact.ohm, fact.high):
        left = [_ground(x, usual, fact) * w for x, w in _left_by(fact.ohm, fact.high)]
        return _may_slip(np.sum(left, axis=0), 0.5)
    values = _ground(min(fact.ohm, fact.high), usual, fact)
    return _may_slip(values, _OPEN_SLIP if math.isinf(fact.ohm) else _ANYWHERE)


def _ground(ohm: float, usual: tuple[float, float], fact: GroundFact) -> Floats:
    middle, spread = usual
    short = _bell(ohm, _ln(0.5), 1.1, 0.0)
    if spread == _KNOWN and middle < 3.0:
        short = _bell(ohm, _ln(0.1 * middle), 0.9, 0.0)
    sound = _bell(ohm, _ln(middle), spread, 0.01 if fact.is_attached else 0.1)
    leaky = sound if fact.is_reversed else _bell(ohm, _ln(middle / 10), 0.75, 0.0)
    classes = {SOUND: sound, SHORT: short, LEAKY: leaky}
    return np.array([classes[name] for name in GROUND])


def of_volts(share: float, spread: float, error: float) -> Floats:
    """Densities of a rail's volts, as a share of nominal, by class; shape (classes,).

    Right is a bell about nominal; low and high reach from where it ends.
    """
    right = normal(share, 1.0, math.hypot(spread, error))
    edge = 0.015
    low = _between(share, 0.3, 1 - 1.5 * spread, edge) / (0.7 - 1.5 * spread)
    high = _between(share, 1 + 1.5 * spread, 2.2, edge) / 1.2
    missing = normal(share, 0.0, 0.12) + 0.3 * _between(share, 0.0, 0.35, edge)
    classes = {"right": right, "missing": missing, "low": low, "high": high}
    return _may_slip(np.array([classes[name] for name in VOLTS]), 5 * _ANYWHERE)


def _between(x: float, low: float, high: float, edge: float) -> float:
    """One between two limits, with soft edges."""
    return 1 / (1 + math.exp(-_held((x - low) / edge))) / (1 + math.exp(-_held((high - x) / edge)))


def _held(x: float) -> float:
    return max(-60.0, min(60.0, x))
