"""What the facts make of every hypothesis: exact Bayes over nothing, one fault and every pair.

Source: docs/formulas.md, “Where to look next”. ln P(h | facts) = ln P(h) + Σ ln P(fact | h)
up to a constant; what is read of one part again counts half, since it shares its errors with what
was read before.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from functools import cached_property

from msgspec import Struct

from hale_rail.core.arrays import Flags, Floats, Indices, np
from hale_rail.core.diagnosis.facts import (
    Fact,
    Fitted,
    GoneFact,
    SymptomFact,
    TogetherFact,
)
from hale_rail.core.diagnosis.faults import NEVER, Fault
from hale_rail.core.diagnosis.model import UnitModel
from hale_rail.core.diagnosis.space import Factor

#: weight of further readings of one part in one condition, against the sharpest
_AGAIN = 0.5
#: of a pair's chance, what goes to the one of both that explains the complaint
_EXPLAINING, _BESIDE = 1.0, 0.2
#: a fact is a misfit where the leader gives it so many times less than another would, in ln
MISFIT = 4.0
SOUND = "sound"
#: from here on what was repaired counts as what the complaint came from
_REPAIRED = 0.5


class Weighed(Struct, frozen=True, dict=True, eq=False):
    """Chances of all hypotheses, shape (hypotheses,), and what follows from them now.

    `now`: the place of the log up to which everything is counted.
    """

    model: UnitModel
    facts: tuple[Fact, ...]
    symptoms: tuple[str, ...]
    chances: Floats
    now: int

    @cached_property
    def is_there(self) -> Flags:
        """Which faults can still be there; shape (faults + 1,), the last false."""
        there = self.model.is_there(self.now)
        there[-1] = False
        return there

    @cached_property
    def symptoms_since(self) -> tuple[str, ...]:
        """Symptoms that were said, or still there, after the last repair; none before any."""
        ends = [f.until for f in self.model.faults if f.until <= self.now]
        last = max(ends, default=self.now)
        is_still = any(
            isinstance(f, GoneFact) and f.at > last and not f.is_gone for f in self.facts
        )
        later = [f.symptom for f in self.facts if isinstance(f, SymptomFact) and f.at > last]
        return tuple(later) or (self.symptoms if is_still else ())

    @cached_property
    def explained_by_repair(self) -> float:
        """The chance that a fault whose part was replaced since explains the complaint."""
        if self.symptoms_since:
            return 0.0
        gone = self.model.explains(self.symptoms) & ~self.is_there
        gone[-1] = False
        space = self.model.space
        return float(self.chances[gone[space.first] | gone[space.second]].sum())

    @cached_property
    def counts(self) -> Flags:
        """Which faults matter for the complaint: those that explain it, or all once a fault that
        was repaired explains it; shape (faults + 1,)."""
        explains = self.model.explains(self.symptoms_since or self.symptoms)
        every = np.ones(len(explains), dtype=bool)
        return every if self.explained_by_repair > _REPAIRED else explains

    @cached_property
    def marginals(self) -> Floats:
        """The chance that each fault was there, shape (faults,)."""
        space = self.model.space
        count = space.count + 1
        marginals = np.zeros(count)
        marginals += np.bincount(space.first, self.chances, count)
        marginals += np.bincount(space.second, self.chances, count)
        return marginals[:-1]

    @cached_property
    def active(self) -> tuple[Flags, Flags]:
        """Whether the first and the second fault of each hypothesis is still there."""
        space = self.model.space
        return self.is_there[space.first], self.is_there[space.second]

    @cached_property
    def nothing_left(self) -> float:
        """The chance that nothing is wrong now."""
        first, second = self.active
        return float(self.chances[~first & ~second].sum())

    @cached_property
    def by_group(self) -> dict[str, float]:
        """The chance of each group to be what is wrong now; they sum to one."""
        model, space = self.model, self.model.space
        explains = np.where(self.counts, _EXPLAINING, _BESIDE)
        first, second = self.active
        weight_a = np.where(first, explains[space.first], 0.0)
        weight_b = np.where(second, explains[space.second], 0.0)
        total = weight_a + weight_b
        is_any = total > 0
        share_a = np.divide(weight_a, total, out=np.zeros_like(total), where=is_any)
        count = space.count + 1
        own = np.bincount(space.first, self.chances * share_a, count)
        own += np.bincount(space.second, self.chances * np.where(is_any, 1 - share_a, 0.0), count)
        result = {group.id: 0.0 for group in model.knowledge.groups}
        for fault, share in zip(model.faults, own, strict=False):
            result[fault.group] = result.get(fault.group, 0.0) + float(share)
        result[SOUND] = self.nothing_left
        return result

    @cached_property
    def present(self) -> tuple[tuple[Fault, float], ...]:
        """What can still be there, the likeliest first; faults of one part and mode are one."""
        faults: dict[tuple[str, str], tuple[Fault, float]] = {}
        for place, fault in enumerate(self.model.faults):
            if self.is_there[place]:
                key = (fault.ref, fault.mode.code)
                known, share = faults.get(key, (fault, 0.0))
                faults[key] = (known, share + float(self.marginals[place]))
        return tuple(sorted(faults.values(), key=lambda item: -item[1]))

    @cached_property
    def by_part(self) -> dict[int, float]:
        """The chance of each part to be faulty now; of what fails together, to all of it."""
        result: dict[int, float] = {}
        for place, fault in enumerate(self.model.faults):
            if self.is_there[place]:
                for part_id in fault.part_ids:
                    result[part_id] = result.get(part_id, 0.0) + float(self.marginals[place])
        return {part_id: min(1.0, share) for part_id, share in result.items()}

    def pairs(self, least: float) -> list[tuple[Fault, Fault, float]]:
        """Pairs of faults that are still there with at least this chance, the likeliest first."""
        space, (first, second) = self.model.space, self.active
        kept = np.nonzero(first & second & (self.chances >= least))[0]
        ordered = kept[np.argsort(-self.chances[kept])]
        faults = self.model.faults
        return [
            (faults[space.first[h]], faults[space.second[h]], float(self.chances[h]))
            for h in ordered
        ]

    @cached_property
    def repairs(self) -> Indices:
        """A number for what each hypothesis would have repaired now; shape (hypotheses,).

        What explains nothing of the complaint is left aside: that is not a reason for a test.
        """
        keys: dict[object, int] = {}
        place = np.array([
            keys.setdefault(f.part_ids or f.ref, len(keys) + 1) for f in self.model.faults
        ] + [0], dtype=np.intp)  # fmt: skip
        space, (first, second) = self.model.space, self.active
        counts = self.counts
        a = np.where(first & counts[space.first], place[space.first], 0)
        b = np.where(second & counts[space.second], place[space.second], 0)
        repairs: Indices = np.maximum(a, b) * (len(keys) + 1) + np.minimum(a, b)
        return repairs

    @cached_property
    def leader(self) -> int:
        """The place of the likeliest hypothesis of what most likely is to be repaired."""
        top = max(self.by_group, key=lambda key: self.by_group[key])
        first, second = self.active
        is_of_it = ~first & ~second
        if top != SOUND:
            own = self._of_groups({top}) & self.is_there
            is_of_it = own[self.model.space.first] | own[self.model.space.second]
        return int(np.argmax(np.where(is_of_it, self.chances, 0.0)))

    def _of_groups(self, groups: Collection[str]) -> Flags:
        """Which faults belong to these groups, shape (faults + 1,)."""
        return np.array([*(f.group in groups for f in self.model.faults), False])

    def pair(self, hypothesis: int) -> tuple[int, int]:
        """The places of both faults of a hypothesis."""
        space = self.model.space
        return int(space.first[hypothesis]), int(space.second[hypothesis])

    @cached_property
    def rival(self) -> int | None:
        """The likeliest hypothesis with no part and no group of the leader's; None: there is
        none."""
        model, space = self.model, self.model.space
        own = [model.faults[p] for p in self.pair(self.leader) if p < space.count]
        parts = {i for fault in own for i in fault.part_ids}
        shared = np.array([not parts.isdisjoint(f.part_ids) for f in model.faults] + [False])
        shared |= self._of_groups({fault.group for fault in own})
        others = np.where(shared[space.first] | shared[space.second], 0.0, self.chances)
        others[self.leader] = 0.0
        best = int(np.argmax(others))
        return best if others[best] > 0 else None

    @property
    def _spoken(self) -> list[Fact]:
        """Facts that are a sentence of their own."""
        return [f for f in self.facts if not isinstance(f, TogetherFact) or f.is_off]

    @cached_property
    def told(self) -> list[tuple[Fact, float]]:
        """Facts by how much they speak for the leader against its rival, in ln."""
        rival = self.rival
        if rival is None:
            return []
        result = []
        for fact in self._spoken:
            factor = self.model.factor(fact, self.symptoms)
            result.append((fact, factor.at(*self.pair(self.leader)) - factor.at(*self.pair(rival))))
        return sorted(result, key=lambda item: -item[1])

    @cached_property
    def misfits(self) -> tuple[Fact, ...]:
        """Facts that the leader hardly gives, where another would; the worst first."""
        gaps = []
        for fact in self._spoken:
            factor = self.model.factor(fact, self.symptoms)
            gaps.append((factor.most - factor.at(*self.pair(self.leader)), fact))
        bad = [item for item in gaps if item[0] > MISFIT]
        return tuple(fact for _, fact in sorted(bad, key=lambda item: -item[0]))

    def evidence(self, part_id: int) -> list[tuple[Fact, float]]:
        """What each fact says of a part being faulty, in ln, given all other facts; the loudest
        first.

        ln P(fact | faulty) − ln P(fact | not), each over the hypotheses as the rest weighs them.
        """
        space = self.model.space
        own = np.array([part_id in f.part_ids for f in self.model.faults] + [False])
        own &= self.is_there
        is_it = own[space.first] | own[space.second]
        evidence = []
        for fact in self._spoken:
            factor = self.model.factor(fact, self.symptoms).of(space)
            rest = self.chances * np.exp(-np.maximum(factor - factor.max(), -40.0))
            yes, no = rest[is_it], rest[~is_it]
            if not yes.sum() or not no.sum():
                continue
            scaled = np.exp(factor - factor.max())
            likely = float((yes * scaled[is_it]).sum() / yes.sum())
            unlikely = float((no * scaled[~is_it]).sum() / no.sum())
            evidence.append((fact, float(np.log(max(likely, 1e-12) / max(unlikely, 1e-12)))))
        return sorted(evidence, key=lambda item: -abs(item[1]))

    def repaired(self) -> list[tuple[Fault, float]]:
        """Faults that were there and whose part was replaced since, with their chances."""
        return [
            (fault, float(self.marginals[place]))
            for place, fault in enumerate(self.model.faults)
            if fault.until <= self.now and fault.until != NEVER
        ]


def weigh(model: UnitModel, facts: Sequence[Fact], symptoms: Sequence[str], now: int) -> Weighed:
    """Weigh all facts; `symptoms`: the symptoms that stand."""
    groups: dict[object, list[Factor]] = {}
    for place, fact in enumerate(facts):
        key = _shared(model, fact) or place
        groups.setdefault(key, []).append(model.factor(fact, symptoms))
    space = model.space
    tables = space.tables()
    for own in groups.values():
        ordered = sorted(own, key=lambda factor: -factor.spread)
        for number, factor in enumerate(ordered):
            factor.add_to(tables, _AGAIN if number else 1.0)
    total = space.log_weight + space.picked(tables)
    total -= total.max()
    chances = np.exp(total)
    chances /= chances.sum()
    return Weighed(model, tuple(facts), tuple(symptoms), chances, now)


def _shared(model: UnitModel, fact: Fact) -> object:
    count = sum(at <= fact.at for at in model.fitted_at.values())
    return fact.shares(Fitted(count, lambda part_id: model.is_new(part_id, fact.at)))


def explained(weighed: Weighed, is_proven: Callable[[Fault], bool]) -> float:
    """The chance that a proven fault is there which explains the complaint."""
    model, space = weighed.model, weighed.model.space
    proven = np.array([*(is_proven(f) for f in model.faults), False]) & weighed.is_there
    explaining = proven & weighed.counts
    is_it = explaining[space.first] | explaining[space.second]
    return float(weighed.chances[is_it].sum())
