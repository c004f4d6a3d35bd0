"""What a command says: its answer on stdout, what is wrong on stderr, exit 2."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any, NoReturn

import click

from hale_rail.errors import HaleRailError


def run(action: Any, name: str = "") -> Any:
    """Run an action; what went wrong goes to stderr with the file's name, exit 2."""
    try:
        return action()
    except HaleRailError as error:
        _refuse(error, name)
    except Exception as error:  # the data folder's disk or database, where nobody told it better
        from hale_rail.store.faults import translated

        ours = translated(error)
        if ours is None:
            raise
        _refuse(ours, name)


def _refuse(error: HaleRailError, name: str) -> NoReturn:
    named = f"{name}: " if name and name not in str(error) else ""
    click.echo(f"hale-rail: {named}{error}", err=True)
    sys.exit(2)


def tell_problems(path: Path, problems: list[dict[str, Any]]) -> None:
    """The rows that could not be used, on stderr."""
    for problem in problems:
        click.echo(f"{path}:{problem['line']}: {problem['text']}", err=True)


def print_json(value: object) -> None:
    """Print JSON and nothing else."""
    say(json.dumps(value, ensure_ascii=False, indent=2, allow_nan=False))


def say(text: str) -> None:
    """Print to stdout and see it out; a device that is full is told, exit 2."""
    try:
        click.echo(text)
        sys.stdout.flush()
    except BrokenPipeError:
        sys.exit(0)
    except OSError as error:
        sys.stdout = None  # what is left in its buffer cannot go anywhere
        click.echo(f"hale-rail: the output cannot be written: {error.strerror}.", err=True)
        sys.exit(2)
