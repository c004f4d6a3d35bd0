"""Adding and finding the photos of a case."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from hale_rail.actions.change import Change, changing
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.photos import encode_photo
from hale_rail.store import cases, photos
from hale_rail.store.database import Store
from hale_rail.store.photos import PHOTOS, Photo

MOST_AT_ONCE = 12


def add(
    store: Store,
    number: str,
    part_id: int | None,
    files: Sequence[tuple[str, Callable[[], bytes]]],
    caption: str = "",
    at: str | None = None,
) -> int:
    """Re-encode and keep photos, all or none; returns how many. A bad file raises InputError.

    `files`: names, and what reads each: one at a time, so that many need no more room than one.
    """
    kept = encoded(store, files)
    with changing(store, number, at) as change:
        keep(change, part_id, kept, caption)
    return len(kept)


def encoded(
    store: Store, files: Sequence[tuple[str, Callable[[], bytes]]]
) -> list[tuple[str, tuple[int, int]]]:
    """Re-encode photos and put their files into the store: of each its hash and its size in pixels.

    Nothing of a case names them yet: costly, and so before any transaction. Raises InputError.
    """
    given = [(name, read) for name, read in files if name]
    if not given:
        raise InputError("Choose one or more photos.", field="photos")
    if len(given) > MOST_AT_ONCE:
        raise InputError(f"At most {MOST_AT_ONCE} photos at a time.", field="photos")
    photo_files = [encode_photo(read(), name) for name, read in given]
    return [(photos.put_file(store.folder, e.full, e.thumb), e.size) for e in photo_files]


def keep(
    change: Change,
    part_id: int | None,
    kept: Sequence[tuple[str, tuple[int, int]]],
    caption: str = "",
) -> list[int]:
    """Keep encoded photos with a case; returns their ids. Raises NotFoundError for no such part."""
    words, part = caption.strip(), change.file.sheet.part(part_id)
    if part is None and part_id is not None:
        raise NotFoundError("There is no such part on this unit.")
    text = f"{len(kept)} of {part.ref if part else 'the unit'}"
    log_id = change.log("photo", text + (f": {words}" if words else ""))
    return [
        change.append(PHOTOS, log_id, Photo(part_id, sha256, *size, words)) for sha256, size in kept
    ]


def file_of(store: Store, number: str, sha256: str, *, thumb: bool) -> Path:
    """The file of a case's photo; raises NotFoundError when the case has none."""
    connection = store.read()
    case = cases.by_number(connection, number)
    if not any(photo.sha256 == sha256 for photo in PHOTOS.of_case(connection, case.id)):
        raise NotFoundError("This case has no such photo.")
    path = photos.path_of(store.folder, sha256, thumb=thumb)
    if not path.exists():
        raise NotFoundError("The photo's file is missing from the data folder.")
    return path
