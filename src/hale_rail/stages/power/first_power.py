"""First power: limited, loaded with dummies, watched, one configuration at a time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.power.first_power import (
    Alarm,
    Walked,
    alarm,
    chosen,
    current,
    in_the_way,
    lamps_of,
    limit_of,
    loads_of,
    stop_text,
    unread_before_power,
    walked,
)
from hale_rail.case.power.machine_behaviour import PowerOn, last_power_on
from hale_rail.case.safety.energy import energy
from hale_rail.case.words import show_reading
from hale_rail.case.worker import AnalysisState
from hale_rail.core.parts.part import Part
from hale_rail.core.power.dummies import NO_DUMMIES, Dummies, LampLoad
from hale_rail.core.power.plan import (
    BURNS,
    LIKELY,
    LIMITERS,
    Limit,
    Limiter,
    StopCondition,
    Watched,
    input_watts,
    stop_words,
    watch_list,
)
from hale_rail.core.procedures import VOLTS, Point
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.safety.energy import Energy
from hale_rail.core.targets import rail_target
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.power_steps import POWER_STEPS


class WatchRow(Struct, frozen=True):
    """A rail on the watch list: its limits, its last volts in this step, and what they say."""

    watched: Watched
    figure: str
    shape: str
    word: str
    point_key: str


class FirstPowerPage(Struct, frozen=True):
    """The step in hand with its hook-up, all steps, what is watched, and what stops it.

    `alarm` a stop condition that the readings meet; `stopped` why power was removed, and what is
    likely; `loads` the dummies as JSON has them; `in_the_way` why no power may come yet; `unread`
    what is read before power and was not; `blamable` the parts that a stop may have come from;
    `power_on`: what the machine did last.
    """

    here: Walked | None
    steps: tuple[Walked, ...]
    limit: Limit
    loads: AnalysisState
    lamps: Mapping[str, LampLoad | str]
    watch: tuple[WatchRow, ...]
    stops: tuple[StopCondition, ...]
    alarm: Alarm | None
    stopped: str
    likely: str
    in_the_way: tuple[str, ...]
    unread: tuple[str, ...]
    blamable: tuple[Part, ...]
    is_dead: bool
    input_w: float | None
    limiters: tuple[Limiter, ...]
    body: Mapping[str, Any]
    power_on: PowerOn | None

    @property
    def dummies(self) -> Dummies:
        """The dummies, rail by rail; none while they are computed."""
        return self.loads.result or NO_DUMMIES

    @property
    def typed_body(self) -> dict[str, str]:
        """What is chosen, as the form's fields have it."""
        typed_body = {k: f"{v:.9g}" for k, v in self.body.items() if isinstance(v, float)}
        if "share" in typed_body:
            typed_body["share"] = f"{100 * self.body['share']:.9g}"
        return typed_body

    @property
    def all_read(self) -> bool:
        """True once every rail of the live step was read."""
        return all(row.figure for row in self.watch)


def state(case: CaseFile) -> StageState:
    """How many steps are done; attention while one is live or stopped."""
    walks = walked(case)
    here = current(case)
    if here and here.state == "stopped":
        return StageState(Status.ATTENTION, "stopped")
    if here and here.state == "live":
        return StageState(Status.ATTENTION, "power is on")
    done = sum(w.state == "done" for w in walks)
    status = Status.DONE if done == len(walks) else Status.OPEN
    return StageState(status, f"{done} of {len(walks)} steps")


def page(case: CaseFile, _: PageQuery) -> FirstPowerPage:
    """The step in hand."""
    here, current_alarm = current(case), alarm(case)
    limit = limit_of(case)
    code = here.stop[0] if here and here.stop else (current_alarm.code if current_alarm else "")
    stopped = here.stop[1] or stop_text(code) if here and here.stop else ""
    return FirstPowerPage(
        here,
        walked(case),
        limit,
        loads_of(case),
        lamps_of(case),
        watch_rows(case, here),
        tuple(stop_words(limit.limiter)),
        current_alarm,
        stopped,
        LIKELY.get(code, ""),
        in_the_way(case),
        unread_before_power(case),
        case.sheet.in_power_order if code in BURNS and stopped else (),
        energy(case).energy is Energy.DEAD,
        input_watts(case.sheet),
        tuple(LIMITERS.values()),
        chosen(case).body,
        last_power_on(case),
    )


def watch_rows(case: CaseFile, here: Walked | None) -> tuple[WatchRow, ...]:
    """Each rail with its limits at the step's load; what a past step's rails were at the end."""
    if here is None:
        return ()
    read = {one.rail.key: one for one in here.read}
    rows = []
    for watched in watch_list(case.sheet.rails, case.tolerance, here.step.load):
        key = watched.rail.key
        one = read.get(key)
        point = Point(rail_target(key), VOLTS, here.step.load)
        verdict = one.judgement.verdict if one else RailVerdict.NOT_JUDGED
        rows.append(
            WatchRow(
                watched,
                show_reading(one.reading) if one else "",
                verdict.shape if one else "unseen",
                verdict.words if one else "not read",
                point.key,
            )
        )
    return tuple(rows)


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """Every rail, while a step is live."""
    here = current(case)
    if here is None or here.state != "live":
        return ()
    return [Point(rail_target(r.key), VOLTS, here.step.load) for r in case.sheet.rails]


def done(case: CaseFile) -> frozenset[str]:
    """What was read in this step; what an earlier one read does not count."""
    here = current(case)
    return frozenset(one.reading.key for one in here.read) if here else frozenset()


def next_step(case: CaseFile) -> StageStep | None:
    """A stop, a live step's next rail, or the step to come once the board is ready for it."""
    here, current_alarm = current(case), alarm(case)
    if current_alarm:
        return StageStep(f"Power off at once: {current_alarm.text}", Urgency.STOP)
    if here is None:
        return None
    if here.state == "live":
        return StageStep(f"First power is on: {here.step.name}", Urgency.DANGER)
    if here.state == "stopped":
        return StageStep(f"First power was stopped: {stop_text((here.stop or ('', ''))[0])}",
                    Urgency.FAULT)  # fmt: skip
    if in_the_way(case) or _has_run(case):
        return None
    return StageStep(f"First power: {here.step.name}", Urgency.LATER)


def _has_run(case: CaseFile) -> bool:
    """True for a unit whose rails were read in the machine before first power was begun here."""
    return not case.rows.all(POWER_STEPS) and VOLTS in case.rows.procedures


def begun(case: CaseFile) -> bool:
    """True once a step was begun."""
    return bool(case.rows.all(POWER_STEPS))


STAGE = Stage(
    key="first-power",
    name="First power",
    templates="power",
    state=state,
    page=page,
    points=points,
    done=done,
    next_step=next_step,
    begun=begun,
    has_panel=True,
)
