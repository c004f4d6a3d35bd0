"""The workshop's instruments and the families that they are of."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from functools import lru_cache

from hale_rail.bench.driver import InstrumentFamily, read_family, shipped
from hale_rail.errors import InputError
from hale_rail.store import instruments
from hale_rail.store.database import Store
from hale_rail.store.instruments import StoredInstrument


@lru_cache(maxsize=64)
def _read(code: str, body: str) -> InstrumentFamily:
    return read_family(code, body)


def families(store: Store) -> Mapping[str, InstrumentFamily]:
    """The families that ship and those that the workshop added, by code."""
    added = instruments.families(store.read())
    families = dict(shipped())
    for code, body in added.items():
        with suppress(InputError):  # one that an earlier version took; it is described again
            families[code] = _read(code, body)
    return families


def all_instruments(store: Store) -> list[StoredInstrument]:
    """Every instrument of the workshop."""
    return instruments.listed(store.read())


def family_of(store: Store, instrument: StoredInstrument) -> InstrumentFamily:
    """An instrument's family; raises InputError where it is gone."""
    family = families(store).get(instrument.family)
    if family is None:
        raise InputError(f"{instrument.name}: its family {instrument.family} is not known.")
    return family


def instrument_for(store: Store, procedure: str) -> StoredInstrument | None:
    """The instrument that a procedure is assigned to, or None."""
    return instruments.for_procedure(store.read(), procedure)
