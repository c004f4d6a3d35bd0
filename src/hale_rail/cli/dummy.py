"""Find dummy loads for the rails of a supply."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import click

from hale_rail.cli._command import FILE, Answer, json_command, naming, read_with
from hale_rail.core.power.dummies import Dummies, dummies
from hale_rail.core.quantities import Unit, show
from hale_rail.formats.workshop.dummies_csv import dummies_json, read_pieces, read_rail
from hale_rail.formats.workshop.ready_loads_csv import read_loads

T = TypeVar("T")


def loaded(rails: tuple[str, ...], stock: Path | None, loads: Path | None) -> Dummies:
    """The loads; raises InputError naming the option or the file."""
    wanted = []
    for text in rails:
        with naming("--rail"):
            wanted.append(read_rail(text))
    pieces = _read("--stock", stock, read_pieces) if stock else None
    ready = _read("--loads", loads, read_loads) if loads else []
    return dummies(wanted, pieces, ready)


def _read(option: str, path: Path, read: Callable[[str], list[T]]) -> list[T]:
    with naming(option):
        return read_with(path, read)


def in_words(dummies: Dummies) -> str:
    """For a person: what loads each rail, the heat, what gets none."""
    lines = []
    for load in dummies.loads:
        parts = ", ".join(
            f"{p.name or show(p.ohms, Unit.OHM, 3)} {show(p.watts, Unit.WATT, 3)} "
            f"({show(p.dissipates_w, Unit.WATT, 2)})"
            for p in load.parts
        )
        lines.append(
            f"{show(load.wanted.rail_v, Unit.VOLT):>7}: {show(load.amps, Unit.AMPERE, 3)} of "
            f"{show(load.wanted.amps, Unit.AMPERE, 3)} through {show(load.ohms, Unit.OHM, 3)}, "
            f"{load.arrangement}: {parts}"
        )
    lines += [
        f"{show(wanted.rail_v, Unit.VOLT):>7}: none, {reason}" for wanted, reason in dummies.unmet
    ]
    return "\n".join([*lines, f"Heat in all: {show(dummies.total_w, Unit.WATT, 3)}"])


@json_command
@click.option("--rail", "rails", multiple=True, required=True, metavar="V:A",
              help="Volts and wanted amperes, such as 5:1.5; repeat it for each rail.")  # fmt: skip
@click.option("--stock", type=FILE, help="CSV: ohms,watts,kind,max_volts,qty.")
@click.option("--loads", type=FILE, help="CSV of ready-made loads: load,kind,volts,amps,qty.")
def command(rails: tuple[str, ...], stock: Path | None, loads: Path | None) -> Answer:
    """Find dummy loads: a ready-made one, or one to three resistors a rail, of a stock or E12.

    A rail that no load comes near is named with the reason. Exits 2 when a rail or a list cannot
    be used at all.
    """
    loads_found = loaded(rails, stock, loads)
    return Answer(dummies_json(loads_found), in_words(loads_found))
