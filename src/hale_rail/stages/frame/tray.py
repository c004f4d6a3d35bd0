"""The reading tray: what to probe next, where, how, and what the reading just saved means."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

import hale_rail.stages as stages
from hale_rail.case.file import CaseFile
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import judged_by, parts
from hale_rail.case.safety.energy import energy
from hale_rail.case.subjects import check_point, point_words, subject_of
from hale_rail.case.void_readings import void
from hale_rail.case.walks import (
    following,
    next_undone,
    store_before,
    walk_place,
)
from hale_rail.case.words import counted, show_reading
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Judgement, Reason, Verdict
from hale_rail.core.procedures import STORE, Condition, Need, Point, Procedure, Subject, parse_point
from hale_rail.core.targets import Pair
from hale_rail.errors import InputError, NotFoundError
from hale_rail.stages.stage import Meaning, PageQuery, Stage, is_part_id
from hale_rail.store.readings import Reading

#: a figure longer than this is written smaller
_LONG = 9


class Switch(Struct, frozen=True):
    """One of several ways to read the same thing: where it leads, its word, whether it is on."""

    point_key: str
    word: str
    title: str
    is_on: bool


class SavedReading(Struct, frozen=True):
    """A reading just saved and what it means."""

    reading_id: int
    meaning: Meaning
    where: str
    figure: str

    @property
    def is_long(self) -> bool:
        """True for a figure that is written smaller."""
        return len(self.figure) > _LONG


class Tray(Struct, frozen=True):
    """What the strip at the bottom shows.

    `how`: condition, pins and what to expect; `unit`: what a plain number is read as; `settles_s`:
    how long the reading settles before it counts; `before` and `after`: keys of the neighbours;
    `back`: the point that waits until this store was read; `asks_plug`: volts held, while no
    removal of power is logged; `why_here`: why the walk jumped; `again`: the key of the point that
    was just read; `letters` that are a whole reading, each with its words.
    """

    point: Point
    name: str
    how: str
    unit: str
    settles_s: float
    standing: Reading | None
    procedures: tuple[Switch, ...]
    conditions: tuple[Switch, ...]
    before: str
    after: str
    count: int
    done_count: int
    result: SavedReading | None
    back: Point | None = None
    asks_plug: bool = False
    why_here: str = ""
    again: str = ""
    letters: tuple[tuple[str, str], ...] = ()

    @property
    def is_all_done(self) -> bool:
        """True when every point of the stage is read."""
        return self.count > 0 and self.done_count == self.count

    @property
    def seen_id(self) -> int | None:
        """The reading that a new one may replace at once; None for one that was just saved.

        A number typed on behind the last point would else replace that point's.
        """
        if self.standing is None:
            return None
        is_new = self.result is not None and self.result.reading_id == self.standing.id
        return None if is_new and self.point.procedure.corrects else self.standing.id


def tray_point(case: CaseFile, stage: Stage, query: PageQuery) -> Point | None:
    """The point asked for where this unit has it, else the next unread one, else the first."""
    part = case.sheet.part(int(query.at)) if is_part_id(query.at) else None
    named = stage.part_point(case, part) if part else _named(case, query.at)
    if named:
        return named
    if not stage.has_tray:
        return None
    order = stage.points(case, query)
    better = stage.first(case, order)
    return better or next_undone(order, stage.done(case)) or (order[0] if order else None)


def before_meter(case: CaseFile, stage: Stage, point: Point | None) -> Point | None:
    """The store's volts to be read before a meter goes on a point's line, or None."""
    if point is None or not (stage.is_guarded or stage.meets_stores):
        return None
    store = store_before(case, point)
    part = case.sheet.part(store.store) if store else None
    return part.point(STORE) if part else None


def _named(case: CaseFile, key: str) -> Point | None:
    """The point of a key where this unit has it, and the part can be read so."""
    try:
        point = parse_point(key) if key else None
        if point:
            check_point(case, point)
    except (InputError, NotFoundError):
        return None
    return point


def lay_tray(
    case: CaseFile, stage: Stage, query: PageQuery, point: Point, back: Point | None = None
) -> Tray:
    """The tray of a stage at a point; `back` is what waits for it."""
    order = stage.points(case, query)
    part = case.sheet.part(point.part_id)
    subject = subject_of(case, point)
    keys, done = [p.key for p in order], stage.done(case)
    saved = case.rows.readings.get(query.saved or 0)
    return Tray(
        point=point,
        name=subject.name,
        how=_how(case, point, part, subject),
        unit=_unit(point.procedure),
        settles_s=point.procedure.settles_s,
        standing=case.rows.standing.get(point.key),
        procedures=_further(case, stage, point) or _procedures(stage, point, part),
        conditions=_conditions(point),
        before=_neighbour(keys, point.key, -1),
        after=_neighbour(keys, point.key, 1),
        count=len(order),
        done_count=sum(key in done for key in keys),
        result=result_of(case, query.saved),
        back=back,
        asks_plug=point.procedure is STORE and not energy(case).is_off,
        why_here="" if back or stage.leads else _why_here(case, order, point, query.saved),
        again=saved.point.key if saved else "",
        letters=() if subject.nominal_v is not None else point.procedure.letters,
    )


def _how(case: CaseFile, point: Point, part: Part | None, subject: Subject) -> str:
    """How the point is taken, and what to expect: `in circuit, whole bank of 3 · expect …`."""
    words = [point.condition.words]
    if point.target.pair:
        words.append(point.target.pair.words)
    facts = parts(case).get(part.id) if part else None
    if facts and facts.bank and point.condition is Condition.IN_CIRCUIT:
        words.append(f"whole bank of {len(facts.mates)}")
    expected = point.procedure.expect(point.condition, subject)
    words.append(subject.way)
    way = ", ".join(word for word in words if word)
    return " · ".join(w for w in (way, f"expect {expected}" if expected else "") if w)


def _procedures(stage: Stage, point: Point, part: Part | None) -> tuple[Switch, ...]:
    """What else can be read at the part; while it is made safe, only volts."""
    if part is None or not stage.is_guarded:
        return ()
    switches: dict[Procedure, Switch] = {}
    for ask in part.all_asks:
        if ask.procedure in switches:
            continue
        is_on = ask.procedure is point.procedure
        condition = _kept_condition(point, ask.procedure)
        there = point if is_on else part.point(ask.procedure, condition, ask.pair)
        switches[ask.procedure] = Switch(there.key, ask.procedure.short, ask.procedure.label, is_on)
    return tuple(switches.values()) if len(switches) > 1 else ()


def _unit(procedure: Procedure) -> str:
    """What a plain number is read as; nothing where no number is asked for."""
    return "" if procedure.shown and not procedure.letters else procedure.plain_symbol


def _further(case: CaseFile, stage: Stage, point: Point) -> tuple[Switch, ...]:
    """What else the stage has read at a point, where it says so."""
    further = stage.switches(case, point)
    if len(further) < 2:
        return ()
    return tuple(
        Switch(
            other.key,
            other.procedure.short + (f" to {other.target.minus}" if other.target.minus else ""),
            point_words(case, other),
            other.key == point.key,
        )
        for other in further
    )


def _kept_condition(point: Point, procedure: Procedure) -> Condition | None:
    return point.condition if point.condition in procedure.conditions else None


def _conditions(point: Point) -> tuple[Switch, ...]:
    if len(point.procedure.conditions) < 2:
        return ()
    return tuple(
        Switch(
            Point(point.target, point.procedure, condition).key,
            condition.words,
            condition.words,
            condition is point.condition,
        )
        for condition in point.procedure.conditions
    )


def _neighbour(keys: Sequence[str], key: str, step: int) -> str:
    """The point before or after, round and round; the first when the tray is at none of them."""
    if not keys:
        return ""
    if key not in keys:
        return keys[0]
    return keys[(keys.index(key) + step) % len(keys)]


def after_saving(case: CaseFile, stage: Stage, point: Point) -> Point | None:
    """Where the tray goes after a reading: the next unread point of the stage, else it stays.

    None while what comes next is still being computed, and on a page without points of its own.
    """
    query = PageQuery(at=point.key)
    if stage.is_pending(case, query):
        return None
    order = stage.points(case, query)
    stays = point if order else None
    if stage.leads:
        return stage.first(case, order) or stays
    return following(case, order, stage.done(case), point) or stays


def _why_here(case: CaseFile, order: Sequence[Point], point: Point, saved: int | None) -> str:
    """Why the tray jumped to its point after the reading just saved; "" where it did not."""
    reading = case.rows.readings.get(saved or 0)
    keys = [other.key for other in order]
    if reading is None or point.key not in keys or point.key == reading.point.key:
        return ""
    was, now = walk_place(case, order, reading.point), keys.index(point.key)
    if was is None:
        return "Back on this view’s list."
    if point.condition is Condition.LIFTED and order[was].condition is not Condition.LIFTED:
        return "All that can be read in circuit here is read. The rest needs a leg lifted."
    between = order[was + 1 : now]
    if now < was:
        return "Back: this one was passed over."
    if any(other.part_id != reading.target.part_id for other in between):
        return f"{counted(len(between), 'point')} passed: read already."
    return ""


def result_of(case: CaseFile, reading_id: int | None) -> SavedReading | None:
    """A reading that stands and what it means, for the tray."""
    reading = case.rows.readings.get(reading_id or 0)
    if reading is None or reading.id in case.rows.aside:
        return None
    where = point_words(case, reading.point)
    return SavedReading(reading.id, meaning_of(case, reading), where, show_reading(reading))


def meaning_of(case: CaseFile, reading: Reading) -> Meaning:
    """What a reading says: by the stage that knows its procedure, else by its part's judgement."""
    for stage in (*stages.STAGES, *stages.BESIDE):
        says = stage.meanings.get(reading.procedure.code)
        if says:
            return says(case, reading)
    facts = parts(case).get(reading.target.part_id or 0)
    if facts is None:
        return Meaning.noted()
    own = judged_by(case, reading)
    said = _said_by(facts, own, reading)
    whole = facts.judgement
    is_same = said.word in (whole.verdict.words, "noted") or reading.id in void(case)
    if is_same or facts.state in (PartState.UNSEEN, PartState.REPLACED):
        return said
    why = whole.reasons[0].text if whole.reasons else ""
    return replace(said, text=f"{said.text} {facts.part.ref} in all: {whole.verdict.words}. {why}")


def _said_by(facts: PartFacts, own: Judgement, reading: Reading) -> Meaning:
    """What a part's readings in the condition of the one just made say, about its own pins."""
    if reading.target.pair and facts.judgement.verdict is not Verdict.GOOD:
        return _of_pins(own.reasons, reading.target.pair, _sound_words(facts.part, reading))
    first = own.reasons[0].sentence if own.reasons else ""
    return Meaning(own.verdict.shape, own.verdict.words, first)


def _sound_words(part: Part, reading: Reading) -> str:
    """What a part of several pairs reads there if it is sound: `Sound: 0.45 to 0.75 V.`"""
    if len(part.kind.pairs) < 2:
        return ""
    ask = Ask(reading.procedure, reading.target.pair)
    words = part.kind.expect(part, ask, reading.condition)
    return f"Sound: {words}." if words else ""


def _of_pins(reasons: Sequence[Reason], pair: Pair, sound: str) -> Meaning:
    """What is said of the two pins just read; of sound ones, how far the part is."""
    own = next((r for r in reasons if r.pair in (pair, pair.turned)), None)
    if own:
        verdict = own.argues or Verdict.UNPROVEN
        return Meaning(verdict.shape, verdict.words, own.sentence)
    rest = next((r.sentence for r in reasons if r.pair is None), "")
    return Meaning.noted(f"{sound} {rest}".strip())


def is_refused(case: CaseFile, stage: Stage, point: Point | None) -> bool:
    """True where a page without a guard of its own asks for what only a dead unit allows."""
    if point is None or stage.is_guarded or not stage.has_tray:
        return False
    return Need.TOUCH_SAFE in point.procedure.needs and not energy(case).guard_open


def needs_guard(case: CaseFile, stage: Stage) -> bool:
    """True while the guard stands before a stage."""
    return stage.is_guarded and not energy(case).guard_open
