"""Readings that cannot be used: unknown pads, leads swapped, another unit than was meant."""

from __future__ import annotations

import math
from collections.abc import Sequence

from hale_rail.core.arrays import np
from hale_rail.core.shorts.board import Board, Trouble
from hale_rail.core.shorts.board_model import Kind, Predicted, TraceReading

#: no map is out by more than this factor, so what reads beyond it is another unit or current
_BEYOND = 4.0
_SIGMAS = 5.0
_TURNED = "no short on this map gives this sign: leads swapped?"
_TOO_MUCH = "more than any short on this map gives: is the unit right, and the current?"


def unusable(board: Board, reading: TraceReading) -> str:
    """Why a reading cannot be used on this board, or ""."""
    if not math.isfinite(reading.value):
        return "the value is not a number"
    if not reading.is_of_copper:
        is_known = reading.plus in board.part
        return "" if is_known else f"no part “{reading.plus}” on this map"
    ends = (reading.plus, reading.minus, reading.inject, reading.drain)
    known = {*board.rail.by_id, *board.ground_net.by_id}
    unknown = [pad for pad in ends if pad and pad not in known]
    if unknown:
        return f"no pad “{unknown[0]}” on this map"
    return _without_sense(reading)


def _without_sense(reading: TraceReading) -> str:
    if not (reading.plus and reading.minus):
        return "both probes' pads are needed"
    if reading.plus == reading.minus:
        return f"both probes stand on {reading.plus}"
    if reading.kind is Kind.OHMS:
        return "" if reading.value >= 0 else "ohms below zero: null the leads and read again"
    if not (reading.inject and reading.drain):
        return "a drop needs the pads where the current goes in and out"
    if reading.inject == reading.drain:
        return f"the current goes in and out at {reading.inject}"
    if not (math.isfinite(reading.amps) and reading.amps > 0):
        return "the current must be above 0 A"
    return ""


def impossible(readings: Sequence[TraceReading], predicted: Predicted) -> dict[int, Trouble]:
    """Readings that no short on this map can give, by their place among `readings`."""
    troubles: dict[int, Trouble] = {}
    deviation = np.sqrt(np.diagonal(predicted.spread, axis1=1, axis2=2))
    for at, reading in enumerate(readings):
        drop, across = predicted.drop[:, at], predicted.across[at]
        slack = _SIGMAS * math.hypot(reading.noise, float(deviation[:, at].max(initial=0.0)))
        low = -math.inf if across < 0 else _BEYOND * min(0.0, float(drop.min())) - slack
        high = _BEYOND * max(0.0, float(drop.max())) + slack
        if across > 0 or reading.has_leads:
            high = math.inf
        if not low <= reading.value <= high:
            is_turned = low <= -reading.value <= high
            troubles[at] = Trouble(_TURNED if is_turned else _TOO_MUCH, line=reading.line)
    return troubles
