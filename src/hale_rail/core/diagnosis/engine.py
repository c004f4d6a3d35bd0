"""Where to look next: chances over fault hypotheses, and the test that tells most for its minutes.

Bayes' rule over single faults: chance ∝ prior · Π P(symptom | fault) · Π P(result | fault), times
what the person believes. Results are taken as independent given the fault; one that the symptom
states already is no evidence twice. A proven part outranks them. A test's worth is the mutual
information between fault and result, in bits, per minute. Nothing is powered while a rail to
ground, the bulk, the switch, the bridge or the rectifiers were not read cold, or read bad.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.diagnosis.knowledge import BenchTest, Hypothesis, Knowledge

#: below this a test tells too little to be worth its minutes
WORTH_BITS = 0.03
#: the chance at which the hunt is over: repair, then test again
ENOUGH = 0.95
#: from here the sentence names the leader beside the next test
_LIKELY = 0.5
#: what the person may say of a hypothesis, and the factor it puts on its chance
BELIEFS = {"ruled out": 0.0, "unlikely": 0.25, "likely": 4.0}
#: what a part proven by itself puts on its fault, what a sheet without such a part does, and what a
#: repair leaves
_PROVEN, _ABSENT, _REPAIRED = 1000.0, 0.2, 0.01
#: a symptom that a fault gives at least so often is explained by it
_EXPLAINS = 0.05
#: a chance that was none counts as this where it is one afterwards
_LEAST = 1e-6
#: the fault that is told only when every short is excluded
LAST = "fuse-tired"


class Evidence(Struct, frozen=True):
    """What was found so far: symptoms, results by test, and beliefs by hypothesis.

    `proven`: faults of which a part was proven by itself; `repaired`: those whose proven part was
    replaced; `absent`: those that no part of the sheet can have; `spent`: tests that were taken and
    gave no answer, or that this unit cannot have.
    """

    symptoms: tuple[str, ...] = ()
    results: tuple[tuple[str, str], ...] = ()
    beliefs: tuple[tuple[str, str], ...] = ()
    proven: frozenset[str] = frozenset()
    repaired: frozenset[str] = frozenset()
    absent: frozenset[str] = frozenset()
    spent: frozenset[str] = frozenset()


class Ranked(Struct, frozen=True):
    """A test with what it is expected to tell, in bits, now."""

    test: BenchTest
    bits: float

    @property
    def bits_per_minute(self) -> float:
        """What the test tells for the time that it takes."""
        return self.bits / self.test.minutes


class Diagnosis(Struct, frozen=True):
    """Chances by hypothesis, best first; tests not yet done, best first; and why in a sentence."""

    chances: tuple[tuple[Hypothesis, float], ...]
    tests: tuple[Ranked, ...]
    sentence: str
    contradiction: bool = False
    is_settled: bool = False
    #: nothing is left that is worth its minutes
    is_exhausted: bool = False

    @property
    def next(self) -> Ranked | None:
        """The best test not yet done; None when it is settled or none is worth its minutes."""
        if self.is_settled or self.is_exhausted or not self.tests:
            return None
        return self.tests[0]


def diagnose(knowledge: Knowledge, evidence: Evidence) -> Diagnosis:
    """Weigh the evidence; when it excludes everything, say so and go by the beliefs alone."""
    heard = _unexplained(knowledge, evidence)
    weights = _weights(knowledge, heard)
    contradiction = math.fsum(weights.values()) <= 0
    if contradiction:
        weights = _weights(knowledge, Evidence(beliefs=evidence.beliefs))
        if math.fsum(weights.values()) <= 0:
            weights = _weights(knowledge, Evidence())
    total = math.fsum(weights.values())
    chances = {key: weight / total for key, weight in weights.items()} if total else {}
    ordered = sorted(
        ((h, chances[h.id]) for h in knowledge.hypotheses if h.id in chances),
        key=lambda pair: -pair[1],
    )
    is_settled = not contradiction and _is_settled(knowledge, heard, ordered)
    tests, is_exhausted = _tests(knowledge, heard, chances)
    if ordered and ordered[0][1] >= ENOUGH and not is_settled:
        proof = _proof_of(knowledge, heard, ordered[0][0].id)
        tests = [*(r for r in tests if r.test in proof), *(r for r in tests if r.test not in proof)]
        is_exhausted &= not any(r.test in proof for r in tests)
    is_exhausted |= _is_explained(knowledge, heard)
    useful = [] if is_exhausted else tests
    sentence = _sentence(knowledge, heard, ordered, useful, contradiction, is_settled=is_settled)
    return Diagnosis(
        tuple(ordered), tuple(tests), sentence, contradiction, is_settled, is_exhausted
    )


def _unexplained(knowledge: Knowledge, evidence: Evidence) -> Evidence:
    """The evidence without symptoms that a repaired fault explains: the hunt goes on with the rest.

    A proven part counts only where its fault gives a symptom that was said: a dried filter does not
    settle a blackened fuse.
    """
    symptoms = [s for s in map(knowledge.symptom, evidence.symptoms) if s]
    left = [s for s in symptoms if not any(s.chance(h) >= _EXPLAINS for h in evidence.repaired)]
    proven = {
        h
        for h in evidence.proven
        if not symptoms or any(s.chance(h) >= _EXPLAINS for s in symptoms)
    }
    return replace(
        evidence, symptoms=tuple(s.id for s in left), proven=frozenset(proven - evidence.repaired)
    )


def _stated(knowledge: Knowledge, evidence: Evidence) -> set[tuple[str, str]]:
    """Results that the symptoms say already, by test."""
    symptoms = [knowledge.symptom(s) for s in evidence.symptoms]
    return {item for symptom in symptoms if symptom for item in symptom.states.items()}


def _weights(knowledge: Knowledge, evidence: Evidence) -> dict[str, float]:
    """Unnormalised chances by hypothesis."""
    beliefs, stated = dict(evidence.beliefs), _stated(knowledge, evidence)
    weights = {}
    for hypothesis in knowledge.hypotheses:
        weight = hypothesis.weight * BELIEFS.get(beliefs.get(hypothesis.id, ""), 1.0)
        weight *= _standing(hypothesis.id, evidence)
        for symptom_id in evidence.symptoms:
            symptom = knowledge.symptom(symptom_id)
            weight *= symptom.chance(hypothesis.id) if symptom else 1.0
        for test_id, result in evidence.results:
            test = knowledge.test(test_id)
            if test and (test_id, result) not in stated:
                weight *= test.chance(result, hypothesis.id)
        weights[hypothesis.id] = weight
    return weights


def _standing(hypothesis: str, evidence: Evidence) -> float:
    """What parts of the sheet say of a fault: proven, repaired, or not there at all."""
    factor = _PROVEN if hypothesis in evidence.proven else 1.0
    factor *= _REPAIRED if hypothesis in evidence.repaired else 1.0
    return factor * (_ABSENT if hypothesis in evidence.absent else 1.0)


def _tests(
    knowledge: Knowledge, evidence: Evidence, chances: Mapping[str, float]
) -> tuple[list[Ranked], bool]:
    """Tests that may be taken now, best first, and whether none is worth its minutes."""
    done = {test_id for test_id, _ in evidence.results} | evidence.spent
    done |= {test_id for test_id, _ in _stated(knowledge, evidence)}
    open_tests = [t for t in knowledge.tests if t.id not in done and _fits(t, evidence)]
    gates = [t for t in knowledge.tests if t.is_gate]
    results = dict(evidence.results)
    is_bad = any(results.get(t.id, t.sound) != t.sound for t in gates)
    is_unread = any(t.id not in done for t in gates)
    ranked = rank_tests(
        [t for t in open_tests if not (t.is_live and (is_bad or is_unread))], chances
    )
    cold = [r for r in ranked if not r.test.is_live and r.bits >= WORTH_BITS]
    live = rank_tests([t for t in open_tests if t.is_live], chances)[:1]
    wants_power = bool(live) and live[0].bits >= WORTH_BITS
    waiting = sorted((r for r in ranked if r.test.is_gate), key=lambda r: r.test.minutes)
    if waiting and not is_bad and wants_power and _is_ahead(live[0], waiting, cold):
        return [*waiting, *(r for r in ranked if r not in waiting)], False
    if cold:
        return ranked, False
    if waiting and not is_bad and (wants_power or _waits_for_gates(evidence, chances)):
        return [*waiting, *(r for r in ranked if r not in waiting)], False
    return ranked, not any(r.bits >= WORTH_BITS for r in ranked)


def _is_ahead(live: Ranked, waiting: Sequence[Ranked], cold: Sequence[Ranked]) -> bool:
    """True where a test under power, what must be read before it included, tells more a minute
    than any cold test: then what must be read comes first."""
    minutes = live.test.minutes + math.fsum(r.test.minutes for r in waiting)
    return live.bits / minutes > max((r.bits_per_minute for r in cold), default=0.0)


def _proof_of(knowledge: Knowledge, evidence: Evidence, leader: str) -> list[BenchTest]:
    """What leads to the proof of a fault all but sure: a part lifted, or what comes first."""
    lifts = [
        t
        for t in knowledge.tests
        if t.danger == "lift" and _speaks(t, leader) and _may_prove(t, evidence)
    ]
    fitting = [t for t in lifts if _fits(t, evidence)]
    if fitting:
        return fitting
    before = {test_id for t in lifts for test_id in t.after}
    return [t for t in knowledge.tests if t.id in before]


def _waits_for_gates(evidence: Evidence, chances: Mapping[str, float]) -> bool:
    """True where the leader is the fuse alone, which only excluded shorts tell."""
    return bool(evidence.symptoms) and max(chances, key=lambda h: chances[h], default="") == LAST


def _fits(test: BenchTest, evidence: Evidence) -> bool:
    """True for a test that the symptoms allow and whose turn has come."""
    results = dict(evidence.results)
    if any(results.get(test_id) not in wanted for test_id, wanted in test.after.items()):
        return False
    return not set(test.not_with) & set(evidence.symptoms)


def told_bits(before: Mapping[str, float], after: Mapping[str, float]) -> float:
    """What an answer told, in bits: Σ after·log₂(after/before), the divergence of the chances."""
    return math.fsum(
        p * math.log2(p / max(before.get(key, 0.0), _LEAST)) for key, p in after.items() if p > 0
    )


def rank_tests(tests: Sequence[BenchTest], chances: Mapping[str, float]) -> list[Ranked]:
    """Tests by bits per minute; a live one stands behind every safe one that still tells enough."""
    ranked = [Ranked(test, information_bits(test, chances)) for test in tests]

    def order(item: Ranked) -> tuple[bool, bool, float]:
        return (item.bits < WORTH_BITS, item.test.is_live, -item.bits_per_minute)

    return sorted(ranked, key=order)


def information_bits(test: BenchTest, chances: Mapping[str, float]) -> float:
    """Mutual information of fault and result: H(result) − Σ chance · H(result | fault)."""
    columns = zip(*(_times(p, test.chances(h)) for h, p in chances.items()), strict=True)
    mixed = [math.fsum(column) for column in columns]
    noise = math.fsum(p * _entropy(test.chances(h)) for h, p in chances.items())
    return max(0.0, _entropy(mixed) - noise)


def _times(p: float, shares: Sequence[float]) -> list[float]:
    return [p * share for share in shares]


def _entropy(shares: Sequence[float]) -> float:
    """Entropy of a result with these chances, in bits."""
    return -math.fsum(p * math.log2(p) for p in shares if p > 0)


def _is_settled(
    knowledge: Knowledge, evidence: Evidence, ordered: Sequence[tuple[Hypothesis, float]]
) -> bool:
    """True when one fault is sure enough to be repaired.

    One of which a part can be proven by itself waits for that proof; the fuse alone for every short
    to be excluded.
    """
    if not ordered or not (evidence.symptoms or evidence.results) or ordered[0][1] < ENOUGH:
        return False
    leader = ordered[0][0].id
    if leader in evidence.repaired:
        return False
    if leader in evidence.proven:
        return True
    results, gates = dict(evidence.results), [t for t in knowledge.tests if t.is_gate]
    if leader == LAST:
        taken = {*results, *evidence.spent}
        return all(t.id in taken and results.get(t.id, t.sound) == t.sound for t in gates)
    speaking = [t for t in knowledge.tests if _speaks(t, leader)]
    proofs = [t for t in speaking if t.danger == "lift" and _may_prove(t, evidence)]
    return any(results.get(t.id, t.sound) != t.sound for t in proofs or speaking)


def _speaks(test: BenchTest, hypothesis: str) -> bool:
    """True for a test whose finding is the fault's own."""
    return hypothesis in test.given and test.chances(hypothesis)[-1] <= 0.5


def _may_prove(test: BenchTest, evidence: Evidence) -> bool:
    """True for a part that was lifted, or still can be: what is read in circuit is a hint then."""
    results = dict(evidence.results)
    is_open = all(
        results.get(before) in wanted or not (before in results or before in evidence.spent)
        for before, wanted in test.after.items()
    )
    return test.id in results or (test.id not in evidence.spent and is_open)


def _sentence(
    knowledge: Knowledge,
    evidence: Evidence,
    ordered: Sequence[tuple[Hypothesis, float]],
    tests: Sequence[Ranked],
    contradiction: bool,
    *,
    is_settled: bool,
) -> str:
    """The results that speak loudest for the leader, and what is next of the useful tests."""
    if not ordered:
        return "Nothing is known of this topology."
    if contradiction:
        return (
            "What was found excludes every single fault known here: a result is mistaken, or there "
            "are two faults."
        )
    if _is_explained(knowledge, evidence):
        return (
            "What was proven is replaced and explains the symptom; nothing that was read since "
            "speaks of another fault. First power, limited and loaded, tells."
        )
    leader, chance = ordered[0]
    heard = _loudest(knowledge, evidence, leader.id)
    because = f"{_capital(' and '.join(heard))}: " if heard else ""
    if is_settled:
        share = "over 99 %" if chance > 0.99 else f"{100 * chance:.0f} %"
        return f"{because}it is the {leader.name}, {share}. {leader.remedy}"
    if not tests:
        return f"{because}no test left tells much; most likely the {leader.name}."
    best = tests[0].test
    live = " All that is left to learn needs power." if best.is_live else ""
    likely = f" Most likely: {leader.name}, {100 * chance:.0f} %." if chance >= _LIKELY else ""
    return f"{because}{best.name if because else _capital(best.name)} is next.{live}{likely}"


def _is_explained(knowledge: Knowledge, evidence: Evidence) -> bool:
    """True when what was repaired explains the symptom, and nothing that stands says otherwise."""
    tests = {test.id: test for test in knowledge.tests}
    is_found = any(t in tests and result != tests[t].sound for t, result in evidence.results)
    return bool(evidence.repaired) and not evidence.symptoms and not is_found


def _loudest(knowledge: Knowledge, evidence: Evidence, leader: str) -> list[str]:
    """Up to two results that speak most for the leader, against what the symptoms foretold."""
    weights = _weights(knowledge, Evidence(evidence.symptoms, (), evidence.beliefs))
    total = math.fsum(weights.values())
    chances = {key: weight / total for key, weight in weights.items()} if total else {}
    scored = []
    for place, (test_id, result) in enumerate(evidence.results):
        test = knowledge.test(test_id)
        if test is None:
            continue
        average = math.fsum(p * test.chance(result, h) for h, p in chances.items())
        gain = math.log2(test.chance(result, leader) / average) if average else 0.0
        if gain > 0:
            scored.append((gain, place, test.said[test.results.index(result)]))
    best = sorted(scored, reverse=True)[:2]
    return [said for _, _, said in sorted(best, key=lambda item: item[1])]


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]
