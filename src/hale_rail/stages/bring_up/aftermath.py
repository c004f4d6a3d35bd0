"""After a rail event: what it may have taken along; and linear regulators, computed."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.bring_up.bring_up import EventFacts, RegulatorFacts, events, regulators
from hale_rail.case.file import CaseFile
from hale_rail.core.bring_up.collateral import RailEvent
from hale_rail.stages.stage import PageQuery, Stage, StageState, Status


class AftermathPage(Struct, frozen=True):
    """Rail events with what they may have taken along, and regulators."""

    events: tuple[EventFacts, ...]
    kinds_of_event: tuple[RailEvent, ...]
    regulators: tuple[RegulatorFacts, ...]
    linear_refs: tuple[str, ...]
    rails: tuple[str, ...]


def page(case: CaseFile, _: PageQuery) -> AftermathPage:
    """The page as it is now."""
    refs = tuple(part.ref for part in case.sheet.parts if part.kind.code == "regulator")
    keys = tuple(rail.key for rail in case.sheet.rails)
    return AftermathPage(events(case), tuple(RailEvent), regulators(case), refs, keys)


def state(case: CaseFile) -> StageState:
    """Open always: an event is noted, and its parts are read on their own pages."""
    count = len(events(case))
    return StageState(Status.OPEN, f"{count} rail events" if count > 1 else "")


STAGE = Stage(
    key="aftermath",
    name="Rail events",
    templates="bring_up",
    state=state,
    page=page,
    begun=lambda case: bool(events(case)),
    under="machine",
)
