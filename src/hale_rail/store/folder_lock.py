"""One server a data folder: who serves it holds a lock, which goes when the process goes."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from filelock import FileLock, Timeout

from hale_rail.errors import TakenError
from hale_rail.store.error_mapping import translated
from hale_rail.store.kept_files import private_folder

LOCK = "serving.lock"
#: names the holder of the lock to whoever finds it held
HOLDER = "serving.txt"


@contextmanager
def hold(folder: Path, where: str) -> Iterator[None]:
    """Hold a folder while the block runs; `where` is the address served.

    Raises TakenError where another server holds it.
    """
    lock, holder = FileLock(folder / LOCK, mode=0o600, is_singleton=False), folder / HOLDER
    try:
        private_folder(folder)
        lock.acquire(timeout=0)
    except Timeout as error:
        text = holder.read_text(encoding="utf-8").strip() if holder.exists() else ""
        raise TakenError(
            f"{folder} is served already, by {text or 'another server'}. Open its page, or stop it "
            "first; two servers on one folder would each keep their own picture of it."
        ) from error
    except OSError as error:
        raise translated(error) or error from error
    try:
        _name(holder, where)
        yield
    finally:
        lock.release()


def _name(holder: Path, where: str) -> None:
    try:
        holder.write_text(f"process {os.getpid()} at {where}\n", encoding="utf-8")
        holder.chmod(0o600)
    except OSError as error:
        raise translated(error) or error from error
