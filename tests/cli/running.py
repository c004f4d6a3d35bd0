"""Runs a command in this process, in a folder, as a shell would."""

from __future__ import annotations

from contextlib import chdir
from pathlib import Path

from click.testing import CliRunner

from hale_rail.cli import main


def run_in(folder: Path, *words: str) -> tuple[int, str, str]:
    """Exit code, stdout and stderr; `test_commands` runs the installed command itself."""
    with chdir(folder):
        done = CliRunner().invoke(main, words)
    if done.exception and not isinstance(done.exception, SystemExit):
        raise done.exception
    return done.exit_code, done.stdout, done.stderr
