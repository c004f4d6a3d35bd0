"""The commands that look after a data folder: backup, restore, check."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

from hale_rail.cli.serving import own_folder
from hale_rail.errors import StoreError
from hale_rail.store import upkeep
from hale_rail.store.database import DATABASE, Store


def back_up(data: Path | None) -> str:
    """Make a backup; returns what to print. Raises StoreError where there is no data."""
    with closing(_store(data)) as store:
        return f"Backed up to {store.backup()}"


def put_back(file: Path, data: Path | None) -> str:
    """Restore a backup; returns what to print. Raises StoreError for a file that is no backup."""
    before = upkeep.restore(own_folder(data), file)
    return f"{file} is in place. What stood there before is {before}"


def look_over(data: Path | None) -> list[str]:
    """What is wrong with the data folder, in sentences. Raises StoreError where there is none."""
    with closing(_store(data)) as store:
        return upkeep.problems(store)


def _store(data: Path | None) -> Store:
    folder = own_folder(data)
    if not (folder / DATABASE).exists():
        raise StoreError(f"There is no workshop's data in {folder}.")
    return Store(folder)
