"""The energy state of a case, from its logged events alone.

Source: docs/formulas.md, “Energy state”. Two words, never one: *dead*, safe to touch, needs every
store rated above the touch limit read at or below it after the last removal of power, and none read
above it; *safe for a meter* the same of every store rated above 5 V. Any reading that only power
can give makes a unit live until power is removed.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import Enum

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.safety.bleeding import METER_LIMIT_V, TOUCH_LIMIT_V, stored_energy

#: from this energy at its rated voltage on, or from these volts and farads on, a part is a store
STORE_J, STORE_V, STORE_FARAD = 0.05, 60.0, 1e-6
_ROUNDING = 1e-9


class Energy(Coded):
    """Whether a unit can bite."""

    UNKNOWN = ("unknown", "not known")
    LIVE = ("live", "live")
    WAITING = ("waiting", "not verified")
    CHARGED = ("charged", "charged")
    DEAD = ("dead", "dead: safe to touch")


class EventKind(Enum):
    """What bears on the energy state; `POWERED` is a reading that only power can give."""

    APPLIED = "applied"
    REMOVED = "removed"
    STORE_READ = "store-read"
    GUARD_PASSED = "guard-passed"
    POWERED = "powered"


class PowerSource(Coded):
    """Where power comes from."""

    MAINS = ("mains", "mains")
    BENCH = ("bench", "bench supply")
    INJECTED = ("injected", "injected")


ENERGIES = {energy.code: energy for energy in Energy}
SOURCES = {source.code: source for source in PowerSource}


class EnergyEvent(Struct, frozen=True):
    """Something that bears on the energy state, in the order it was logged.

    `store` (a part's id) and `volt` for readings; `reason` what was written to pass the guard; `at`
    seconds since the epoch.
    """

    kind: EventKind
    at: float
    store: int = 0
    volt: float = 0.0
    reason: str = ""


class ChargeStore(Struct, frozen=True):
    """What can hold a charge: its part's id, its rated volts (inf: not known), its line and bank.

    One reading serves all of one `bank`; `line` is where a meter meets it.
    """

    part_id: int
    rated_v: float
    line: str = ""
    bank: object = None

    @property
    def serves(self) -> object:
        """What a reading of it is kept under: its bank's, else its own."""
        return self.bank or self.part_id


#: readings as (seconds since the epoch, volts), oldest first, by what they were read across
Read = dict[object, list[tuple[float, float]]]


def is_store(farad: float | None, volt: float | None) -> bool:
    """True for a capacitor that holds what hurts a hand or a meter, by its value and rating.

    E = ½CV² at its rated voltage of 0.05 J or more, or 60 V and 1 µF or more.
    """
    if farad is None or volt is None:
        return False
    is_high = volt >= STORE_V and farad >= STORE_FARAD * (1 - _ROUNDING)
    return is_high or stored_energy(farad, volt) >= STORE_J * (1 - _ROUNDING)


class StoreState(Struct, frozen=True):
    """One store: its last reading since power was removed, or None while it is unread.

    `earlier`: readings before it, as (seconds since the epoch, volts); `rated_v` as marked, inf
    where not known; `line` where it is.
    """

    store: int
    volt: float | None = None
    at: float | None = None
    earlier: tuple[tuple[float, float], ...] = ()
    rated_v: float = float("inf")
    line: str = ""

    def is_below(self, limit_volt: float) -> bool:
        """True when it was read at or below a limit."""
        return self.volt is not None and abs(self.volt) <= limit_volt

    def is_safe(self, limit_volt: float) -> bool:
        """True when it was read below a limit, or is rated no higher and was not read above it."""
        if self.volt is None:
            return self.rated_v <= limit_volt
        return self.is_below(limit_volt)


class EnergyState(Struct, frozen=True):
    """The state, each store's part in it, and a written reason that passed the guard, or "".

    `is_charged`: a store's last reading stands above the touch limit, `charge` the worst of them
    (what it was read across, and its volts); `is_off`: the removal of power is logged.
    """

    energy: Energy
    stores: tuple[StoreState, ...]
    reason: str = ""
    limit_volt: float = TOUCH_LIMIT_V
    is_charged: bool = False
    is_off: bool = False
    charge: tuple[object, float] | None = None

    @property
    def guard_open(self) -> bool:
        """True when hands may be sent to the primary side."""
        return self.touch_safe or bool(self.reason)

    @property
    def touch_safe(self) -> bool:
        """True when the unit is verified dead."""
        return self.energy is Energy.DEAD

    @property
    def takes_reason(self) -> bool:
        """True while a written reason may pass the guard: never live, never with a charge read."""
        return self.energy is not Energy.LIVE and not self.is_charged

    @property
    def next_store(self) -> StoreState | None:
        """The store to read next before a hand goes in: one read charged, else the first unread."""
        open_ones = [s for s in self.stores if not s.is_safe(self.limit_volt)]
        charged = [s for s in open_ones if s.volt is not None]
        return next(iter([*charged, *open_ones]), None)

    @property
    def meter_safe(self) -> bool:
        """True when every store reads low enough for an ohm or ESR meter."""
        return self.touch_safe and bool(self.stores) and self.next_for_meter() is None

    def next_for_meter(self, line: str | None = None) -> StoreState | None:
        """The store of a line (None: of any) that still has to be read below 5 V for a meter."""
        for state in self.stores:
            if line in (None, state.line) and not state.is_safe(METER_LIMIT_V):
                return state
        return None


def energy_state(
    events: Iterable[EnergyEvent], stores: Sequence[ChargeStore], limit_volt: float = TOUCH_LIMIT_V
) -> EnergyState:
    """Fold the events, oldest first, into the present state.

    A unit of whose stores nothing is known is dead only once some part of it was read.
    """
    powered: bool | None = None
    read: Read = {}
    serves = {store.part_id: store.serves for store in stores}
    reason = ""
    for event in events:
        if event.kind in (EventKind.APPLIED, EventKind.POWERED):
            if powered is not True:
                read = {}
            powered, reason = True, ""
        elif event.kind is EventKind.REMOVED:
            powered, read, reason = False, {}, ""
        elif event.kind is EventKind.GUARD_PASSED:
            is_charged = any(abs(own[-1][1]) > limit_volt for own in read.values())
            reason = "" if powered or is_charged else event.reason
        else:
            across = serves.get(event.store, event.store)
            read.setdefault(across, []).append((event.at, event.volt))
            if abs(event.volt) > limit_volt:
                reason = ""
    states = _states(stores, read if powered is False else {})
    last = ((across, own[-1][1]) for across, own in read.items())
    charges = tuple((across, volt) for across, volt in last if abs(volt) > limit_volt)
    is_charged = bool(charges)
    was_named = bool(stores) or bool(read)
    energy = _energy(powered, states, limit_volt, is_charged=is_charged, was_named=was_named)
    is_off = powered is False
    return EnergyState(energy, states, reason, limit_volt, is_charged, is_off, _worst(charges))


def _worst(charges: Sequence[tuple[object, float]]) -> tuple[object, float] | None:
    return max(charges, key=lambda one: abs(one[1]), default=None)


def _states(stores: Sequence[ChargeStore], read: Read) -> tuple[StoreState, ...]:
    """Each store with its newest reading; one reading serves its bank."""
    states = []
    for store in stores:
        history = read.get(store.serves, [])
        last = history[-1] if history else (None, None)
        state = StoreState(
            store.part_id, last[1], last[0], tuple(history[:-1]), store.rated_v, store.line
        )
        states.append(state)
    return tuple(states)


def _energy(
    powered: bool | None,
    states: Sequence[StoreState],
    limit_volt: float,
    *,
    is_charged: bool,
    was_named: bool,
) -> Energy:
    if powered:
        return Energy.LIVE
    if is_charged:
        return Energy.CHARGED
    if powered is None:
        return Energy.UNKNOWN
    if was_named and all(state.is_safe(limit_volt) for state in states):
        return Energy.DEAD
    return Energy.WAITING
