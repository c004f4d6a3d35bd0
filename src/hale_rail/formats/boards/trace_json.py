"""Makes the records of a short trace from what the core computed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from hale_rail.core.shorts.board import Trouble
from hale_rail.core.shorts.board_model import Loop, NetSide
from hale_rail.core.shorts.meaning import advice, reading_meanings
from hale_rail.core.shorts.next_probe import ProbeProposal
from hale_rail.core.shorts.trace import Trace
from hale_rail.formats.boards.trace_records import (
    LikelyPad,
    LikelyPair,
    LikelyPart,
    NextReading,
    OhmRange,
    ReadingSaid,
    SegmentCurrent,
    TracedBoard,
    TraceProblem,
    TraceSummary,
)


def trace_summary(
    trace: Trace, proposal: ProbeProposal | None, wrong: Sequence[Trouble]
) -> TraceSummary:
    """What the readings say; `wrong` are those that could not be used."""
    return TraceSummary(**_summary(trace, proposal, wrong))


def traced_board(trace: Trace, proposal: ProbeProposal | None) -> TracedBoard:
    """The same for a page; readings are named by `line`, which is their id."""
    low, high = proposal.expected if proposal and proposal.expected else (None, None)
    meanings = reading_meanings(trace)
    return TracedBoard(
        **_summary(trace, proposal, ()),
        said=tuple(ReadingSaid(m.reading.line, m.text, m.is_obeyed) for m in meanings),
        expected=None if low is None or high is None else (round(low, 5), round(high, 5)),
        flow=tuple(_flow(trace, proposal)),
    )


def _summary(
    trace: Trace, proposal: ProbeProposal | None, wrong: Sequence[Trouble]
) -> dict[str, Any]:
    ohm = trace.short_ohm
    return {
        "candidates": tuple(
            LikelyPart(part.id, part.ref, chance) for part, chance in trace.candidates
        ),
        "elsewhere": trace.elsewhere,
        "elsewhere_pads": tuple(LikelyPad(pad.id, chance) for pad, chance in trace.places[:5]),
        "short_ohm": OhmRange(ohm.value, ohm.low, ohm.high),
        "misfit": trace.is_misfit,
        "pairs": tuple(
            LikelyPair(tuple(part.id for part in pair.parts), pair.probability)
            for pair in trace.pairs
        ),
        "outliers": tuple(reading.line for reading in trace.outliers),
        "next": _next(proposal),
        "advice": advice(trace, proposal),
        "problems": tuple(_problem(trouble) for trouble in (*wrong, *trace.troubles)),
    }


def _next(proposal: ProbeProposal | None) -> NextReading | None:
    if proposal is None:
        return None
    reading = proposal.reading
    return NextReading(
        reading.kind.value,
        reading.plus,
        reading.minus or None,
        reading.inject or None,
        reading.drain or None,
        reading.amps if reading.inject else None,
        proposal.bits,
    )


def _problem(trouble: Trouble) -> TraceProblem:
    if trouble.line is not None:
        return TraceProblem(line=trouble.line, text=trouble.text)
    return TraceProblem(id=trouble.id, text=trouble.text)


def _flow(trace: Trace, proposal: ProbeProposal | None) -> list[SegmentCurrent]:
    drops = [r for r in trace.copper if r.inject]
    reading = proposal.reading if proposal and proposal.reading.inject else None
    reading = reading or (drops[-1] if drops else None)
    if reading is None or not trace.held:
        return []
    loop = trace.model.loop(reading)
    likeliest = trace.held[int(trace.chance.argmax())]
    places = ((trace.model.rail, likeliest.rail_pad), (trace.model.ground, likeliest.ground_pad))
    return [one for side, pad in places for one in _of_side(side, pad, loop)]


def _of_side(side: NetSide, pad: str, loop: Loop) -> list[SegmentCurrent]:
    side.solve((*loop.clamps, pad))
    current = side.along(loop.clamps, loop.amps)
    current = current + side.sign * loop.amps_through * side.into[:, side.column[pad]]
    return [
        SegmentCurrent(s.a, s.b, round(float(i), 6))
        for s, i in zip(side.net.segments, current, strict=True)
        if s.a not in side.net.helpers and s.b not in side.net.helpers
    ]
