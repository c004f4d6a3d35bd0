"""The energy state by every order of events that matters."""

from __future__ import annotations

import pytest

from hale_rail.core.safety.energy import Energy, Event, EventKind, energy_state

STORES = (1, 2)
NAMES = {"C1": 1, "C2": 2, "CX": 3}


def state_after(script: str, limit: float = 60.0) -> tuple[Energy, bool]:
    """Events as words: `on`, `off`, `why`, `C1=3.2`."""
    events = []
    for at, word in enumerate(script.split()):
        name, _, volt = word.partition("=")
        kinds = {
            "on": EventKind.APPLIED, "off": EventKind.REMOVED, "why": EventKind.GUARD_PASSED,
        }  # fmt: skip
        if volt:
            events.append(Event(EventKind.STORE_READ, at, NAMES[name], float(volt)))
        else:
            events.append(Event(kinds[name], at, reason="a reason" if name == "why" else ""))
    found = energy_state(events, STORES, limit)
    return found.energy, found.guard_open


@pytest.mark.parametrize(
    ("script", "energy", "is_open"),
    [
        ("", Energy.UNKNOWN, False),
        ("C1=0 C2=0", Energy.UNKNOWN, False),  # a fuse may be open with the line still live
        ("off", Energy.WAITING, False),
        ("off C1=1.2", Energy.WAITING, False),
        ("off C1=1.2 C2=0.4", Energy.DEAD, True),
        ("off C1=-60 C2=60", Energy.DEAD, True),
        ("off C1=60.1 C2=0", Energy.WAITING, False),
        ("C1=0 C2=0 off", Energy.WAITING, False),
        ("off C1=0 C2=0 on", Energy.LIVE, False),
        ("off C1=0 C2=0 on off", Energy.WAITING, False),
        ("off C1=0 C2=0 off", Energy.WAITING, False),
        ("off C1=320 C1=40 C2=0", Energy.DEAD, True),
        ("off C1=0 C2=0 C1=75", Energy.WAITING, False),  # absorption brought it back
        ("on C1=0 C2=0", Energy.LIVE, False),
        ("why", Energy.UNKNOWN, True),
        ("why on", Energy.LIVE, False),
        ("why off", Energy.WAITING, False),
        ("off why", Energy.WAITING, True),
        ("off why C1=310", Energy.WAITING, False),  # a reading answers the reason
        ("off CX=0 C2=0", Energy.WAITING, False),
    ],
)
def test_state(script: str, energy: Energy, is_open: bool) -> None:
    assert state_after(script) == (energy, is_open)


def test_the_workshops_lower_limit() -> None:
    assert state_after("off C1=45 C2=0", 30.0) == (Energy.WAITING, False)


def test_next_store_and_the_meters_limit() -> None:
    events = [Event(EventKind.REMOVED, 0), Event(EventKind.STORE_READ, 1, 1, 38.0)]
    found = energy_state(events, STORES)
    assert found.next_store is not None
    assert found.next_store.store == 2
    found = energy_state([*events, Event(EventKind.STORE_READ, 2, 2, 1.0)], STORES)
    assert (found.energy, found.next_store, found.meter_safe) == (Energy.DEAD, None, False)
    found = energy_state(
        [*events, *(Event(EventKind.STORE_READ, 3, store, 4.9) for store in STORES)], STORES
    )
    assert found.meter_safe
    assert found.stores[0].earlier == ((1, 38.0),)
