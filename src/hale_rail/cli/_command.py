"""What every command does: its answer on stdout, with --json as JSON; what is wrong on stderr."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from functools import partial, wraps
from pathlib import Path
from typing import Any, TypeVar

import click
from msgspec import Struct

from hale_rail.errors import HaleRailError, InputError
from hale_rail.formats.codec import plain
from hale_rail.formats.tables.texts import read_file

T = TypeVar("T")
FILE = click.Path(path_type=Path)
data_option = click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    help="Data folder, else that of `serve`.",
)


class Answer(Struct, frozen=True):
    """What a command found, a record or what JSON has, and in words.

    `problems`: a line each about what could not be used; `exit_code`: 0 unless nothing could.
    """

    record: object
    words: str
    problems: Sequence[str] = ()
    exit_code: int = 0


def json_command(function: Callable[..., Answer]) -> click.Command:
    """A command that answers in words, or in JSON when --json is given."""

    @wraps(function)
    def answer(*, as_json: bool, **arguments: Any) -> None:
        given = run(partial(function, **arguments))
        if as_json:
            say(json.dumps(plain(given.record), ensure_ascii=False, indent=2, allow_nan=False))
        else:
            say(given.words)
        for line in given.problems:
            click.echo(line, err=True)
        if given.exit_code:
            sys.exit(given.exit_code)

    command = click.command(answer)
    flag = click.Option(["--json", "as_json"], is_flag=True, help="Print JSON and nothing else.")
    command.params.append(flag)
    return command


def text_command(function: Callable[..., str | None]) -> click.Command:
    """A command that prints the text it returns, if any."""

    @wraps(function)
    def answer(**arguments: Any) -> None:
        text = run(partial(function, **arguments))
        if text:
            say(text)

    return click.command(answer)


def run(action: Callable[[], T]) -> T:
    """Run an action; what went wrong goes to stderr, exit 2."""
    try:
        return action()
    except HaleRailError as error:
        ours = error
    except Exception as error:  # the data folder's disk or database, where nobody told it better
        from hale_rail.store.error_mapping import translated

        known = translated(error)
        if known is None:
            raise
        ours = known
    click.echo(f"hale-rail: {ours}", err=True)
    sys.exit(2)


@contextmanager
def naming(place: object) -> Iterator[None]:
    """Say in an InputError's text which file or option it is about."""
    try:
        yield
    except InputError as error:
        raise InputError(f"{place}: {error}") from error


def read_with(path: Path, reader: Callable[[str], T]) -> T:
    """What a reader makes of a file's text; raises InputError naming the file."""
    text = read_file(path)  # which names the file itself
    with naming(path):
        return reader(text)


def problem_lines(path: Path, problems: Sequence[Mapping[str, Any]]) -> list[str]:
    """The rows of a file that could not be used, a line each."""
    return [f"{path}:{problem['line']}: {problem['text']}" for problem in problems]


def say(text: str) -> None:
    """Print to stdout and see it out; a device that is full is told, exit 2."""
    try:
        click.echo(text)
        sys.stdout.flush()
    except BrokenPipeError:
        sys.exit(0)
    except OSError as error:
        sys.stdout = None  # there is nowhere left to write its buffer
        click.echo(f"hale-rail: the output cannot be written: {error.strerror}.", err=True)
        sys.exit(2)
