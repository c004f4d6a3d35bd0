"""Where to look next: chances on the line map and by what is to be repaired, and the next test."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.case.behind.evidence import is_passed_on
from hale_rail.case.diagnosis.diagnosis import CaseDiagnosis, asks, diagnosis, weighed
from hale_rail.case.diagnosis.fact_source import standing_statements
from hale_rail.case.diagnosis.ripple_facts import waiting
from hale_rail.case.file import CaseFile
from hale_rail.case.name_lookup import name_of, target_name
from hale_rail.case.parts.line_map import CaseMap, case_map
from hale_rail.case.power.machine_behaviour import PowerOn, last_power_on
from hale_rail.case.subjects import point_words
from hale_rail.core.diagnosis.bench import OF_LOOKS
from hale_rail.core.diagnosis.engine import BELIEFS
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.diagnosis.inference import SOUND
from hale_rail.core.diagnosis.information import Ranked
from hale_rail.core.diagnosis.knowledge import BenchTest, FaultGroup
from hale_rail.core.diagnosis.wording import capital
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import GROUND, VOLTS, Point
from hale_rail.stages.rails import rails
from hale_rail.stages.stage import (
    PageQuery,
    Stage,
    StageState,
    StageStep,
    Status,
    Urgency,
    is_part_id,
)

#: below these shares a chance is written with a decimal, and as next to nothing
_ONE_PER_CENT, _NOTHING = 0.01, 0.0005
_OTHERS, _MOST_FAULTS, _MOST_EVIDENCE = 8, 5, 8
#: what a fact must say of a part to be listed, and to be called strong, in ln
_SAYS, _STRONG = 0.15, 2.0
DANGER_WORDS = {"look": "by eye", "cold": "cold", "lift": "a leg lifted", "live": "under power"}


class Chance(Struct, frozen=True):
    """What is to be repaired with its chance: as a share, as written, what the person believes of
    it, and the faults that it stands for, each with its part's id ("" for none) and share."""

    group: FaultGroup
    share: float
    words: str
    belief: str
    faults: tuple[tuple[str, int | None, str], ...]


class NextTest(Struct, frozen=True):
    """The test that tells most, how it is done in words, and where the case takes its reading.

    `stage` and `point_key` "" where nothing of the case answers it; `of` names the parts.
    """

    ranked: Ranked
    danger: str
    of: str
    place: str
    stage: str
    point_key: str


class EvidenceLine(Struct, frozen=True):
    """A fact that speaks of a part: its sentence, and how loudly, in words."""

    text: str
    words: str


class PartEvidence(Struct, frozen=True):
    """What speaks for and against a part being faulty."""

    name: str
    words: str
    speaks_for: tuple[EvidenceLine, ...]
    against: tuple[EvidenceLine, ...]


class DiagnosisPage(Struct, frozen=True):
    """The diagnosis as it is shown; `tail` the chances below one per cent.

    `shares`: the chance of each part on the map, by its id; `results`: tests answered by hand;
    `power_on`: the last time that power came; `waiting`: rails whose ripple is being analysed.
    """

    weighed: CaseDiagnosis
    sentence: str
    next: NextTest | None
    chances: tuple[Chance, ...]
    tail: tuple[Chance, ...]
    others: tuple[Ranked, ...]
    beliefs: tuple[str, ...]
    results: tuple[tuple[BenchTest, str], ...]
    map: CaseMap
    shares: Mapping[int, float]
    asked_part: Part | None
    evidence: PartEvidence | None
    stale: tuple[str, ...]
    power_on: PowerOn | None
    waiting: tuple[str, ...]
    is_passed_on: bool


def state(_: CaseFile) -> StageState:
    """It stands beside the order of work."""
    return StageState(Status.OPEN, "")


def page(case: CaseFile, query: PageQuery) -> DiagnosisPage:
    """Chances, the next test, what was found."""
    case_diagnosis = diagnosis(case)
    is_asked = bool(case_diagnosis.symptoms or case_diagnosis.facts)
    usual = "Say what it does: press the symptoms you see."
    chances = [
        _chance(case, case_diagnosis, group, share)
        for group, share in case_diagnosis.diagnosis.chances
    ]
    best = case_diagnosis.diagnosis.next
    tests = {test.id: test for test in case_diagnosis.knowledge.tests}
    results = standing_statements(case)["result"]
    part = case.sheet.part(int(query.by)) if is_part_id(query.by) else None
    return DiagnosisPage(
        case_diagnosis,
        case_diagnosis.diagnosis.sentence if is_asked else usual,
        _next(case, best) if best else None,
        tuple(c for c in chances if c.share >= _ONE_PER_CENT or c.belief),
        tuple(c for c in chances if c.share < _ONE_PER_CENT and not c.belief),
        tuple(r for r in case_diagnosis.diagnosis.tests if r is not best)[:_OTHERS],
        tuple(BELIEFS),
        tuple((tests[key], result) for key, result in results.items() if key in tests),
        case_map(case),
        case_diagnosis.diagnosis.by_part if is_asked else {},
        part,
        _evidence(case, part) if part else None,
        tuple(dict.fromkeys(target_name(case, r.point) for r in case_diagnosis.stale)),
        last_power_on(case),
        waiting(case),
        is_passed_on(case),
    )


def _chance(case: CaseFile, diagnosis: CaseDiagnosis, group: FaultGroup, share: float) -> Chance:
    own = [
        (f, p) for f, p in diagnosis.diagnosis.faults if f.group == group.id and p >= _ONE_PER_CENT
    ]
    known = {p.id for p in case.sheet.parts}
    faults = tuple((f.name, _only_part(f, known), per_cent_of(p)) for f, p in own[:_MOST_FAULTS])
    belief = diagnosis.beliefs.get(group.id, "") if group.id != SOUND else ""
    return Chance(group, share, per_cent_of(share), belief, faults)


def _only_part(fault: Fault, known: set[int]) -> int | None:
    return fault.part.id if fault.part and fault.part.id in known else None


def per_cent_of(share: float) -> str:
    """A chance as a number of per cent, never nothing and never all."""
    if share > 1 - _ONE_PER_CENT:
        return ">99"
    if share >= _ONE_PER_CENT:
        return f"{100 * share:.0f}"
    return f"{100 * share:.1f}" if share >= _NOTHING else "<0.1"


def _evidence(case: CaseFile, part: Part) -> PartEvidence:
    """What speaks for and against a part, the loudest first."""
    told = weighed(case).evidence(part.id)
    share = diagnosis(case).diagnosis.by_part.get(part.id, 0.0)
    return PartEvidence(
        name_of(case, part),
        per_cent_of(share),
        _evidence_lines([(f.words, s) for f, s in told if s >= _SAYS]),
        _evidence_lines([(f.words, -s) for f, s in told if s <= -_SAYS]),
    )


def _evidence_lines(told: Sequence[tuple[str, float]]) -> tuple[EvidenceLine, ...]:
    return tuple(
        EvidenceLine(f"{capital(text)}.", "strongly" if loud >= _STRONG else "a little")
        for text, loud in told[:_MOST_EVIDENCE]
    )


def _next(case: CaseFile, best: Ranked) -> NextTest:
    place, stage, key = _place(case, best)
    is_some = best.test.is_lift or best.test.danger == "look"
    names = [name_of(case, p) for p in best.parts if case.sheet.part(p.id)]
    of = ", ".join(names) if is_some else ""
    return NextTest(best, DANGER_WORDS[best.test.danger], of, place, stage, key)


def _place(case: CaseFile, best: Ranked) -> tuple[str, str, str]:
    """Where a test's answer is read: words for the link, the stage, and the point."""
    if best.test.reads == OF_LOOKS:
        return "To the look-over", "look", ""
    if best.test.reads == "ripple":
        return "To the ripple lab", "ripple", ""
    wanted = asks(case, best)
    if not wanted:
        return "", "", ""
    return f"Read {point_words(case, wanted[0])}", _stage_of(case, wanted[0]), wanted[0].key


def _stage_of(case: CaseFile, point: Point) -> str:
    if point.procedure is GROUND:
        return "shorts"
    if point.procedure is VOLTS:
        return "rails"
    part = case.sheet.part(point.part_id)
    return "capacitors" if part and part.kind is capacitor.KIND else "cold"


def diagnosis_step(case: CaseFile) -> StageStep | None:
    """What the diagnosis would have read next, once a symptom is said."""
    is_over = case.case.closed_at or rails.state(case).status is Status.DONE
    if is_over or is_passed_on(case) or not standing_statements(case)["symptom"]:
        return None
    case_diagnosis = diagnosis(case)
    if not case_diagnosis.symptoms:
        return None
    best = case_diagnosis.diagnosis.next
    if best is None:
        return None
    _, stage, _ = _place(case, best)
    wanted = asks(case, best)
    if wanted:
        return StageStep(f"Read {point_words(case, wanted[0])}", Urgency.HUNT, wanted[0], stage)
    return StageStep(capital(best.test.name), Urgency.HUNT, stage_key=stage or STAGE.key)


STAGE: Stage = Stage(
    key="diagnosis",
    name="Where to look next",
    state=state,
    page=page,
    next_step=diagnosis_step,
)
