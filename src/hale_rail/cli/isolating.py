"""Finds the assembly that holds a short: `hale-rail isolate`."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

from hale_rail.core.shorts.isolate import Isolation, isolate, verdict
from hale_rail.errors import InputError
from hale_rail.formats.texts import read_file
from hale_rail.formats.tree_json import read_sets, read_tree


def isolated(tree_path: Path, readings_path: Path) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file that cannot be used."""
    tree_text, readings_text = read_file(tree_path), read_file(readings_path)
    try:
        tree = read_tree(tree_text)
    except InputError as error:
        raise InputError(f"{tree_path}: {error}") from error
    try:
        readings, troubles = read_sets(readings_text, tree)
    except InputError as error:
        raise InputError(f"{readings_path}: {error}") from error
    found = isolate(tree, readings)
    return {
        "items": [_item(found, item.id) for item in tree.items],
        "next": _move(found),
        "verdict": verdict(found),
        "problems": [{"line": t.line, "text": t.text} for t in troubles],
    }


def _item(found: Isolation, item_id: str) -> dict[str, Any]:
    ohm = found.own.get(item_id, math.inf)
    return {
        "id": item_id,
        "probability": found.chance[item_id],
        "ohms": None if math.isinf(ohm) else ohm,
    }


def _move(found: Isolation) -> dict[str, Any] | None:
    if found.next is None:
        return None
    return {
        "detach": list(found.next.detach),
        "reattach": list(found.next.reattach),
        "bits": found.next.bits,
        "minutes": found.next.minutes,
    }


def in_words(found: dict[str, Any]) -> str:
    """The same for a person."""
    lines = []
    for item in found["items"]:
        ohms = "" if item["ohms"] is None else f"  {item['ohms']:.3g} Ω"
        lines.append(f"{item['id']:14} {item['probability']:6.1%}{ohms}")
    return "\n".join((*lines, found["verdict"]))
