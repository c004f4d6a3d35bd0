"""Files beside the database: on disk before they are named, and readable by their owner alone."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from msgspec import Struct

from hale_rail.store.error_mapping import translated
from hale_rail.store.ids import new_uuid

_FOLDER_MODE, _FILE_MODE = 0o700, 0o600
PARTIAL = ".part"
_OF_PROCESS = re.compile(r"\.(\d+)\.part(-wal|-shm|-journal)?$")
#: the names of temporary files, now and in versions before
_OURS = re.compile(
    r"\.[0-9a-f]{8}\.\d+\.part(-wal|-shm|-journal)?$"
    r"|^[0-9a-f]{64}(\.thumb)?\.\d+\.part$"
    r"|(^|\.)[0-9a-f]{8}-[0-9a-f-]{27}\.part(\.npy)?$"
)
#: a temporary file older than this belongs to nobody, in seconds
_OLD_S = 86_400
#: the folders of a data folder
_OWN = ("photos", "records", "documents", "backups", "views")


def private_folder(folder: Path) -> None:
    """Make a folder that only its owner can look into, and so those above it that are not there;
    raises StoreError where it cannot be."""
    missing = [folder, *(above for above in folder.parents if not above.exists())]
    try:
        for each in reversed(missing):
            each.mkdir(mode=_FOLDER_MODE, exist_ok=True)
    except OSError as error:
        raise translated(error) or error from error


def open_private(path: Path) -> int:
    """A new or emptied file of the owner alone, open for writing; returns its descriptor."""
    descriptor = os.open(path, os.O_RDWR | os.O_CREAT | os.O_TRUNC, _FILE_MODE)
    with contextlib.suppress(OSError):  # a file that was there already keeps its mode otherwise
        os.fchmod(descriptor, _FILE_MODE)
    return descriptor


def partial_of(target: Path) -> Path:
    """Where a file is written before it takes its name; the process stands in the name."""
    return target.with_name(f"{target.name}.{new_uuid()[:8]}.{os.getpid()}{PARTIAL}")


def write_for_good(target: Path, data: bytes) -> None:
    """Write a file whole and to the disk, or not at all; raises StoreError for a disk at fault."""
    with writing(target) as made:
        made.file.write(data)


class Writing(Struct):
    """A file that is being written, and the name that it takes at the end."""

    file: IO[bytes]
    target: Path


@contextmanager
def writing(target: Path) -> Iterator[Writing]:
    """A file that takes its name once it is written whole and on the disk; else nothing stays.

    Raises StoreError for a disk at fault.
    """
    partial = partial_of(target)
    try:
        private_folder(target.parent)
        with os.fdopen(open_private(partial), "w+b") as file:
            made = Writing(file, target)
            yield made
            file.flush()
            os.fsync(file.fileno())
        private_folder(made.target.parent)
        partial.replace(made.target)
        settle(made.target)
    except OSError as error:
        raise translated(error) or error from error
    finally:
        with contextlib.suppress(OSError):
            partial.unlink(missing_ok=True)


@contextmanager
def trial_folder(folder: Path, name: str) -> Iterator[Path]:
    """A place on a data folder's disk, thrown away again; what a kill leaves of it is swept at the
    next start. Raises StoreError for a disk at fault."""
    place = partial_of(folder / name)
    try:
        private_folder(place)
        yield place
    except OSError as error:
        raise translated(error) or error from error
    finally:
        shutil.rmtree(place, ignore_errors=True)


def name_new(partial: Path, target: Path) -> None:
    """Give a finished file its name at once; raises FileExistsError where there is one by it."""
    try:
        os.link(partial, target)
    except FileExistsError:
        raise
    except OSError:  # a file system without links
        if target.exists():
            raise FileExistsError(target) from None
        partial.rename(target)
    settle(target)


def settle(target: Path) -> None:
    """See the names in a file's folder to the disk."""
    descriptor = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def tighten(folder: Path, database: Path) -> None:
    """Take other users' rights away from what a workshop keeps; what is not ours stays.

    The folder itself is closed where it holds a workshop, or nothing yet.
    """
    with contextlib.suppress(OSError):
        if database.exists() or not any(folder.iterdir()):
            folder.chmod(_FOLDER_MODE)
        for name in _OWN:
            if (folder / name).is_dir():
                (folder / name).chmod(_FOLDER_MODE)
        for file in folder.glob("*"):
            if (
                file.is_file()
                and file.stat().st_mode & 0o077
                and file.name.startswith(database.name)
            ):
                file.chmod(_FILE_MODE)


def sweep(folder: Path) -> list[Path]:
    """Delete temporary files and folders of ours that a killed process left; returns them.

    Those of a process that runs stay, for a day at most; what another program calls so stays.
    """
    swept = []
    paths = [
        *folder.glob("*.part*"),
        *(p for name in _OWN for p in (folder / name).rglob("*.part*")),
    ]
    for partial in paths:
        with contextlib.suppress(OSError):
            if _OURS.search(partial.name) and _is_left(partial):
                _remove(partial)
                swept.append(partial)
    return swept


def _remove(partial: Path) -> None:
    if partial.is_dir():
        shutil.rmtree(partial)
    else:
        partial.unlink()


def _is_left(partial: Path) -> bool:
    """True where the process that wrote it is gone, or it is a day old."""
    if time.time() - partial.stat().st_mtime > _OLD_S:
        return True
    named = _OF_PROCESS.search(partial.name)
    if named is None:
        return False
    try:
        os.kill(int(named[1]), 0)
    except (ProcessLookupError, OverflowError):
        return True
    except PermissionError:  # the process belongs to another user, so it is running
        return False
    return False
