"""Looking after a data folder: is it whole, and putting a backup back."""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from msgspec import Struct

from hale_rail.errors import CorruptError, OldLayoutError, StoreError
from hale_rail.store import (
    backup_files,
    backups,
    documents,
    folder_lock,
    full_backup,
    opening,
    photos,
    waves,
)
from hale_rail.store.connections import Connection, connect, connect_to_read
from hale_rail.store.database import DATABASE, Store
from hale_rail.store.kept_files import name_new, partial_of, private_folder, trial_folder
from hale_rail.store.migrating import damage, open_copy, refuse_old_layout

_PHOTOS = (
    "SELECT sha256 FROM photo UNION"
    " SELECT json_extract(body, '$.picture.sha256') FROM board_map"
    " WHERE json_extract(body, '$.picture.sha256') <> ''"
)


class Restored(Struct, frozen=True):
    """What was put back. `before`: where what stood there is kept now, None where nothing stood;
    `files`: how many photos, records and documents came along; `lacking`: sentences on those that
    the database names and nobody has."""

    before: Path | None
    files: int
    lacking: tuple[str, ...]


def problems(folder: Path) -> list[str]:
    """What is wrong with a data folder, in sentences; empty when it is whole. Changes nothing."""
    path = folder / DATABASE
    try:
        opening.look(path)
        with closing(connect_to_read(path)) as connection:
            damaged = damage(connection)
            refuse_old_layout(connection, path)
            return [*damaged, *_lacking(connection, folder)]
    except (CorruptError, OldLayoutError) as error:
        return [str(error)]
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
        return [f"The database is damaged: {error}. {backup_files.remedy(folder)}"]


def _lacking(connection: Connection, folder: Path) -> list[str]:
    """Files that the database names and the folder has not, or not as they were kept."""
    lacking = []
    for what, sha256, path, is_named_by_hash in _named(connection, folder):
        shown = path.relative_to(folder)
        if not path.exists():
            lacking.append(f"The {what} {shown} is missing.")
        elif is_named_by_hash:
            with path.open("rb") as file:
                if full_backup.hash_of(file)[0] != sha256:
                    lacking.append(f"The {what} {shown} is not what it was when it was kept.")
    return lacking


def _named(connection: Connection, folder: Path) -> Iterator[tuple[str, str, Path, bool]]:
    """What a file is, a hash, where it lies, and whether the hash is of its own bytes."""
    for (sha256,) in connection.execute(_PHOTOS):
        for is_thumb in (False, True):
            path = photos.path_of(folder, sha256, thumb=is_thumb)
            yield "photo", sha256, path, not is_thumb
    for sha256, kind in connection.execute("SELECT DISTINCT sha256, media_type FROM document"):
        yield "drawing", sha256, documents.path_of(folder, sha256, kind), True
    for (sha256,) in connection.execute("SELECT DISTINCT sha256 FROM wave_record"):
        yield "wave record", sha256, waves.path_of(folder, sha256), True


def back_up_whole(store: Store, target: Path) -> Path:
    """The whole workshop as one file in a folder; returns the file. Raises StoreError."""
    private_folder(store.folder / backup_files.FOLDER)
    copy = partial_of(store.folder / backup_files.FOLDER / DATABASE)
    try:
        open_copy(store.path, copy)
        return full_backup.write_whole(store.folder, copy, target)
    finally:
        copy.unlink(missing_ok=True)


def restore(folder: Path, source: Path) -> Restored:
    """Put a backup in place of a folder's workshop, which is backed up first.

    The backup is opened as a copy, brought up to date and checked before anything is touched.
    Photos, records and documents come from a whole backup, or from beside the backup where it lies
    in a workshop's own folder. Raises StoreError for a file that is not one of ours or damaged, and
    TakenError while a server serves the folder; nothing was changed then.
    """
    if not source.is_file():
        raise StoreError(f"There is no file {source}.")
    with folder_lock.hold(folder, "a restore"), trial_folder(folder, "restore") as trial:
        beside = _unpacked(source, trial)
        with closing(Store(trial)) as copy:
            if problem := damage(copy.read()):
                text = (
                    f"{source} is damaged: {problem[0]} Nothing was changed. Try an older backup."
                )
                raise StoreError(text)
        files = _take_files(beside, folder)
        before = _put_in_place(trial / DATABASE, folder)
        backups.back_up(folder / DATABASE, is_meant=True)
        with closing(connect_to_read(folder / DATABASE)) as connection:
            return Restored(before, files, tuple(_lacking(connection, folder)))


def _unpacked(source: Path, trial: Path) -> Path:
    """Put a backup's database into the trial folder; returns the folder that has its files."""
    with source.open("rb") as file:
        is_whole = file.read(4) == b"PK\x03\x04"
    if is_whole:
        full_backup.take_out(source, trial)
        return trial
    shutil.copyfile(source, trial / DATABASE)
    return source.absolute().parent.parent if source.parent.name == backup_files.FOLDER else trial


def _take_files(beside: Path, folder: Path) -> int:
    """Copy the files that a folder lacks; returns how many. They are named by their hash, so that
    none takes the place of another."""
    if beside == folder:
        return 0
    count = 0
    for name, path in full_backup.kept_files(beside):
        target = folder / name
        if not target.exists():
            private_folder(target.parent)
            partial = partial_of(target)
            shutil.copyfile(path, partial)
            partial.chmod(0o600)
            partial.replace(target)
            count += 1
    return count


def _put_in_place(good: Path, folder: Path) -> Path | None:
    """Make a sound database the folder's own; returns where the one before is kept."""
    path = folder / DATABASE
    if not path.exists():
        name_new(good, path)
        return None
    try:
        with closing(Store(folder)) as store:
            before = store.backup()
    except CorruptError:
        before = _move_aside(path)
        name_new(good, path)
        return before
    with closing(connect(good)) as source, closing(connect(path)) as live:
        source.backup(live)
    return before


def _move_aside(path: Path) -> Path:
    """Keep a damaged database and its log among the backups, as it is."""
    private_folder(path.parent / backup_files.FOLDER)
    kept = backup_files.new_name(path.parent, is_doubtful=True).with_suffix(".damaged")
    for ending in ("-wal", "-shm", ""):
        with contextlib.suppress(FileNotFoundError):
            path.with_name(path.name + ending).replace(kept.with_name(kept.name + ending))
    return kept
