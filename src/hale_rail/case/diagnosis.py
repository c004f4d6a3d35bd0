"""The facet of the diagnosis: what readings and looks answer, what was said, what is next."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.grounds import grounds
from hale_rail.case.nodes import PartFacts
from hale_rail.case.parts import parts
from hale_rail.core.diagnosis.engine import BenchTest, Diagnosis, Evidence, Knowledge, diagnose
from hale_rail.core.parts.kinds import board, inlet
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import CONDITIONS
from hale_rail.core.shorts.ground import GroundVerdict
from hale_rail.formats.knowledge import knowledge_for

#: states that answer a test as failed, and as good; a replaced part answers nothing of the old one
_FAILED = (PartState.FAILED, PartState.WORN)
_GOOD = (PartState.GOOD,)


@dataclass(frozen=True)
class Answer:
    """A result that stands: by the readings, or as the person said."""

    test: BenchTest
    result: str
    by_reading: bool

    @property
    def words(self) -> str:
        """What was found, in words."""
        return self.test.said[self.test.results.index(self.result)]


@dataclass(frozen=True)
class CaseDiagnosis:
    """The knowledge of the topology, what was said and answered, and what follows."""

    knowledge: Knowledge
    symptoms: tuple[str, ...]
    beliefs: dict[str, str]
    answers: tuple[Answer, ...]
    diagnosis: Diagnosis


@facet
def diagnosis(case: CaseFile) -> CaseDiagnosis:
    """Diagnose a case from its readings and what was said; what was said outranks a reading."""
    knowledge = knowledge_for(case.sheet.topology)
    said = standing_statements(case)
    answers = []
    for test in knowledge.tests:
        result = said["result"].get(test.id) or answer_by_readings(case, test)
        if result in test.results:
            answers.append(Answer(test, result, test.id not in said["result"]))
    symptoms = tuple(key for key in said["symptom"] if knowledge.symptom(key))
    evidence = Evidence(
        symptoms,
        tuple((a.test.id, a.result) for a in answers),
        tuple(said["belief"].items()),
    )
    return CaseDiagnosis(
        knowledge, symptoms, said["belief"], tuple(answers), diagnose(knowledge, evidence)
    )


def standing_statements(case: CaseFile) -> dict[str, dict[str, str]]:
    """What the person said and did not take back: value by key, by kind of statement."""
    said: dict[str, dict[str, str]] = {"symptom": {}, "result": {}, "belief": {}}
    for statement in case.rows.statements:
        said[statement.kind].pop(statement.key, None)
        if statement.value:
            said[statement.kind][statement.key] = statement.value
    return said


def answer_by_readings(case: CaseFile, test: BenchTest) -> str:
    """The result that the case's verdicts give a test, or "" while they do not."""
    points = test.points
    if "ground" in points:
        return _answer_by_ground(case, test)
    if "seen" in points:
        return _answer_by_looks(case, test)
    states = [facts.state for facts in parts_of_test(case, test)]
    if any(state in _FAILED for state in states):
        return points.get("failed", "")
    if states and all(state in _GOOD for state in states):
        return points.get("good", "")
    return ""


def _answer_by_ground(case: CaseFile, test: BenchTest) -> str:
    side = CONDITIONS[test.points["ground"]]
    facts = [ground.sides[side] for ground in grounds(case)]
    if any(f.is_low for f in facts):
        return test.points["failed"]
    good = [f.judgement and f.judgement.verdict is GroundVerdict.GOOD for f in facts]
    return test.points["good"] if good and all(good) else ""


def _answer_by_looks(case: CaseFile, test: BenchTest) -> str:
    """What the look-over found; the part must be the old one still."""
    wanted = set(test.points["seen"].split())
    looks = [facts.seen for facts in parts_of_test(case, test)]
    if any(wanted & set(codes) for codes in looks):
        return test.points["failed"]
    return test.points["good"] if looks and all(looks) else ""


def parts_of_test(case: CaseFile, test: BenchTest) -> list[PartFacts]:
    """Parts whose verdicts or looks answer a test, in power order."""
    known = parts(case)
    return [known[p.id] for p in case.sheet.in_power_order if _answers(test, p)]


def _answers(test: BenchTest, part: Part) -> bool:
    if "among" in test.points:
        return _is_among(part, test.points["among"])
    kinds, roles = test.points.get("kind", "").split(), test.points.get("role", "").split()
    is_side = test.points.get("side") != "primary" or bool(part.is_primary)
    return (part.kind.code in kinds and is_side) or part.role in roles


def _is_among(part: Part, among: str) -> bool:
    family = part.family
    if among == "suppressor":
        return bool(part.safety_class) or (family is not None and family.is_suppressor)
    if among == "wet":
        return family is not None and family.is_wet
    return part.kind not in (inlet.KIND, board.KIND)


def unread_part(case: CaseFile, test: BenchTest) -> PartFacts | None:
    """The first part a test would read, unread ones first."""
    found = parts_of_test(case, test)
    unread = next((f for f in found if f.state is PartState.UNSEEN), None)
    return unread or (found[0] if found else None)
