"""The pictures of a laid photo: made when they are first asked for, kept beside the photos."""

from __future__ import annotations

import threading
from pathlib import Path

from hale_rail.case.file import CaseFile
from hale_rail.case.places.places import View, view_by_key
from hale_rail.core.places.frame import ViewFrame
from hale_rail.errors import NotFoundError
from hale_rail.formats.places.view_images import SMALL, cut, make_pictures, tile_name
from hale_rail.store import photos, view_pictures

_making = threading.Lock()


def make(folder: Path, view: View) -> Path:
    """The folder of a laid photo's pictures, made where they are not there; raises NotFoundError
    for a photo whose file is gone, StoreError for a disk at fault."""
    if view.laying is None or view.frame is None:
        raise NotFoundError("This photo is not laid over its board yet.")
    target = view_pictures.folder_of(folder, view.photo.sha256, view.key)
    if not target.is_dir():
        with _making:
            if not target.is_dir():
                photo = photos.path_of(folder, view.photo.sha256)
                files = make_pictures(photo, view.laying, view.frame, is_whole=view.row.is_whole)
                view_pictures.keep(target, files)
    return target


def _of(case: CaseFile, sha256: str, key: str) -> tuple[View, ViewFrame, Path]:
    view = view_by_key(case, sha256, key)
    if view is None or view.frame is None:
        raise NotFoundError("This case has no such photo of a board.")
    return view, view.frame, make(case.store.folder, view)


def picture(case: CaseFile, sha256: str, key: str, name: str) -> Path:
    """The file of the small whole, or of a tile; raises NotFoundError."""
    _, frame, folder = _of(case, sha256, key)
    columns, rows = frame.tiles
    known = {SMALL, *(tile_name(c, r) for c in range(columns) for r in range(rows))}
    if name not in known:
        raise NotFoundError("This photo has no such picture.")
    return folder / name


def crop(case: CaseFile, sha256: str, key: str, at: tuple[float, float], side_mm: float) -> bytes:
    """A square of the board round a place in mm, as its side is seen; raises NotFoundError."""
    view, frame, folder = _of(case, sha256, key)
    return cut(folder, frame, *at, side_mm, mirrored=view.is_behind)
