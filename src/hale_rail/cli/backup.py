"""Back the workshop up."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

import click

from hale_rail.cli._command import data_option, text_command
from hale_rail.cli._folders import workshop_folder
from hale_rail.store import check_restore
from hale_rail.store.database import Store


@text_command
@click.option(
    "--to",
    type=click.Path(file_okay=False, path_type=Path),
    help="Folder for one file with the whole workshop: database, photos, records, documents.",
)
@data_option
def command(to: Path | None, data: Path | None) -> str:
    """Back the workshop up.

    Without --to the database is copied into the data folder's own backups, as is done daily.
    """
    with closing(Store(workshop_folder(data))) as store:
        made = check_restore.back_up_whole(store, to) if to else store.backup()
    return f"Backed up to {made}"
