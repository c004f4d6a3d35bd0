"""The commands that look after a data folder. Heavy imports wait for one."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from hale_rail.cli.output import run

_data = click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    help="Data folder, else that of `serve`.",
)


@click.command()
@click.option(
    "--to",
    type=click.Path(file_okay=False, path_type=Path),
    help="Folder for one file with the whole workshop: database, photos, records, documents.",
)
@_data
def backup(to: Path | None, data: Path | None) -> None:
    """Back the workshop up.

    Without --to the database is copied into the data folder's own backups, as is done daily.
    """
    from hale_rail.cli.keeping import back_up

    click.echo(run(lambda: back_up(data, to)))


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@_data
def restore(file: Path, data: Path | None) -> None:
    """Put a backup, of either kind, into a new folder or in place of what is there.

    Stop the server first. What is there is backed up before; photos are added to, never removed.
    """
    from hale_rail.cli.keeping import put_back

    click.echo(run(lambda: put_back(file, data)))


@click.command()
@_data
def check(data: Path | None) -> None:
    """Check that the data folder is whole; exits 1 when it is not."""
    from hale_rail.cli.keeping import look_over

    found = run(lambda: look_over(data))
    for problem in found:
        click.echo(problem)
    if found:
        sys.exit(1)
    click.echo("The data folder is whole.")


COMMANDS = (backup, restore, check)
