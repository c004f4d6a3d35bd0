"""What a short trace says, as JSON: the open formats' contract, and what a page shows beside it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from hale_rail.core.shorts.board import Trouble
from hale_rail.core.shorts.board_model import Loop, NetSide
from hale_rail.core.shorts.meaning import advice, said
from hale_rail.core.shorts.next_probe import ProbeProposal
from hale_rail.core.shorts.trace import Trace


def trace_json(
    trace: Trace, proposal: ProbeProposal | None, wrong: Sequence[Trouble]
) -> dict[str, Any]:
    """What the readings say, as JSON can say it."""
    ohm = trace.short_ohm
    return {
        "candidates": [
            {"id": part.id, "ref": part.ref, "probability": chance}
            for part, chance in trace.candidates
        ],
        "elsewhere": trace.elsewhere,
        "elsewhere_pads": [
            {"pad": pad.id, "probability": chance} for pad, chance in trace.places[:5]
        ],
        "short_ohm": {"value": ohm.value, "low": ohm.low, "high": ohm.high},
        "misfit": trace.is_misfit,
        "pairs": [
            {"ids": [part.id for part in pair.parts], "probability": pair.probability}
            for pair in trace.pairs
        ],
        "outliers": [reading.line for reading in trace.outliers],
        "next": proposal_json(proposal),
        "advice": advice(trace, proposal),
        "problems": [_problem(trouble) for trouble in (*wrong, *trace.troubles)],
    }


def proposal_json(proposal: ProbeProposal | None) -> dict[str, Any] | None:
    """A reading to take next, empty fields as null."""
    if proposal is None:
        return None
    reading = proposal.reading
    return {
        "kind": reading.kind.value,
        "plus": reading.plus,
        "minus": reading.minus or None,
        "inject": reading.inject or None,
        "return": reading.drain or None,
        "amps": reading.amps if reading.inject else None,
        "bits": proposal.bits,
    }


def _problem(trouble: Trouble) -> dict[str, Any]:
    where = {"line": trouble.line} if trouble.line is not None else {"id": trouble.id}
    return {**where, "text": trouble.text}


def page_json(trace: Trace, proposal: ProbeProposal | None) -> dict[str, Any]:
    """The same with what each reading said, and the current in each segment.

    Readings are named by `line`, which is their id; currents are those of the likeliest hypothesis
    with the clamps as proposed, else as they stood last, in A from `a` to `b`.
    """
    expected = proposal.expected if proposal else None
    return {
        **trace_json(trace, proposal, ()),
        "said": [
            {"id": s.reading.line, "text": s.text, "obeyed": s.is_obeyed} for s in said(trace)
        ],
        "expected": [round(v, 5) for v in expected] if expected else None,
        "flow": _flow(trace, proposal),
    }


def _flow(trace: Trace, proposal: ProbeProposal | None) -> list[dict[str, Any]]:
    drops = [r for r in trace.copper if r.inject]
    reading = proposal.reading if proposal and proposal.reading.inject else None
    reading = reading or (drops[-1] if drops else None)
    if reading is None or not trace.held:
        return []
    loop = trace.model.loop(reading)
    likeliest = trace.held[int(trace.chance.argmax())]
    places = ((trace.model.rail, likeliest.rail_pad), (trace.model.ground, likeliest.ground_pad))
    return [one for side, pad in places for one in _of_side(side, pad, loop)]


def _of_side(side: NetSide, pad: str, loop: Loop) -> list[dict[str, Any]]:
    side.solve((*loop.clamps, pad))
    current = side.along(loop.clamps, loop.amps)
    current = current + side.sign * loop.amps_through * side.into[:, side.column[pad]]
    return [
        {"a": s.a, "b": s.b, "amps": round(float(i), 6)}
        for s, i in zip(side.net.segments, current, strict=True)
        if s.a not in side.net.helpers and s.b not in side.net.helpers
    ]
