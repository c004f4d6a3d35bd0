"""What a part's warmth and a lifted leg say of a short: factors on each hypothesis's chance.

A stated approximation: at I²·Rs watts the shorted part is warmer than its neighbours, but a hard
short drops nearly nothing and stays cool, so warmth alone never settles it. A leg that was lifted
settles it but for a slip of the hand.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from hale_rail.core.arrays import np
from hale_rail.core.shorts.board import Board
from hale_rail.core.shorts.board_model import Kind, ShortHypothesis, TraceReading
from hale_rail.core.shorts.flows import Array

#: how often a lifted leg misleads: the wrong leg, or one that still touches
SLIP = 1e-6
#: °C above ambient: what a part that is not shorted shows, mostly and at worst
_USUAL_C, _WARM_C = 2.0, 10.0
#: °C above ambient of a shorted part that warms at all, and how often one does
_SHORTED_C, _WARMS = 15.0, 0.5
#: how much likelier the warmest, second and third warmest are the shorted part than any other
_RANKS = (6.0, 2.0, 1.2)
_LATER_RANK = 0.7


def log_of_touch(
    board: Board, held: Sequence[ShortHypothesis], readings: Sequence[TraceReading]
) -> Array:
    """Log of what warmth and lifted legs say of each hypothesis, shape (hypotheses,)."""
    log = np.zeros(len(held))
    for reading in readings:
        if reading.kind is Kind.LIFTED:
            log += _log_lifted(held, reading)
        elif reading.kind is Kind.WARM:
            ratio = _log_warm(reading)
            part = board.part[reading.plus]
            log += [ratio * _is_at(h, part.id, part.rail_pad) for h in held]
    return log


def _log_lifted(held: Sequence[ShortHypothesis], reading: TraceReading) -> Array:
    """The short is gone only when the part that was lifted holds it."""
    is_gone = reading.value > 0
    agrees = [(h.part is not None and h.part.id == reading.plus) == is_gone for h in held]
    return np.where(agrees, math.log1p(-SLIP), math.log(SLIP))


def _is_at(held: ShortHypothesis, part_id: str, rail_pad: str) -> bool:
    """True for the part, and for a short beside it on its pad."""
    return held.part.id == part_id if held.part else held.rail_pad == rail_pad


def _log_warm(reading: TraceReading) -> float:
    """Log of how much likelier the warmth is when this part is the shorted one."""
    if reading.is_rank:
        rank = round(reading.value)
        return math.log(_RANKS[rank - 1] if 1 <= rank <= len(_RANKS) else _LATER_RANK)
    celsius = max(reading.value, 0.0)
    cool = math.exp(-0.5 * (celsius / _USUAL_C) ** 2) * math.sqrt(2 / math.pi) / _USUAL_C
    sound = 0.9 * cool + 0.1 * math.exp(-celsius / _WARM_C) / _WARM_C
    short = (1 - _WARMS) * cool + _WARMS * math.exp(-celsius / _SHORTED_C) / _SHORTED_C
    return math.log(short / sound)
