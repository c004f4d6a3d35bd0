"""The facet of first power: the plan, the steps as they were walked, and what stops it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from hale_rail.case import worker
from hale_rail.case.behind.apart import holding_power
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.history import entries
from hale_rail.case.parts.parts import parts, standing_failed
from hale_rail.case.rails.rails import rail_reading
from hale_rail.case.recap.rework import jobs
from hale_rail.case.shorts.grounds import grounds
from hale_rail.case.worker import Analysis, AnalysisState, Progress
from hale_rail.case.workshop.workshop import ready_loads, resistors
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import bridge, fuse, mosfet, transistor
from hale_rail.core.parts.states import PartState
from hale_rail.core.power.arrangements import Piece
from hale_rail.core.power.dummies import Dummies, LampLoad, Wanted, dummies, lamp_load
from hale_rail.core.power.plan import (
    LIMITERS,
    STOPS,
    USUAL_SHARE,
    Limit,
    PlanStep,
    expected_draw,
    input_watts,
    limit,
    steps,
    usual_limiter,
    wanted_amps,
)
from hale_rail.core.power.ready_loads import ReadyLoad
from hale_rail.core.procedures import VOLTS
from hale_rail.core.rails.judge import RailJudgement, RailVerdict, judge
from hale_rail.core.rails.patterns import patterns
from hale_rail.core.recap.needs import Role
from hale_rail.core.recap.rework import ReworkAct
from hale_rail.core.supply.sheet import TRUNK, Rail
from hale_rail.errors import InputError
from hale_rail.formats.codec import plain, record_of
from hale_rail.formats.workshop.dummies_csv import piece_of
from hale_rail.store.append_only import fields_of
from hale_rail.store.power_steps import POWER_CHOICES, POWER_STEPS, PowerStep
from hale_rail.store.readings import Reading

#: the workshop's mains where the sheet does not say
_MAINS_V = 230.0
_VERSION = 3


class Chosen(Struct, frozen=True):
    """What is chosen for first power: limiter, shares, volts and watts, as numbers."""

    body: Mapping[str, Any]

    def number(self, name: str) -> float | None:
        """A number that was chosen, or None."""
        value = self.body.get(name)
        return float(value) if value is not None else None

    @property
    def share(self) -> float:
        """Dummies as a share of full load, where the sheet has no minimum."""
        return self.number("share") or USUAL_SHARE


class StepRead(Struct, frozen=True):
    """A rail's newest reading of a step, judged."""

    rail: Rail
    reading: Reading
    judgement: RailJudgement


class Walked(Struct, frozen=True):
    """A step as it is now: `done`, `live`, `stopped`, `next` or `later`, and what was read in it.

    `stop`: the stop condition's code and what was seen, once power was removed for it.
    """

    step: PlanStep
    state: str
    read: tuple[StepRead, ...]
    stop: tuple[str, str] | None
    began_at: str = ""


class Alarm(Struct, frozen=True):
    """A stop condition that the readings of the live step meet."""

    code: str
    text: str
    rails: tuple[str, ...]


@facet
def chosen(case: CaseFile) -> Chosen:
    """The choices as they are now."""
    return Chosen(fields_of(case.rows.last(POWER_CHOICES)))


@facet
def limit_of(case: CaseFile) -> Limit:
    """What limits the current."""
    picked = chosen(case)
    limiter = LIMITERS.get(str(picked.body.get("limiter", "")), usual_limiter(case.sheet.topology))
    draw = picked.number("draw_a") or expected_draw(case.sheet, picked.number("supply_v"))
    mains = case.sheet.mains_v or _MAINS_V
    return limit(case.sheet, limiter, mains, draw, input_watts(case.sheet))


@facet
def walked(case: CaseFile) -> tuple[Walked, ...]:
    """Every step of the plan in order, with what happened in it."""
    walks: list[Walked] = []
    is_open = True
    for step in steps(case.sheet):
        own = [event for event in case.rows.all(POWER_STEPS) if event.step == step.key]
        state = _state(own)
        if state == "open":
            state = "next" if is_open else "later"
        if state != "done":
            is_open = False
        stop = own[-1].stop if own else None
        began = [event for event in own if event.what == "begun"]
        walks.append(
            Walked(step, state, _read(case, step, own), stop, began[-1].at if began else "")
        )
    return tuple(walks)


def _state(own: Sequence[PowerStep]) -> str:
    last = own[-1].what if own else ""
    return {"begun": "live", "done": "done", "stopped": "stopped"}.get(last, "open")


def _read(case: CaseFile, step: PlanStep, own: Sequence[PowerStep]) -> tuple[StepRead, ...]:
    """The newest volts of each rail between the step's last beginning and its end."""
    began = max((event.log_id for event in own if event.what == "begun"), default=0)
    if not began:
        return ()
    ended = min((e.log_id for e in own if e.log_id > began), default=None)
    result = []
    for rail in case.sheet.rails:
        ever = [
            r
            for r in case.rows.ever.get(rail.key, ())
            if r.procedure is VOLTS
            and r.condition is step.load
            and r.log_id > began
            and (ended is None or r.log_id < ended)
            and case.rows.aside.get(r.id, "superseded") == "superseded"
        ]
        if ever:
            judged = judge(rail_reading(case, rail, ever[-1]), case.tolerance)
            result.append(StepRead(rail, ever[-1], judged))
    return tuple(result)


@facet
def current(case: CaseFile) -> Walked | None:
    """The step in hand: live, stopped, or the next; None when all are done."""
    return next((w for w in walked(case) if w.state != "done"), None)


@facet
def alarm(case: CaseFile) -> Alarm | None:
    """The stop condition that the live step's readings meet, the first; None where none is."""
    here = current(case)
    if here is None or here.state != "live":
        return None
    readings = [rail_reading(case, read.rail, read.reading) for read in here.read]
    for pattern in patterns(readings, case.tolerance):
        if pattern.urgent:
            return Alarm(pattern.code, pattern.text, pattern.rails)
    for read in here.read:
        if read.judgement.verdict is RailVerdict.FAIL and read.judgement.advice:
            text = f"{read.rail.key} stands at {read.judgement.text}."
            return Alarm("gross", text, (read.rail.key,))
    return None


@facet
def in_the_way(case: CaseFile) -> tuple[str, ...]:
    """Why no power may come yet: failed parts, shorted rails, earth wires and shields off."""
    failed = [facts.part.ref for facts in standing_failed(case)]
    result = []
    if failed:
        is_are = "is" if len(failed) == 1 else "are"
        result.append(f"{', '.join(failed)} {is_are} failed and not replaced.")
    short = [g.rail.key for g in grounds(case) if any(s.is_low for s in g.sides.values())]
    if short:
        result.append(f"{', '.join(short)}: to ground a short, or nearly. Find it first.")
    off = holding_power(case)
    if off:
        result.append(f"Not back since it was taken apart: {'; '.join(one.words for one in off)}.")
    return tuple(result)


#: kinds of the mains side that are read before power, beside the bulk capacitor
_POLAR = (Family.ALUMINIUM, Family.TANTALUM, Family.POLYMER)
#: kinds of log entries after which more may be unread
_UNREADS = ("strike", "parts", "sheet")
_READ_FIRST = (fuse.KIND, bridge.KIND, transistor.KIND, mosfet.KIND)


@facet
def unread_before_power(case: CaseFile) -> tuple[str, ...]:
    """What is unread of what is read before power comes: by part, by rail, after rework.

    Nothing while the reason stands that was written when an earlier step was begun.
    """
    unread_before_power = _unread(case)
    return () if unread_before_power and _reason_stands(case) else unread_before_power


def _reason_stands(case: CaseFile) -> bool:
    """True from a step that was begun for a reason until something more may be unread: a stop, a
    new part, a reading struck, a change of the sheet."""
    steps = case.rows.all(POWER_STEPS)
    written = max((s.log_id for s in steps if s.what == "begun" and s.note), default=0)
    if not written:
        return False
    later = [s.log_id for s in steps if s.what == "stopped"]
    later += [f.decision.log_id for f in parts(case).values() if f.decision and f.is_fitted]
    later += [entry.id for entry in entries(case) if entry.kind in _UNREADS]
    return written > max(later, default=0)


def _unread(case: CaseFile) -> tuple[str, ...]:
    known = parts(case)
    bare = (PartState.UNSEEN, PartState.REPLACED)
    first = [
        facts.part.ref
        for facts in known.values()
        if facts.part.line == TRUNK
        and (facts.part.kind in _READ_FIRST or facts.part.role == Role.BULK.code)
        and facts.state in bare
        and not any(r.procedure.is_of_health for r in facts.readings)
    ]
    rails = [
        g.rail.key for g in grounds(case) if not any(side.judgement for side in g.sides.values())
    ]
    unread = [f"{', '.join(first)}"] if first else []
    unread += [f"{', '.join(rails)} to ground"] if rails else []
    return (*unread, *_polarity_unchecked(case))


def _polarity_unchecked(case: CaseFile) -> tuple[str, ...]:
    """Parts that were fitted in the walk without their polarity asserted."""
    refs = [
        job.part.ref
        for job in jobs(case, with_plan=False)
        if job.is_fitted
        and job.done
        and job.family in _POLAR
        and ReworkAct.POLARITY not in job.done
    ]
    return (f"the polarity of {', '.join(refs)}",) if refs else ()


def loads_of(case: CaseFile) -> AnalysisState:
    """The dummy loads, or how far their search is; no facet: the resistors are the workshop's."""
    share = chosen(case).share
    rails = tuple(
        Wanted(rail.nominal_v, amps)
        for rail in case.sheet.rails
        if (amps := wanted_amps(rail, share)) is not None
    )
    stock = [piece_of(resistor) for resistor in resistors(case.store)]
    pieces = tuple(piece for piece in stock if piece.qty)
    wanted = DummyInputs(rails, pieces or None, tuple(ready_loads(case.store)))
    return worker.ask(case.store, DUMMIES, plain(wanted))


class DummyInputs(Struct, frozen=True):
    """What dummy loads follow from: the rails, the resistors at hand (None: any of E12), loads."""

    rails: tuple[Wanted, ...]
    stock: tuple[Piece, ...] | None
    ready: tuple[ReadyLoad, ...]


def _compute(inputs: Any, progress: Progress) -> Dummies:
    progress(0.1)
    wanted = record_of(inputs, DummyInputs)
    return dummies(wanted.rails, wanted.stock, wanted.ready)


DUMMIES = Analysis("dummies", _VERSION, _compute, Dummies)


def lamps_of(case: CaseFile) -> dict[str, LampLoad | str]:
    """A lamp of the chosen volts and watts as a load, by rail's key; why not, where it is none."""
    picked = chosen(case)
    volt, watt = picked.number("load_lamp_v"), picked.number("load_lamp_w")
    if not volt or not watt:
        return {}
    loads: dict[str, LampLoad | str] = {}
    for rail in case.sheet.rails:
        try:
            loads[rail.key] = lamp_load(rail.nominal_v, volt, watt)
        except InputError as error:
            loads[rail.key] = str(error)
    return loads


def stop_text(code: str) -> str:
    """A stop condition's code as one says it."""
    told = STOPS.get(code)
    return told.words if told else {
        "over-voltage": "A rail is too high",
        "minus5-missing": "−5 V is missing while +12 V is there",
        "guard-missing": "A rail that guards another is missing",
        "gross": "A rail runs away",
    }.get(code, "Stopped")  # fmt: skip
