"""Plans a harness: `hale-rail harness`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hale_rail.core.bring_up.harness import USUAL_M, plan
from hale_rail.core.bring_up.wiring import rail_words
from hale_rail.errors import InputError
from hale_rail.formats.harness_csv import harness_json, read_source, read_target
from hale_rail.formats.lengths import read_length
from hale_rail.formats.texts import read_file


def planned(source: Path, target: Path, length: str | None) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file or the option."""
    texts = [read_file(path) for path in (source, target)]
    try:
        feeds = read_source(texts[0])
    except InputError as error:
        raise InputError(f"{source}: {error}") from error
    try:
        pins = read_target(texts[1])
    except InputError as error:
        raise InputError(f"{target}: {error}") from error
    try:
        length_m = read_length(length) if length else USUAL_M
        return harness_json(plan(feeds, pins, length_m))
    except InputError as error:
        place = {"source": f"{source}: ", "target": f"{target}: "}.get(error.field, "--length: ")
        raise InputError(f"{place}{error}") from error


def in_words(found: dict[str, Any]) -> str:
    """The same for a person: a wire a line, what is missing, what to mind, what to check."""
    lines = []
    for wire in found["wires"]:
        drop = f"{wire['drop_mv']:.1f} mV" if wire["drop_mv"] is not None else "drop not known"
        if wire["drop_mv"] is None and wire["mv_per_a"] is not None:
            drop = f"{wire['mv_per_a']:.3g} mV an ampere"
        count = wire["conductors"]
        wires = "1 conductor" if count == 1 else f"{count} conductors"
        rail = rail_words(wire["rail_v"], is_ac=wire["ac"])
        lines.append(f"pin {wire['pin']:>4}: {rail:>8}, {wires}, {drop}")
    lines += [f"Missing: {one['advice']}" for one in found["missing"]]
    lines += [f"Mind: {text}" for text in found["warnings"]]
    return "\n".join([*lines, "Before the board is connected:", *found["checks"]])
