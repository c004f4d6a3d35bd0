"""Finds dummy loads: `hale-rail dummy`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hale_rail.core.power.dummies import dummies
from hale_rail.core.quantities import Unit, show
from hale_rail.errors import InputError
from hale_rail.formats.dummies_csv import dummies_json, read_pieces, read_rail
from hale_rail.formats.texts import read_file


def loaded(rails: tuple[str, ...], stock: Path | None) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the option or the file."""
    wanted = []
    for text in rails:
        try:
            wanted.append(read_rail(text))
        except InputError as error:
            raise InputError(f"--rail: {error}") from error
    if stock is None:
        return dummies_json(dummies(wanted))
    try:
        pieces = read_pieces(read_file(stock))
    except InputError as error:
        named = "" if str(stock) in str(error) else f"{stock}: "
        raise InputError(f"--stock: {named}{error}") from error
    return dummies_json(dummies(wanted, pieces))


def in_words(found: dict[str, Any]) -> str:
    """The same for a person: what loads each rail, the heat, what gets none."""
    lines = []
    for load in found["rails"]:
        parts = ", ".join(
            f"{show(p['ohms'], Unit.OHM, 3)} {show(p['watts'], Unit.WATT, 3)} "
            f"({show(p['dissipates_w'], Unit.WATT, 2)})"
            for p in load["parts"]
        )
        lines.append(
            f"{show(load['rail_v'], Unit.VOLT):>7}: {show(load['amps'], Unit.AMPERE, 3)} of "
            f"{show(load['wanted_a'], Unit.AMPERE, 3)} through {show(load['ohms'], Unit.OHM, 3)}, "
            f"{load['arrangement']}: {parts}"
        )
    lines += [
        f"{show(one['rail_v'], Unit.VOLT):>7}: none, {one['reason']}" for one in found["unmet"]
    ]
    return "\n".join([*lines, f"Heat in all: {show(found['total_w'], Unit.WATT, 3)}"])
