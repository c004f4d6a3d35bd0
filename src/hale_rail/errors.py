"""Every error of Hale Rail, drawn here.

HaleRailError
├── InputError            something typed cannot be used; says what and how to put it right
│   ├── QuantityError     a reading or value that is not wholly understood
│   └── RangeError        understood, but no such part or reading can exist
├── NotFoundError         no such case, part, rail or reading
├── ConflictError         somebody saved first; nothing was overwritten
├── GuardError            the energy state does not allow this yet
├── ServiceError          a vendor's service did not answer, or not as it should
├── InstrumentError       an instrument gave no reading; says what it did instead
│   ├── NoAnswerError     nobody there, or silence past the time limit
│   ├── RefusedError      it put an error into its queue: `code` and `said` are the instrument's
│   ├── ReplyError        it answered what is not a reading of the wanted unit
│   └── OverloadError     over its range, or something there is charged
└── StoreError            the data folder cannot be used
    ├── NewerStoreError   written by a newer version of the program
    ├── OldLayoutError    written before the first release, in a layout that is no longer read
    ├── MigrationError    a migration was changed after it had run
    ├── LockedError       another program holds the database
    ├── FullError         the disk is full
    ├── ReadOnlyError     the folder or its files may not be written
    ├── CorruptError      the database file is damaged, cut off or gone
    └── TakenError        another server serves the folder
"""

from __future__ import annotations

from hale_rail.core.errors import HaleRailError, InputError, QuantityError, RangeError

__all__ = [
    "ConflictError",
    "CorruptError",
    "FullError",
    "GuardError",
    "HaleRailError",
    "InputError",
    "InstrumentError",
    "LockedError",
    "MigrationError",
    "NewerStoreError",
    "NoAnswerError",
    "NotFoundError",
    "OldLayoutError",
    "OverloadError",
    "QuantityError",
    "RangeError",
    "ReadOnlyError",
    "RefusedError",
    "ReplyError",
    "ServiceError",
    "StoreError",
    "TakenError",
]


class NotFoundError(HaleRailError):
    """No such case, part, rail or reading."""


class ConflictError(HaleRailError):
    """Somebody else saved first; nothing was overwritten."""


class GuardError(HaleRailError):
    """The energy state does not allow this yet."""


class ServiceError(HaleRailError):
    """A vendor's service did not answer, or not as it should."""


class InstrumentError(HaleRailError):
    """An instrument gave no reading; the text says what it did instead."""


class NoAnswerError(InstrumentError):
    """Nobody is there, or it kept silent past the time limit."""


class RefusedError(InstrumentError):
    """The instrument put an error into its queue: its `code`, and what it `said`."""

    def __init__(self, text: str, code: int = 0, saying: str = "") -> None:
        super().__init__(text)
        self.code = code
        self.said = saying


class ReplyError(InstrumentError):
    """The answer is not a reading of the wanted unit."""


class OverloadError(InstrumentError):
    """Over its range, or something there is charged: no figure."""


class StoreError(HaleRailError):
    """The data folder cannot be used."""


class NewerStoreError(StoreError):
    """The data was written by a newer version of the program."""


class OldLayoutError(StoreError):
    """The data was written before the first release, in a layout that is no longer read."""


class MigrationError(StoreError):
    """A migration no longer matches what was run on this data."""


class LockedError(StoreError):
    """Another program holds the database for longer than one waits."""


class FullError(StoreError):
    """The disk is full; what was saved before is safe."""


class ReadOnlyError(StoreError):
    """The data folder, or a file in it, may not be written."""


class CorruptError(StoreError):
    """The database file is damaged, cut off or gone; the text names the backup to put back."""


class TakenError(StoreError):
    """Another server serves the data folder."""
