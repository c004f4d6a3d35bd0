"""The facet of the diagnosis: what readings and looks answer, what was said, what is next."""

from __future__ import annotations

from functools import partial

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.answers import Answered, answer
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.nodes import PartFacts
from hale_rail.case.parts import parts
from hale_rail.case.tested_parts import failure, failures, has_parts, side_of, tokens
from hale_rail.core.diagnosis.engine import LAST, Diagnosis, Evidence, diagnose
from hale_rail.core.diagnosis.knowledge import BenchTest, Hypothesis, Knowledge, Symptom
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.states import PartState
from hale_rail.core.record.ledger import Priors
from hale_rail.formats.knowledge import knowledge_for

#: faults that need no part of the sheet
_OF_NO_PART = ("board", "adapter", "any", "unit", "connector", "feedback", "trimmer", "controller")


class Answer(Struct, frozen=True):
    """A result that stands: by the readings, or as the person said."""

    test: BenchTest
    result: str
    by_reading: bool

    @property
    def words(self) -> str:
        """What was found, in words."""
        return self.test.said[self.test.results.index(self.result)]


class CaseDiagnosis(Struct, frozen=True):
    """The knowledge of the topology, what was said and answered, and what follows.

    `suggested`: symptoms that the typed one may mean, while none is said.
    """

    knowledge: Knowledge
    symptoms: tuple[str, ...]
    suggested: tuple[Symptom, ...]
    beliefs: dict[str, str]
    answers: tuple[Answer, ...]
    diagnosis: Diagnosis


@facet
def diagnosis(case: CaseFile) -> CaseDiagnosis:
    """Diagnose a case from its readings and what was said; what was said outranks a reading."""
    knowledge = _known(case)
    said = standing_statements(case)
    answers, spent = [], set()
    for test in knowledge.tests:
        found = answer(case, test) if has_parts(case, test) else Answered("", is_spent=True)
        result = said["result"].get(test.id) or found.result
        if result in test.results:
            answers.append(Answer(test, result, test.id not in said["result"]))
        elif found.is_spent:
            spent.add(test.id)
    symptoms = tuple(key for key in said["symptom"] if knowledge.symptom(key))
    evidence = Evidence(
        symptoms,
        tuple((a.test.id, a.result) for a in answers),
        tuple(said["belief"].items()),
        frozenset(h.id for h in knowledge.hypotheses if _is_proven(case, h)),
        frozenset(h.id for h in knowledge.hypotheses if _is_repaired(case, h)),
        case.keep("absent", case.rows.sheet_version, partial(_absent, case, knowledge)),
        frozenset(spent),
    )
    suggested = () if symptoms else knowledge.suggested(case.case.symptom)
    return CaseDiagnosis(
        knowledge,
        symptoms,
        suggested,
        said["belief"],
        tuple(answers),
        case.keep(
            "diagnosis",
            (evidence, case.workshop.priors),
            partial(diagnose, knowledge, evidence),
        ),
    )


def _known(case: CaseFile) -> Knowledge:
    """What is known of the topology, faults weighed as the workshop's own cases met them."""
    knowledge, priors = knowledge_for(case.sheet.topology), case.workshop.priors
    topology = case.sheet.topology.code
    if not any(where == topology for where, _, __ in priors.faults):
        return knowledge
    return case.keep(
        "knowledge", (topology, priors), partial(_weighed, knowledge, topology, priors)
    )


def _weighed(knowledge: Knowledge, topology: str, priors: Priors) -> Knowledge:
    weighed = tuple(
        replace(h, weight=h.weight * priors.of_fault(topology, h.id)) for h in knowledge.hypotheses
    )
    return replace(knowledge, hypotheses=weighed)


def met_faults(case: CaseFile) -> frozenset[str]:
    """The faults that were met in a case: proven by a meter, or replaced since."""
    known = knowledge_for(case.sheet.topology).hypotheses
    return frozenset(h.id for h in known if _is_proven(case, h) or _is_repaired(case, h))


def _is_proven(case: CaseFile, hypothesis: Hypothesis) -> bool:
    """True when a part of the sheet is proven to have this fault, by a meter."""
    return hypothesis.id != LAST and any(
        _has_fault(case, hypothesis, parts(case)[i], how) for i, how in failures(case).items()
    )


def _is_repaired(case: CaseFile, hypothesis: Hypothesis) -> bool:
    """True when a part that had this fault was replaced, and the new one is not bad."""
    return hypothesis.id != LAST and any(
        _has_fault(case, hypothesis, facts, how)
        for facts in parts(case).values()
        if facts.state is PartState.REPLACED and (how := _former(facts))
    )


def _former(facts: PartFacts) -> str:
    """How the part that stood there before had failed; a capacitor's loss in a bank is its own."""
    before = failure(facts.former) if facts.former else ""
    return before or ("dry" if facts.part.kind is capacitor.KIND else "")


def _has_fault(case: CaseFile, hypothesis: Hypothesis, facts: PartFacts, how: str) -> bool:
    if hypothesis.side not in ("", side_of(facts.part)):
        return False
    return any(f"{how}:{token}" in hypothesis.faults for token in tokens(case, facts.part))


def _absent(case: CaseFile, knowledge: Knowledge) -> frozenset[str]:
    return frozenset(h.id for h in knowledge.hypotheses if _is_absent(case, h))


def _is_absent(case: CaseFile, hypothesis: Hypothesis) -> bool:
    """True when the sheet has parts, and none that could have this fault."""
    named = {fault.partition(":")[2] for fault in hypothesis.faults}
    if not case.sheet.parts or named & set(_OF_NO_PART):
        return False
    there = {
        token
        for part in case.sheet.parts
        if hypothesis.side in ("", side_of(part))
        for token in tokens(case, part)
    }
    return not named & there


def standing_statements(case: CaseFile) -> dict[str, dict[str, str]]:
    """What the person said and did not take back: value by key, by kind of statement."""
    said: dict[str, dict[str, str]] = {"symptom": {}, "result": {}, "belief": {}}
    for statement in case.rows.statements:
        said[statement.kind].pop(statement.key, None)
        if statement.value:
            said[statement.kind][statement.key] = statement.value
    return said
