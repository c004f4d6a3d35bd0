"""The facet of the diagnosis: what the model of this unit makes of everything that is known."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from msgspec import Struct

from hale_rail.case.diagnosis.fact_source import fitted, standing_statements
from hale_rail.case.diagnosis.facts import facts
from hale_rail.case.diagnosis.ripple_facts import ripple_figures
from hale_rail.case.diagnosis.state_of_tests import asks as points_asked
from hale_rail.case.diagnosis.state_of_tests import state_of
from hale_rail.case.file import CaseFile, facet, following
from hale_rail.case.name_lookup import name_of
from hale_rail.case.parts.parts import parts
from hale_rail.case.parts.proven import failure, failures
from hale_rail.case.parts.stale_readings import last_fitted, stale
from hale_rail.case.power.machine_behaviour import power_ons
from hale_rail.case.shorts.grounds import grounds
from hale_rail.core.diagnosis.bench import has_subject
from hale_rail.core.diagnosis.case_state import BenchTestState, Known
from hale_rail.core.diagnosis.engine import BELIEFS, Diagnosis, diagnose
from hale_rail.core.diagnosis.facts import Fact, ResultFact, SymptomFact
from hale_rail.core.diagnosis.faults import NEVER, Fault, faults, sheet_of
from hale_rail.core.diagnosis.inference import Weighed, weigh
from hale_rail.core.diagnosis.information import Ranked
from hale_rail.core.diagnosis.knowledge import BenchTest, Knowledge, Symptom
from hale_rail.core.diagnosis.model import UnitModel
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.power.machine_behaviour import Did
from hale_rail.core.procedures import Condition, Point
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store.looks import LOOKS
from hale_rail.store.readings import Reading
from hale_rail.store.statements import STATEMENTS

#: which modes a failure that a meter proved stands for
_PROVES: Mapping[str, tuple[FaultMode, ...]] = {
    "short": (FaultMode.SHORT, FaultMode.REVERSED),
    "open": (FaultMode.OPEN, FaultMode.HIGH, FaultMode.DRY, FaultMode.JOINT),
    "dry": (FaultMode.DRY, FaultMode.OPEN, FaultMode.LEAKY),
}
#: what the eye proves, by code
_EYE: Mapping[str, tuple[FaultMode, ...]] = {
    "joint": (FaultMode.JOINT,),
    "burnt": (FaultMode.SHORT, FaultMode.LEAKY, FaultMode.WORN, FaultMode.OPEN),
    "crack": (FaultMode.SHORT, FaultMode.LEAKY),
    "bulge": (FaultMode.DRY,),
    "leak": (FaultMode.DRY, FaultMode.LEAKY),
    "vented": (FaultMode.DRY, FaultMode.SHORT),
    "corroded": (FaultMode.WORN,),
    "clean-gap": (FaultMode.OPEN,),
}
#: a result said by hand that finds what a fault gives at least so often proves it
_PROVEN_BY_HAND = 0.8


class CaseDiagnosis(Struct, frozen=True):
    """The knowledge of the topology, what was said, the facts, and what follows.

    `suggested`: what else the typed symptom may mean, until a test was taken; `stale`: readings
    that a later replacement outdated.
    """

    knowledge: Knowledge
    symptoms: tuple[str, ...]
    suggested: tuple[Symptom, ...]
    beliefs: dict[str, str]
    facts: tuple[Fact, ...]
    test_states: tuple[BenchTestState, ...]
    stale: tuple[Reading, ...]
    diagnosis: Diagnosis

    def state_of(self, test_id: str) -> BenchTestState | None:
        """The state of a test, None for one that this unit has not."""
        return next((s for s in self.test_states if s.test.id == test_id), None)


@facet
def model(case: CaseFile) -> UnitModel:
    """The model of the case's unit; made again when its sheet, or what was replaced, changes."""
    knowledge, priors = knowledge_for(case.sheet.topology), case.workshop.priors
    beliefs = standing_statements(case)["belief"]
    given = (case.rows.sheet_version, tuple(fitted(case).items()), priors, tuple(beliefs.items()))

    def make() -> UnitModel:
        sheet = sheet_of(case.sheet)
        topology = sheet.topology.code
        names = _names(case) if case.sheet.parts else {p.id: p.ref for p in sheet.parts}
        factor = {g.id: priors.of_fault(topology, g.id) for g in knowledge.groups}
        all_faults = faults(knowledge, sheet, names, fitted(case), factor)
        factors = {
            place: BELIEFS[beliefs[f.group]]
            for place, f in enumerate(all_faults)
            if beliefs.get(f.group) in BELIEFS
        }
        return UnitModel(knowledge, sheet, all_faults, factors)

    return case.keep("model", given, make)


def _names(case: CaseFile) -> dict[int, str]:
    return {part.id: name_of(case, part) for part in case.sheet.in_power_order}


@following(ripple_figures)
def weighed(case: CaseFile) -> Weighed:
    """All hypotheses, weighed by everything that is known."""
    symptoms = tuple(standing_statements(case)["symptom"])
    known = facts(case)
    make = partial(weigh, model(case), known, symptoms, NEVER - 1)
    return case.keep("weighed", (id(model(case)), known, symptoms), make)


@following(ripple_figures)
def diagnosis(case: CaseFile) -> CaseDiagnosis:
    """Diagnose a case from everything that was read, seen and said."""
    current_weighed, diagnosis, knowledge = (
        weighed(case),
        standing_statements(case),
        model(case).knowledge,
    )
    unit = model(case).unit
    test_states = tuple(
        state_of(case, unit, test, _words_of_result(case, diagnosis["result"], test))
        for test in knowledge.tests
        if has_subject(unit, test) and not _is_stated(current_weighed, test.id)
    )
    symptoms = tuple(key for key in diagnosis["symptom"] if knowledge.symptom(key))
    last = next((on for on in reversed(power_ons(case)) if on.did), None)
    known = Known(
        test_states,
        partial(_is_proven, case, current_weighed),
        _failed_parts(case),
        partial(_was_proven, case),
        bool(symptoms or current_weighed.facts),
        last is not None and bool(last.times(Did.GONE)),
    )
    meant = knowledge.suggested(case.case.symptom) if not _is_past_saying(current_weighed) else ()
    suggested = tuple(s for s in meant if s.id not in symptoms)
    return CaseDiagnosis(
        knowledge,
        symptoms,
        suggested,
        diagnosis["belief"],
        current_weighed.facts,
        test_states,
        stale(case),
        diagnose(current_weighed, known),
    )


def _is_past_saying(weighed: Weighed) -> bool:
    """True once a symptom is said and something was read: what it does is told by then."""
    return bool(weighed.symptoms) and any(not isinstance(f, SymptomFact) for f in weighed.facts)


def _words_of_result(case: CaseFile, results: Mapping[str, str], test: BenchTest) -> str:
    """The result that was said of a test; under power, since the last replacement alone."""
    result = results.get(test.id, "")
    at = max((s.log_id for s in case.rows.all(STATEMENTS) if s.key == test.id), default=0)
    return "" if test.is_live and at < last_fitted(case) else result


def _is_stated(weighed: Weighed, test_id: str) -> bool:
    known = map(weighed.model.knowledge.symptom, weighed.symptoms)
    return any(test_id in symptom.states for symptom in known if symptom)


def asks(case: CaseFile, ranked: Ranked) -> list[Point]:
    """The points that answer a test as far as it is worth taking now."""
    return points_asked(case, model(case).unit, ranked.test, ranked.parts)


def whole_test(case: CaseFile, test_id: str) -> Ranked | None:
    """A test with all of it that is unread, whatever it is worth; None for none of this unit."""
    state = diagnosis(case).state_of(test_id)
    return Ranked(state.test, 0.0, state.test.minutes, state.parts) if state else None


def _is_proven(case: CaseFile, weighed: Weighed, fault: Fault) -> bool:
    """True where a meter or the eye proved it at the part itself, or the hand by a test."""
    if fault.part is not None:
        how = failures(case).get(fault.part.id, "")
        if fault.mode in _PROVES.get(how, ()):
            return True
        look = case.rows.newest(LOOKS).get(fault.part.id)
        if look and any(fault.mode in _EYE.get(code, ()) for code in look.codes):
            return True
    if fault.members:
        return any(i in failures(case) for i in fault.members)
    return _hangs_behind(case, fault) or _by_hand(weighed, fault)


def _failed_parts(case: CaseFile) -> frozenset[int]:
    """Ids of parts that were proven to have failed, as they are now or as they came in."""
    former = {i for i, f in parts(case).items() if f.former and failure(f.former)}
    return frozenset(former | set(failures(case)))


def _was_proven(case: CaseFile, fault: Fault) -> bool:
    """True where the part that was replaced had been proven to have a fault of this mode."""
    facts_of = parts(case).get(fault.part.id) if fault.part else None
    if facts_of is None or facts_of.former is None:
        return False
    return fault.mode in _PROVES.get(failure(facts_of.former), ())


def _hangs_behind(case: CaseFile, fault: Fault) -> bool:
    """True for a board's short: its rail is low attached, and free with the boards off."""
    if fault.mode is not FaultMode.SHORT or not fault.has("board"):
        return False
    ground = next((g for g in grounds(case) if g.rail.key == fault.line), None)
    if ground is None:
        return False
    attached, isolated = ground.sides[Condition.ATTACHED], ground.sides[Condition.ISOLATED]
    return attached.is_low and isolated.judgement is not None and not isolated.is_low


def _by_hand(weighed: Weighed, fault: Fault) -> bool:
    """True where a result that was said is what this fault gives nearly always, and few others."""
    known = weighed.model
    place = known.faults.index(fault)
    for fact in weighed.facts:
        if not isinstance(fact, ResultFact):
            continue
        test = known.knowledge.test(fact.test)
        if test is None or fact.result == test.sound or test.reads:
            continue
        view = known.kept.get(("result", test.id))
        if view is None:
            continue
        column = view.classes.index(fact.result)
        if view.rows[place, column] >= _PROVEN_BY_HAND > view.rows[-1, column]:
            return True
    return False


def met_faults(case: CaseFile) -> frozenset[str]:
    """The groups that were met in a case: proven by a meter, or replaced since."""
    current_weighed = weighed(case)
    met = {f.group for f in current_weighed.model.faults if _is_met(case, f)}
    return frozenset(met | {f.group for f in diagnosis(case).diagnosis.repaired})


def _is_met(case: CaseFile, fault: Fault) -> bool:
    if fault.part is None or fault.is_new or fault.has("fuse"):
        return False
    facts_of = parts(case).get(fault.part.id)
    how = failures(case).get(fault.part.id, "") if facts_of else ""
    return fault.mode in _PROVES.get(how, ())[:1]
