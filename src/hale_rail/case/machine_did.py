"""The facet of what the machine did, power-on by power-on."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.core.power.machine_did import DIDS, Did
from hale_rail.core.safety.energy import SOURCES, EventKind

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
    said: dict[int, dict[Did, int]] = {}
    first: dict[int, int] = {}
    for (kind, key), note in case.rows.said.items():
        if kind != KIND or not key.startswith(_PREFIX) or note.body is None:
            continue
        did = DIDS.get(str(note.body.get("did")))
        if did:
            power = int(note.body["power"])
            said.setdefault(power, {})[did] = int(note.body["times"])
            first[power] = min(note.log_id, first.get(power, note.log_id))
    found = [PowerOn(0, "", "", _in_order(said[0]), first[0])] if 0 in said else []
    for event in case.rows.events:
        if event.kind == EventKind.APPLIED.value:
            source = SOURCES[event.source].words if event.source in SOURCES else ""
            own = _in_order(said.get(event.log_id, {}))
            own_id = first.get(event.log_id, 0)
            found.append(PowerOn(event.log_id, event.at, source, own, own_id))
    return tuple(found)


def _in_order(said: Mapping[Did, int]) -> tuple[tuple[Did, int], ...]:
    return tuple((did, said[did]) for did in Did if did in said)


@facet
def last_power_on(case: CaseFile) -> PowerOn | None:
    """The last time that power came; None where it never did."""
    return next((on for on in reversed(power_ons(case)) if on.log_id), None)
