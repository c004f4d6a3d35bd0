"""Traces a shorted rail on a board's map: `hale-rail trace`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hale_rail.core.chances import chance_words
from hale_rail.core.shorts.next_probe import next_probe
from hale_rail.core.shorts.trace import trace
from hale_rail.errors import InputError
from hale_rail.formats.board_json import read_board
from hale_rail.formats.texts import read_file
from hale_rail.formats.trace_csv import read_trace
from hale_rail.formats.trace_json import trace_json


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
        f"Two shorted: {' and '.join(pair['ids'])} {chance_words(pair['probability'])}"
        for pair in found["pairs"][:3]
    ]
    if found["outliers"]:
        lines.append(f"Set aside: line {', '.join(map(str, found['outliers']))}")
    return "\n".join((*lines, found["advice"]))


def _named(one: dict[str, Any]) -> str:
    return one["ref"] if one["ref"] == one["id"] else f"{one['ref']} ({one['id']})"
