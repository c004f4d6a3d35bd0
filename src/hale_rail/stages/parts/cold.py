"""Cold checks on the line map: everything but capacitors, as power passes it."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.line_map import CaseMap, case_map
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import failed_parts, parts
from hale_rail.case.parts.proven import failure, failures
from hale_rail.case.subjects import point_words
from hale_rail.case.walks import cold_points, done, next_undone, part_point
from hale_rail.core.parts.kinds import fuse
from hale_rail.core.procedures import DIODE, OHMS, Point
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency


def page(case: CaseFile, _: PageQuery) -> CaseMap:
    """The map."""
    return case_map(case)


def walk_state(case: CaseFile, walked: Sequence[Point]) -> StageState:
    """How far a walk of points is."""
    if not walked:
        return StageState(Status.DONE, "none left to read")
    known = done(case)
    read = sum(point.key in known for point in walked)
    status = Status.DONE if read == len(walked) else Status.OPEN
    return StageState(status, f"{read} of {len(walked)} read")


def state(case: CaseFile) -> StageState:
    """Attention while a part counts as failed."""
    broken = [facts.part.ref for facts in failed_parts(case)]
    if broken:
        return StageState(Status.ATTENTION, f"{', '.join(broken)} failed")
    return walk_state(case, cold_points(case))


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """The walk of the cold checks."""
    return cold_points(case)


def next_step(case: CaseFile) -> StageStep | None:
    """A part proven shorted or open before all; the next point; then what is to be replaced."""
    proven = proven_parts(case)
    if proven:
        part = proven[0].part
        at = part_point(case, part)
        text = f"Replace {part.ref}: proven {failure(proven[0])}, and not replaced"
        return StageStep(text, Urgency.PROVEN, at, "capacitors" if part.capacitor else "")
    point = next_undone(cold_points(case), done(case))
    if point:
        return StageStep(f"Read {point_words(case, point)}", Urgency.WORK, point)
    broken = [facts.part.ref for facts in failed_parts(case)]
    return StageStep(f"Replace {', '.join(broken)}", Urgency.REPAIR) if broken else None


def proven_parts(case: CaseFile) -> list[PartFacts]:
    """Parts proven shorted or open by a meter, nothing decided of them; a fuse opens for a reason.

    What dried out is the recap's business.
    """
    known = parts(case)
    return [
        facts
        for facts in (known[i] for i, how in failures(case).items() if how in ("short", "open"))
        if facts.part.kind is not fuse.KIND and not (facts.decision and facts.decision.stands)
    ]


def begun(case: CaseFile) -> bool:
    """True once ohms or a junction were read."""
    return not case.rows.procedures.isdisjoint((OHMS, DIODE))


STAGE = Stage(
    key="cold",
    name="Cold checks",
    templates="parts/cold",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    begun=begun,
    is_guarded=True,
    is_drawing=True,
)
