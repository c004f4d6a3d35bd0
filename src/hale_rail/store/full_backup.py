"""A whole workshop in one file: the database, photos, records and documents, as a ZIP.

`manifest.json` names every file with its hash and size; what is taken out again is checked against
it first.
"""

from __future__ import annotations

import hashlib
import json
import math
import re
import shutil
import struct
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from hale_rail.errors import FullError, StoreError
from hale_rail.store.error_mapping import translated
from hale_rail.store.kept_files import private_folder, writing

DATABASE = "hale-rail.db"
KEPT = ("photos", "records", "documents")
MANIFEST = "manifest.json"
SCHEMA = 1
_CHUNK = 1 << 20
_NAME = re.compile(r"(photos|records|documents)/[0-9a-f]{2}/[0-9a-f]{64}(\.thumb)?\.[a-z]{3,4}")
_MOST_MANIFEST = 64 << 20
#: what the reading of a broken ZIP raises, beside what the system does
_UNREADABLE = (
    zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, ValueError, zlib.error,
    struct.error, OverflowError,
)  # fmt: skip
#: SHA-256 and size in bytes
Told = tuple[str, int]


def hash_of(file: IO[bytes]) -> Told:
    """SHA-256 and size of what a file holds from here on."""
    return _copied(file, None)


def _copied(source: IO[bytes], target: IO[bytes] | None, most: float = math.inf) -> Told:
    """Copy a file in parts, of which it is told what they were; it ends soon after `most` bytes."""
    digest, size = hashlib.sha256(), 0
    while size <= most and (chunk := source.read(_CHUNK)):
        digest.update(chunk)
        size += len(chunk)
        if target is not None:
            target.write(chunk)
    return digest.hexdigest(), size


def kept_files(folder: Path) -> Iterator[tuple[str, Path]]:
    """The files that a workshop keeps beside its database, by their path within the folder."""
    for name in KEPT:
        for path in sorted((folder / name).glob("??/*")):
            relative = path.relative_to(folder).as_posix()
            if _NAME.fullmatch(relative):
                yield relative, path


def write_whole(folder: Path, database: Path, target_folder: Path) -> Path:
    """Write a workshop with this copy of its database into a new file; returns the file."""
    stamp = datetime.now(UTC).strftime("%Y%m%dT%H%M%S%f")
    target = target_folder / f"hale-rail-{stamp}.zip"
    with writing(target) as made, zipfile.ZipFile(made.file, "w") as archive:
        manifest = {DATABASE: _add(archive, DATABASE, database, zipfile.ZIP_DEFLATED)}
        for name, path in kept_files(folder):
            packed = zipfile.ZIP_STORED if path.suffix == ".jpg" else zipfile.ZIP_DEFLATED
            manifest[name] = _add(archive, name, path, packed)
        told = json.dumps({"schema": SCHEMA, "files": manifest}, indent=1)
        archive.writestr(MANIFEST, told, zipfile.ZIP_DEFLATED)
    return target


def _add(archive: zipfile.ZipFile, name: str, path: Path, packed: int) -> dict[str, object]:
    entry = zipfile.ZipInfo.from_file(path, name, strict_timestamps=False)
    entry.compress_type = packed
    with path.open("rb") as source, archive.open(entry, "w", force_zip64=True) as target:
        sha256, size = _copied(source, target)
    return {"sha256": sha256, "bytes": size}


@contextmanager
def opened(source: Path) -> Iterator[zipfile.ZipFile]:
    """A whole backup; raises StoreError for a file that is not one, or is cut off."""
    try:
        with zipfile.ZipFile(source) as archive:
            yield archive
    except (*_UNREADABLE, OSError) as error:
        damaged = StoreError(f"{source} is damaged: {error}. Nothing was changed.")
        raise (translated(error) or damaged) from error


def take_out(source: Path, folder: Path) -> Path:
    """Take a whole backup out into an empty folder, each file checked; returns the database there.

    Raises StoreError for what is damaged, or no backup of this program, FullError for what has no
    room; the folder is thrown away by who made it.
    """
    with opened(source) as archive:
        files = _manifest(archive, source)
        wanted = sum(size for _, size in files.values())
        if wanted > shutil.disk_usage(folder).free:
            raise FullError(f"{source} unfolds to {wanted >> 20} MB: there is no room for it.")
        for name, (sha256, size) in files.items():
            target = folder / name
            private_folder(target.parent)
            with archive.open(name) as packed, writing(target) as made:
                if _copied(packed, made.file, size) != (sha256, size):
                    raise StoreError(f"{source}: {name} is not what it was. Nothing was changed.")
    return folder / DATABASE


def _manifest(archive: zipfile.ZipFile, source: Path) -> Mapping[str, Told]:
    """Hash and size by file's name; raises StoreError for one that is not one of ours."""
    refusal = StoreError(f"{source} is not a backup of this program. Nothing was changed.")
    names = archive.namelist()
    if MANIFEST not in names or archive.getinfo(MANIFEST).file_size > _MOST_MANIFEST:
        raise refusal
    try:
        told = json.loads(archive.read(MANIFEST))
        schema = told["schema"]
        files = {n: (str(f["sha256"]), int(f["bytes"])) for n, f in told["files"].items()}
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise refusal from error
    if isinstance(schema, int) and schema > SCHEMA:
        raise StoreError(f"{source} was written by a newer Hale Rail. Nothing was changed.")
    named = {*files, MANIFEST}
    is_ours = all(name == DATABASE or _NAME.fullmatch(name) for name in files)
    if schema != SCHEMA or DATABASE not in files or not is_ours or named != set(names):
        raise refusal
    if len(names) != len(named):
        raise refusal
    return files
