"""Trace a shorted rail on a board's map."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, read_with
from hale_rail.core.chances import chance_words
from hale_rail.core.shorts.next_probe import next_probe
from hale_rail.core.shorts.trace import trace
from hale_rail.formats.boards.board_json import read_board
from hale_rail.formats.boards.trace_csv import read_trace
from hale_rail.formats.boards.trace_json import trace_summary
from hale_rail.formats.codec import plain


def traced(board_path: Path, readings_path: Path) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file that cannot be used."""
    board = read_with(board_path, lambda text: read_board(text).board())
    readings, wrong = read_with(readings_path, read_trace)
    current_trace = trace(board, readings)
    fields: dict[str, Any] = plain(trace_summary(current_trace, next_probe(current_trace), wrong))
    return fields


def in_words(answer: dict[str, Any]) -> str:
    """The same for a person: the likeliest, the short's ohms, and what to do next."""
    lines = [
        f"{_named(one):14} {one['probability']:6.1%}"
        for one in answer["candidates"][:8]
        if one["probability"] >= 0.001
    ]
    lines.append(f"{'no part drawn':14} {answer['elsewhere']:6.1%}")
    ohm = answer["short_ohm"]
    lines.append(f"The short itself: {ohm['value']:.2g} Ω ({ohm['low']:.2g} to {ohm['high']:.2g})")
    lines += [
        f"Two shorted: {' and '.join(pair['ids'])} {chance_words(pair['probability'])}"
        for pair in answer["pairs"][:3]
    ]
    if answer["outliers"]:
        lines.append(f"Set aside: line {', '.join(map(str, answer['outliers']))}")
    return "\n".join((*lines, answer["advice"]))


def _named(one: dict[str, Any]) -> str:
    return one["ref"] if one["ref"] == one["id"] else f"{one['ref']} ({one['id']})"


@json_command
@click.argument("board", type=FILE)
@click.argument("readings", type=FILE)
def command(board: Path, readings: Path) -> Answer:
    """Trace a shorted rail: BOARD.json its map, READINGS.csv drops, ohms, warmth, lifted legs.

    READINGS.csv has kind,plus,minus,inject,return,amps,value,unit,resolution; a heading alone gives
    the first probe. Exits 2 when a file cannot be used at all.
    """
    answer = traced(board, readings)
    lines = []
    for problem in answer["problems"]:
        path, where = (readings, problem["line"]) if "line" in problem else (board, problem["id"])
        lines.append(f"{path}:{where}: {problem['text']}")
    return Answer(answer, in_words(answer), lines)
