"""Fits lifetimes: `hale-rail lifetimes`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hale_rail.core.ledger.lifetimes import fit
from hale_rail.errors import InputError
from hale_rail.formats.lifetimes_csv import groups, lifetimes_json, read_units
from hale_rail.formats.texts import read_file


def fitted(path: Path) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file when no row can be used."""
    text = read_file(path)
    try:
        rows, problems = read_units(text)
    except InputError as error:
        raise InputError(f"{path}: {error}") from error
    if not rows:
        line, why = problems[0] if problems else (1, "there is no row below the heading")
        raise InputError(f"{path}, line {line}: {why}")
    fits = {
        name: fit([row.years for row in own], [row.failed for row in own])
        for name, own in groups(rows).items()
    }
    return lifetimes_json(fits, problems)


def in_words(found: dict[str, Any]) -> str:
    """The same for a person: a group a line, with its bounds and what is said of small numbers."""
    lines = []
    for one in found["groups"]:
        head = f"{one['group']}: {one['failures']} of {one['n']} failed"
        if one["shape"]:
            shape, scale, b10 = (
                _figure(one[name]) for name in ("shape", "scale_years", "b10_years")
            )
            head += f"; shape {shape}, scale {scale} years, a tenth by {b10} years"
        lines.append(f"{head}. {one['text']}".strip())
    return "\n".join(lines)


def _figure(found: dict[str, float | None]) -> str:
    low, high = (
        "without bound" if found[end] is None else f"{found[end]:.3g}" for end in ("low", "high")
    )
    return f"{found['value']:.3g} ({low} to {high})"
