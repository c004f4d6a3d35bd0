"""The model of one unit: its faults, what each does, and how likely every fact makes each.

Source: docs/formulas.md, “Where to look next”. Built once a sheet; a fact's factor is worked out
once and kept, so that a new reading costs its own factor alone.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from typing import Any

from msgspec import Struct, field

from hale_rail.core.arrays import Flags, Floats, Indices, np
from hale_rail.core.diagnosis import densities
from hale_rail.core.diagnosis.bench import by_word, parts_of
from hale_rail.core.diagnosis.blocks.block import UnitSheet
from hale_rail.core.diagnosis.complaints import chance_of_complaint
from hale_rail.core.diagnosis.effects import NOTHING, RUNS, Effect
from hale_rail.core.diagnosis.facts import (
    DidFact,
    Fact,
    GoneFact,
    GroundFact,
    HeldFact,
    JumpFact,
    LookFact,
    NoVoltsFact,
    ObservationFact,
    PairsFact,
    PartFact,
    ResultFact,
    RippleFact,
    SymptomFact,
    TogetherFact,
    VoltsFact,
)
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.diagnosis.knowledge import Knowledge
from hale_rail.core.diagnosis.power_densities import of_held, of_rails_together, of_ripple
from hale_rail.core.diagnosis.power_views import held, ripple
from hale_rail.core.diagnosis.space import Factor, Space, factor, space
from hale_rail.core.diagnosis.topologies import effect
from hale_rail.core.diagnosis.views import Memo, View, Views
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet

#: how often a reading, an answer or a look is a slip
_SLIP = densities.SLIP
#: spread of a rail that is right, as a share of nominal, by how it is held
_SPREAD = {
    Regulation.MAIN: 0.02, Regulation.LINEAR: 0.025, Regulation.AUXILIARY: 0.045,
    Regulation.RAW: 0.12,
}  # fmt: skip
#: P(still there | a fault that explains it), P(still there | one that does not)
_STILL, _STILL_ELSE, _STILL_NOTHING = 0.95, 0.25, 0.005
#: a fault that gives a symptom at least so often explains it
EXPLAINS = 0.02
#: what a power-up may break, and how often it does
_FRAGILE = (Family.TANTALUM, Family.SUPPRESSION_PAPER)
_BREAKS = 0.05


class UnitModel(Struct, frozen=True, dict=True, eq=False):
    """A unit's model; what it works out is kept."""

    knowledge: Knowledge
    sheet: Sheet
    faults: tuple[Fault, ...]
    beliefs: Mapping[int, float] = field(default_factory=dict)
    kept: Memo = field(default_factory=Memo)

    @cached_property
    def unit(self) -> UnitSheet:
        """The sheet as the blocks ask it."""
        return UnitSheet(self.sheet)

    @cached_property
    def effects(self) -> tuple[Effect, ...]:
        """What each fault makes the unit do."""
        return tuple(effect(self.unit, fault) for fault in self.faults)

    @cached_property
    def views(self) -> Views:
        """What would be seen of each fault."""
        return Views(self.unit, self.faults, self.effects, self.kept)

    @cached_property
    def space(self) -> Space:
        """Nothing, every fault, every pair."""
        return space(self.faults, self.beliefs, preventive=self.sheet.purpose == "preventive")

    @cached_property
    def ranks(self) -> Indices:
        """How far up the way of power each fault stands; shape (faults + 1,)."""
        return np.array([*(e.rank for e in self.effects), 0], dtype=np.intp)

    @cached_property
    def since(self) -> Floats:
        """From which place of the log each fault can be there."""
        return np.array([*(f.since for f in self.faults), 0], dtype=float)

    @cached_property
    def until(self) -> Floats:
        """Until which place of the log."""
        return np.array([*(f.until for f in self.faults), np.inf], dtype=float)

    def is_there(self, at: float) -> Flags:
        """Which faults can be there at a place of the log; shape (faults + 1,)."""
        there: Flags = (self.since <= at) & (at < self.until)
        return there

    def keep(self, key: Any, make: Callable[[], Any]) -> Any:
        """What was worked out before, else now."""
        return self.kept.of(key, make)

    def is_new(self, part_id: int, at: int) -> bool:
        """True where another part stood there at a place of the log than when the unit came in."""
        return self.fitted_at.get(part_id, at + 1) <= at

    @cached_property
    def fitted_at(self) -> dict[int, int]:
        """The place of the log at which each part was replaced, by its id."""
        return {f.part.id: f.since for f in self.faults if f.part and f.since}

    def part(self, part: Part, at: int, *, is_lifted: bool) -> View:
        """What a part reads like at a place of the log."""
        return self.views.part(part, is_lifted=is_lifted, is_new=self.is_new(part.id, at))

    def factor(self, fact: Fact, symptoms: Sequence[str]) -> Factor:
        """What a fact says of every hypothesis; `symptoms`: the symptoms that stand."""
        key = ("fact", fact, tuple(symptoms))
        factor: Factor = self.keep(key, lambda: self._factor(fact, symptoms))
        return factor

    def _factor(self, fact: Fact, symptoms: Sequence[str]) -> Factor:
        likely, ranks = _FACTORS[type(fact)](self, fact, symptoms)
        there = self.is_there(fact.at)
        return factor(np.where(there, likely, likely[-1]), np.where(there, ranks, 0))

    def symptom(self, symptom: str) -> Floats:
        """P(symptom | fault), shape (faults + 1,)."""

        def make() -> Floats:
            return np.array([chance_of_complaint(e, symptom) for e in (*self.effects, NOTHING)])

        values: Floats = self.keep(("symptom", symptom), make)
        if symptom == "preventive":
            return np.where(np.arange(len(values)) == len(self.faults), 0.9, 0.1)
        return values

    def explains(self, symptoms: Sequence[str]) -> Flags:
        """Which faults explain what was said; all where nothing was; shape (faults + 1,)."""
        explains = np.zeros(len(self.faults) + 1, dtype=bool)
        for symptom in symptoms:
            explains |= self.symptom(symptom) >= EXPLAINS
        explains[-1] = False
        return explains if symptoms else np.ones(len(self.faults) + 1, dtype=bool)


Shown = tuple[Floats, Indices]


def _seen(view: View, density: Floats) -> Shown:
    """P(what was seen | fault) from the densities of its classes."""
    return view.rows @ density, view.ranks


def _named(view: View, name: str) -> Shown:
    column = view.rows[:, view.classes.index(name)]
    return (1 - _SLIP) * column + _SLIP / len(view.classes), view.ranks


def _even(model: UnitModel) -> Shown:
    """A fact that tells nothing."""
    count = len(model.faults) + 1
    return np.ones(count), np.zeros(count, dtype=np.intp)


def _of_part(model: UnitModel, fact: PartFact, _: Sequence[str]) -> Shown:
    part = model.sheet.part(fact.part_id)
    if part is None:
        return _even(model)
    density = densities.of_part(part, fact.figure, is_lifted=fact.is_lifted)
    if density is None:
        return _even(model)
    if fact.is_outdated and part.family in _FRAGILE:
        density = (1 - _BREAKS) * density + _BREAKS * density.mean()
    return _seen(model.part(part, fact.at, is_lifted=fact.is_lifted), density)


def _of_pairs(model: UnitModel, fact: PairsFact, _: Sequence[str]) -> Shown:
    part = model.sheet.part(fact.part_id)
    if part is None:
        return _even(model)
    density = densities.of_pairs(fact.figures, is_lifted=fact.is_lifted)
    return _seen(model.part(part, fact.at, is_lifted=fact.is_lifted), density)


def _of_ground(model: UnitModel, fact: GroundFact, _: Sequence[str]) -> Shown:
    view: View = model.keep(
        ("ground", fact.rail, fact.is_attached),
        lambda: model.views.ground(fact.rail, is_attached=fact.is_attached),
    )
    density = densities.of_ground(fact)
    return _seen(view, density)


def _spread(rail: Rail, is_loaded: bool) -> float:
    """How far a rail that is right strays from nominal, as a share of it."""
    return _SPREAD[rail.regulation] * (1.0 if is_loaded else 2.5)


def _of_volts(model: UnitModel, fact: VoltsFact, _: Sequence[str]) -> Shown:
    """A rail's volts, given that the unit runs; whether it does is a fact of its own."""
    rail = model.sheet.rail(fact.rail)
    if rail is None:
        return _even(model)
    view: View = model.keep(
        ("rail", fact.rail, fact.in_machine, fact.is_far),
        lambda: model.views.rail(fact.rail, in_machine=fact.in_machine, is_far=fact.is_far),
    )
    spread = _spread(rail, fact.is_loaded)
    ends = {fact.share, fact.high}
    result = [densities.of_volts(share, spread, fact.error) for share in ends]
    return _seen(view, np.mean(result, axis=0))


def _of_held(model: UnitModel, fact: HeldFact, _: Sequence[str]) -> Shown:
    """A full bulk capacitor proves the way up to it; an empty one under power that it is open."""
    part = model.sheet.part(fact.part_id)
    if part is None:
        return _even(model)
    view: View = model.keep(("held", part.id), lambda: held(model.views, part))
    return _seen(view, of_held(fact.share))


def _of_ripple(model: UnitModel, fact: RippleFact, _: Sequence[str]) -> Shown:
    """A rail's ripple, given that the unit runs."""
    key = ("ripple", fact.rail, fact.is_raw, fact.in_machine, fact.is_loaded)
    view: View = model.keep(key, lambda: ripple(model.views, *key[1:]))
    return _seen(view, of_ripple(fact))


def _of_jump(model: UnitModel, fact: JumpFact, _: Sequence[str]) -> Shown:
    """A rail that comes and goes while it is read: what passes pulses on."""
    usual = NOTHING.jumps
    values = np.array([
        usual if e.in_machine and not fact.in_machine else e.jumps
        for e in (*model.effects, NOTHING)
    ])  # fmt: skip
    return (values if fact.has_jumped else 1 - values), model.ranks


def _of_together(model: UnitModel, fact: TogetherFact, _: Sequence[str]) -> Shown:
    """Rails of one loop: what their volts say together beyond what each says for itself."""
    known = [(model.sheet.rail(key), share, error) for key, share, error in fact.rails]
    spreads = [_spread(rail, fact.is_loaded) for rail, _, _ in known if rail]
    shares, errors = [share for _, share, _ in known], [error for _, _, error in known]
    first = fact.rails[0][0]
    values = np.array([
        of_rails_together(shares, spreads, errors, e.rail(first)) if e.together else 1.0
        for e in (*model.effects, NOTHING)
    ])  # fmt: skip
    return values, np.where(values == 1.0, 0, model.ranks)


def _of_look(model: UnitModel, fact: LookFact, _: Sequence[str]) -> Shown:
    part = model.sheet.part(fact.part_id)
    if part is None:
        return _even(model)
    return _named(model.views.look(part), fact.finding)


def _of_symptom(model: UnitModel, fact: SymptomFact | ObservationFact, _: Sequence[str]) -> Shown:
    return model.symptom(fact.symptom), model.ranks


def _of_result(model: UnitModel, fact: ResultFact, _: Sequence[str]) -> Shown:
    test = model.knowledge.test(fact.test)
    if test is None or fact.result not in test.results:
        return _even(model)
    view: View = model.keep(
        ("result", test.id), lambda: by_word(model.views, test, parts_of(model.unit, test))
    )
    return _named(view, fact.result)


def _of_did(model: UnitModel, fact: DidFact, _: Sequence[str]) -> Shown:
    view: View = model.keep(("regime",), model.views.regime)
    regimes = dict(fact.regimes)
    return _seen(view, np.array([regimes.get(name, 0.01) for name in view.classes]))


def _of_no_volts(model: UnitModel, _: NoVoltsFact, __: Sequence[str]) -> Shown:
    """It does not run, or it runs and every rail is missing for itself."""
    keys = [rail.key for rail in model.sheet.rails]
    result = []
    for effect_of in (*model.effects, NOTHING):
        runs = effect_of.regime(RUNS)
        missing = math.prod(effect_of.rail(key)[0] for key in keys)
        result.append(max(_SLIP, 0.95 * (1 - runs) + runs * missing))
    return np.array(result), model.ranks


def _of_gone(model: UnitModel, fact: GoneFact, symptoms: Sequence[str]) -> Shown:
    explains = model.explains(symptoms)
    still = np.where(explains, _STILL, _STILL_ELSE)
    still[-1] = _STILL_NOTHING
    return (1 - still if fact.is_gone else still), np.where(explains, 2, 1) * (model.ranks >= 0)


_FACTORS: Mapping[type, Callable[[UnitModel, Any, Sequence[str]], Shown]] = {
    PartFact: _of_part, PairsFact: _of_pairs, GroundFact: _of_ground, VoltsFact: _of_volts,
    HeldFact: _of_held, LookFact: _of_look, SymptomFact: _of_symptom,
    ResultFact: _of_result, DidFact: _of_did,
    ObservationFact: _of_symptom, NoVoltsFact: _of_no_volts, GoneFact: _of_gone,
    TogetherFact: _of_together, RippleFact: _of_ripple, JumpFact: _of_jump,
}  # fmt: skip
