"""Where to look next: chances over fault hypotheses, and the test that tells most for its minutes.

Bayes' rule over single faults: chance ∝ prior · Π P(symptom | fault) · Π P(result | fault), times
what the person believes. Results are taken as independent given the fault. A test's worth is the
mutual information between fault and result, in bits, per minute; cold tests come before live ones.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

#: below this a cold test tells too little to stand before a live one
WORTH_BITS = 0.03
#: the chance at which the hunt is over: repair, then test again
ENOUGH = 0.95
#: from here the sentence names the leader beside the next test
_LIKELY = 0.5
DANGERS = ("look", "cold", "lift", "live")
#: what the person may say of a hypothesis, and the factor it puts on its chance
BELIEFS = {"ruled out": 0.0, "unlikely": 0.25, "likely": 4.0}


@dataclass(frozen=True)
class Hypothesis:
    """A fault: its stage, what to say of it, its prior weight, and what mends it."""

    id: str
    name: str
    stage: str
    weight: float
    remedy: str = ""
    kinds: tuple[str, ...] = ()


@dataclass(frozen=True)
class Symptom:
    """A symptom and P(symptom | hypothesis); `usual` for hypotheses not named."""

    id: str
    name: str
    usual: float
    given: Mapping[str, float]

    def chance(self, hypothesis: str) -> float:
        """P(symptom | hypothesis)."""
        return self.given.get(hypothesis, self.usual)


@dataclass(frozen=True)
class BenchTest:
    """A test with two results: minutes, danger, and P(first result | hypothesis)."""

    id: str
    name: str
    how: str
    results: tuple[str, str]
    said: tuple[str, str]
    minutes: float
    danger: str
    usual: float
    given: Mapping[str, float]
    points: Mapping[str, str]

    def chance(self, result: str, hypothesis: str) -> float:
        """P(result | hypothesis)."""
        first = self.given.get(hypothesis, self.usual)
        return first if result == self.results[0] else 1 - first


@dataclass(frozen=True)
class Knowledge:
    """What is known of one topology: its faults, symptoms and tests."""

    hypotheses: tuple[Hypothesis, ...]
    symptoms: tuple[Symptom, ...]
    tests: tuple[BenchTest, ...]

    def test(self, test_id: str) -> BenchTest | None:
        """The test of an id, or None."""
        return next((t for t in self.tests if t.id == test_id), None)

    def symptom(self, symptom_id: str) -> Symptom | None:
        """The symptom of an id, or None."""
        return next((s for s in self.symptoms if s.id == symptom_id), None)


@dataclass(frozen=True)
class Evidence:
    """What was found so far: symptoms, results by test, and beliefs by hypothesis."""

    symptoms: tuple[str, ...] = ()
    results: tuple[tuple[str, str], ...] = ()
    beliefs: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Ranked:
    """A test with what it is expected to tell, in bits, now."""

    test: BenchTest
    bits: float

    @property
    def bits_per_minute(self) -> float:
        """What the test tells for the time that it takes."""
        return self.bits / self.test.minutes


@dataclass(frozen=True)
class Diagnosis:
    """Chances by hypothesis, best first; tests not yet done, best first; and why in a sentence."""

    chances: tuple[tuple[Hypothesis, float], ...]
    tests: tuple[Ranked, ...]
    sentence: str
    contradiction: bool = False

    @property
    def next(self) -> Ranked | None:
        """The best test not yet done, or None when all are."""
        return self.tests[0] if self.tests else None

    @property
    def is_settled(self) -> bool:
        """True when one fault is sure enough to be repaired."""
        return bool(self.chances) and self.chances[0][1] >= ENOUGH and not self.contradiction


def diagnose(knowledge: Knowledge, evidence: Evidence) -> Diagnosis:
    """Weigh the evidence; when it excludes everything, say so and go by the beliefs alone."""
    weights = _weights(knowledge, evidence)
    contradiction = math.fsum(weights.values()) <= 0
    if contradiction:
        weights = _weights(knowledge, Evidence(beliefs=evidence.beliefs))
        if math.fsum(weights.values()) <= 0:
            weights = _weights(knowledge, Evidence())
    total = math.fsum(weights.values())
    chances = {key: weight / total for key, weight in weights.items()} if total else {}
    done = {test_id for test_id, _ in evidence.results}
    tests = rank_tests([t for t in knowledge.tests if t.id not in done], chances)
    ordered = sorted(
        ((h, chances[h.id]) for h in knowledge.hypotheses if h.id in chances),
        key=lambda pair: -pair[1],
    )
    sentence = _sentence(knowledge, evidence, ordered, tests, contradiction)
    return Diagnosis(tuple(ordered), tuple(tests), sentence, contradiction)


def _weights(knowledge: Knowledge, evidence: Evidence) -> dict[str, float]:
    """Unnormalised chances by hypothesis."""
    beliefs = dict(evidence.beliefs)
    weights = {}
    for hypothesis in knowledge.hypotheses:
        weight = hypothesis.weight * BELIEFS.get(beliefs.get(hypothesis.id, ""), 1.0)
        for symptom_id in evidence.symptoms:
            symptom = knowledge.symptom(symptom_id)
            weight *= symptom.chance(hypothesis.id) if symptom else 1.0
        for test_id, result in evidence.results:
            test = knowledge.test(test_id)
            weight *= test.chance(result, hypothesis.id) if test else 1.0
        weights[hypothesis.id] = weight
    return weights


def rank_tests(tests: Sequence[BenchTest], chances: Mapping[str, float]) -> list[Ranked]:
    """Tests by bits per minute; a live one stands behind every safe one that still tells enough."""
    ranked = [Ranked(test, information_bits(test, chances)) for test in tests]

    def order(item: Ranked) -> tuple[bool, bool, float]:
        is_live = item.test.danger == "live"
        return (item.bits < WORTH_BITS, is_live, -item.bits_per_minute)

    return sorted(ranked, key=order)


def information_bits(test: BenchTest, chances: Mapping[str, float]) -> float:
    """Mutual information of fault and result: H(result) − Σ chance · H(result | fault)."""
    first = math.fsum(p * test.chance(test.results[0], h) for h, p in chances.items())
    noise = math.fsum(p * _entropy(test.chance(test.results[0], h)) for h, p in chances.items())
    return max(0.0, _entropy(first) - noise)


def _entropy(p: float) -> float:
    """Entropy of a yes with chance p, in bits."""
    if p <= 0 or p >= 1:
        return 0.0
    return -p * math.log2(p) - (1 - p) * math.log2(1 - p)


def _sentence(
    knowledge: Knowledge,
    evidence: Evidence,
    ordered: Sequence[tuple[Hypothesis, float]],
    tests: Sequence[Ranked],
    contradiction: bool,
) -> str:
    """The results that speak loudest for the leader, and what is next."""
    if not ordered:
        return "Nothing is known of this topology."
    if contradiction:
        return (
            "What was found excludes every single fault known here: a result is mistaken, or there "
            "are two faults."
        )
    leader, chance = ordered[0]
    heard = _loudest(knowledge, evidence, leader.id)
    because = f"{_capital(' and '.join(heard))}: " if heard else ""
    if chance >= ENOUGH:
        share = "over 99 %" if chance > 0.99 else f"{100 * chance:.0f} %"
        return f"{because}it is the {leader.name}, {share}. {leader.remedy}"
    useful = [t for t in tests if t.bits >= WORTH_BITS]
    if not useful:
        return f"{because}no test left tells much; most likely the {leader.name}."
    best = useful[0].test
    live = " All that is left to learn needs power." if best.danger == "live" else ""
    likely = f" Most likely: {leader.name}, {100 * chance:.0f} %." if chance >= _LIKELY else ""
    return f"{because}{best.name} is next.{live}{likely}"


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
