"""Traces a shorted rail on a board's map: `hale-rail trace`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hale_rail.core.shorts.board import Trouble
from hale_rail.core.shorts.next_probe import Proposal, next_probe
from hale_rail.core.shorts.trace import Trace, trace
from hale_rail.core.shorts.words import advice
from hale_rail.errors import InputError
from hale_rail.formats.board_json import read_board
from hale_rail.formats.texts import read_file
from hale_rail.formats.trace_csv import read_trace


def traced(board_path: Path, readings_path: Path) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file that cannot be used."""
    board_text, readings_text = read_file(board_path), read_file(readings_path)
    try:
        board = read_board(board_text).board()
    except InputError as error:
        raise InputError(f"{board_path}: {error}") from error
    try:
        readings, wrong = read_trace(readings_text)
    except InputError as error:
        raise InputError(f"{readings_path}: {error}") from error
    found = trace(board, readings)
    return trace_json(found, next_probe(found), wrong)


def trace_json(found: Trace, proposal: Proposal | None, wrong: list[Trouble]) -> dict[str, Any]:
    """What the readings say, as JSON can say it."""
    ohm = found.short_ohm
    return {
        "candidates": [
            {"id": part.id, "ref": part.ref, "probability": chance}
            for part, chance in found.candidates
        ],
        "elsewhere": found.elsewhere,
        "elsewhere_pads": [
            {"pad": pad.id, "probability": chance} for pad, chance in found.places[:5]
        ],
        "short_ohm": {"value": ohm.value, "low": ohm.low, "high": ohm.high},
        "misfit": found.is_misfit,
        "pairs": [
            {"ids": [part.id for part in pair.parts], "probability": pair.probability}
            for pair in found.pairs
        ],
        "outliers": [reading.line for reading in found.outliers],
        "next": proposal_json(proposal),
        "advice": advice(found, proposal),
        "problems": [_problem(trouble) for trouble in (*wrong, *found.troubles)],
    }


def proposal_json(proposal: Proposal | None) -> dict[str, Any] | None:
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


def in_words(found: dict[str, Any]) -> str:
    """The same for a person: the likeliest, the short's ohms, and what to do next."""
    lines = [
        f"{_named(one):14} {one['probability']:6.1%}"
        for one in found["candidates"][:8]
        if one["probability"] >= 0.001
    ]
    lines.append(f"{'no part drawn':14} {found['elsewhere']:6.1%}")
    ohm = found["short_ohm"]
    lines.append(f"The short itself: {ohm['value']:.2g} Ω ({ohm['low']:.2g} to {ohm['high']:.2g})")
    lines += [
        f"Two shorted: {' and '.join(pair['ids'])} {pair['probability']:.0%}"
        for pair in found["pairs"][:3]
    ]
    if found["outliers"]:
        lines.append(f"Set aside: line {', '.join(map(str, found['outliers']))}")
    return "\n".join((*lines, found["advice"]))


def _named(one: dict[str, Any]) -> str:
    return one["ref"] if one["ref"] == one["id"] else f"{one['ref']} ({one['id']})"
