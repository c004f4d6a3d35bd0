"""The facet of readings that judge nothing: cold ones taken live, on a charge, or before a bang.

They are kept and told; what they were read for asks again.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.safety.energy import POWERING, energy_events
from hale_rail.core.power.plan import OUTDATES
from hale_rail.core.procedures import DIODE, GROUND, INJECT, LEAKAGE, OHMS, Need
from hale_rail.core.safety.energy import EnergyEvent, EventKind
from hale_rail.store.power_steps import POWER_STEPS

if TYPE_CHECKING:
    from hale_rail.store.readings import Reading

#: cold procedures whose answer a part that fails under power changes
_CHANGES = (OHMS, DIODE, GROUND, INJECT, LEAKAGE)
LIVE = "taken while power was on"
CHARGED = "taken on a store that was read charged"
BEFORE = "taken before the stop: read it again"


@facet
def void(case: CaseFile) -> Mapping[int, str]:
    """Why each reading that judges nothing does not, by the reading's id."""
    stops = [s.log_id for s in case.rows.all(POWER_STEPS) if s.stop and s.stop[0] in OUTDATES]
    events = energy_events(case)
    limit = case.workshop.touch_limit_v
    if not stops and not any(_bites(event, limit) for _, event in events):
        return {}
    void: dict[int, str] = {}
    state = _State(case)
    cold = [r for r in case.rows.readings.values() if Need.METER_SAFE in r.procedure.needs]
    waiting = list(events)
    for reading in sorted(cold, key=lambda r: r.log_id):
        while waiting and waiting[0][0] < reading.log_id:
            state.see(waiting.pop(0)[1])
        why = state.against(reading)
        is_old = reading.procedure in _CHANGES and any(reading.log_id < stop for stop in stops)
        if why or is_old:
            void[reading.id] = why or BEFORE
    return void


def _bites(event: EnergyEvent, limit_v: float) -> bool:
    """True for power, and for a store that was read above the limit."""
    is_store = event.kind is EventKind.STORE_READ
    return event.kind in POWERING or (is_store and abs(event.volt) > limit_v)


class _State:
    """What is live and what is charged as the events go by."""

    def __init__(self, case: CaseFile) -> None:
        self.limit = case.workshop.touch_limit_v
        self.serves = {store.part_id: store.serves for store in case.sheet.charges}
        self.is_live = False
        self.charged: set[object] = set()

    def see(self, event: EnergyEvent) -> None:
        """Take one event in."""
        if event.kind in POWERING:
            self.is_live = True
        elif event.kind is EventKind.REMOVED:
            self.is_live, self.charged = False, set()
        elif event.kind is EventKind.STORE_READ:
            across = self.serves.get(event.store, event.store)
            self.charged.discard(across)
            if abs(event.volt) > self.limit:
                self.charged.add(across)

    def against(self, reading: Reading) -> str:
        """Why a cold reading taken now judges nothing, "" where it does."""
        if self.is_live:
            return LIVE
        part_id = reading.target.part_id
        is_charged = self.serves.get(part_id or 0, part_id) in self.charged
        return CHARGED if is_charged else ""
