"""A case as a bundle: a ZIP with a manifest of every file's size and hash; written and checked.

What is read of a bundle came from anywhere: names are of a few known forms, nothing is unfolded
beyond the size that the manifest states, and every hash is computed before anything is used.
"""

from __future__ import annotations

import hashlib
import json
import re
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

from hale_rail.core.errors import InputError

SCHEMA = 1
MANIFEST, CASE = "manifest.json", "case.json"
_TEXTS = (CASE, "readings.csv", "unit.json", "log.csv")
_KEPT = re.compile(
    r"photos/[0-9a-f]{64}\.jpg|records/[0-9a-f]{64}\.wave|documents/[0-9a-f]{64}\.(?:pdf|jpg|bin)"
)
_CHUNK = 1 << 20
MOST_FILES, MOST_BYTES, MOST_TEXT = 20_000, 4 << 30, 256 << 20
#: the moment that files in a bundle bear, so that the same case gives the same bytes
_MOMENT = (1980, 1, 1, 0, 0, 0)
_BROKEN = (zipfile.BadZipFile, zlib.error, OSError, EOFError, NotImplementedError, RuntimeError,
           ValueError)  # fmt: skip


def write_bundle(target: IO[bytes], texts: Mapping[str, str], kept: Mapping[str, Path]) -> None:
    """Write a bundle: texts by path, and files as they are kept by path."""
    files: dict[str, dict[str, Any]] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as bundle:
        for path, text in texts.items():
            data = text.encode()
            files[path] = {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)}
            bundle.writestr(_entry(path), data, zipfile.ZIP_DEFLATED)
        for path, place in kept.items():
            files[path] = _copied(bundle, path, place)
        told = json.dumps({"schema": SCHEMA, "files": files}, indent=1, sort_keys=True)
        bundle.writestr(_entry(MANIFEST), told, zipfile.ZIP_DEFLATED)


def _entry(path: str) -> zipfile.ZipInfo:
    return zipfile.ZipInfo(path, _MOMENT)


def _copied(bundle: zipfile.ZipFile, path: str, place: Path) -> dict[str, Any]:
    digest, count = hashlib.sha256(), 0
    entry = _entry(path)
    is_packed = path.endswith((".jpg", ".pdf"))
    entry.compress_type = zipfile.ZIP_STORED if is_packed else zipfile.ZIP_DEFLATED
    entry.file_size = place.stat().st_size
    with place.open("rb") as source, bundle.open(entry, "w") as target:
        while chunk := source.read(_CHUNK):
            digest.update(chunk)
            count += len(chunk)
            target.write(chunk)
    return {"sha256": digest.hexdigest(), "bytes": count}


class Bundle:
    """A bundle whose names, sizes and hashes were checked."""

    def __init__(self, archive: zipfile.ZipFile, files: Mapping[str, tuple[str, int]]) -> None:
        self._archive = archive
        self.files = files

    def text(self, path: str) -> str:
        """A file's text; raises InputError where it is not there, or none."""
        if path not in self.files:
            raise InputError(f"The bundle lacks {path}.")
        try:
            return self._archive.read(path).decode()
        except UnicodeDecodeError as error:
            raise InputError(f"{path} is not UTF-8 text.") from error

    def kept(self) -> list[str]:
        """The photos, records and documents by path."""
        return [path for path in self.files if _KEPT.fullmatch(path)]

    @contextmanager
    def opened(self, path: str) -> Iterator[IO[bytes]]:
        """A kept file to read."""
        with self._archive.open(path) as file:
            yield file


@contextmanager
def open_bundle(source: IO[bytes] | Path) -> Iterator[Bundle]:
    """A bundle, checked as a whole; raises InputError for any other file, or one that differs."""
    try:
        archive = zipfile.ZipFile(source)
    except _BROKEN as error:
        raise InputError("This is not a bundle: no ZIP file.") from error
    with archive:
        names = _names(archive)
        files = _manifest(archive, names)
        for path, (sha256, size) in files.items():
            _check_file(archive, path, sha256, size)
        yield Bundle(archive, files)


def _names(archive: zipfile.ZipFile) -> set[str]:
    """The files' names; raises InputError for one that no bundle has, or that is listed twice."""
    entries = archive.infolist()
    if len(entries) > MOST_FILES:
        raise InputError(f"The bundle has {len(entries)} files: at most {MOST_FILES}.")
    names: set[str] = set()
    for entry in entries:
        name = entry.filename
        if name not in (*_TEXTS, MANIFEST) and not _KEPT.fullmatch(name):
            raise InputError(f"“{name[:60]}” is not a file of a bundle; nothing was imported.")
        if name in names:
            raise InputError(f"{name} is listed twice in the bundle.")
        if entry.flag_bits & 1:
            raise InputError(f"{name} is encrypted.")
        names.add(name)
    total = sum(entry.file_size for entry in entries)
    if total > MOST_BYTES:
        raise InputError(f"The bundle unfolds to {total >> 20} MB: at most {MOST_BYTES >> 20}.")
    return names


def _manifest(archive: zipfile.ZipFile, names: set[str]) -> dict[str, tuple[str, int]]:
    if MANIFEST not in names:
        raise InputError("The bundle has no manifest.json.")
    told = read_json(_read(archive, MANIFEST, MOST_TEXT), MANIFEST)
    schema = told.get("schema")
    if isinstance(schema, int) and schema > SCHEMA:
        raise InputError(
            f"The bundle is of schema {schema}, of a newer version; this one reads {SCHEMA}."
        )
    listed = told.get("files")
    if schema != SCHEMA or not isinstance(listed, dict):
        raise InputError("manifest.json is not a bundle's.")
    files = {str(path): _entry_of(str(path), entry) for path, entry in listed.items()}
    if files.keys() != names - {MANIFEST}:
        odd = sorted(files.keys() ^ (names - {MANIFEST}))[0]
        raise InputError(f"“{odd[:60]}” is in the manifest or in the bundle, not in both.")
    return files


def _entry_of(path: str, entry: object) -> tuple[str, int]:
    sha256, size = (entry.get("sha256"), entry.get("bytes")) if isinstance(entry, dict) else (0, 0)
    if not isinstance(sha256, str) or not isinstance(size, int) or isinstance(size, bool):
        raise InputError(f"The manifest says neither hash nor size of “{path[:60]}”.")
    return sha256, size


def _check_file(archive: zipfile.ZipFile, path: str, sha256: str, size: int) -> None:
    """Raise InputError unless a file is of the size and hash that the manifest states."""
    most = MOST_TEXT if path in _TEXTS else MOST_BYTES
    if not 0 <= size <= most:
        raise InputError(f"{path} is to be {size} bytes: at most {most >> 20} MB.")
    digest, count = hashlib.sha256(), 0
    for chunk in _chunks(archive, path):
        count += len(chunk)
        if count > size:
            break
        digest.update(chunk)
    if count != size:
        raise InputError(f"{path} is not of the size that the manifest states.")
    if digest.hexdigest() != sha256.lower():
        raise InputError(f"{path} is damaged: its hash is not the manifest's.")
    if _KEPT.fullmatch(path) and digest.hexdigest() not in path:
        raise InputError(f"{path} is not named by its hash.")


def _chunks(archive: zipfile.ZipFile, path: str) -> Iterator[bytes]:
    try:
        with archive.open(path) as file:
            while chunk := file.read(_CHUNK):
                yield chunk
    except _BROKEN as error:
        raise InputError(f"{path} is damaged: it does not unfold.") from error


def _read(archive: zipfile.ZipFile, path: str, most: int) -> str:
    parts, count = [], 0
    for chunk in _chunks(archive, path):
        count += len(chunk)
        if count > most:
            raise InputError(f"{path} is far too large.")
        parts.append(chunk)
    try:
        return b"".join(parts).decode()
    except UnicodeDecodeError as error:
        raise InputError(f"{path} is not UTF-8 text.") from error


def read_json(text: str, name: str) -> dict[str, Any]:
    """The object of a JSON text; raises InputError naming the file where it is none."""
    try:
        result = json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise InputError(f"{name} is not JSON: {str(error)[:80]}.") from error
    if not isinstance(result, dict):
        raise InputError(f"{name} is not an object of names and values.")
    return result


def _no_constant(word: str) -> float:
    raise ValueError(f"{word} is not a number")
