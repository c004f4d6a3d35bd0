"""Find the assembly that holds a short."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, problem_lines, read_with
from hale_rail.core.shorts.isolate import Isolation, isolate, verdict
from hale_rail.formats.boards.tree_json import read_sets, read_tree


def isolated(tree_path: Path, readings_path: Path) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file that cannot be used."""
    tree = read_with(tree_path, read_tree)
    readings, troubles = read_with(readings_path, lambda text: read_sets(text, tree))
    isolation = isolate(tree, readings)
    return {
        "items": [_item(isolation, item.id) for item in tree.items],
        "next": _move(isolation),
        "verdict": verdict(isolation),
        "problems": [{"line": t.line, "text": t.text} for t in troubles],
    }


def _item(isolation: Isolation, item_id: str) -> dict[str, Any]:
    ohm = isolation.own.get(item_id, math.inf)
    return {
        "id": item_id,
        "probability": isolation.chance[item_id],
        "ohms": None if math.isinf(ohm) else ohm,
    }


def _move(isolation: Isolation) -> dict[str, Any] | None:
    if isolation.next is None:
        return None
    return {
        "detach": list(isolation.next.detach),
        "reattach": list(isolation.next.reattach),
        "bits": isolation.next.bits,
        "minutes": isolation.next.minutes,
    }


def in_words(answer: dict[str, Any]) -> str:
    """The same for a person."""
    lines = []
    for item in answer["items"]:
        ohms = "" if item["ohms"] is None else f"  {item['ohms']:.3g} Ω"
        lines.append(f"{item['id']:14} {item['probability']:6.1%}{ohms}")
    return "\n".join((*lines, answer["verdict"]))


@json_command
@click.argument("tree", type=FILE)
@click.argument("readings", type=FILE)
def command(tree: Path, readings: Path) -> Answer:
    """Find the assembly that holds a short: TREE.json what hangs on the rail, READINGS.csv.

    READINGS.csv has attached (ids joined by ;) and ohms (OL allowed). Exits 2 when a file cannot be
    used at all.
    """
    answer = isolated(tree, readings)
    return Answer(answer, in_words(answer), problem_lines(readings, answer["problems"]))
