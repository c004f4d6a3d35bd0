"""The energy state of a case, from its logged events alone.

Source: docs/formulas.md, “Energy state”. Dead needs a reading at or below the touch limit on every
store of the sheet, taken after the last removal of power.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import Enum

from hale_rail.core.coded import Coded
from hale_rail.core.safety.bleeding import METER_LIMIT_V, TOUCH_LIMIT_V


class Energy(Coded):
    """Whether a unit can bite."""

    UNKNOWN = ("unknown", "not known")
    LIVE = ("live", "live")
    WAITING = ("waiting", "not verified")
    DEAD = ("dead", "verified dead")


class EventKind(Enum):
    """What bears on the energy state."""

    APPLIED = "applied"
    REMOVED = "removed"
    STORE_READ = "store-read"
    GUARD_PASSED = "guard-passed"


class PowerSource(Coded):
    """Where power comes from."""

    MAINS = ("mains", "mains")
    BENCH = ("bench", "bench supply")
    INJECTED = ("injected", "injected")


ENERGIES = {energy.code: energy for energy in Energy}
SOURCES = {source.code: source for source in PowerSource}


@dataclass(frozen=True)
class Event:
    """Something that bears on the energy state, in the order it was logged.

    `store` (a part's id) and `volt` for readings; `reason` what was written to pass the guard; `at`
    seconds since the epoch.
    """

    kind: EventKind
    at: float
    store: int = 0
    volt: float = 0.0
    reason: str = ""


@dataclass(frozen=True)
class StoreState:
    """One store: its last reading since power was removed, or None while it is unread.

    `earlier`: readings before it, as (seconds since the epoch, volts).
    """

    store: int
    volt: float | None = None
    at: float | None = None
    earlier: tuple[tuple[float, float], ...] = ()

    def is_below(self, limit_volt: float) -> bool:
        """True when it was read at or below a limit."""
        return self.volt is not None and abs(self.volt) <= limit_volt


@dataclass(frozen=True)
class EnergyState:
    """The state, each store's part in it, and a written reason that passed the guard, or ""."""

    energy: Energy
    stores: tuple[StoreState, ...]
    reason: str = ""
    limit_volt: float = TOUCH_LIMIT_V

    @property
    def guard_open(self) -> bool:
        """True when hands may be sent to the primary side."""
        return self.energy is Energy.DEAD or bool(self.reason)

    @property
    def next_store(self) -> StoreState | None:
        """The store to read next: one still unread or above the limit."""
        return next((s for s in self.stores if not s.is_below(self.limit_volt)), None)

    @property
    def meter_safe(self) -> bool:
        """True when every store reads low enough for an ohm or ESR meter."""
        return self.energy is Energy.DEAD and all(s.is_below(METER_LIMIT_V) for s in self.stores)


def energy_state(
    events: Iterable[Event], stores: Sequence[int], limit_volt: float = TOUCH_LIMIT_V
) -> EnergyState:
    """Fold the events, oldest first, into the present state."""
    powered: bool | None = None
    read: dict[int, list[tuple[float, float]]] = {}
    reason = ""
    for event in events:
        if event.kind is EventKind.APPLIED:
            powered, read, reason = True, {}, ""
        elif event.kind is EventKind.REMOVED:
            powered, read, reason = False, {}, ""
        elif event.kind is EventKind.GUARD_PASSED:
            reason = event.reason
        elif event.store in stores:
            read.setdefault(event.store, []).append((event.at, event.volt))
            if powered is False and abs(event.volt) > limit_volt:
                reason = ""
    states = []
    for store in stores:
        history = read.get(store, [])
        last = history[-1] if history and powered is False else (None, None)
        states.append(StoreState(store, last[1], last[0], tuple(history[:-1])))
    return EnergyState(_energy(powered, states, limit_volt), tuple(states), reason, limit_volt)


def _energy(powered: bool | None, states: Sequence[StoreState], limit_volt: float) -> Energy:
    if powered is None:
        return Energy.UNKNOWN
    if powered:
        return Energy.LIVE
    if all(state.is_below(limit_volt) for state in states):
        return Energy.DEAD
    return Energy.WAITING
