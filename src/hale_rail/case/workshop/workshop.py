"""The workshop's settings, with their defaults, and its lists."""

from __future__ import annotations

import sqlite3
from decimal import Decimal
from fractions import Fraction
from functools import lru_cache

from msgspec import Struct

from hale_rail.core.ledger.ledger import Priors
from hale_rail.core.parts.age import Use
from hale_rail.core.parts.banks import Meter
from hale_rail.core.power.ready_loads import ReadyLoad
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import SCHOOLS, RecapPolicy
from hale_rail.core.recap.market import SPARES_BELOW
from hale_rail.core.safety.bleeding import TOUCH_LIMIT_V, PowerResistor
from hale_rail.formats.codec import from_text
from hale_rail.store import ledger
from hale_rail.store import workshop as rows
from hale_rail.store.database import Store

USUAL_USE = Use()


class Buying(Struct, frozen=True):
    """How a workshop buys: its currency, at most so many vendors, spares as a share, below a price.

    `max_vendors` None: any number.
    """

    currency: str = "EUR"
    max_vendors: int | None = None
    spares: Fraction = Fraction(1, 10)
    spares_below: Decimal = SPARES_BELOW


USUAL_BUYING = Buying()
NO_PRIORS = Priors()


class Workshop(Struct, frozen=True):
    """Touch limit in volts, usual schools, how units ran, and the meter in use (None: a usual one).

    `buying`: how it buys parts; `use`: hours a day and °C inside a capacitor; `priors`: what the
    ledger of its own cases gives to the chances.
    """

    touch_limit_v: float = TOUCH_LIMIT_V
    school: RecapPolicy = RecapPolicy.PROVEN
    tolerance: Tolerance = Tolerance.STRICT
    use: Use = USUAL_USE
    meter_id: int | None = None
    buying: Buying = USUAL_BUYING
    priors: Priors = NO_PRIORS


def read_workshop(connection: sqlite3.Connection) -> Workshop:
    """The settings as they are now."""
    return _understood(
        tuple(rows.settings(connection).items()),
        tuple(rows.buying(connection).items()),
        ledger.priors(connection),
    )


@lru_cache(8)
def _understood(
    settings: tuple[tuple[str, str], ...], buying: tuple[tuple[str, str], ...], priors: str
) -> Workshop:
    result, usual = dict(settings), Workshop()
    return Workshop(
        float(result.get("touch_limit_v", usual.touch_limit_v)),
        SCHOOLS[result.get("school", usual.school.code)],
        Tolerance(result.get("tolerance", usual.tolerance.value)),
        Use(
            float(result.get("hours_a_day", usual.use.hours_a_day)),
            float(result.get("core_c", usual.use.core_c)),
        ),
        int(result["meter"]) if result.get("meter") else None,
        _buying(dict(buying)),
        from_text(priors, Priors) if priors else NO_PRIORS,
    )


def _buying(result: dict[str, str]) -> Buying:
    return Buying(
        result.get("currency", USUAL_BUYING.currency),
        int(result["max_vendors"]) if result.get("max_vendors") else None,
        Fraction(result.get("spares", str(USUAL_BUYING.spares))),
        Decimal(result.get("spares_below", str(USUAL_BUYING.spares_below))),
    )


def workshop(store: Store) -> Workshop:
    """The settings of a data folder."""
    return read_workshop(store.read())


def resistors(store: Store) -> list[PowerResistor]:
    """The power resistors at hand."""
    return rows.resistors(store.read())


def ready_loads(store: Store) -> list[ReadyLoad]:
    """The ready-made loads at hand."""
    return rows.ready_loads(store.read())


def meters(store: Store) -> dict[int, Meter]:
    """The listed meters by id."""
    return rows.meters(store.read())
