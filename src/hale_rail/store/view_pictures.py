"""The pictures that are made of a laid photo: files of their own, which may be thrown away."""

from __future__ import annotations

import contextlib
import os
import shutil
from collections.abc import Iterable
from pathlib import Path

from hale_rail.store.error_mapping import translated
from hale_rail.store.kept_files import open_private, partial_of, private_folder

FOLDER = "views"
#: layings of one photo whose pictures are kept
_KEPT = 3


def folder_of(folder: Path, sha256: str, key: str) -> Path:
    """Where the pictures of a photo laid in one way lie."""
    return folder / FOLDER / sha256[:2] / f"{sha256}-{key}"


def keep(target: Path, files: Iterable[tuple[str, bytes]]) -> None:
    """Write the files of one laying, all or none; raises StoreError for a disk at fault.

    They are not seen to the disk: what a loss of power takes is made again. Those of earlier
    layings of the same photo go, but for the newest.
    """
    partial = partial_of(target)
    try:
        private_folder(partial)
        for name, data in files:
            with os.fdopen(open_private(partial / name), "wb") as file:
                file.write(data)
        partial.rename(target)
    except OSError as error:
        if not target.is_dir():
            raise translated(error) or error from error
    finally:
        shutil.rmtree(partial, ignore_errors=True)
    _drop_earlier(target)


def _drop_earlier(target: Path) -> None:
    with contextlib.suppress(OSError):
        sha256 = target.name.partition("-")[0]
        of_photo = sorted(target.parent.glob(f"{sha256}-*"), key=lambda path: path.stat().st_mtime)
        for earlier in of_photo[:-_KEPT]:
            if earlier != target and ".part" not in earlier.name:
                shutil.rmtree(earlier, ignore_errors=True)
