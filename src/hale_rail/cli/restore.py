"""Put a backup back."""

from __future__ import annotations

from pathlib import Path

import click

from hale_rail.case.words import counted
from hale_rail.cli._command import FILE, data_option, text_command
from hale_rail.cli._folders import own_folder
from hale_rail.store import check_restore

_MOST_TOLD = 5


@text_command
@click.argument("file", type=FILE)
@data_option
def command(file: Path, data: Path | None) -> str:
    """Put a backup, of either kind, into a new folder or in place of what is there.

    Stop the server first. What is there is backed up before; photos are added to, never removed.
    """
    restored = check_restore.restore(own_folder(data), file)
    told = [f"{file} is in place."]
    if restored.files:
        told.append(f"{counted(restored.files, 'file')} (photos, records, documents) came along.")
    told += restored.lacking[:_MOST_TOLD]
    if len(restored.lacking) > _MOST_TOLD:
        told.append(f"And {len(restored.lacking) - _MOST_TOLD} more: hale-rail check names them.")
    if restored.before:
        told.append(f"What stood there before is {restored.before}")
    return "\n".join(told)
