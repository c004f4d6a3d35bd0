"""The facet of energy: whether the unit can bite, and each store with its own clock."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.rows import SUPERSEDED
from hale_rail.case.workshop.workshop import resistors
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import STORE, Need
from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety import bleeding
from hale_rail.core.safety.bleeding import METER_LIMIT_V, BleederProposal, PowerResistor
from hale_rail.core.safety.energy import (
    EnergyEvent,
    EnergyState,
    EventKind,
    StoreState,
    energy_state,
)
from hale_rail.core.supply.sheet import TRUNK, Sheet
from hale_rail.store.append_only import fields_of
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.readings import Reading
from hale_rail.store.soaks import SOAK_ROWS
from hale_rail.store.waves import WAVE_RECORDS, WAVE_SETTINGS


@facet
def energy(case: CaseFile) -> EnergyState:
    """The energy state from power events, powered readings and the volts read across parts."""
    events = (event for _, event in energy_events(case))
    return energy_state(events, case.sheet.charges, case.workshop.touch_limit_v)


def meter_words(case: CaseFile) -> str:
    """Whether an ohm or ESR meter may go on a unit that is dead, and where it may not yet."""
    state = energy(case)
    if state.meter_safe:
        return "Safe for a meter: every store rated above 5\u00a0V reads at most 5\u00a0V."
    open_stores = [s for s in state.stores if not s.is_safe(METER_LIMIT_V)]
    lines = dict.fromkeys("the mains side" if s.line == TRUNK else s.line for s in open_stores)
    return f"Not yet for a meter on {', '.join(lines)}: a store there is unread, or above 5\u00a0V."


def charge_words(case: CaseFile) -> str:
    """The store that was last read above the limit, and its volts; "" where none was."""
    charge_words = energy(case).charge
    if charge_words is None:
        return ""
    across, volt = charge_words
    charges = {store.serves: store.part_id for store in case.sheet.charges}
    part_id = charges.get(across, across)
    part = case.sheet.part(part_id if isinstance(part_id, int) else None)
    return f"{part.ref} {show(volt, Unit.VOLT)}" if part else show(volt, Unit.VOLT)


#: events that tell that power is on
POWERING = (EventKind.APPLIED, EventKind.POWERED)


@facet
def energy_events(case: CaseFile) -> tuple[tuple[int, EnergyEvent], ...]:
    """What bears on the energy state with its place in the log, in the order it was logged.

    Volts read across any part count, whether or not it is a store by its present marking.
    """
    energy_events = [
        (event.log_id, EnergyEvent(EventKind(event.kind), _epoch(event.at), reason=event.reason))
        for event in case.rows.all(POWER_EVENTS)
    ]
    energy_events += [
        (r.log_id, EnergyEvent(EventKind.STORE_READ, _epoch(r.taken_at), part_id, _higher(r)))
        for part_id, own in case.rows.of_part.items()
        for r in own
        if r.procedure is STORE
    ]
    powered = {p for p in case.rows.procedures if Need.POWERED in p.needs}
    energy_events += [
        (r.log_id, EnergyEvent(EventKind.POWERED, _epoch(r.taken_at)))
        for r in (case.rows.readings.values() if powered else ())
        if r.procedure in powered and not _was_struck(case, r)
    ]
    energy_events += [
        (wave.log_id, EnergyEvent(EventKind.POWERED, _epoch(wave.at)))
        for wave in case.rows.all(WAVE_RECORDS)
        if not fields_of(case.rows.newest(WAVE_SETTINGS).get(wave.id)).get("aside")
    ]
    soaked = {row.log_id: row.sample.at_s for row in case.rows.active(SOAK_ROWS)}
    energy_events += [
        (log_id, EnergyEvent(EventKind.POWERED, at_s)) for log_id, at_s in soaked.items()
    ]
    return tuple(sorted(energy_events, key=lambda item: item[0]))


def _higher(reading: Reading) -> float:
    """The end further from nothing: a reading that jumps counts by its higher one."""
    return max(reading.value, reading.high, key=abs)


def _was_struck(case: CaseFile, reading: Reading) -> bool:
    """True for a reading that a person put aside; one that a later one superseded was taken."""
    return case.rows.aside.get(reading.id, SUPERSEDED) != SUPERSEDED


def _epoch(at: str) -> float:
    return datetime.fromisoformat(at).timestamp()


class StoreClock(Struct, frozen=True):
    """One store with its own clock; `refs` and `farad` of all that share its bank.

    `state.volt` the last reading, `state.at` its moment (epoch); `tau_s` the self-discharge told by
    two readings (None before); `wait_s` and `meter_wait_s` from the last reading to the touch and
    the meter limit, by itself; `energy_j` held at the last reading, or at the rated voltage while
    unread.
    """

    part: Part
    refs: str
    farad: float
    state: StoreState
    is_safe: bool
    energy_j: float
    shock: str
    tau_s: float | None
    wait_s: float | None
    meter_wait_s: float | None
    bleeder_text: str
    proposal: BleederProposal | None
    proposal_meter_s: float | None

    @property
    def volt(self) -> float | None:
        """The volts last read since power was removed, or None."""
        return self.state.volt

    @property
    def is_meter_safe(self) -> bool:
        """True when an ohm or ESR meter may be connected."""
        return self.state.is_below(METER_LIMIT_V)


def store_clocks(case: CaseFile) -> list[StoreClock]:
    """Every store the sheet lists, a bank once, in the order power reaches them.

    No facet: the resistors at hand are the workshop's, and change without the case.
    """
    by_id = {state.store: state for state in energy(case).stores}
    stock = resistors(case.store)
    limit = case.workshop.touch_limit_v
    return [
        clock_of(case.sheet, group, by_id[group[0].id], limit, stock)
        for group in case.sheet.store_banks
    ]


def clock_of(
    sheet: Sheet,
    group: Sequence[Part],
    state: StoreState,
    limit_volt: float,
    stock: list[PowerResistor],
) -> StoreClock:
    """The clock of one store, or of a bank that one reading serves: what it holds, how it falls."""
    part = group[0]
    farad = sum(p.value or 0.0 for p in group if p.capacitor)
    volt = abs(state.volt) if state.volt is not None else part.volt or 0.0
    energy_j = bleeding.stored_energy(farad, volt)
    tau = _measured_tau(state)
    has_volts = state.volt is not None and volt > 0
    proposal = None
    if farad and volt > limit_volt:
        proposal = bleeding.propose(farad, volt, stock, limit_volt)
    return StoreClock(
        part=part,
        refs=", ".join(p.ref for p in group),
        farad=farad,
        state=state,
        is_safe=state.is_below(limit_volt),
        energy_j=energy_j,
        shock=bleeding.shock_words(energy_j, volt),
        tau_s=tau,
        wait_s=bleeding.time_to(volt, limit_volt, tau) if tau and has_volts else None,
        meter_wait_s=bleeding.time_to(volt, METER_LIMIT_V, tau) if tau and has_volts else None,
        bleeder_text=_bleeder_text(sheet, part, tau),
        proposal=proposal,
        proposal_meter_s=(
            bleeding.time_to(volt, METER_LIMIT_V, proposal.bleed.tau_s) if proposal else None
        ),
    )


def _measured_tau(state: StoreState) -> float | None:
    """RC from the last two readings, when they fall; a bleed in between would show as faster."""
    if not state.earlier or state.at is None or not state.volt:
        return None
    (t1, v1), (t2, v2) = state.earlier[-1], (state.at, state.volt)
    if t2 <= t1 or abs(v2) >= abs(v1) or v2 == 0:
        return None
    return bleeding.self_discharge_tau([(t1, v1), (t2, v2)])


def _bleeder_text(sheet: Sheet, part: Part, tau: float | None) -> str:
    """The fitted bleeder's health, where the sheet names one for this store."""
    fitted = next((p for p in sheet.parts if p.bleeder_for == part.ref and p.value), None)
    if fitted is None or fitted.value is None or not part.capacitor or not part.value:
        return ""
    expected = fitted.value * part.value
    if tau is None:
        ohms = show(fitted.value, Unit.OHM)
        return f"Bleeder {fitted.ref}, {ohms}: RC {show(expected, Unit.SECOND)} when it is sound."
    return bleeding.bleeder_text(tau, expected)
