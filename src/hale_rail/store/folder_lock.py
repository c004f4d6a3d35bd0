"""One server a data folder: who serves it holds a lock, which goes when the process goes."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path
from typing import IO

from hale_rail.errors import TakenError
from hale_rail.store.error_mapping import translated
from hale_rail.store.kept_files import private_folder

LOCK = "serving.lock"


def hold(folder: Path, where: str) -> IO[str]:
    """Hold a folder for as long as the returned file is open; `where` is the address served.

    Raises TakenError where another server holds it.
    """
    path = folder / LOCK
    try:
        private_folder(folder)
        file = os.fdopen(os.open(path, os.O_RDWR | os.O_CREAT, 0o600), "r+")
    except OSError as error:
        raise translated(error) or error from error
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        told = file.read(200).strip() or "another server"
        file.close()
        raise TakenError(
            f"{folder} is served already, by {told}. Open its page, or stop it first; two servers "
            "on one folder would each keep their own picture of it."
        ) from error
    file.seek(0)
    file.truncate()
    file.write(f"process {os.getpid()} at {where}\n")
    file.flush()
    return file
