"""The errors core raises: always about something typed. The whole tree is in `hale_rail.errors`."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager


class HaleRailError(Exception):
    """Base of every error the program raises on purpose."""


class InputError(HaleRailError):
    """Something typed cannot be used; the message says what and how to put it right.

    `field`: the name of the field it is about, where a form has several.
    """

    def __init__(self, message: str, *, field: str = "") -> None:
        super().__init__(message)
        self.field = field


class QuantityError(InputError):
    """A value that is not wholly understood."""


class RangeError(InputError):
    """A value that was understood and cannot be."""


@contextmanager
def at_field(name: str) -> Iterator[None]:
    """Say of an InputError which field it is about."""
    try:
        yield
    except InputError as error:
        raise InputError(str(error), field=name) from error
