"""The demo workshop in its own folder: taken out of the file that ships, its times moved to now."""

from __future__ import annotations

import shutil
from importlib import resources
from pathlib import Path

from hale_rail import clock
from hale_rail.errors import OldLayoutError, StoreError
from hale_rail.store import folder_lock, full_backup, shift_times
from hale_rail.store.database import DATABASE, Store
from hale_rail.store.kept_files import private_folder

#: the whole workshop as a backup, and what the stand-in vendors tell; `make demo-data` writes both
SHIPPED, VENDORS = "larkmoor.zip", "vendors.json"
MARK = "DEMO"
_MARK_TEXT = "Demo data of Hale Rail. `hale-rail demo --reset` throws this folder's content away.\n"


def ensure_demo(folder: Path, *, reset: bool = False) -> Store:
    """The demo's store, made when absent; refuses a folder that holds somebody's real data."""
    mark = folder / MARK
    if (folder / DATABASE).exists() and not mark.exists():
        raise StoreError(f"{folder} holds data that is not a demo: choose another --data folder.")
    is_finished = mark.exists() and "ready" in mark.read_text(encoding="utf-8")
    if mark.exists() and (reset or not is_finished):
        _empty(folder)
    if not mark.exists():
        private_folder(folder)
        mark.write_text(_MARK_TEXT, encoding="utf-8")
        _take_out(folder)
        store = Store(folder)
        mark.write_text(_MARK_TEXT + "ready\n", encoding="utf-8")
        return store
    try:
        return Store(folder)
    except OldLayoutError:
        return ensure_demo(folder, reset=True)


def _take_out(folder: Path) -> None:
    """Unfold the shipped workshop; its newest entry is then of this moment."""
    with resources.as_file(resources.files("hale_rail.demo") / SHIPPED) as source:
        database = full_backup.take_out(source, folder)
    shift_times.move_newest_to(database, clock.now())


def _empty(folder: Path) -> None:
    """Throw everything away but the lock of who serves the folder."""
    for path in folder.iterdir():
        if path.is_dir():
            shutil.rmtree(path)
        elif path.name not in (folder_lock.LOCK, folder_lock.HOLDER):
            path.unlink()
