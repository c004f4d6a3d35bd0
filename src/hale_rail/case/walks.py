"""The order of tests: which points each check walks, and which of them are done."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import chain

from msgspec.structs import replace

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import news, parts
from hale_rail.case.safety.energy import energy
from hale_rail.case.shorts.grounds import REVERSED, SIDES
from hale_rail.case.void_readings import void
from hale_rail.core.parts.kinds import capacitor, transistor
from hale_rail.core.parts.kinds.conductors import ASKED_BACK
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import (
    ACT,
    CAPACITANCE,
    ESR,
    GROUND,
    OHMS,
    STORE,
    VOLTS,
    Condition,
    Need,
    Point,
    Procedure,
)
from hale_rail.core.safety.energy import StoreState
from hale_rail.core.targets import Pair, Place, rail_target

_OF_CAPACITORS = (ESR, CAPACITANCE)


@facet
def cold_points(case: CaseFile) -> tuple[Point, ...]:
    """Everything but capacitors, as power passes it; then lifted where that hid the answer."""
    walked = [(part,) for part in case.sheet.in_power_order if part.kind.walks]
    return _in_two_rounds(_rounds(case, "cold rounds", walked, _of_part))


#: the points of something in circuit, and those with it lifted
Rounds = tuple[Sequence[Point], Sequence[Point]]


def _in_two_rounds(walked: Sequence[Rounds]) -> tuple[Point, ...]:
    """Everything in circuit first; what is lifted comes when all of that is read."""
    in_circuit, lifted = zip(*walked, strict=True) if walked else ((), ())
    return (*chain.from_iterable(in_circuit), *chain.from_iterable(lifted))


def _rounds(
    case: CaseFile,
    name: str,
    groups: Sequence[tuple[Part, ...]],
    make: Callable[[Sequence[PartFacts]], Rounds],
) -> Sequence[Rounds]:
    """The rounds of each group, made again where the facts of one of its parts are others."""
    known = parts(case)
    before, rounds = case.kept.get(name, ({}, {}))
    anew = news(case, before)
    made = {}
    for group in groups:
        first = group[0].id
        is_known = first in rounds and anew.isdisjoint([part.id for part in group])
        made[first] = rounds[first] if is_known else make([known[part.id] for part in group])
    case.kept[name] = known, made
    return tuple(made.values())


def _of_part(group: Sequence[PartFacts]) -> Rounds:
    facts = group[0]
    part = facts.part
    asks = part.kind.asks(part)
    in_circuit = [_as_it_is(facts, a.procedure, a.pair) for a in asks]
    if wants_base_ohm(facts):
        return in_circuit, [part.point(OHMS, Condition.LIFTED, transistor.BASE)]
    if facts.wants_lift:
        lifted = [part.point(a.procedure, Condition.LIFTED, a.pair) for a in asks]
        return in_circuit, [point for point in lifted if point not in in_circuit]
    return in_circuit, []


def is_lifted(facts: PartFacts) -> bool:
    """True from a part's first lifted reading until it is read in circuit again."""
    known = (Condition.LIFTED, Condition.IN_CIRCUIT)
    conditions = [r.condition for r in facts.readings if r.condition in known]
    return bool(conditions) and conditions[-1] is Condition.LIFTED


def _as_it_is(facts: PartFacts, procedure: Procedure, pair: Pair | None = None) -> Point:
    """The point of a procedure as the part stands now: what is lifted is read lifted."""
    point = facts.part.point(procedure, Condition.IN_CIRCUIT, pair)
    if not is_lifted(facts) or any(r.point == point for r in facts.readings):
        return point
    return facts.part.point(procedure, Condition.LIFTED, pair)


def wants_base_ohm(facts: PartFacts) -> bool:
    """True when ohms across base and emitter would tell a resistor inside from a short."""
    return any(r.code == transistor.BASE_OPEN_QUESTION for r in facts.judgement.reasons)


@facet
def capacitor_points(case: CaseFile) -> tuple[Point, ...]:
    """Capacitors as power passes them, banks once; when all are read, the fewest legs to lift."""
    walked = [group for group in case.sheet.banks if group[0].kind is capacitor.KIND]
    return _in_two_rounds(_rounds(case, "bank rounds", walked, _of_bank))


def _of_bank(facts: Sequence[PartFacts]) -> Rounds:
    return _together(facts), _one_by_one(facts)


def _together(group: Sequence[PartFacts]) -> list[Point]:
    """In circuit: C and ESR for a bank (C is what excludes an open member), else ESR or C."""
    first = _speaker(group)
    usual = [a.procedure for a in first.kind.asks(first) if a.procedure in _OF_CAPACITORS]
    if len(group) == 1:
        return [_as_it_is(group[0], procedure) for procedure in usual[:1]]
    return [first.point(procedure, Condition.IN_CIRCUIT) for procedure in usual]


def _one_by_one(group: Sequence[PartFacts]) -> list[Point]:
    hidden = [f for f in group if f.wants_lift]
    bank = hidden[0].bank if hidden else None
    if bank:
        first = bank.lift_first % len(hidden)
        hidden = [hidden[first], *hidden[:first], *hidden[first + 1 :]]
    return [
        f.part.point(a.procedure, Condition.LIFTED)
        for f in hidden[: bank.legs if bank else None]
        for a in f.part.kind.asks(f.part)
        if a.procedure in _OF_CAPACITORS
    ]


def _speaker(group: Sequence[PartFacts]) -> Part:
    """The member that carries the bank's in-circuit readings: the first not lifted."""
    staying = [f for f in group if not any(r.condition is Condition.LIFTED for r in f.readings)]
    return (staying or list(group))[0].part


@facet
def ground_points(case: CaseFile) -> tuple[Point, ...]:
    """Every rail to ground: attached first, since nothing is unplugged for it, both ways round."""
    return tuple(
        Point(rail_target(rail.key), GROUND, condition)
        for side in SIDES
        for condition in (side, REVERSED[side])
        for rail in case.sheet.rails
    )


def rail_points(case: CaseFile, load: Condition, place: Place = Place.NONE) -> tuple[Point, ...]:
    """Every rail's volts at one load, at a place along its line."""
    return tuple(Point(rail_target(rail.key, place), VOLTS, load) for rail in case.sheet.rails)


@facet
def store_points(case: CaseFile) -> tuple[Point, ...]:
    """The volts across every store, a bank once."""
    return tuple(group[0].point(STORE) for group in case.sheet.store_banks)


def store_before(case: CaseFile, point: Point) -> StoreState | None:
    """The store of a point's line that is to be read before a meter goes on it, or None.

    A written reason stands for stores that were not read, never for one that was read charged.
    """
    if Need.METER_SAFE not in point.procedure.needs:
        return None
    part = case.sheet.part(point.part_id)
    state = energy(case)
    store = state.next_for_meter(part.line if part else point.target.line)
    if store is not None and store.volt is None and state.reason:
        return None
    return store


@facet
def done(case: CaseFile) -> frozenset[str]:
    """Keys of the points where nothing more needs reading.

    Those that were read, and those of parts proven failed. What was read before a new part was
    fitted is read again; a store counts as read when it was read at or below the touch limit since
    power was removed.
    """
    broken = {i for i, facts in parts(case).items() if facts.state is PartState.FAILED}
    settled = {point.key for i in broken for point in _walked(case).get(i, ())}
    state = energy(case)
    charged = {
        part.point(STORE).key
        for part in case.sheet.stores
        if any(s.store == part.id and not s.is_below(state.limit_volt) for s in state.stores)
    }
    judging = void(case)
    void_keys = {key for key, r in case.rows.standing.items() if r.id in judging}
    known = (case.rows.standing.keys() | settled) - charged - void_keys
    return frozenset(known - _of_fuller_banks(case) - asked_back(case) - of_former_parts(case))


@facet
def asked_back(case: CaseFile) -> frozenset[str]:
    """Keys of readings that are asked back: an open switch, which may be off."""
    return frozenset(
        reading.point.key
        for facts in parts(case).values()
        if any(reason.code == ASKED_BACK for reason in facts.judgement.reasons)
        for reading in facts.readings
        if reading.procedure is OHMS
    )


def _of_fuller_banks(case: CaseFile) -> frozenset[str]:
    """Keys of what was read across a bank before a leg of it was lifted, while the rest of it is
    unproven: the rest is another bank, and is read as it now is."""
    result: set[str] = set()
    for group in case.sheet.banks:
        known = [parts(case)[part.id] for part in group] if len(group) > 1 else []
        out = [
            min(r.id for r in facts.readings if r.condition is Condition.LIFTED)
            for facts in known
            if is_lifted(facts)
        ]
        rest = [facts for facts in known if not is_lifted(facts)]
        if not out or not any(facts.state is PartState.UNPROVEN for facts in rest):
            continue
        result |= {
            r.point.key
            for facts in rest
            for r in facts.readings
            if r.condition is Condition.IN_CIRCUIT and r.id < max(out)
        }
    return frozenset(result)


@facet
def of_former_parts(case: CaseFile) -> frozenset[str]:
    """Keys of standing readings taken before the part, or one of its bank, was replaced."""
    fitted = {i: f.decision.log_id for i, f in parts(case).items() if f.decision and f.is_fitted}
    result: set[str] = set()
    for key, reading in case.rows.standing.items() if fitted else ():
        facts = parts(case).get(reading.target.part_id or 0)
        if facts is None or reading.procedure in (STORE, ACT):
            continue
        is_across = reading.condition is Condition.IN_CIRCUIT
        ids = [p.id for p in facts.mates] if is_across and facts.mates else [facts.part.id]
        if reading.log_id <= max(fitted.get(i, 0) for i in ids):
            result.add(key)
    return frozenset(result)


def next_undone(order: Sequence[Point], done_keys: frozenset[str], after: str = "") -> Point | None:
    """The first point of `order` behind `after` (then from the start) that is not done."""
    before, is_behind = None, False
    for point in order:
        if point.key == after:
            is_behind = True
        elif point.key not in done_keys:
            if is_behind or not after:
                return point
            before = before or point
    return before


def walk_place(case: CaseFile, order: Sequence[Point], point: Point) -> int | None:
    """Where a walk stands once a point was read: its own place, else its part's or bank's first."""
    for place, other in enumerate(order):
        if other.key == point.key:
            return place
    facts = parts(case).get(point.part_id or 0)
    ids = {point.part_id, *(mate.id for mate in facts.mates)} if facts else {None}
    for place, other in enumerate(order):
        if other.part_id in ids if facts else other.target == point.target:
            return place
    return None


def following(
    case: CaseFile, order: Sequence[Point], done_keys: frozenset[str], point: Point
) -> Point | None:
    """The next open point of a walk behind the one just read; None where all are read.

    A part that is read lifted out of turn is read out, then the walk goes on in circuit behind it.
    """
    place = walk_place(case, order, point)
    if place is None:
        return next_undone(order, done_keys)
    behind = [other for other in order[place + 1 :] if other.key not in done_keys]
    own = [other for other in behind if other.part_id == point.part_id and point.part_id]
    same = [other for other in own if other.condition is point.condition]
    if point.condition is Condition.LIFTED:
        first = walk_place(case, order, replace(point, condition=Condition.IN_CIRCUIT)) or 0
        same += [
            other
            for other in order[first + 1 :]
            if other.condition is not Condition.LIFTED and other.key not in done_keys
        ]
    return next(iter(same or behind), None) or next_undone(order, done_keys)


@facet
def _walked(case: CaseFile) -> dict[int, list[Point]]:
    """The points of both walks, by part id."""
    points: dict[int, list[Point]] = {}
    for point in (*cold_points(case), *capacitor_points(case)):
        points.setdefault(point.part_id or 0, []).append(point)
    return points


def part_point(case: CaseFile, part: Part) -> Point | None:
    """The next unread point of a part, else its last, else its first; None where none is read."""
    own = _walked(case).get(part.id, [])
    undone = next((point for point in own if point.key not in done(case)), None)
    if undone or own:
        return undone or own[-1]
    asks = part.all_asks
    return part.point(asks[0].procedure, None, asks[0].pair) if asks else None
