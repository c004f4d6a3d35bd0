"""Rails: volts against the sheet, at each load, and what they say together."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.parts.parts import standing_failed
from hale_rail.case.power.machine_behaviour import PowerOn, last_power_on
from hale_rail.case.rails.rails import rail_patterns, rail_reading, rails, stop_now
from hale_rail.case.ripple.waves import failing_ripple
from hale_rail.case.safety.energy import energy
from hale_rail.case.subjects import point_words
from hale_rail.case.walks import done, next_undone, rail_points
from hale_rail.case.words import named
from hale_rail.core.procedures import CONDITIONS, VOLTS, Condition, Point
from hale_rail.core.rails.judge import LOADS, RailReading, RailVerdict, band
from hale_rail.core.rails.patterns import RailPattern
from hale_rail.core.rails.power_good import PowerGood, judge_power_good
from hale_rail.core.rails.trim import Trim, trim
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Place, rail_target
from hale_rail.stages.rails.rail_bars import RailBar, rail_bar
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.power_steps import POWER_GOODS
from hale_rail.store.readings import Reading

#: prefix of a rail's key: that rail is being trimmed
TRIM = "trim:"


class RailRow(Struct, frozen=True):
    """One rail: its bar, its band in volts, and the point to read it at."""

    bar: RailBar
    band_v: tuple[float, float]
    point_key: str

    @property
    def rail(self) -> Rail:
        """The rail."""
        return self.bar.rail


class RailsPage(Struct, frozen=True):
    """The bars, the load and place that are being read, and what the readings say together.

    `failed`: designators of parts that count as failed and not replaced; `good`: what the
    power-good line did; `trimmed`: the rail in the trimming aid, or None;
    `power_on`: what the machine did last.
    """

    load: Condition
    loads: tuple[Condition, ...]
    place: Place
    places: tuple[Place, ...]
    rows: tuple[RailRow, ...]
    patterns: tuple[RailPattern, ...]
    failed: tuple[str, ...]
    good: PowerGood | None
    trimmed: Rail | None
    trim: Trim | None
    trim_key: str
    power_on: PowerOn | None


def _verdicts(case: CaseFile) -> dict[str, RailVerdict]:
    """The verdict at the most telling load, by rail's key."""
    telling = {volts.rail.key: volts.most_telling for volts in rails(case)}
    return {key: found[1].verdict for key, found in telling.items() if found}


def state(case: CaseFile) -> StageState:
    """Attention while a rail is out of its band or at its edge, or its ripple fails."""
    state = _by_volts(case)
    ripple = failing_ripple(case)
    if not ripple or state.status is Status.ATTENTION:
        return state
    return StageState(Status.ATTENTION, f"{', '.join(ripple)} ripple fails")


@facet
def _by_volts(case: CaseFile) -> StageState:
    verdicts = _verdicts(case)
    for verdict, word in ((RailVerdict.FAIL, "out of band"), (RailVerdict.MARGINAL, "marginal")):
        keys = [key for key, found in verdicts.items() if found is verdict]
        if keys:
            return StageState(Status.ATTENTION, f"{', '.join(keys)} {word}")
    judged = sum(verdict is not RailVerdict.NOT_JUDGED for verdict in verdicts.values())
    total = len(case.sheet.rails)
    status = Status.DONE if total and judged == total else Status.OPEN
    return StageState(status, f"{judged} of {total} judged")


def load_of(case: CaseFile, query: PageQuery) -> Condition:
    """The load asked for; else the machine once it was read there, else a dummy."""
    code = query.at.split("~")[-1] if f"~{VOLTS.code}~" in query.at else query.load
    condition = CONDITIONS.get(code)
    if condition in LOADS:
        return condition
    conditions = {load for volts in rails(case) for load in volts.by_load}
    return Condition.MACHINE if Condition.MACHINE in conditions else Condition.DUMMY


def place_of(query: PageQuery) -> Place:
    """The place along the line that is asked for, by the point in the tray or by name."""
    if query.at:
        key = query.at.split("~")[0].partition("@")[2]
        return next((place for place in Place if place.value == key), Place.NONE)
    return next((place for place in Place if place.value == query.by), Place.NONE)


def page(case: CaseFile, query: PageQuery) -> RailsPage:
    """Every rail with all that was read of it."""
    load, place = load_of(case, query), place_of(query)
    rows = []
    for volts in rails(case):
        key = Point(rail_target(volts.rail.key, place), VOLTS, load).key
        limits = band(volts.rail, case.tolerance, load)
        rows.append(RailRow(rail_bar(case, volts, load), limits, key))
    failed = tuple(facts.part.ref for facts in standing_failed(case))
    trimmed = case.sheet.rail(query.by.removeprefix(TRIM)) if query.by.startswith(TRIM) else None
    return RailsPage(
        load, LOADS, place, tuple(Place), tuple(rows), rail_patterns(case), failed,
        power_good(case), trimmed, trim_of(case, trimmed, load) if trimmed else None,
        Point(rail_target(trimmed.key), VOLTS, load).key if trimmed else "", last_power_on(case),
    )  # fmt: skip


def power_good(case: CaseFile) -> PowerGood | None:
    """What the power-good line did beside the rails, None while it was not looked at."""
    row = case.rows.last(POWER_GOODS)
    if row is None:
        return None
    verdicts = list(_verdicts(case).values())
    passes = bool(verdicts) and all(v is RailVerdict.PASS for v in verdicts)
    return judge_power_good(row.after_s, row.volt, rails_pass=passes)


def trim_of(
    case: CaseFile, rail: Rail, load: Condition, typed: RailReading | None = None
) -> Trim | None:
    """The trimming aid's live figure: of what is typed, else of the newest reading at the load."""
    known = {volts.rail.key: volts.by_load.get(load) for volts in rails(case)}
    own = known.get(rail.key)
    reading = typed or (rail_reading(case, rail, own[0]) if own else None)
    if reading is None:
        return None
    others = [
        rail_reading(case, other, found[0])
        for other in case.sheet.rails
        if other.key != rail.key and (found := known.get(other.key))
    ]
    return trim(reading, others, case.tolerance, load)


def points(case: CaseFile, query: PageQuery) -> Sequence[Point]:
    """Every rail at the load and the place that are being read."""
    return rail_points(case, load_of(case, query), place_of(query))


def next_step(case: CaseFile) -> StageStep | None:
    """While power is on: the rails; cold: what is out of band, else the first power."""
    if energy(case).energy is Energy.LIVE:
        stop = stop_now(case)
        return (
            StageStep(f"Power off at once: {stop.text}", Urgency.STOP) if stop else _live_step(case)
        )
    now = state(case)
    if now.status is Status.DONE:
        return None
    if RailVerdict.FAIL in _verdicts(case).values():
        return StageStep(f"Rails: {now.note}", Urgency.REPAIR)
    failed = [facts.part.ref for facts in standing_failed(case)]
    if failed:
        is_are = "is" if len(failed) == 1 else "are"
        text = f"Before power: {named(failed)} {is_are} failed and not replaced"
        return StageStep(text, Urgency.LATER)
    return StageStep("Read the rails, limited and loaded first", Urgency.LATER)


def _live_step(case: CaseFile) -> StageStep | None:
    for load in (Condition.MACHINE, Condition.DUMMY):
        point = next_undone(rail_points(case, load), done(case))
        if point and any(load in volts.by_load for volts in rails(case)):
            return StageStep(f"Read {point_words(case, point)}", Urgency.DANGER, point)
    if not any(volts.by_load for volts in rails(case)):
        return StageStep("Power is on: read the rails", Urgency.DANGER)
    return None


def begun(case: CaseFile) -> bool:
    """True once a rail's volts were read."""
    return VOLTS in case.rows.procedures


def volts_meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What a rail's volts say."""
    volts = next(v for v in rails(case) if v.rail.key == reading.target.rail)
    judged = volts.by_place[reading.condition, reading.target.place][1]
    text = f"{judged.text}. {judged.advice}".strip()
    return Meaning(judged.verdict.shape, judged.verdict.words, text)


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
