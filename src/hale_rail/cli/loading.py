"""Finds dummy loads: `hale-rail dummy`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from hale_rail.core.power.dummies import dummies
from hale_rail.core.quantities import Unit, show
from hale_rail.errors import InputError
from hale_rail.formats.dummies_csv import dummies_json, read_pieces, read_rail
from hale_rail.formats.ready_loads_csv import read_loads
from hale_rail.formats.texts import read_file

T = TypeVar("T")


def loaded(rails: tuple[str, ...], stock: Path | None, loads: Path | None) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the option or the file."""
    wanted = []
    for text in rails:
        try:
            wanted.append(read_rail(text))
        except InputError as error:
            raise InputError(f"--rail: {error}") from error
    pieces = _read("--stock", stock, read_pieces) if stock else None
    ready = _read("--loads", loads, read_loads) if loads else []
    return dummies_json(dummies(wanted, pieces, ready))


def _read(option: str, path: Path, read: Callable[[str], list[T]]) -> list[T]:
    try:
        return read(read_file(path))
    except InputError as error:
        named = "" if str(path) in str(error) else f"{path}: "
        raise InputError(f"{option}: {named}{error}") from error


def in_words(found: dict[str, Any]) -> str:
    """The same for a person: what loads each rail, the heat, what gets none."""
    lines = []
    for load in found["rails"]:
        parts = ", ".join(
            f"{p.get('load') or show(p['ohms'], Unit.OHM, 3)} {show(p['watts'], Unit.WATT, 3)} "
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
