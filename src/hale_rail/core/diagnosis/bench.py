"""The tests at this unit: the parts that each is about, its points, and what each would show.

Source: docs/formulas.md, “Where to look next”.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any

from hale_rail.core.arrays import Floats, np
from hale_rail.core.diagnosis.blocks.block import UnitSheet
from hale_rail.core.diagnosis.effects import NOISE, Effect
from hale_rail.core.diagnosis.faults import ADAPTER, FEEDBACK, SELECTOR, Fault, side_of
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.diagnosis.views import View, Views
from hale_rail.core.parts.kinds import board, capacitor, inlet, regulator, varistor
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.procedures import (
    CAPACITANCE,
    CONDITIONS,
    DIODE,
    ESR,
    GROUND,
    OHMS,
    VOLTS,
    Condition,
    Point,
)
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.core.targets import Place, rail_target

OF_PARTS, OF_LOOKS = "part", "look"
#: how often a test by hand finds what is not there
_BY_CHANCE = 0.006
Shares = Mapping[str, float] | None


def parts_of(unit: UnitSheet, test: BenchTest) -> tuple[Part, ...]:
    """The parts that a test is about, in the order in which power passes them."""
    if test.reads not in (OF_PARTS, OF_LOOKS):
        return ()
    if test.id not in unit.of_tests:
        unit.of_tests[test.id] = tuple(_meant(unit, test.points))
    return unit.of_tests[test.id]


def _meant(unit: UnitSheet, points: Mapping[str, Any]) -> Iterator[Part]:
    side, line = points.get("side"), points.get("line")
    is_among = _AMONG.get(points.get("among", ""))
    wanted = {*points.get("kind", "").split(), *points.get("role", "").split()}
    for part in unit.sheet.in_power_order:
        if side not in (None, side_of(part)) or line not in (None, part.line):
            continue
        if is_among(part) if is_among else not wanted.isdisjoint(unit.tokens[part.id]):
            yield part


def _is_suppressor(part: Part) -> bool:
    family = part.family
    is_safety = bool(part.safety_class) or (family is not None and family.is_suppressor)
    return is_safety or part.kind is varistor.KIND


def _is_output(part: Part) -> bool:
    return part.kind is capacitor.KIND and side_of(part) == "output" and not part.board


_AMONG: Mapping[str, Callable[[Part], bool]] = {
    "suppressor": _is_suppressor,
    "wet": lambda part: part.family is not None and part.family.is_wet,
    "output": _is_output,
    "any": lambda part: part.kind not in (inlet.KIND, board.KIND),
}


def has_subject(unit: UnitSheet, test: BenchTest) -> bool:
    """True for a test that this unit can be asked."""
    if test.reads in (OF_PARTS, OF_LOOKS):
        return bool(parts_of(unit, test))
    return test.reads != "output" or bool(held_rails(unit))


def held_rails(unit: UnitSheet) -> tuple[str, ...]:
    """Keys of the rails with a regulator of their own."""
    return tuple(
        rail.key
        for rail in unit.sheet.rails
        if any(p.kind is regulator.KIND for p in unit.sheet.on_line(rail.key))
    )


def points_of(unit: UnitSheet, test: BenchTest, parts: Iterable[Part]) -> tuple[Point, ...]:
    """The points that answer a test, of these of its parts; none where eye or hand does."""
    keys = [rail.key for rail in unit.sheet.rails]
    if test.reads == "ground":
        side = CONDITIONS[test.points["ground"]]
        return tuple(Point(rail_target(key), GROUND, side) for key in keys)
    if test.reads in ("rails", "output"):
        keys = keys if test.reads == "rails" else list(held_rails(unit))
        return tuple(Point(rail_target(key), VOLTS, Condition.DUMMY) for key in keys)
    if test.reads == "harness":
        places = (Place.SUPPLY, Place.FAR)
        return tuple(
            Point(rail_target(key, place), VOLTS, Condition.MACHINE)
            for key in keys for place in places
        )  # fmt: skip
    if test.reads != OF_PARTS:
        return ()
    points: dict[str, Point] = {}
    for part in parts:
        for point in points_at(unit, test, part):
            points[point.key] = point
    return tuple(points.values())


def points_at(unit: UnitSheet, test: BenchTest, part: Part) -> list[Point]:
    """What a test reads at one part: at its bank's first in circuit, at itself lifted."""
    condition = Condition.LIFTED if test.is_lift else Condition.IN_CIRCUIT
    bank = unit.sheet.bank_of(part)
    subject = part if test.is_lift else bank[0]
    return [
        subject.point(ask.procedure, condition, ask.pair)
        for ask in _asks(unit, test.points["ask"], subject)
    ]


def _asks(unit: UnitSheet, wanted: str, part: Part) -> list[Ask]:
    """What is read of a part, by the word for it in the knowledge; all of it by default."""
    every = list(part.kind.asks(part))
    if wanted == "ohms":
        return [Ask(OHMS)]
    if wanted == "junction":
        return [ask for ask in every if ask.procedure is DIODE]
    if wanted == "first":
        return list(part.all_asks[:1])
    if wanted == "usual" and part.kind is capacitor.KIND:
        usual = [ask for ask in every if ask.procedure in (ESR, CAPACITANCE)]
        # a shorted one reads little at either: where no rail to ground tells, its ohms do
        if part.line == TRUNK and unit.role(part) != "bulk":
            return [Ask(OHMS), *usual]
        return usual
    if wanted == "proof" and part.kind is capacitor.KIND:
        return [Ask(OHMS), *(a for a in every if a.procedure in (ESR, CAPACITANCE))]
    return every


def views_of(
    views: Views, test: BenchTest, parts: Sequence[Part], hidden: frozenset[int] = frozenset()
) -> list[View]:
    """What would be seen in a test, point by point; `hidden`: parts to be read lifted, by id."""
    unit = views.unit
    if test.reads == OF_PARTS:
        seen = [views.part(p, is_lifted=test.is_lift or p.id in hidden) for p in parts]
        return [_as_told(view, test) for view in seen]
    if test.reads == OF_LOOKS:
        return [_as_told(views.look(part), test) for part in parts]
    keys = [rail.key for rail in unit.sheet.rails]
    if test.reads == "ground":
        is_attached = test.points["ground"] == Condition.ATTACHED.code
        return [views.ground(key, is_attached=is_attached) for key in keys]
    if test.reads in ("rails", "output"):
        keys = keys if test.reads == "rails" else list(held_rails(unit))
        return [views.rail(key, in_machine=False) for key in keys]
    if test.reads == "harness":
        return [views.rail(key, in_machine=True, is_far=True) for key in keys]
    return [by_word(views, test, parts)]


def _as_told(view: View, test: BenchTest) -> View:
    """A view as far as a test can tell: what its results do not stand for looks sound in it."""
    told = {state for words in test.points["shows"] for state in words.split()}
    hidden = [n for n, name in enumerate(view.classes) if n and name not in told]
    rows = view.rows.copy()
    rows[:, 0] += rows[:, hidden].sum(axis=1)
    rows[:, hidden] = 0.0
    return View(view.classes, rows, view.ranks)


def by_word(views: Views, test: BenchTest, parts: Sequence[Part]) -> View:
    """What of a test's results in words each fault gives."""
    usual = dict.fromkeys(test.results[:-1], _BY_CHANCE)
    own: dict[int, Mapping[str, float]] = {}
    if test.reads in (OF_PARTS, OF_LOOKS):
        return _of_parts(views, test, parts)
    for place, (fault, effect) in enumerate(zip(views.faults, views.effects, strict=True)):
        if test.id in _BY_HAND:
            result = _BY_HAND[test.id](views.unit, fault, effect, test.results)
        else:
            result = _of_rails(views, test, place)
        if result is not None:
            own[place] = result
    usually = _USUALLY.get(test.id)
    if usually is not None:
        usual |= usually(test.results)
    return views.chance(test.results, own, usual)


def _of_parts(views: Views, test: BenchTest, parts: Sequence[Part]) -> View:
    """One result by word over all parts: the chance that any of them shows it."""
    every = [
        views.look(p) if test.reads == OF_LOOKS else views.part(p, is_lifted=test.is_lift)
        for p in parts
    ]
    shows = [words.split() for words in test.points["shows"]]
    count = len(views.faults)
    rows = [_any_shows(every, wanted) for wanted in shows]
    own = {
        place: {name: float(row[place]) for name, row in zip(test.results, rows, strict=False)}
        for place in range(count)
        if any(v.ranks[place] for v in every)
    }
    usual = {name: float(row[count]) for name, row in zip(test.results, rows, strict=False)}
    return views.chance(test.results, own, usual)


def _any_shows(every: Sequence[View], wanted: Sequence[str]) -> Floats:
    left: Floats = np.ones(len(every[0].rows))
    for one in every:
        columns = [one.classes.index(name) for name in wanted]
        left = left * (1 - one.rows[:, columns].sum(axis=1))
    return 1 - left


def _of_rails(views: Views, test: BenchTest, place: int) -> Mapping[str, float] | None:
    """Results by word of rails to ground and of rails under power."""
    fault, effect, results = views.faults[place], views.effects[place], test.results
    keys = [rail.key for rail in views.unit.sheet.rails]
    if test.reads == "ground":
        is_attached = test.points["ground"] == Condition.ATTACHED.code
        rows = [views.ground(key, is_attached=is_attached).rows[place] for key in keys]
        return {results[0]: max((1 - float(r[0]) for r in rows), default=0.0)}
    if test.reads == "harness":
        return {results[0]: 0.9} if effect.far else None
    if effect.in_machine:
        return None
    own = [effect.rail(key) for key in keys]
    off = max((1 - shares[2] for shares in own), default=0.0)
    if test.reads == "output":
        held = held_rails(views.unit)
        return {results[0]: max((1 - effect.rail(key)[2] for key in held), default=0.0)}
    together = min((1 - shares[2] for shares in own), default=0.0) if len(own) > 1 else 0.0
    if fault.ref == FEEDBACK or fault.has("optocoupler"):
        together = off
    return {results[0]: together, results[1]: max(off - together, 0.0)}


def _adapter(_: UnitSheet, fault: Fault, __: Effect, results: Sequence[str]) -> Shares:
    return {results[0]: 0.97} if fault.ref == ADAPTER else None


def _ring(unit: UnitSheet, fault: Fault, _: Effect, results: Sequence[str]) -> Shares:
    if fault.mode is FaultMode.TURNS:
        return {results[0]: 0.93}
    if fault.mode is FaultMode.SHORT and unit.is_switched(fault.line):
        return {results[0]: 0.6 if fault.has("diode", "schottky") else 0.2}
    return None


def _idle(_: UnitSheet, fault: Fault, __: Effect, results: Sequence[str]) -> Shares:
    return {results[0]: 0.95} if fault.mode is FaultMode.TURNS else None


def _reference(_: UnitSheet, fault: Fault, __: Effect, results: Sequence[str]) -> Shares:
    if fault.mode is FaultMode.DRIFT and not fault.has("regulator"):
        return {results[0]: 0.93}
    return {results[0]: 0.06} if fault.has("optocoupler") else None


def _control(_: UnitSheet, fault: Fault, __: Effect, results: Sequence[str]) -> Shares:
    if fault.has("start-up"):
        return {results[0]: 0.92, results[1]: 0.03}
    if fault.has("controller"):
        return {results[0]: 0.1, results[1]: 0.87}
    if fault.has("optocoupler"):
        return {results[0]: 0.02, results[1]: 0.5}
    return {results[1]: 0.12} if fault.ref == FEEDBACK else None


def _dummy(unit: UnitSheet, fault: Fault, effect: Effect, results: Sequence[str]) -> Shares:
    if effect.in_machine:
        return None
    if fault.has("fuse"):
        # whoever powers it has fitted a new fuse
        return {results[0]: 0.95}
    right = min((effect.rail(r.key)[2] for r in unit.sheet.rails), default=1.0)
    quiet = 1 - max(effect.slow, effect.fast)
    noisy = min(1.0, quiet + 0.3) if effect.rank <= NOISE else quiet
    return {results[0]: max(0.01, effect.regime("runs") * right * noisy)} if effect.rank else None


def _ripple(_: UnitSheet, __: Fault, effect: Effect, results: Sequence[str]) -> Shares:
    total = effect.slow + effect.fast
    scale = min(1.0, 0.97 / total) if total else 1.0
    return {results[0]: scale * effect.slow, results[1]: scale * effect.fast}


def _heat(_: UnitSheet, __: Fault, effect: Effect, results: Sequence[str]) -> Shares:
    return {results[0]: effect.warm} if effect.rank else None


def _selector(_: UnitSheet, fault: Fault, __: Effect, results: Sequence[str]) -> Shares:
    return {results[0]: 0.97} if fault.ref == SELECTOR else None


def _more_load(_: UnitSheet, fault: Fault, __: Effect, results: Sequence[str]) -> Shares:
    """What lacked its least load has it now; nothing else is mended by drawing more."""
    return {results[0]: 0.93} if fault.mode is FaultMode.NO_LOAD else None


def _tap(_: UnitSheet, fault: Fault, effect: Effect, results: Sequence[str]) -> Shares:
    """A joint or a contact answers where it is; a tap nearby may reach it too."""
    if fault.mode not in _ANSWERS_A_TAP:
        return None
    share, near = _ANSWERS_A_TAP[fault.mode], 0.06
    if fault.has("connector") or effect.far:
        return {results[0]: 0.01, results[1]: near, results[2]: share}
    if not fault.is_on_rail:
        return {results[0]: share, results[1]: near, results[2]: 0.02}
    return {results[0]: near, results[1]: share, results[2]: near}


#: what answers a tap, and how often: below what would prove it, since a tap names no part
_ANSWERS_A_TAP: Mapping[FaultMode, float] = {FaultMode.JOINT: 0.76, FaultMode.WORN: 0.5}
#: what the hand finds, by test
_BY_HAND: Mapping[str, Callable[[UnitSheet, Fault, Effect, Sequence[str]], Shares]] = {
    "adapter": _adapter, "ring": _ring, "idle": _idle, "reference": _reference,
    "control": _control, "dummy": _dummy, "ripple-live": _ripple, "heat": _heat,
    "tap": _tap, "more-load": _more_load, "selector": _selector,
}  # fmt: skip
#: what tests by hand find where nothing is wrong
_USUALLY: Mapping[str, Callable[[Sequence[str]], dict[str, float]]] = {
    "dummy": lambda results: {results[0]: 0.95},
    "ripple-live": lambda results: {results[0]: 0.03, results[1]: 0.04},
    "heat": lambda results: {results[0]: 0.05},
}
