"""The facet of what the machine did, power-on by power-on."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.core.power.machine_behaviour import DIDS, Did
from hale_rail.core.safety.energy import SOURCES, EventKind
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote
from hale_rail.store.power_events import POWER_EVENTS

#: what it did stands among the events that are said, under the entry by which power came
KIND, _PREFIX = "event", "did "


class PowerOn(Struct, frozen=True):
    """One time that power came: its entry in the log, when, from what, and what the machine did.

    The entry is 0 for a power-on of which nothing else is written.

    `did`: how often, by what; in the order of `Did`.
    """

    log_id: int
    at: str
    source: str
    did: tuple[tuple[Did, int], ...]
    #: the entry by which the first of it was said, 0 for none
    said_id: int = 0

    @property
    def words(self) -> str:
        """What it did in a line, "" where nothing was said."""
        return ", ".join(did.told(times) for did, times in self.did)

    def times(self, did: Did) -> int:
        """How often it did something, 0 where that was not said."""
        return dict(self.did).get(did, 0)


def key_of(log_id: int, did: Did) -> str:
    """The name under which something is said of a power-on."""
    return f"{_PREFIX}{log_id} {did.code}"


@facet
def power_ons(case: CaseFile) -> tuple[PowerOn, ...]:
    """Every time that power came, in order."""
    notes: dict[int, dict[Did, MachineNote]] = {}
    for (kind, key), note in case.rows.newest(MACHINE_NOTES).items():
        did = DIDS.get(str(note.body.get("did"))) if kind == KIND and note.body else None
        if did and note.body and key.startswith(_PREFIX):
            notes.setdefault(int(note.body["power"]), {})[did] = note
    power_ons = [_power_on(0, "", "", notes[0])] if 0 in notes else []
    for event in case.rows.all(POWER_EVENTS):
        if event.kind == EventKind.APPLIED.value:
            source = SOURCES[event.source].words if event.source in SOURCES else ""
            own = notes.get(event.log_id, {})
            power_ons.append(_power_on(event.log_id, event.at, source, own))
    return tuple(power_ons)


def _power_on(log_id: int, at: str, source: str, notes: Mapping[Did, MachineNote]) -> PowerOn:
    """One power-on; of two things that cannot both be, what was said last counts."""
    later = {one.opposite: note.log_id for one, note in notes.items() if one.opposite}
    stands = {one: note for one, note in notes.items() if later.get(one, 0) < note.log_id}
    did = tuple((one, int((stands[one].body or {})["times"])) for one in Did if one in stands)
    return PowerOn(log_id, at, source, did, min((n.log_id for n in stands.values()), default=0))


@facet
def last_power_on(case: CaseFile) -> PowerOn | None:
    """The last time that power came; None where it never did."""
    return next((on for on in reversed(power_ons(case)) if on.log_id), None)
