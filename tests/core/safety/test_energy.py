"""The energy state by every order of events that matters."""

from __future__ import annotations

import pytest

from hale_rail.core.safety.energy import (
    ChargeStore,
    Energy,
    EnergyEvent,
    EnergyState,
    EventKind,
    energy_state,
    is_store,
)

#: C1 on the mains side; C2 on a rail, rated below the touch limit; CX is not a store
STORES = (ChargeStore(1, 400.0, "main"), ChargeStore(2, 200.0, "main"))
RAILS = (ChargeStore(1, 400.0, "main"), ChargeStore(2, 25.0, "+12 V"))
NAMES = {"C1": 1, "C2": 2, "CX": 3}


def after(
    script: str, stores: tuple[ChargeStore, ...] = STORES, limit: float = 60.0
) -> EnergyState:
    """Events as words: `on`, `off`, `why`, `rail` (volts on a rail), `C1=3.2`."""
    events = []
    for at, word in enumerate(script.split()):
        name, _, volt = word.partition("=")
        kinds = {
            "on": EventKind.APPLIED, "off": EventKind.REMOVED, "why": EventKind.GUARD_PASSED,
            "rail": EventKind.POWERED,
        }  # fmt: skip
        if volt:
            events.append(EnergyEvent(EventKind.STORE_READ, at, NAMES[name], float(volt)))
        else:
            events.append(EnergyEvent(kinds[name], at, reason="a reason" if name == "why" else ""))
    return energy_state(events, stores, limit)


@pytest.mark.parametrize(
    ("script", "energy", "is_open"),
    [
        ("", Energy.UNKNOWN, False),
        ("C1=0 C2=0", Energy.UNKNOWN, False),  # a fuse may be open with the line still live
        ("off", Energy.WAITING, False),
        ("off C1=1.2", Energy.WAITING, False),
        ("off C1=1.2 C2=0.4", Energy.DEAD, True),
        ("off C1=-60 C2=60", Energy.DEAD, True),
        ("off C1=60.1 C2=0", Energy.CHARGED, False),
        ("C1=0 C2=0 off", Energy.WAITING, False),
        ("off C1=0 C2=0 on", Energy.LIVE, False),
        ("off C1=0 C2=0 on off", Energy.WAITING, False),
        ("off C1=0 C2=0 off", Energy.WAITING, False),
        ("off C1=320 C1=40 C2=0", Energy.DEAD, True),
        ("off C1=0 C2=0 C1=75", Energy.CHARGED, False),  # absorption brought it back
        ("on C1=0 C2=0", Energy.LIVE, False),
        ("why", Energy.UNKNOWN, True),
        ("why on", Energy.LIVE, False),
        ("why off", Energy.WAITING, False),
        ("off why", Energy.WAITING, True),
        ("off why C1=310", Energy.CHARGED, False),  # a reading answers the reason
        ("off CX=0 C2=0", Energy.WAITING, False),
        # a reading that only power can give makes it live, until power is removed
        ("off C1=0 C2=0 rail", Energy.LIVE, False),
        ("rail", Energy.LIVE, False),
        ("off C1=0 C2=0 rail off", Energy.WAITING, False),
        ("off C1=0 C2=0 rail off C1=0 C2=0", Energy.DEAD, True),
        # no reason passes while live, nor after a store was read charged
        ("on why", Energy.LIVE, False),
        ("rail why", Energy.LIVE, False),
        ("off C1=310 why", Energy.CHARGED, False),
        ("C1=310 why", Energy.CHARGED, False),
        ("off C1=310 C1=2 why", Energy.WAITING, True),
        ("off why CX=75", Energy.CHARGED, False),  # whatever it was read across
        ("off C1=0 C2=0 CX=75", Energy.CHARGED, False),
    ],
)
def test_state(script: str, energy: Energy, is_open: bool) -> None:
    found = after(script)
    assert (found.energy, found.guard_open) == (energy, is_open)
    assert not (found.takes_reason and found.energy is Energy.LIVE)


def test_the_workshops_lower_limit() -> None:
    assert after("off C1=45 C2=0", limit=30.0).energy is Energy.CHARGED


@pytest.mark.parametrize(
    ("script", "stores", "touch", "meter"),
    [
        ("off C1=2", RAILS, True, False),  # C2 is rated below the limit, but unread for a meter
        ("off C1=2 C2=1", RAILS, True, True),
        ("off C1=50 C2=1", RAILS, True, False),  # 45 to 55 V: dead, and no ESR meter
        ("off C1=2 C2=24", RAILS, True, False),
        ("off C2=0", RAILS, False, False),
        ("off", RAILS[1:], True, False),  # nothing is rated above the limit
        ("off C2=0", RAILS[1:], True, True),
        ("off", (), False, False),  # nothing is known of its stores
        ("off CX=1", (), True, False),  # until somebody names what was read
        ("off CX=80", (), False, False),
    ],
)
def test_safe_to_touch_and_safe_for_a_meter_are_two_words(
    script: str, stores: tuple[ChargeStore, ...], touch: bool, meter: bool
) -> None:
    found = after(script, stores)
    assert (found.touch_safe, found.meter_safe) == (touch, meter)


def test_a_meter_needs_the_stores_of_its_own_line_only() -> None:
    found = after("off C1=2", RAILS)
    assert found.next_for_meter("main") is None
    asked = found.next_for_meter("+12 V")
    assert asked is not None
    assert asked.store == 2
    assert found.next_for_meter("+5 V") is None


def test_one_reading_serves_a_bank() -> None:
    bank = (ChargeStore(1, 25.0, "+5 V", "A"), ChargeStore(2, 25.0, "+5 V", "A"))
    assert after("off C2=0.4", bank).meter_safe
    assert not after("off C2=8", bank).meter_safe


@pytest.mark.parametrize(
    ("micro", "volt", "expected"),
    [
        (1000, 10, True),  # 0.05 J
        (990, 10, False),
        (220, 25, True),
        (100, 25, False),
        (1.0, 60, True),
        (0.99, 60, False),
        (0.1, 275, False),  # 3.8 mJ
        (1.0, 250, True),
        (None, 400, False),
        (100, None, False),
    ],
)
def test_a_store_follows_from_value_and_rating(
    micro: float | None, volt: float | None, expected: bool
) -> None:
    assert is_store(micro * 1e-6 if micro else None, volt) is expected


def test_next_store_and_the_meters_limit() -> None:
    events = [EnergyEvent(EventKind.REMOVED, 0), EnergyEvent(EventKind.STORE_READ, 1, 1, 38.0)]
    found = energy_state(events, STORES)
    assert found.next_store is not None
    assert found.next_store.store == 2
    found = energy_state([*events, EnergyEvent(EventKind.STORE_READ, 2, 2, 1.0)], STORES)
    assert (found.energy, found.next_store, found.meter_safe) == (Energy.DEAD, None, False)
    found = energy_state(
        [*events, *(EnergyEvent(EventKind.STORE_READ, 3, store.part_id, 4.9) for store in STORES)],
        STORES,
    )
    assert found.meter_safe
    assert found.stores[0].earlier == ((1, 38.0),)
