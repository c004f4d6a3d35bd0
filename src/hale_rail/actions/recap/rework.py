"""What is done at the board, step by step, and taken back by strike."""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.actions.change import Change, changing
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.recap.plans import wait_for_plan
from hale_rail.case.recap.rework import (
    Job,
    NewPart,
    jobs,
    judge_new,
    new_part_readings,
    origin_words,
    source_words,
    steps_by_part,
)
from hale_rail.case.safety.energy import energy
from hale_rail.case.words import show_reading
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.quantities import Unit, show_exact
from hale_rail.core.recap.rated_parts import RatedBuild, rated_words
from hale_rail.core.recap.rework import ACTS, AFTER, NOT_MEASURED, ReworkAct
from hale_rail.errors import GuardError, InputError, NotFoundError
from hale_rail.formats.codec import to_text
from hale_rail.store.bad_parts import BAD_PARTS, BadPartRow
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS, PartDecision
from hale_rail.store.readings import READING_STRIKES
from hale_rail.store.rework import REWORK_STEPS, REWORK_STRIKES, ReworkStep

#: how long the plan is waited for when an old part comes out, since the new one is noted then
_PATIENCE_S = 15.0
#: states of a position that is still to be done
_TO_DO = ("todo", "begun")


def step(store: Store, number: str, part_id: int, act: str, at: str | None = None) -> None:
    """Note one thing done at a position; fitting decides that the part is replaced.

    Raises InputError for what is not due there yet, GuardError while the guard stands before it,
    NotFoundError for no such position.
    """
    done = ACTS.get(act)
    if done is None:
        raise InputError(f"A step is {', '.join(a.words for a in ReworkAct)}.")
    case = open_case(store, number)
    if done is ReworkAct.OUT and not wait_for_plan(case, _PATIENCE_S):
        raise InputError("Which new part goes in is still being computed: press again in a moment.")
    all_jobs = jobs(case)  # reading the plan takes long, so it is done before the lock
    job = next((job for job in all_jobs if job.part.id == part_id), None)
    if job is None:
        raise NotFoundError("There is no such position in this rework.")
    whence = (
        (source_words(case, job), origin_words(case, job)) if done is ReworkAct.OUT else ("", "")
    )
    with changing(store, number, at) as change:
        _check_guard(change.file)
        job = replace(job, done=steps_by_part(change.file).get(part_id, {}))
        _check(change.file, job, done)
        _append(change, job, done, whence)


def _check_guard(case: CaseFile) -> None:
    if not energy(case).guard_open:
        raise GuardError("The guard comes first: read the stores, or write why not.")


def _check(case: CaseFile, job: Job, act: ReworkAct) -> None:
    """Raise InputError unless an act is the next one at its position, and the others allow it."""
    ref = job.part.ref
    if act in job.done:
        raise InputError(f"{ref} {act.words} already: strike it out to take it back.")
    if job.is_left_out:
        raise InputError(f"{ref} is left out on purpose: take that back first.")
    if act is not job.next:
        due = job.next.words if job.next else "nothing more"
        raise InputError(f"At {ref} comes first: {due}.")
    if act is ReworkAct.OUT:
        mates = {part.id for part in case.sheet.bank_of(job.part)}
        out = [
            i for i, acts in steps_by_part(case).items() if acts and ReworkAct.FITTED not in acts
        ]
        other = next((part for i in out if i not in mates and (part := case.sheet.part(i))), None)
        if other:
            raise InputError(
                f"{other.ref} is out and its new part is not fitted yet: one position at a time."
            )
    if act is ReworkAct.FITTED:
        judged = judge_new(job, new_part_readings(case, job))
        if judged and judged.verdict is not Verdict.GOOD:
            raise InputError(
                f"The new part for {ref} reads {judged.verdict.value}: take another, and read it."
            )


def take_another(store: Store, number: str, part_id: int, at: str | None = None) -> None:
    """Lay aside a new part that reads bad: its readings are struck, the next one is read.

    The log names the part with its source. Raises InputError for a part that reads good, is not
    read, or is in already; NotFoundError for no such position.
    """
    case = open_case(store, number)
    job = next((job for job in jobs(case) if job.part.id == part_id), None)
    if job is None:
        raise NotFoundError("There is no such position in this rework.")
    source = source_words(case, job)
    with changing(store, number, at) as change:
        job = replace(job, done=steps_by_part(change.file).get(part_id, {}))
        new_readings = new_part_readings(change.file, job)
        judged = judge_new(job, new_readings)
        if judged is None or judged.verdict is Verdict.GOOD or ReworkAct.FITTED in job.done:
            raise InputError(f"Take another for {job.part.ref} only where the new one reads bad.")
        figures = ", ".join(f"{p.short} {show_reading(r)}" for p, r in new_readings.items())
        name = f"{job.new.sku}, {source}" if job.new and source else new_words(job)
        why = f"the new part ({name}) reads {judged.verdict.value}: {figures}"
        log_id = change.log("decision", f"{job.part.ref}: {why}; another is taken")
        sku = job.new.sku if job.new else ""
        read = f"{judged.verdict.value}: {figures}"
        change.append(BAD_PARTS, log_id, BadPartRow(part_id, sku, source or "not known", read))
        measured = job.done.get(ReworkAct.MEASURED)
        if measured:
            change.strike(REWORK_STRIKES, log_id, measured.id, "")
        for reading in new_readings.values():
            log_id = change.log("strike", f"{job.part.ref} {reading.typed}: of the part before")
            change.strike(READING_STRIKES, log_id, reading.id, why)


def _append(change: Change, job: Job, act: ReworkAct, whence: tuple[str, str]) -> None:
    """Note an act; `whence` the source and the origin of the part that is to go in."""
    note = ""
    if act is ReworkAct.OUT and job.new:
        source, origin = whence
        note = to_text(NewPart(job.new.sku, job.new.build, origin, source))
    text = f"{job.part.ref} {act.words}"
    if act is ReworkAct.MEASURED and not new_part_readings(change.file, job):
        text, note = f"{job.part.ref} new part {NOT_MEASURED}", NOT_MEASURED
    log_id = change.log("decision", text)
    change.append(REWORK_STEPS, log_id, ReworkStep(job.part.id, act.code, note))
    if act is ReworkAct.FITTED:
        reason = new_words(job)
        log_id = change.log("decision", f"{job.part.ref} replaced: {reason}")
        kind = DecisionKind.FITTED
        change.append(PART_DECISIONS, log_id, PartDecision(job.part.id, kind, reason))


def new_words(job: Job) -> str:
    """The part that was fitted, as the report tells it."""
    if job.new is None:
        return "by the rework"
    build, origin = job.new.build, f", {job.new.origin}" if job.new.origin else ""
    if isinstance(build, RatedBuild):
        return f"{rated_words(build.ware, build.ratings)}, {job.new.sku}{origin}"
    volt = f" {build.volt:g}\u00a0V" if build.volt else ""
    value = show_exact(build.farad, Unit.FARAD)
    return f"{value}{volt} {build.family.label}, {job.new.sku}{origin}"


def after(store: Store, number: str, what: str, at: str | None = None) -> None:
    """Note what was done to the whole board when the last part was in.

    Raises InputError while a position is still to be done, GuardError while the guard stands there.
    """
    done = AFTER.get(what)
    if done is None:
        raise InputError("Clippings, or the wash.")
    with changing(store, number, at) as change:
        _check_guard(change.file)
        left = [j.part.ref for j in jobs(change.file, with_plan=False) if j.state in _TO_DO]
        if left:
            raise InputError(f"First the positions: {', '.join(left[:4])} are not done.")
        log_id = change.log("decision", f"Board: {done.words}")
        change.append(REWORK_STEPS, log_id, ReworkStep(None, done.code))


def strike(store: Store, number: str, step_id: int) -> None:
    """Take a step back; it stays in the log. Taking back the fitting takes the decision back.

    Raises InputError unless it is the last thing done at its position.
    """
    with changing(store, number) as change:
        steps = change.file.rows.active(REWORK_STEPS)
        step = next((s for s in steps if s.id == step_id), None)
        if step is None:
            raise NotFoundError("There is no such step, or it was struck out already.")
        later = [s for s in steps if s.part_id == step.part_id and s.id > step.id]
        if later and step.part_id is not None:
            raise InputError("Strike the last step of a position first.")
        part = change.file.sheet.part(step.part_id)
        words = (ACTS.get(step.step) or AFTER[step.step]).words
        log_id = change.log("strike", f"{part.ref if part else 'Board'} {words}: not so")
        change.strike(REWORK_STRIKES, log_id, step.id, "")
        if part and step.step == ReworkAct.FITTED.code:
            log_id = change.log("decision", f"{part.ref} back to as it was")
            change.append(PART_DECISIONS, log_id, PartDecision(part.id, DecisionKind.UNDONE, ""))
