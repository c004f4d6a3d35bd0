"""The facet of parts: what is known of each, judged from its standing readings and looks."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import TypeVar

from msgspec import Struct
from msgspec.structs import replace

from hale_rail import clock
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.parts.banks import judge_node
from hale_rail.case.parts.nodes import Fresh, Node, PartFacts
from hale_rail.case.rails.rails import rails_right, rails_with_volts
from hale_rail.case.rows import Rows
from hale_rail.case.void_readings import void
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Judgement, Reason, Verdict
from hale_rail.core.procedures import FRESH_CAP, FRESH_ESR
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.looks import LOOKS
from hale_rail.store.readings import Reading

T = TypeVar("T")
_FRESH = (FRESH_CAP, FRESH_ESR)


@facet
def parts(case: CaseFile) -> dict[int, PartFacts]:
    """Every part's facts by its id, in power order.

    A bank whose rows did not change since an earlier state of the case is not judged again.
    """
    fresh, right, year = _fresh(case), rails_right(case), clock.this_year()
    rows = case.rows
    of_all = (
        rows.sheet_version, fresh, right, rails_with_volts(case), year, rows.meters, void(case),
    )  # fmt: skip
    before: _Before | None = case.kept.get("parts")
    is_alike = before is not None and before.of_all == of_all
    part_facts: dict[int, PartFacts] = dict(before.by_part) if before and is_alike else {}
    anew = _changed(before.rows, rows) if before and is_alike else None
    for group in case.sheet.banks:
        if anew is not None and anew.isdisjoint([part.id for part in group]):
            continue
        given = _follows_from(case, group, fresh, right, year)
        judge = partial(_judge, case, group, fresh, right, year)
        judged = case.keep(("node", group[0].id), given, judge)
        part_facts.update((facts.part.id, facts) for facts in judged)
    if not is_alike:
        part_facts = {part.id: part_facts[part.id] for part in case.sheet.in_power_order}
    case.kept["parts"] = _Before(of_all, rows, part_facts)
    return part_facts


def judged_by(case: CaseFile, reading: Reading) -> Judgement:
    """What a part's readings say that were taken as this one was: by its procedure, and where
    that alone is no proof, by all of its condition if they are one. Looks are left aside.
    """
    group = next(g for g in case.sheet.banks if any(p.id == reading.target.part_id for p in g))
    fresh, right, year = _fresh(case), rails_right(case), clock.this_year()
    alike = {
        i: tuple(r for r in own if r.condition is reading.condition)
        for i, own in ((part.id, case.rows.of_part.get(part.id, ())) for part in group)
    }
    of_procedure = {
        i: tuple(r for r in own if r.procedure is reading.procedure) for i, own in alike.items()
    }
    judged = []
    for taken in (of_procedure, alike):
        node = _node(case, group, taken, (fresh, right, year))
        known = {facts.part.id: facts.judgement for facts in judge_node(replace(node, seen={}))}
        judged.append(known[reading.target.part_id or 0])
        if judged[-1].verdict is not Verdict.UNPROVEN:
            return judged[-1]
    return next((one for one in judged if one.reasons), judged[-1])


class _Before(Struct, frozen=True):
    """An earlier state's facts, what all of them followed from, and the rows each followed from."""

    of_all: tuple[object, ...]
    rows: Rows
    by_part: dict[int, PartFacts]


def of_each(
    case: CaseFile, name: str, of_all: object, make: Callable[[PartFacts], T]
) -> Mapping[int, T]:
    """What `make` gives of each part's facts, by the part's id and in power order.

    Under its name it is kept, and made again for the parts whose facts changed, or for all where
    `of_all` did, what it follows from besides.
    """
    known = parts(case)
    before, facts, kept = case.kept.get(name, (None, {}, {}))
    is_alike = before == of_all and facts.keys() == known.keys()
    anew = news(case, facts) if is_alike else known
    made: dict[int, T] = {**(kept if is_alike else {}), **{i: make(known[i]) for i in anew}}
    case.kept[name] = of_all, known, made
    return made


def _changed(then: Rows, now: Rows) -> set[int]:
    """Ids of the parts that have other rows than they had."""
    return {
        *changed_keys(then.of_part, now.of_part),
        *changed_keys(then.newest(LOOKS), now.newest(LOOKS)),
        *changed_keys(then.newest(PART_DECISIONS), now.newest(PART_DECISIONS)),
    }


def news(case: CaseFile, then: Mapping[int, PartFacts]) -> set[int]:
    """Ids of the parts whose facts are others than they were then."""
    known = parts(case)
    before, now, kept = case.kept.get("news", (None, None, None))
    if before is then and now is known:
        return set(kept)
    news = changed_keys(then, known)
    case.kept["news"] = then, known, news
    return news


def changed_keys(then: Mapping[int, object], now: Mapping[int, object]) -> set[int]:
    """Keys under which something else stands than before; what stayed is the same object."""
    if now is then:
        return set()
    return {key for key, own in now.items() if then.get(key) is not own} | (then.keys() - now)


FreshByKin = Mapping[tuple[object, ...], Fresh]


def _follows_from(
    case: CaseFile,
    group: Sequence[Part],
    fresh: FreshByKin,
    right: frozenset[str],
    year: int,
) -> tuple[object, ...]:
    """All that a node's judgement follows from. Rows that stayed are the same objects."""
    rows, ids = case.rows, [part.id for part in group]
    looks, decisions = rows.newest(LOOKS), rows.newest(PART_DECISIONS)
    return (
        rows.sheet_version,
        [(rows.of_part.get(i), looks.get(i), decisions.get(i)) for i in ids],
        [fresh.get(_kin(p)) for p in group] if fresh else (),
        group[0].line in right,
        group[0].line in rails_with_volts(case),
        year,
        _void_of(case, ids),
    )


def _judge(
    case: CaseFile,
    group: tuple[Part, ...],
    fresh: FreshByKin,
    right: frozenset[str],
    year: int,
) -> tuple[PartFacts, ...]:
    ever = {p.id: case.rows.of_part.get(p.id, ()) for p in group}
    facts = tuple(judge_node(_node(case, group, ever, (fresh, right, year))))
    own_void = _void_of(case, [p.id for p in group])
    return tuple(_telling(one, case.rows, own_void) for one in facts) if own_void else facts


def _node(
    case: CaseFile,
    group: tuple[Part, ...],
    taken: Mapping[int, tuple[Reading, ...]],
    circumstances: tuple[FreshByKin, frozenset[str], int],
) -> Node:
    """A bank with the readings that it is judged by, less those that judge nothing.

    `circumstances`: figures of fresh parts, the rails that are right, and this year.
    """
    fresh, right, year = circumstances
    rows = case.rows
    looks, decisions = rows.newest(LOOKS), rows.newest(PART_DECISIONS)
    decided = {p.id: decisions[p.id].decision for p in group if p.id in decisions}
    fitted = {i: d.log_id for i, d in decided.items() if d.kind is DecisionKind.FITTED}
    own_void = _void_of(case, [p.id for p in group])
    ever = {i: tuple(r for r in own if r.id not in own_void) for i, own in taken.items()}
    return Node(
        parts=group,
        ever=ever if own_void else taken,
        now={i: tuple(r for r in own if r.log_id > fitted.get(i, 0)) for i, own in ever.items()},
        fitted=fitted,
        seen={
            p.id: looks[p.id].codes
            for p in group
            if p.id in looks and looks[p.id].log_id > fitted.get(p.id, 0)
        },
        decisions=decided,
        fresh={p.id: fresh.get(_kin(p), Fresh()) for p in group},
        meters=rows.meters,
        output_right=group[0].line in right,
        this_year=year,
        unit_year=case.sheet.year,
        rail_has_volts=group[0].line in rails_with_volts(case),
        beside={p.id: case.sheet.beside[p.id] for p in group if p.id in case.sheet.beside},
        seen_before=_seen_before(case, fitted),
    )


def _seen_before(case: CaseFile, fitted: Mapping[int, int]) -> dict[int, tuple[str, ...]]:
    """What the newest look found at each part before it was replaced."""
    if not fitted:
        return {}
    return {
        look.part_id: look.codes
        for look in case.rows.all(LOOKS)
        if look.log_id <= fitted.get(look.part_id, 0)
    }


def _void_of(case: CaseFile, ids: Sequence[int]) -> dict[int, str]:
    """The readings of these parts that judge nothing, and why."""
    known = void(case)
    if not known:
        return {}
    own = (r.id for i in ids for r in case.rows.of_part.get(i, ()))
    return {i: known[i] for i in own if i in known}


def _telling(facts: PartFacts, rows: Rows, own_void: Mapping[int, str]) -> PartFacts:
    """The facts with what is told of the readings that judge nothing."""
    told = [
        Reason("void", f"{r.procedure.label} {r.typed}, {own_void[r.id]}: it judges nothing.")
        for r in rows.of_part.get(facts.part.id, ())
        if r.id in own_void
    ]
    judgement = replace(facts.judgement, reasons=(*facts.judgement.reasons, *told))
    return replace(facts, judgement=judgement) if told else facts


def _kin(part: Part) -> tuple[object, ...]:
    """Parts that one fresh part speaks for: same value, voltage and family."""
    return part.value, part.volt, part.family


def _fresh(case: CaseFile) -> FreshByKin:
    """A fresh part's (or data sheet's) figures by kind of part, the newest of each."""
    if case.rows.procedures.isdisjoint(_FRESH):
        return {}
    readings: dict[tuple[object, ...], Fresh] = {}
    last_read = [r for r in case.rows.standing.values() if r.procedure in _FRESH]
    for reading in sorted(last_read, key=lambda r: r.id):
        part = case.sheet.part(reading.target.part_id)
        if part is None or not 0 < reading.value < math.inf:
            continue
        known = readings.get(_kin(part), Fresh())
        if reading.procedure is FRESH_ESR:
            readings[_kin(part)] = replace(known, esr_ohm=reading.value)
        else:
            readings[_kin(part)] = replace(known, farad=reading.value)
    return readings


def standing_failed(case: CaseFile) -> list[PartFacts]:
    """Every part that counts as failed: not replaced, nor kept or left out by decision."""
    return [
        facts
        for facts in parts(case).values()
        if facts.state is PartState.FAILED and not (facts.decision and facts.decision.stands)
    ]


def failed_parts(case: CaseFile) -> list[PartFacts]:
    """Parts other than capacitors that read failed."""
    return [
        facts
        for facts in parts(case).values()
        if facts.state is PartState.FAILED and facts.part.kind is not capacitor.KIND
    ]
