"""Set the passphrase that other benches sign in with."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from hale_rail.cli._command import data_option, text_command
from hale_rail.cli._folders import own_folder
from hale_rail.store import passphrase
from hale_rail.store.kept_files import private_folder


def set_passphrase(data: Path | None, phrase: str | None) -> str:
    """Set the passphrase, or take it away (None); returns what to print. Raises HaleRailError."""
    folder = own_folder(data)
    if phrase is None:
        passphrase.remove(folder)
        return f"{folder} no longer asks for a passphrase: it is served on this machine only."
    private_folder(folder)
    passphrase.put(folder, phrase)
    return f"{folder} asks for this passphrase from now on; every bench has to sign in again."


def _asked_phrase() -> str:
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\r\n")
    return str(click.prompt("Passphrase", hide_input=True, confirmation_prompt="Once more"))


@text_command
@click.option("--remove", is_flag=True, help="Stop asking for a passphrase.")
@data_option
def command(remove: bool, data: Path | None) -> str:
    """Set the passphrase that other benches sign in with; it is asked for, or read from a pipe."""
    return set_passphrase(data, None if remove else _asked_phrase())
