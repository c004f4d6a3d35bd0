"""The commands that look after a data folder: backup, restore, check."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

from hale_rail.case.words import counted
from hale_rail.cli.serving import own_folder
from hale_rail.errors import StoreError
from hale_rail.store import upkeep
from hale_rail.store.database import DATABASE, Store

_MOST_TOLD = 5


def back_up(data: Path | None, target: Path | None) -> str:
    """Make a backup; returns what to print. Raises StoreError where there is no data.

    Into a folder of one's own goes the whole workshop, with its photos, records and documents.
    """
    with closing(Store(_folder(data))) as store:
        made = upkeep.back_up_whole(store, target) if target else store.backup()
    return f"Backed up to {made}"


def put_back(file: Path, data: Path | None) -> str:
    """Restore a backup; returns what to print. Raises StoreError for a file that is no backup."""
    found = upkeep.restore(own_folder(data), file)
    told = [f"{file} is in place."]
    if found.files:
        told.append(f"{counted(found.files, 'file')} (photos, records, documents) came along.")
    told += found.lacking[:_MOST_TOLD]
    if len(found.lacking) > _MOST_TOLD:
        told.append(f"And {len(found.lacking) - _MOST_TOLD} more: hale-rail check names them.")
    if found.before:
        told.append(f"What stood there before is {found.before}")
    return "\n".join(told)


def look_over(data: Path | None) -> list[str]:
    """What is wrong with the data folder, in sentences. Raises StoreError where there is none."""
    return upkeep.problems(_folder(data))


def _folder(data: Path | None) -> Path:
    folder = own_folder(data).absolute()
    if not (folder / DATABASE).exists():
        raise StoreError(f"There is no workshop's data in {folder}.")
    return folder
