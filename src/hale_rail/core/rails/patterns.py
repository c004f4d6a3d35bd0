"""What a set of rail readings says that no single one does, the most urgent first.

Source: docs/formulas.md, “Rails”. A pattern never contradicts a verdict beside it: a rail that
passes is not “off”, and one that was not judged tells nothing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.core.procedures import Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.harness import Stretch, stretches
from hale_rail.core.rails.judge import (
    OVERVOLTAGE,
    RailJudgement,
    RailReading,
    RailVerdict,
    Tolerance,
    judge,
)
from hale_rail.core.supply.sheet import Regulation
from hale_rail.core.targets import Place

#: shares of nominal: further off than the first no rail regulates, below the second it is missing
_RUNNING, _MISSING = 0.60, 0.50
#: shares apart that rails off in proportion may be
_PROPORTION, _RELATIVE = 0.04, 0.5
#: how near a rail lies to the volts it is named by
_NEAR = 0.12
#: shares of nominal between which a rail jumps that starts again and again
_BLIP = (0.15, 0.40)
#: patterns whose text supposes a cause
_GUESSES = ("one-off", "all-low")
_TELLING = (Condition.MACHINE, Condition.DUMMY, Condition.NO_LOAD)


class RailPattern(Struct, frozen=True):
    """What a set of readings says together, and of which rails."""

    code: str
    text: str
    rails: tuple[str, ...] = ()
    urgent: bool = False

    @property
    def is_guess(self) -> bool:
        """True where it names what may lie behind rails that are off, not what they do."""
        return self.code in _GUESSES


class _Judged(Struct, frozen=True):
    reading: RailReading
    judgement: RailJudgement

    @property
    def key(self) -> str:
        return self.reading.rail.key

    @property
    def share(self) -> float:
        return self.judgement.off_share


def patterns(readings: Sequence[RailReading], tolerance: Tolerance) -> list[RailPattern]:
    """What readings say together, the urgent first.

    `readings`: the newest of each rail at each load and place.
    What kills is looked for in each rail's newest reading; the rest at the most telling load at
    which two rails and more were read.
    """
    newest = _newest(readings)
    patterns = [*_turned(readings), *_over(newest), *_missing(newest)]
    judged = _together(readings, tolerance)
    patterns += _of_set(judged)
    patterns += _harness(readings, tolerance)
    patterns += _hiccup(newest)
    return sorted(patterns, key=lambda pattern: not pattern.urgent)


def _newest(readings: Sequence[RailReading]) -> dict[str, RailReading]:
    """Each rail's newest reading, whatever the load."""
    ordered = sorted(readings, key=lambda r: r.taken)
    return {r.rail.key: r for r in ordered if not r.is_turned}


def _turned(readings: Sequence[RailReading]) -> list[RailPattern]:
    keys = tuple(dict.fromkeys(r.rail.key for r in readings if r.is_turned))
    text = f"{', '.join(keys)}: the sign is not the rail's. Leads the other way round?"
    return [RailPattern("sign", text, keys)] if keys else []


def _over(newest: Mapping[str, RailReading]) -> list[RailPattern]:
    return [
        RailPattern(
            "over-voltage",
            _over_text(key, reading),
            (key,),
            urgent=True,
        )
        for key, reading in newest.items()
        if reading.is_over
    ]


def _over_text(key: str, reading: RailReading) -> str:
    volt = max(reading.ends, key=abs)
    off, limit = reading.most_v / abs(reading.rail.nominal_v) - 1, OVERVOLTAGE
    shown = f"{key} stands at {show(volt, Unit.VOLT, 4)}, {100 * off:+.0f} %"
    if off <= limit:
        shown += ", which is +10 % within the meter's error"
    return f"{shown}: remove power at once."


def _missing(newest: Mapping[str, RailReading]) -> list[RailPattern]:
    """A rail that is missing while the one it guards is there, as the sheet has it.

    Where no sheet says so: −5 V missing while +12 V is there destroys three-rail memory; +12 V
    missing does not.
    """
    missing = []
    for guard, guarded in _guards(newest):
        rail, other = guard.rail, guarded.rail
        is_missing = guard.absent_v < _MISSING * abs(rail.nominal_v)
        if not is_missing or guarded.present_v <= _MISSING * abs(other.nominal_v):
            continue
        is_minus5 = _is_near(rail.nominal_v, -5)
        what = "three-rail memory dies" if is_minus5 else f"{other.key} destroys what it feeds"
        text = f"{rail.key} is missing while {other.key} is there: power off at once, {what}."
        code = "minus5-missing" if is_minus5 else "guard-missing"
        missing.append(RailPattern(code, text, (rail.key, other.key), urgent=True))
    return missing


def _guards(newest: Mapping[str, RailReading]) -> list[tuple[RailReading, RailReading]]:
    """Pairs of a rail and the one it guards, both read."""
    readings = [r for r in newest.values() if r.rail.guards]
    if readings:
        return [(r, newest[r.rail.guards]) for r in readings if r.rail.guards in newest]
    direct = [r for r in newest.values() if not r.rail.is_ac]
    minus5 = next((r for r in direct if _is_near(r.rail.nominal_v, -5)), None)
    plus12 = next((r for r in direct if _is_near(r.rail.nominal_v, 12)), None)
    return [(minus5, plus12)] if minus5 and plus12 else []


def _is_near(volt: float, nominal: float) -> bool:
    return abs(volt / nominal - 1) < _NEAR


def _together(readings: Sequence[RailReading], tolerance: Tolerance) -> list[_Judged]:
    """The rails judged at the most telling load, each by its own reading or its worst place."""
    for load in _TELLING:
        of_rail: dict[str, _Judged] = {}
        for reading in readings:
            if reading.load is not load or reading.is_turned or reading.rail.is_ac:
                continue
            one = _Judged(reading, judge(reading, tolerance))
            known = of_rail.get(one.key)
            is_better = known is None or _is_own(one.reading) or _is_worse(one, known)
            if is_better and not (known and _is_own(known.reading)):
                of_rail[one.key] = one
        judged = [j for j in of_rail.values() if j.judgement.verdict is not RailVerdict.NOT_JUDGED]
        if len(judged) >= 2:
            return judged
    return []


def _is_own(reading: RailReading) -> bool:
    return reading.place in (Place.NONE, Place.SUPPLY)


def _is_worse(one: _Judged, other: _Judged) -> bool:
    return abs(one.share) > abs(other.share)


def _of_set(judged: Sequence[_Judged]) -> list[RailPattern]:
    """All off in proportion; an auxiliary high beside a right main rail; limits; one alone."""
    proportion = _proportion(judged)
    if proportion:
        return [proportion]
    patterns = [*_limiting(judged), *_cross(judged)]
    told = {key for pattern in patterns for key in pattern.rails}
    off = [j for j in judged if j.judgement.verdict is RailVerdict.FAIL]
    rest = [j for j in judged if j.judgement.verdict is RailVerdict.PASS]
    if len(off) == 1 and rest and off[0].key not in told:
        key = off[0].key
        text = f"{key} alone is off: its own rectifier, filter or regulator."
        patterns.append(RailPattern("one-off", text, (key,)))
    return patterns


def _proportion(judged: Sequence[_Judged]) -> RailPattern | None:
    """All rails low or high together; a linear rail behind a low switcher may be right."""
    switched = [j for j in judged if j.reading.rail.regulation.is_switching]
    for group in (switched, list(judged)):
        if len(group) < 2 or not all(j.judgement.is_off for j in group):
            continue
        shares = [j.share for j in group]
        least, most = min(shares), max(shares)
        is_one_way = least * most > 0 and max(abs(least), abs(most)) < _RUNNING
        allowed = max(_PROPORTION, _RELATIVE * abs(sum(shares) / len(shares)))
        if is_one_way and most - least <= allowed:
            way = "low" if most < 0 else "high"
            text = f"All rails {way} together, in proportion: reference, feedback or trimmer."
            return RailPattern(f"all-{way}", text, tuple(j.key for j in group))
    return None


def _limiting(judged: Sequence[_Judged]) -> list[RailPattern]:
    """A regulated rail missing while what feeds it is there: its regulator limits the current."""
    limiting = []
    for one in judged:
        rail = one.reading.rail
        is_missing = one.reading.absent_v < _MISSING * abs(rail.nominal_v)
        if rail.regulation is not Regulation.LINEAR or not is_missing:
            continue
        feeds = [j.key for j in judged if j is not one and _feeds(j, one)]
        if feeds:
            text = f"{rail.key} is missing while {feeds[0]} before it is there: if its regulator "
            text += "is warm it limits the current, into a short that may never smoke."
            limiting.append(RailPattern("missing-current-limit", text, (rail.key,)))
    return limiting


def _feeds(feed: _Judged, fed: _Judged) -> bool:
    """True for a raw or switched rail of the same sign and more volts that is there."""
    rail, other = feed.reading.rail, fed.reading.rail
    is_before = rail.regulation in (Regulation.RAW, Regulation.AUXILIARY)
    is_higher = rail.nominal_v * other.nominal_v > 0 and abs(rail.nominal_v) > abs(other.nominal_v)
    return is_before and is_higher and feed.reading.absent_v > _MISSING * abs(rail.nominal_v)


def _cross(judged: Sequence[_Judged]) -> list[RailPattern]:
    """The main rail right and an auxiliary high: it is underloaded, or the auxiliary unloaded."""
    main = next((j for j in judged if j.reading.rail.regulation is Regulation.MAIN), None)
    if main is None or main.judgement.verdict is not RailVerdict.PASS:
        return []
    high = [
        j.key
        for j in judged
        if j.reading.rail.regulation is Regulation.AUXILIARY and j.judgement.is_off and j.share > 0
    ]
    if not high:
        return []
    text = f"{main.key} is right and {', '.join(high)} high: {main.key} underloaded, or the "
    text += "auxiliary unloaded."
    return [RailPattern("cross-regulation", text, tuple(high))]


def _harness(readings: Sequence[RailReading], tolerance: Tolerance) -> list[RailPattern]:
    """Volts lost along the line: V(drop)/I, stretch by stretch."""
    harness: dict[tuple[str, Condition], list[str]] = {}
    for stretch in stretches(readings):
        text = _stretch(stretch, tolerance)
        if text:
            harness.setdefault((stretch.near.rail.key, stretch.near.load), []).append(text)
    return [
        RailPattern(
            "harness-drop",
            f"{key}: {'; '.join(texts)}. Clean the contacts, or crimp them again.",
            (key,),
        )
        for (key, _), texts in harness.items()
    ]


def _is_low(judgement: RailJudgement) -> bool:
    return judgement.is_off and judgement.off_share < 0


def _stretch(stretch: Stretch, tolerance: Tolerance) -> str:
    """What one stretch loses, where it is too much; "" where it is not."""
    near, far = stretch.near, stretch.far
    is_low = judge(near, tolerance).verdict is RailVerdict.PASS and _is_low(judge(far, tolerance))
    is_too_much = stretch.is_too_much
    if (stretch.drop_v <= stretch.error_v and not is_low) or not (is_low or is_too_much):
        return ""
    text = f"{show(stretch.drop_v, Unit.VOLT, 2)} lost from {stretch.begins} to {far.place.words}"
    if stretch.ohm is None:
        return f"{text} (read the current too: above 20 mΩ is too much)"
    amps = show(stretch.ampere or 0.0, Unit.AMPERE, 2)
    return f"{text}, {show(stretch.ohm, Unit.OHM, 2)} at {amps}"


def _hiccup(newest: Mapping[str, RailReading]) -> list[RailPattern]:
    """A switched rail that jumps between next to nothing and much: a start, again and again."""
    keys = tuple(
        key
        for key, reading in newest.items()
        if reading.rail.regulation.is_switching
        and reading.absent_v < _BLIP[0] * abs(reading.rail.nominal_v)
        and reading.present_v > _BLIP[1] * abs(reading.rail.nominal_v)
    )
    text = f"{', '.join(keys)}: a blip, again and again: an overload, a shorted rail, or a dry "
    text += "start-up capacitor."
    return [RailPattern("hiccup", text, keys)] if keys else []
