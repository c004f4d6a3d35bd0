"""The facet of the rework: every position that gets a new part, what was done, what is next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.recap.demands import needs_id
from hale_rail.case.recap.plans import EMPTY_PLAN, case_plan
from hale_rail.case.recap.recap import others, replaced
from hale_rail.case.rows import SUPERSEDED
from hale_rail.case.shorts.grounds import SIDES
from hale_rail.case.words import show_reading
from hale_rail.core.parts import capacitor_verdicts
from hale_rail.core.parts.capacitors import Capacitor, Readings
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import GROUND, NEW_CAP, NEW_ESR, Condition, Point, Procedure
from hale_rail.core.quantities import Unit, show
from hale_rail.core.recap.needs import Build
from hale_rail.core.recap.offers import Origin
from hale_rail.core.recap.orders import BuyingPlan, ChosenItem
from hale_rail.core.recap.rated_parts import AnyBuild
from hale_rail.core.recap.rework import (
    ACTS,
    AFTER,
    After,
    ReworkAct,
    has_mark,
    mark_differs,
    order_of,
    usual_height_mm,
)
from hale_rail.core.targets import rail_target
from hale_rail.formats.codec import from_text
from hale_rail.store.readings import Reading
from hale_rail.store.rework import REWORK_STEPS, ReworkStep

NEW = (NEW_ESR, NEW_CAP)


class NewPart(Struct, frozen=True):
    """The part that is to be fitted at a position: its number, and how its list describes it.

    `origin`: what it is where it is not new, `salvaged` or `old stock`; `source` where it comes
    from, once that is settled.
    """

    sku: str
    build: AnyBuild
    origin: str = ""
    source: str = ""


def family_of(new: NewPart) -> Family | None:
    """A new capacitor's family; None for another part."""
    return new.build.family if isinstance(new.build, Build) else None


class Job(Struct, frozen=True):
    """A position of the rework.

    `new` None: not planned; `done` what was done there, the step by act; `needs_second_look`: the
    new part's mark is not the old one's; `is_left_out` on purpose; `is_fitted` without a walk too.
    """

    facts: PartFacts
    new: NewPart | None
    done: Mapping[ReworkAct, ReworkStep]
    needs_second_look: bool
    is_left_out: bool

    @property
    def part(self) -> Part:
        """The part of the sheet that stands, or stood, there."""
        return self.facts.part

    @property
    def family(self) -> Family | None:
        """The family of the part that goes in; the old one's where none is planned."""
        return family_of(self.new) if self.new else self.part.family

    @property
    def is_fitted(self) -> bool:
        """True when a new part is there."""
        return self.facts.is_fitted

    @property
    def acts(self) -> tuple[ReworkAct, ...]:
        """What is done here, in order."""
        return order_of(needs_second_look=self.needs_second_look, has_polarity=self.has_polarity)

    @property
    def has_polarity(self) -> bool:
        """True where what goes in can be fitted the wrong way round."""
        if self.part.kind is capacitor.KIND:
            return self.family is None or has_mark(self.family)
        return self.part.kind.has_ends

    @property
    def next(self) -> ReworkAct | None:
        """What comes next; None when all is done, or it was fitted without being walked."""
        if self.is_left_out or (self.is_fitted and ReworkAct.FITTED not in self.done):
            return None
        return next((act for act in self.acts if act not in self.done), None)

    @property
    def is_begun(self) -> bool:
        """True from the first thing done here until the new part is in."""
        return bool(self.done) and ReworkAct.FITTED not in self.done

    @property
    def state(self) -> str:
        """Its state in a word: `done`, `left`, `begun` or `todo`."""
        if self.is_fitted:
            return "done"
        return "left" if self.is_left_out else ("begun" if self.is_begun else "todo")

    @property
    def height_mm(self) -> float:
        """How high it stands, mm: as its list says, else as parts of the value usually do."""
        build = self.new.build if self.new else None
        if isinstance(build, Build) and build.height_mm:
            return build.height_mm
        return usual_height_mm(self.part.family, self.part.value, self.part.volt)


@facet
def steps_by_part(case: CaseFile) -> dict[int, dict[ReworkAct, ReworkStep]]:
    """What was done at each part and stands, by act."""
    steps: dict[int, dict[ReworkAct, ReworkStep]] = {}
    for step in case.rows.active(REWORK_STEPS):
        if step.part_id is not None:
            steps.setdefault(step.part_id, {})[ACTS[step.step]] = step
    return steps


@facet
def positions_of_work(case: CaseFile) -> tuple[PartFacts, ...]:
    """Parts that the school replaces or that were begun or left out, in the sheet's order."""
    known = parts(case)
    wanted = {position.part.id for position in replaced(case)}
    wanted |= {other.part.id for line in others(case) for other in line.others}
    wanted |= steps_by_part(case).keys()
    wanted |= {i for i, facts in known.items() if _is_left_out(facts)}
    return tuple(facts for i, facts in known.items() if i in wanted)


def _is_left_out(facts: PartFacts) -> bool:
    return facts.decision is not None and facts.decision.kind is DecisionKind.LEFT_OUT


def jobs(case: CaseFile, *, with_plan: bool = True) -> list[Job]:
    """Every position, low parts before tall, a bank's together; `with_plan`: the new parts."""
    if not with_plan:
        return _plain_jobs(case)
    return _laid_out(case, _own_plan(case).chosen)


def _own_plan(case: CaseFile) -> BuyingPlan:
    return case_plan(case).plan(case.school.code) or EMPTY_PLAN


@facet
def _plain_jobs(case: CaseFile) -> list[Job]:
    return _laid_out(case, {})


def _laid_out(case: CaseFile, chosen: Mapping[str, ChosenItem]) -> list[Job]:
    jobs = [_job(case, facts, chosen) for facts in positions_of_work(case)]
    tall = {job.part.id: job.height_mm for job in jobs}
    banks = {job.part.id: [p.id for p in case.sheet.bank_of(job.part)] for job in jobs}

    def place(job: Job) -> tuple[float, int]:
        mates = [i for i in banks[job.part.id] if i in tall]
        return max(tall[i] for i in mates), mates[0]

    return _with_second_looks(sorted(jobs, key=place))


def last_fitted(jobs: Sequence[Job]) -> Job | None:
    """The position that was fitted last by the walk."""
    done = [job for job in jobs if ReworkAct.FITTED in job.done]
    return max(done, key=lambda job: job.done[ReworkAct.FITTED].id, default=None)


def _with_second_looks(jobs: list[Job]) -> list[Job]:
    """Positions whose marks change from the part that went in last want a second look too."""
    last = last_fitted(jobs)
    if last is None:
        return jobs
    return [
        replace(job, needs_second_look=True)
        if ReworkAct.SECOND_LOOK in job.done
        or (ReworkAct.MEASURED not in job.done and mark_differs(last.family, job.family))
        else job
        for job in jobs
    ]


def _job(case: CaseFile, facts: PartFacts, chosen: Mapping[str, ChosenItem]) -> Job:
    done = steps_by_part(case).get(facts.part.id, {})
    new = new_part(case, facts.part, chosen)
    family = family_of(new) if new else facts.part.family
    return Job(
        facts,
        new,
        done,
        mark_differs(facts.part.family, family),
        _is_left_out(facts),
    )


def new_part(case: CaseFile, part: Part, chosen: Mapping[str, ChosenItem]) -> NewPart | None:
    """The part that was planned when the old one came out, else the one that is planned now."""
    out = steps_by_part(case).get(part.id, {}).get(ReworkAct.OUT)
    kept = _kept(out)
    if kept:
        return kept
    item = chosen.get(needs_id(case, part))
    return NewPart(item.sku, item.build) if item else None


def _kept(out: ReworkStep | None) -> NewPart | None:
    """The part that was to go in when the old one came out; None where none was planned."""
    if out is None or not out.note:
        return None
    with suppress(ValueError):  # a note that is not about a part names none
        return from_text(out.note, NewPart)
    return None


def source_words(case: CaseFile, job: Job) -> str:
    """Where the new part of a position comes from by the plan: `Kettlewick`, `a drawer, lot 7`."""
    kept = _kept(job.done.get(ReworkAct.OUT))
    if kept and kept.source:
        return kept.source
    plan, own = _own_plan(case), needs_id(case, job.part)
    sku = job.new.sku if job.new else ""
    for line in plan.from_stock:
        if own in line.covers and line.drawer.sku == sku:
            return "a drawer" + (f", lot {line.drawer.lot}" if line.drawer.lot else "")
    vendors = [o.offer.vendor for o in plan.order if own in o.covers and sku in o.skus]
    return vendors[0] if vendors else ""


def origin_words(case: CaseFile, job: Job) -> str:
    """What the new part of a position is by the plan where it is not new: `salvaged`; else ""."""
    own = needs_id(case, job.part)
    origins = [line.drawer.origin for line in _own_plan(case).from_stock if own in line.covers]
    return next((origin.words for origin in origins if origin is not Origin.NEW), "")


def ticks(case: CaseFile, job: Job) -> tuple[bool, ...]:
    """What of the bench sheet was done: out, cleared, polarity, C, ESR, fitted, looked at."""
    readings = new_part_readings(case, job)
    return (
        *(act in job.done for act in (ReworkAct.OUT, ReworkAct.CLEARED, ReworkAct.POLARITY)),
        NEW_CAP in readings,
        NEW_ESR in readings,
        job.is_fitted,
        ReworkAct.LOOKED in job.done,
    )


def new_part_readings(case: CaseFile, job: Job) -> dict[Procedure, Reading]:
    """What was read of the new part since the old one came out, the newest of each procedure."""
    out = job.done.get(ReworkAct.OUT)
    own = case.rows.of_part.get(job.part.id, ())
    return {r.procedure: r for r in own if out and r.procedure in NEW and r.log_id > out.log_id}


def judge_new(job: Job, all_readings: Mapping[Procedure, Reading]) -> Judgement | None:
    """The new part judged as a lifted one, by its own marking; None while nothing was read."""
    as_new = as_capacitor(job)
    if not all_readings or as_new is None:
        return None
    figures = {
        procedure: MeasuredValue(reading.value, True, reading.digit, reading.accuracy)
        for procedure, reading in all_readings.items()
    }
    readings = Readings(figures.get(NEW_CAP), figures.get(NEW_ESR))
    return capacitor_verdicts.judge(as_new, readings, 0, 0.0, None)


def as_capacitor(job: Job) -> Capacitor | None:
    """The new part in the form that the judgement of capacitors takes.

    It is the old one's where none is planned.

    Its list's ESR is what a fresh one shows; without it the low-impedance table is.
    """
    if job.new:
        build = job.new.build
        if not isinstance(build, Build):
            return None
        return Capacitor(
            build.family,
            build.farad,
            build.volt,
            grade=Grade.LOW,
            fresh_esr_ohm=build.esr_ohm,
        )
    return capacitor.capacitor(job.part) if capacitor.is_judged(job.part) else None


def expected_new(case: CaseFile, part: Part, procedure: Procedure) -> str:
    """What a new part is to show at a position, in words; "" where that is not known."""
    job = next((job for job in jobs(case) if job.part.id == part.id), None)
    as_new = as_capacitor(job) if job else None
    if as_new is None:
        return ""
    if procedure is NEW_CAP:
        return f"about {show(as_new.farad, Unit.FARAD, 4)}"
    return f"below {show(as_new.good_esr_ohm, Unit.OHM)}" if as_new.good_esr_ohm else ""


def new_points(job: Job) -> list[Point]:
    """What is read at the new part, in the hand."""
    if job.part.kind is not capacitor.KIND:
        return []
    return [
        Point(job.part.point(a.procedure).target, a.procedure) for a in capacitor.new_asks(job.part)
    ]


class BeforeAfter(Struct, frozen=True):
    """A rail's ohms to ground on one side, before the rework and after the last part went in."""

    rail: str
    side: Condition
    before: str
    after: str
    point: Point


@facet
def grounds_around(case: CaseFile) -> tuple[BeforeAfter, ...]:
    """Every rail to ground before and after the rework."""
    steps = case.rows.active(REWORK_STEPS)
    begun = steps[0].log_id if steps else 0
    fitted = [s.log_id for s in steps if s.step == ReworkAct.FITTED.code]
    ended = max(fitted, default=0)
    grounds_around = []
    for rail in case.sheet.rails:
        ever = [
            r
            for r in case.rows.ever.get(rail.key, ())
            if r.procedure is GROUND and case.rows.aside.get(r.id, SUPERSEDED) == SUPERSEDED
        ]
        for side in SIDES:
            own = [r for r in ever if r.condition is side]
            before = [r for r in own if not begun or r.log_id < begun]
            after = [r for r in own if ended and r.log_id > ended and r.id not in case.rows.aside]
            grounds_around.append(
                BeforeAfter(
                    rail.key,
                    side,
                    show_reading(before[-1]) if before else "",
                    show_reading(after[-1]) if after else "",
                    Point(rail_target(rail.key), GROUND, side),
                )
            )
    return tuple(grounds_around)


@facet
def after_done(case: CaseFile) -> dict[After, ReworkStep]:
    """What was done to the whole board since the last part went in."""
    ended = max(
        (s.log_id for s in case.rows.active(REWORK_STEPS) if s.step == ReworkAct.FITTED.code),
        default=0,
    )
    return {
        AFTER[s.step]: s
        for s in case.rows.active(REWORK_STEPS)
        if s.part_id is None and s.log_id > ended
    }


def in_work(jobs: Sequence[Job]) -> Job | None:
    """The position where something was begun and no new part is fitted."""
    return next((job for job in jobs if job.is_begun), None)
