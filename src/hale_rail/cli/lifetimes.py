"""Fit lifetimes to units with their ages."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, problem_lines, read_with
from hale_rail.core.ledger.lifetimes import fit
from hale_rail.errors import InputError
from hale_rail.formats.workshop.lifetimes_csv import groups, lifetimes_json, read_units


def fitted(path: Path) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file when no row can be used."""
    rows, problems = read_with(path, read_units)
    if not rows:
        line, why = problems[0] if problems else (1, "there is no row below the heading")
        raise InputError(f"{path}, line {line}: {why}")
    fits = {
        name: fit([row.years for row in own], [row.failed for row in own])
        for name, own in groups(rows).items()
    }
    return lifetimes_json(fits, problems)


def in_words(answer: dict[str, Any]) -> str:
    """The same for a person: a group a line, with its bounds and what is said of small numbers."""
    lines = []
    for one in answer["groups"]:
        head = f"{one['group']}: {one['failures']} of {one['n']} failed"
        if one["shape"]:
            shape, scale, b10 = (
                _figure(one[name]) for name in ("shape", "scale_years", "b10_years")
            )
            head += f"; shape {shape}, scale {scale} years, a tenth by {b10} years"
        lines.append(f"{head}. {one['text']}".strip())
    return "\n".join(lines)


def _figure(result: dict[str, float | None]) -> str:
    low, high = (
        "without bound" if result[end] is None else f"{result[end]:.3g}" for end in ("low", "high")
    )
    return f"{result['value']:.3g} ({low} to {high})"


@json_command
@click.argument("units", type=FILE)
def command(units: Path) -> Answer:
    """Fit lifetimes: UNITS.csv with years,failed and where wanted group.

    Units that still work count as such. Exits 2 when no row can be used.
    """
    answer = fitted(units)
    return Answer(answer, in_words(answer), problem_lines(units, answer["problems"]))
