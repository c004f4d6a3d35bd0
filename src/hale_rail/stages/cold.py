"""Cold checks on the line map: everything but capacitors, as power passes it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from hale_rail.case.drawing import picture, power_reach
from hale_rail.case.file import CaseFile
from hale_rail.case.parts import failed_parts, parts
from hale_rail.case.rails import rails
from hale_rail.case.subjects import point_words
from hale_rail.case.walks import cold_points, done, next_undone
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import DIODE, OHMS, Point
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.linemap import LineMap
from hale_rail.core.supply.reach import Reach
from hale_rail.stages.shapes import RAIL_SHAPES
from hale_rail.stages.stage import Asked, Stage, StageState, Status, Step, Urgency


@dataclass(frozen=True)
class Plate:
    """What stands under a rail's plate: its volts at the most telling load, and their shape."""

    volts: str
    shape: str


@dataclass(frozen=True)
class MapPage:
    """The line map with what is known: a state a part by id, a plate a rail by key, the reach."""

    machine: str
    picture: LineMap
    states: Mapping[int, PartState]
    plates: Mapping[str, Plate]
    reach: Reach


def map_page(case: CaseFile) -> MapPage:
    """The map as it stands."""
    plates = {}
    for volts in rails(case):
        telling = volts.most_telling
        if telling:
            reading, judged = telling
            text = show(reading.value, Unit.VOLT, 4)
            plates[volts.rail.key] = Plate(text, RAIL_SHAPES[judged.verdict])
    states = {i: facts.state for i, facts in parts(case).items()}
    return MapPage(case.case.machine, picture(case), states, plates, power_reach(case))


def page(case: CaseFile, _: Asked) -> MapPage:
    """The map."""
    return map_page(case)


def walk_state(case: CaseFile, walked: Sequence[Point]) -> StageState:
    """How far a walk of points is."""
    if not walked:
        return StageState(Status.DONE, "none left to read")
    read = sum(point.key in done(case) for point in walked)
    status = Status.DONE if read == len(walked) else Status.OPEN
    return StageState(status, f"{read} of {len(walked)} read")


def state(case: CaseFile) -> StageState:
    """Attention while a part stands failed."""
    broken = [facts.part.ref for facts in failed_parts(case)]
    if broken:
        return StageState(Status.ATTENTION, f"{', '.join(broken)} failed")
    return walk_state(case, cold_points(case))


def points(case: CaseFile, _: Asked) -> Sequence[Point]:
    """The walk of the cold checks."""
    return cold_points(case)


def next_step(case: CaseFile) -> Step | None:
    """The next point; when all are read, what is to be replaced."""
    point = next_undone(cold_points(case), done(case))
    if point:
        return Step(f"Read {point_words(case, point)}", Urgency.WORK, point)
    broken = [facts.part.ref for facts in failed_parts(case)]
    return Step(f"Replace {', '.join(broken)}", Urgency.REPAIR) if broken else None


def begun(case: CaseFile) -> bool:
    """True once ohms or a junction were read."""
    return not case.rows.taken.isdisjoint((OHMS, DIODE))


STAGE = Stage(
    key="cold",
    name="Cold checks",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    begun=begun,
    is_guarded=True,
)
