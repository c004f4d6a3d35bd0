"""The diagnosis of a case: what its readings answer, what the person said, what is next."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.actions import clock
from hale_rail.actions.dossier import Dossier
from hale_rail.actions.facts import StationFacts
from hale_rail.actions.next_step import changing
from hale_rail.core.diagnosis.engine import (
    BELIEFS,
    BenchTest,
    Diagnosis,
    Evidence,
    Knowledge,
    diagnose,
)
from hale_rail.core.shorts.ground import GroundVerdict
from hale_rail.core.supply.sheet import Kind, Station
from hale_rail.errors import InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store import findings, log, sheets
from hale_rail.store.database import Store

#: station states that answer a test as failed; a replaced part answers nothing of the old one
_FAILED, _GOOD = ("failed", "worn"), ("good",)


@dataclass(frozen=True)
class Answer:
    """A result that stands: by the readings, or as the person said."""

    test: BenchTest
    result: str
    by_reading: bool


@dataclass(frozen=True)
class CaseDiagnosis:
    """Everything the diagnosis view shows."""

    knowledge: Knowledge
    symptoms: tuple[str, ...]
    beliefs: dict[str, str]
    answers: tuple[Answer, ...]
    diagnosis: Diagnosis

    def point(self, test: BenchTest, dossier: Dossier) -> StationFacts | None:
        """The first station a test would read, unread ones first."""
        found = _stations(test, dossier)
        return next((f for f in found if f.state == "unseen"), found[0] if found else None)


def of_case(dossier: Dossier) -> CaseDiagnosis:
    """Diagnose a case from its readings and what was said; what was said outranks a reading."""
    knowledge = knowledge_for(dossier.sheet.topology)
    said: dict[str, dict[str, str]] = {"symptom": {}, "result": {}, "belief": {}}
    for kind, key, value in dossier.findings:
        said[kind][key] = value
    answers = []
    for test in knowledge.tests:
        read = answer_by_readings(test, dossier)
        result = said["result"].get(test.id, read)
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


def answer_by_readings(test: BenchTest, dossier: Dossier) -> str:
    """The result that the case's verdicts give a test, or "" while they do not."""
    points = test.points
    if "ground" in points:
        return _answer_by_ground(test, dossier)
    if "seen" in points:
        return _answer_by_looks(test, dossier)
    states = [facts.state for facts in _stations(test, dossier)]
    if any(state in _FAILED for state in states):
        return points.get("failed", "")
    if states and all(state in _GOOD for state in states):
        return points.get("good", "")
    return ""


def _answer_by_ground(test: BenchTest, dossier: Dossier) -> str:
    judged = [rail.ground[test.points["ground"]].judgement for rail in dossier.rails]
    low = (GroundVerdict.SHORT, GroundVerdict.SUSPICIOUS)
    if any(j and j.verdict in low for j in judged):
        return test.points["failed"]
    if judged and all(j and j.verdict is GroundVerdict.GOOD for j in judged):
        return test.points["good"]
    return ""


def _answer_by_looks(test: BenchTest, dossier: Dossier) -> str:
    """What the look-over found; the part must be the old one still."""
    wanted = set(test.points["seen"].split())
    looks = [facts.seen for facts in _stations(test, dossier)]
    if any(wanted & set(codes) for codes in looks):
        return test.points["failed"]
    return test.points["good"] if looks and all(looks) else ""


def _is_among(station: Station, among: str) -> bool:
    family = station.family
    if among == "suppressor":
        return bool(station.safety_class) or (family is not None and family.is_suppressor)
    if among == "wet":
        return family is not None and family.is_wet
    return station.kind not in (Kind.INLET, Kind.BOARD)


def _stations(test: BenchTest, dossier: Dossier) -> list[StationFacts]:
    """Stations whose verdicts or looks answer a test, in power order."""
    if "among" in test.points:
        stations = [s for s in dossier.sheet.in_power_order if _is_among(s, test.points["among"])]
        return [dossier.facts[station.id] for station in stations]
    kinds, roles = test.points.get("kind", ""), test.points.get("role", "").split()
    if not kinds and not roles:
        return []
    found = []
    for station in dossier.sheet.in_power_order:
        is_kind = bool(kinds) and station.kind.value in _names(kinds)
        is_side = test.points.get("side") != "primary" or station.is_primary
        if (is_kind and is_side) or station.role in roles:
            found.append(dossier.facts[station.id])
    return found


def _names(kinds: str) -> tuple[str, ...]:
    """`diode Schottky` names two kinds; `bipolar transistor` one."""
    return ("diode", "Schottky") if kinds == "diode Schottky" else (kinds,)


def say(store: Store, number: str, kind: str, key: str, value: str, at: str | None = None) -> None:
    """Record a symptom, a test's result or a belief; an empty value takes it back."""
    moment = at or clock.now()
    with changing(store, number) as (connection, case):
        knowledge = knowledge_for(sheets.load(connection, case.sheet_id).topology)
        text = _checked(knowledge, kind, key, value)
        findings.append(connection, case.id, kind, key, value, moment)
        log.append(connection, case.id, moment, "diagnosis", text)


def _checked(knowledge: Knowledge, kind: str, key: str, value: str) -> str:
    """The log's words for what is said; raises InputError for what cannot be said."""
    back = "taken back" if not value else ""
    symptom, test = knowledge.symptom(key), knowledge.test(key)
    hypothesis = next((h for h in knowledge.hypotheses if h.id == key), None)
    if kind == "symptom" and symptom and value in ("", "yes"):
        return f"Symptom: {symptom.name} {back}".strip()
    if kind == "result" and test and value in ("", *test.results):
        return f"{test.name}: {back or value}"
    if kind == "belief" and hypothesis and value in ("", *BELIEFS):
        return f"{hypothesis.name}: {back or value}"
    raise InputError("That is no symptom, result or belief of this unit.")
