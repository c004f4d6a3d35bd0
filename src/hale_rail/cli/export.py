"""Write a whole case as a bundle."""

from __future__ import annotations

import contextlib
from contextlib import closing
from pathlib import Path

import click

from hale_rail.actions.workshop import bundles
from hale_rail.cli._command import data_option, text_command
from hale_rail.cli._folders import workshop_folder
from hale_rail.errors import InputError
from hale_rail.store.database import Store


def put_out(number: str, target: Path | None, data: Path | None) -> str:
    """Write a case's bundle; returns what to print. Raises HaleRailError."""
    folder = workshop_folder(data)
    place = target or Path(f"{number}.zip")
    partial = place.with_name(f"{place.name}.part")
    try:
        with closing(Store(folder)) as store, partial.open("wb") as file:
            bundles.export(store, number, file)
        partial.replace(place)
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or error
        raise InputError(f"{place} cannot be written: {why}.") from error
    finally:
        with contextlib.suppress(OSError, ValueError):
            partial.unlink(missing_ok=True)
    return f"{number} is in {place}"


@text_command
@click.argument("case")
@click.option("-o", "--output", type=click.Path(dir_okay=False, path_type=Path),
              help="The file, else CASE.zip here.")  # fmt: skip
@data_option
def command(case: str, output: Path | None, data: Path | None) -> str:
    """Write a whole CASE, by its number, as a bundle: a ZIP that another workshop takes in."""
    return put_out(case, output, data)
