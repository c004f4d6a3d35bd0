"""What an instrument did to a record: samples cut off at the edge of the screen, an odd sample.

Source: a wave's extreme is rare unless it is cut off there; of a triangle every code is as frequent
as the next, of a sine the outermost code twice as frequent.
"""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.arrays import np
from hale_rail.core.ripple.question import RailSource, RippleQuestion
from hale_rail.core.ripple.wave import Samples, Wave

#: share of the samples in an outermost code, and times the codes beside it, that say cut off
CLIPPED_SHARE, _CLIPPED_TIMES = 0.005, 4.0
#: codes that a record needs to tell, and codes beside the outermost that are looked at
_FEWEST_CODES, _BESIDE = 8, 3
#: how near to its nominal volts a rail is held, and how near to nothing it has collapsed (shares)
_REGULATED, _COLLAPSED = 0.05, 0.10
#: one odd sample in so many; how far it stands out of its neighbours, as a share of the span
_ONE_IN, _STANDS_OUT, _AROUND = 2000, 0.3, 4
#: the most odd samples that are left out, and the share of the span that is left then at most
_MOST_ODD, _SHRINKS = 4, 0.7


def clipped(wave: Wave, question: RippleQuestion, *, is_ac: bool) -> str:
    """Where a record is cut off, in words; "" where it is not.

    A regulated rail that is flat at its own volts, and one that has collapsed to nothing, are not.
    """
    volt = wave.volt
    low, high = float(volt.min()), float(volt.max())
    flat = [
        (word, at, inner)
        for word, at, inner in (("top", high, -1.0), ("bottom", low, 1.0))
        if _is_flat(volt, at, inner, high - low)
    ]
    is_both = is_ac and len(flat) == 2
    ends = [
        word
        for word, at, inner in flat
        if is_both or not _is_meant(at, inner, question, is_ac=is_ac)
    ]
    if not ends:
        return ""
    where = " and ".join(ends)
    return f"Cut off at the {where} of the screen: no figure of it is true. Take it with more volts"


def _is_flat(volt: Samples, at: float, inner: float, span: float) -> bool:
    """True where far more samples stand at an extreme than beside it."""
    if span <= 0:
        return False
    share = float(np.count_nonzero(volt == at)) / len(volt)
    if share <= CLIPPED_SHARE:
        return False
    levels = np.unique(volt)
    if len(levels) < _FEWEST_CODES:
        return False
    beside = levels[1 : 1 + _BESIDE] if inner > 0 else levels[-1 - _BESIDE : -1]
    next_most = max(float(np.count_nonzero(volt == level)) / len(volt) for level in beside)
    return share > _CLIPPED_TIMES * next_most


def _is_meant(at: float, inner: float, question: RippleQuestion, *, is_ac: bool) -> bool:
    """True for a top that a regulator holds, and for a bottom at nothing."""
    is_outer = (inner < 0) == (question.nominal_v > 0)
    if is_outer:
        is_held = abs(at - question.nominal_v) <= _REGULATED * abs(question.nominal_v)
        return question.stage in (None, RailSource.LINEAR) and (is_held or is_ac)
    return not is_ac and abs(at) <= _COLLAPSED * abs(question.nominal_v)


def without_odd(wave: Wave) -> Wave:
    """The record without single samples that stand far out; each is said, none is judged."""
    count = len(wave.volt)
    if count < _ONE_IN:
        return wave
    kept, odd = wave.volt, 0
    volt = wave.volt.copy()
    for tried in range(1, min(_MOST_ODD, count // _ONE_IN) + 1):
        at = _odd(volt)
        if at is None:
            break
        volt[at] = float(np.median(_around(volt, at)))
        if np.ptp(volt) <= _SHRINKS * np.ptp(kept):  # the peak of plain noise stands out a little
            kept, odd = volt.copy(), tried
    if not odd:
        return wave
    what = "One odd sample" if odd == 1 else f"{odd} odd samples"
    return replace(wave, volt=kept, notes=(*wave.notes, f"{what} of {count} left out."))


def _odd(volt: Samples) -> int | None:
    """The place of an extreme sample that is alone, or None."""
    low, high = int(volt.argmin()), int(volt.argmax())
    span = float(volt[high] - volt[low])
    for at in (high, low):
        near = _around(volt, at)
        above = float(volt[at] - near.max()) if at == high else float(near.min() - volt[at])
        if span > 0 and above > _STANDS_OUT * span:
            return at
    return None


def _around(volt: Samples, at: int) -> Samples:
    before, after = volt[max(0, at - _AROUND) : at], volt[at + 1 : at + 1 + _AROUND]
    near: Samples = np.concatenate((before, after))
    return near
