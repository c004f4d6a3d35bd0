"""Plan a harness from a supply to a board's connector."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, read_with
from hale_rail.core.bring_up.harness import USUAL_M, plan
from hale_rail.core.bring_up.wiring import rail_words
from hale_rail.errors import InputError
from hale_rail.formats.tables.lengths import read_length
from hale_rail.formats.workshop.harness_csv import harness_json, read_source, read_target


def planned(source: Path, target: Path, length: str | None) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file or the option."""
    feeds, pins = read_with(source, read_source), read_with(target, read_target)
    try:
        length_m = read_length(length) if length else USUAL_M
        return harness_json(plan(feeds, pins, length_m))
    except InputError as error:
        place = {"source": f"{source}: ", "target": f"{target}: "}.get(error.field, "--length: ")
        raise InputError(f"{place}{error}") from error


def in_words(answer: dict[str, Any]) -> str:
    """The same for a person: a wire a line, what is missing, what to mind, what to check."""
    lines = []
    for wire in answer["wires"]:
        drop = f"{wire['drop_mv']:.1f} mV" if wire["drop_mv"] is not None else "drop not known"
        if wire["drop_mv"] is None and wire["mv_per_a"] is not None:
            drop = f"{wire['mv_per_a']:.3g} mV an ampere"
        count = wire["conductors"]
        wires = "1 conductor" if count == 1 else f"{count} conductors"
        rail = rail_words(wire["rail_v"], is_ac=wire["ac"])
        lines.append(f"pin {wire['pin']:>4}: {rail:>8}, {wires}, {drop}")
    lines += [f"Missing: {one['advice']}" for one in answer["missing"]]
    lines += [f"Mind: {text}" for text in answer["warnings"]]
    return "\n".join([*lines, "Before the board is connected:", *answer["checks"]])


@json_command
@click.argument("source", type=FILE)
@click.argument("target", type=FILE)
@click.option("--length", metavar="0.4", help="Metres of each wire, 0.4 unless given.")
def command(source: Path, target: Path, length: str | None) -> Answer:
    """Plan a harness: SOURCE.csv a supply's rails, TARGET.csv the pins of a connector.

    SOURCE has rail_v,amps,conductors and where known awg,pin_amps (ground as rail 0), TARGET
    pin,kind and of a rail rail_v,amps: `9 VAC` alternates, `6 total` is shared by the rail's pins.
    Exits 2 with file and line when a row cannot be used.
    """
    answer = planned(source, target, length)
    return Answer(answer, in_words(answer))
