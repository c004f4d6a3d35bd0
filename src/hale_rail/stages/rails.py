"""Rails: volts against the sheet, at each load, and what they say together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hale_rail.case.energy import energy
from hale_rail.case.file import CaseFile
from hale_rail.case.parts import standing_failed
from hale_rail.case.rails import rail_patterns, rails
from hale_rail.case.shapes import RAIL_SHAPES
from hale_rail.case.subjects import point_words
from hale_rail.case.walks import done, next_undone, rail_points
from hale_rail.case.words import named
from hale_rail.core.procedures import CONDITIONS, VOLTS, Condition, Point
from hale_rail.core.rails.judge import LOADS, RailJudgement, RailVerdict, band
from hale_rail.core.rails.patterns import Pattern
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import rail_target
from hale_rail.stages.stage import Asked, Meaning, Stage, StageState, Status, Step, Urgency
from hale_rail.store.readings import Reading


@dataclass(frozen=True)
class VoltsCell:
    """A rail at one load: its reading with the judgement, and the shape it takes."""

    reading: Reading
    judgement: RailJudgement
    shape: str


@dataclass(frozen=True)
class RailRow:
    """One rail: its band in volts, a cell a load (None: unread), and the point to read it at."""

    rail: Rail
    band_v: tuple[float, float]
    cells: tuple[VoltsCell | None, ...]
    point_key: str


@dataclass(frozen=True)
class RailsPage:
    """The table, the load that is being read, and what the readings say together.

    `failed`: designators of parts that stand failed and not replaced.
    """

    load: Condition
    loads: tuple[Condition, ...]
    rows: tuple[RailRow, ...]
    patterns: tuple[Pattern, ...]
    failed: tuple[str, ...]


def _verdicts(case: CaseFile) -> dict[str, RailVerdict]:
    """The verdict at the most telling load, by rail's key."""
    telling = {volts.rail.key: volts.most_telling for volts in rails(case)}
    return {key: found[1].verdict for key, found in telling.items() if found}


def state(case: CaseFile) -> StageState:
    """Attention while a rail is out of its band or at its edge."""
    verdicts = _verdicts(case)
    for verdict, word in ((RailVerdict.FAIL, "out of band"), (RailVerdict.MARGINAL, "marginal")):
        keys = [key for key, found in verdicts.items() if found is verdict]
        if keys:
            return StageState(Status.ATTENTION, f"{', '.join(keys)} {word}")
    judged = sum(verdict is not RailVerdict.NOT_JUDGED for verdict in verdicts.values())
    total = len(case.sheet.rails)
    status = Status.DONE if total and judged == total else Status.OPEN
    return StageState(status, f"{judged} of {total} judged")


def load_of(case: CaseFile, asked: Asked) -> Condition:
    """The load asked for; else the machine once it was read there, else a dummy."""
    code = asked.at.split("~")[-1] if f"~{VOLTS.code}~" in asked.at else asked.load
    found = CONDITIONS.get(code)
    if found in LOADS:
        return found
    taken = {load for volts in rails(case) for load in volts.by_load}
    return Condition.MACHINE if Condition.MACHINE in taken else Condition.DUMMY


def page(case: CaseFile, asked: Asked) -> RailsPage:
    """Every rail at every load."""
    load = load_of(case, asked)
    rows = []
    for volts in rails(case):
        cells = []
        for each in LOADS:
            found = volts.by_load.get(each)
            cells.append(VoltsCell(*found, RAIL_SHAPES[found[1].verdict]) if found else None)
        key = Point(rail_target(volts.rail.key), VOLTS, load).key
        rows.append(RailRow(volts.rail, band(volts.rail, case.tolerance), tuple(cells), key))
    failed = tuple(facts.part.ref for facts in standing_failed(case))
    return RailsPage(load, LOADS, tuple(rows), rail_patterns(case), failed)


def points(case: CaseFile, asked: Asked) -> Sequence[Point]:
    """Every rail at the load that is being read."""
    return rail_points(case, load_of(case, asked))


def next_step(case: CaseFile) -> Step | None:
    """While power is on: the rails; cold: what is out of band, else the first power."""
    if energy(case).energy is Energy.LIVE:
        stop = next((p for p in rail_patterns(case) if p.urgent), None)
        return Step(f"Power off at once: {stop.text}", Urgency.STOP) if stop else _live_step(case)
    now = state(case)
    if now.status is Status.DONE:
        return None
    if RailVerdict.FAIL in _verdicts(case).values():
        return Step(f"Rails: {now.note}", Urgency.REPAIR)
    failed = [facts.part.ref for facts in standing_failed(case)]
    if failed:
        is_are = "is" if len(failed) == 1 else "are"
        text = f"Before power: {named(failed)} {is_are} failed and not replaced"
        return Step(text, Urgency.LATER)
    return Step("First power, limited and loaded, then the rails", Urgency.LATER)


def _live_step(case: CaseFile) -> Step | None:
    for load in (Condition.MACHINE, Condition.DUMMY):
        point = next_undone(rail_points(case, load), done(case))
        if point and any(load in volts.by_load for volts in rails(case)):
            return Step(f"Read {point_words(case, point)}", Urgency.DANGER, point)
    if not any(volts.by_load for volts in rails(case)):
        return Step("Power is on: read the rails", Urgency.DANGER)
    return None


def begun(case: CaseFile) -> bool:
    """True once a rail's volts were read."""
    return VOLTS in case.rows.taken


def volts_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What a rail's volts say."""
    volts = next(v for v in rails(case) if v.rail.key == reading.target.rail)
    judged = volts.by_place[reading.condition, reading.target.place][1]
    text = f"{judged.text}. {judged.advice}".strip()
    return Meaning(RAIL_SHAPES[judged.verdict], judged.verdict.words, text)


STAGE = Stage(
    key="rails",
    name="Rails",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    begun=begun,
    meanings={VOLTS.code: volts_meaning},
)
