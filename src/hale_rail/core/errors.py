"""The errors core raises: always about something typed. The whole tree is in `hale_rail.errors`."""

from __future__ import annotations


class HaleRailError(Exception):
    """Base of every error the program raises on purpose."""


class InputError(HaleRailError):
    """Something typed cannot be used; the message says what and how to put it right."""


class QuantityError(InputError):
    """A value that is not wholly understood."""


class RangeError(InputError):
    """A value that was understood and cannot be."""
