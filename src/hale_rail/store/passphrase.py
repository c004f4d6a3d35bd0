"""The workshop's passphrase: its argon2id hash, in a file of its own outside the backups."""

from __future__ import annotations

import contextlib
import json
import os
import time
import unicodedata
from pathlib import Path

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from hale_rail.core.errors import InputError
from hale_rail.errors import StoreError
from hale_rail.store.kept_files import write_for_good

_FILE = "passphrase.json"
SHORTEST, LONGEST = 12, 200
#: argon2id with the library's own memory and rounds (RFC 9106, low-memory profile)
_HASHER = PasswordHasher()


def is_set(folder: Path) -> bool:
    """True when a passphrase is asked for, wherever the folder is served."""
    return os.path.exists(f"{folder}/{_FILE}")  # noqa: PTH110  asked at every request


def set_at_s(folder: Path) -> float:
    """When the passphrase was set, in seconds since 1970: a sign-in from before is ended."""
    return float(_kept(folder)["set_at_s"])


def put(folder: Path, phrase: str) -> None:
    """Set the passphrase; raises InputError for one that is too short or too long."""
    plain = _plain(phrase)
    if not SHORTEST <= len(plain) <= LONGEST:
        raise InputError(
            f"A passphrase of {SHORTEST} to {LONGEST} characters: four or five words that nobody "
            "would guess are easy to type."
        )
    told = {"hash": _HASHER.hash(plain), "set_at_s": time.time()}
    write_for_good(folder / _FILE, json.dumps(told).encode())


def remove(folder: Path) -> None:
    """Take the passphrase away: the folder is then served on this machine only."""
    (folder / _FILE).unlink(missing_ok=True)


def is_right(folder: Path, phrase: str) -> bool:
    """True for the passphrase; costs some tens of milliseconds and 64 MiB on purpose."""
    if len(phrase) > LONGEST:
        return False
    with contextlib.suppress(VerificationError):
        return _HASHER.verify(_kept(folder)["hash"], _plain(phrase))
    return False


def _plain(phrase: str) -> str:
    """The same text from every keyboard."""
    return unicodedata.normalize("NFKC", phrase).strip()


def _kept(folder: Path) -> dict[str, str]:
    try:
        told = json.loads((folder / _FILE).read_text(encoding="utf-8"))
        return {"hash": str(told["hash"]), "set_at_s": str(float(told["set_at_s"]))}
    except (OSError, ValueError, KeyError, TypeError, InvalidHashError) as error:
        raise StoreError(
            f"{folder / _FILE} cannot be read: set the passphrase again (hale-rail passphrase)."
        ) from error
