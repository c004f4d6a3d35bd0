"""The data folders that commands work on."""

from __future__ import annotations

from pathlib import Path

import platformdirs

from hale_rail.errors import StoreError
from hale_rail.store.database import DATABASE

_APP = "hale-rail"


def own_folder(data: Path | None) -> Path:
    """The workshop's own data folder, or the one that was named."""
    return data or app_folder(_APP)


def workshop_folder(data: Path | None) -> Path:
    """The same, made absolute; raises StoreError where it holds no workshop."""
    folder = own_folder(data).absolute()
    if not (folder / DATABASE).exists():
        raise StoreError(f"There is no workshop's data in {folder}.")
    return folder


def app_folder(name: str) -> Path:
    """Where the system has an application of this name keep its data."""
    return Path(platformdirs.user_data_dir(name, appauthor=False))
