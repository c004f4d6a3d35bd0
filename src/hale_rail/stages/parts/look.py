"""Look over: by eye, nose and fingertip, as power flows."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.history import case_photos
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.places.places import placing
from hale_rail.case.safety.energy import energy
from hale_rail.core.parts.looks import VisualFinding, toggled
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import BATTERY, Need
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.sheet import Sheet
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.looks import LOOKS
from hale_rail.store.photos import Photo
from hale_rail.store.readings import Reading


class InspectedPart(Struct, frozen=True):
    """One stop of the round: what to look for, what was seen, and what pressing a code makes of it.

    `presses`: by finding's code, the findings after it is pressed, apart by spaces; `battery` its
    backup battery's newest reading; `takes_battery`: a battery can be read here.
    """

    stop: InspectionStop
    facts: PartFacts
    presses: dict[str, str]
    photos: tuple[Photo, ...]
    takes_battery: bool
    battery: Reading | None
    battery_key: str


class LookPage(Struct, frozen=True):
    """The round, photos of the unit, whether it is verified dead, how many were not looked at, and
    how many have a place on a board's photo."""

    stops: tuple[InspectedPart, ...]
    photos: tuple[Photo, ...]
    is_dead: bool
    unseen: int
    placed: str


def state(case: CaseFile) -> StageState:
    """Begun with its first finding; done when every part was looked at."""
    total = len(case.sheet.parts)
    looked = sum(bool(facts.seen) for facts in parts(case).values())
    status = Status.DONE if total and looked == total else Status.OPEN
    return StageState(status, f"{looked} of {total} looked at")


def page(case: CaseFile, _: PageQuery) -> LookPage:
    """Every part with what to look for."""
    stops = [inspected(case, part) for part in case.sheet.in_power_order]
    of_unit = tuple(p for p in case_photos(case) if p.part_id is None)
    unseen = sum(not look.facts.seen for look in stops)
    is_dead = energy(case).energy is Energy.DEAD
    placed, wanted = placing(case)
    return LookPage(tuple(stops), of_unit, is_dead, unseen, f"{placed} of {wanted} placed")


def inspected(case: CaseFile, part: Part) -> InspectedPart:
    """One stop of the round."""
    facts, battery = parts(case)[part.id], part.point(BATTERY)
    return InspectedPart(
        InspectionStop(part, part.kind.look_for(part), part.findings),
        facts,
        {f.code: " ".join(toggled(facts.seen, f.code)) for f in part.findings},
        tuple(p for p in case_photos(case) if p.part_id == part.id),
        any(ask.procedure is BATTERY for ask in part.all_asks),
        facts.latest(BATTERY),
        battery.key,
    )


def was_opened(case: CaseFile) -> bool:
    """True once something was looked at or read inside the unit."""
    if case.rows.newest(LOOKS):
        return True
    return any(Need.TOUCH_SAFE in procedure.needs for procedure in case.rows.procedures)


def next_step(case: CaseFile) -> StageStep | None:
    """The first thing to do with an unopened unit."""
    if was_opened(case):
        return None
    return StageStep("Look it over, as power flows", Urgency.WORK)


STAGE = Stage(
    key="look",
    name="Look over",
    templates="parts/look",
    state=state,
    page=page,
    next_step=next_step,
    begun=lambda case: bool(case.rows.newest(LOOKS)),
)


class InspectionStop(Struct, frozen=True):
    """One stop of the round: the part, what to look for, and the findings it can get."""

    part: Part
    what: str
    findings: tuple[VisualFinding, ...]


def inspection_round(sheet: Sheet) -> Sequence[InspectionStop]:
    """Every part in the order power flows, with what to look for there."""
    return [
        InspectionStop(part, part.kind.look_for(part), part.findings)
        for part in sheet.in_power_order
    ]
