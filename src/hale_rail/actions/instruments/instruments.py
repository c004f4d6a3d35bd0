"""The workshop's instruments: added by address, assigned to procedures, and their families."""

from __future__ import annotations

import re
from collections.abc import Sequence

from hale_rail.bench.driver import read_family, shipped
from hale_rail.bench.visa_link import checked_address
from hale_rail.case.instruments.instruments import families
from hale_rail.errors import InputError
from hale_rail.store import instruments
from hale_rail.store.database import Store

_LONGEST = 40
_CODE = re.compile(r"[a-z0-9][a-z0-9-]{0,39}", re.ASCII)


def add(store: Store, name: str, address: str, family: str) -> int:
    """Add an instrument, assigned to all that its family can; raises InputError by field."""
    named = name.strip()
    if not named or len(named) > _LONGEST:
        raise InputError(f"A name, at most {_LONGEST} characters.", field="name")
    known = families(store).get(family)
    if known is None:
        raise InputError("Choose its family.", field="family")
    address = checked_address(address)
    with store.write() as connection:
        return instruments.insert(connection, named, address, family, tuple(known.procedures))


def assign(store: Store, instrument_id: int, procedures: Sequence[str]) -> None:
    """Say which procedures an instrument takes; raises InputError, NotFoundError."""
    with store.write() as connection:
        instrument = instruments.by_id(connection, instrument_id)
        known = families(store).get(instrument.family)
        allowed = set(known.procedures) if known else set()
        instruments.assign(connection, instrument_id, [p for p in procedures if p in allowed])


def remove(store: Store, instrument_id: int) -> None:
    """Take an instrument off the list; raises NotFoundError."""
    with store.write() as connection:
        instruments.by_id(connection, instrument_id)
        instruments.remove(connection, instrument_id)


def add_family(store: Store, code: str, text: str) -> str:
    """Add a family from its TOML; returns its name. Raises InputError by field."""
    wanted = code.strip().lower()
    if not _CODE.fullmatch(wanted):
        raise InputError("A code of small letters, figures and dashes.", field="code")
    if wanted in shipped():
        raise InputError("That family ships with the program; choose another code.", field="code")
    family = read_family(wanted, text)
    with store.write() as connection:
        instruments.put_family(connection, wanted, text)
    return family.name
