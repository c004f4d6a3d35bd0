"""Every error of Hale Rail, drawn here.

HaleRailError
├── InputError            something typed cannot be used; says what and how to put it right
│   ├── QuantityError     a reading or value that is not wholly understood
│   └── RangeError        understood, but no such part or reading can exist
├── NotFoundError         no such case, part, rail or reading
├── ConflictError         somebody saved first; nothing was overwritten
├── GuardError            the energy state does not allow this yet
└── StoreError            the data folder cannot be used
    ├── NewerStoreError   written by a newer version of the program
    └── MigrationError    a migration was changed after it had run
"""

from __future__ import annotations

from hale_rail.core.errors import HaleRailError, InputError, QuantityError, RangeError

__all__ = [
    "ConflictError",
    "GuardError",
    "HaleRailError",
    "InputError",
    "MigrationError",
    "NewerStoreError",
    "NotFoundError",
    "QuantityError",
    "RangeError",
    "StoreError",
]


class NotFoundError(HaleRailError):
    """No such case, part, rail or reading."""


class ConflictError(HaleRailError):
    """Somebody else saved first; nothing was overwritten."""


class GuardError(HaleRailError):
    """The energy state does not allow this yet."""


class StoreError(HaleRailError):
    """The data folder cannot be used."""


class NewerStoreError(StoreError):
    """The data was written by a newer version of the program."""


class MigrationError(StoreError):
    """A migration no longer matches what was run on this data."""
