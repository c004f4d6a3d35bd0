"""Where to look next: chances over faults, and the test that tells most for its minutes."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.asks import asks
from hale_rail.case.diagnosis import CaseDiagnosis, diagnosis, standing_statements
from hale_rail.case.file import CaseFile
from hale_rail.case.subjects import point_words
from hale_rail.core.diagnosis.engine import BELIEFS, Ranked
from hale_rail.core.diagnosis.knowledge import Hypothesis
from hale_rail.core.procedures import GROUND, VOLTS, Point
from hale_rail.stages import rails
from hale_rail.stages.stage import Asked, Stage, StageState, Status, Step, Urgency

#: below these shares a chance is written with a decimal, and as next to nothing
_ONE_PER_CENT, _NOTHING = 0.01, 0.0005
_OTHERS = 8
DANGER_WORDS = {"look": "by eye", "cold": "cold", "lift": "a leg lifted", "live": "under power"}


class Chance(Struct, frozen=True):
    """A fault with its chance: as a share, as written, and what the person believes of it."""

    hypothesis: Hypothesis
    share: float
    words: str
    belief: str


class NextTest(Struct, frozen=True):
    """The test that tells most, how it is done in words, and where the case takes its reading.

    `stage` and `point_key` "" where nothing of the case answers it.
    """

    ranked: Ranked
    danger: str
    place: str
    stage: str
    point_key: str


class DiagnosisPage(Struct, frozen=True):
    """The diagnosis as it is shown; `tail` the chances below one per cent."""

    found: CaseDiagnosis
    sentence: str
    next: NextTest | None
    chances: tuple[Chance, ...]
    tail: tuple[Chance, ...]
    others: tuple[Ranked, ...]
    beliefs: tuple[str, ...]


def state(_: CaseFile) -> StageState:
    """It stands beside the order of work."""
    return StageState(Status.OPEN, "")


def page(case: CaseFile, _: Asked) -> DiagnosisPage:
    """Chances, the next test, what was found."""
    found = diagnosis(case)
    is_asked = bool(found.symptoms or found.answers)
    usual = "Say what it does: press the symptoms you see."
    chances = [
        Chance(h, share, _chance_words(share), found.beliefs.get(h.id, ""))
        for h, share in found.diagnosis.chances
    ]
    best = found.diagnosis.next
    return DiagnosisPage(
        found,
        found.diagnosis.sentence if is_asked else usual,
        _next(case, best) if best else None,
        tuple(c for c in chances if c.share >= _ONE_PER_CENT or c.belief),
        tuple(c for c in chances if c.share < _ONE_PER_CENT and not c.belief),
        tuple(r for r in found.diagnosis.tests if r is not best)[:_OTHERS],
        tuple(BELIEFS),
    )


def _chance_words(share: float) -> str:
    if share > 1 - _ONE_PER_CENT:
        return ">99"
    if share >= _ONE_PER_CENT:
        return f"{100 * share:.0f}"
    return f"{100 * share:.1f}" if share >= _NOTHING else "<0.1"


def _next(case: CaseFile, best: Ranked) -> NextTest:
    place, stage, key = _place(case, best)
    return NextTest(best, DANGER_WORDS[best.test.danger], place, stage, key)


def _place(case: CaseFile, best: Ranked) -> tuple[str, str, str]:
    """Where a test's answer is read: words for the link, the stage, and the point."""
    if best.test.danger == "look":
        return "To the look-over", "look", ""
    wanted = asks(case, best.test)
    if not wanted:
        return "", "", ""
    return f"Read {point_words(case, wanted[0])}", _stage_of(case, wanted[0]), wanted[0].key


def _stage_of(case: CaseFile, point: Point) -> str:
    if point.procedure is GROUND:
        return "shorts"
    if point.procedure is VOLTS:
        return "rails"
    part = case.sheet.part(point.part_id)
    return "capacitors" if part and part.capacitor else "cold"


def diagnosis_step(case: CaseFile) -> Step | None:
    """What the diagnosis would have read next, once a symptom is said."""
    is_over = case.case.closed_at or rails.state(case).status is Status.DONE
    if is_over or not standing_statements(case)["symptom"]:
        return None
    found = diagnosis(case)
    if not found.symptoms:
        return None
    best = found.diagnosis.next
    if best is None:
        return None
    _, stage, _ = _place(case, best)
    wanted = asks(case, best.test)
    if wanted:
        return Step(f"Read {point_words(case, wanted[0])}", Urgency.HUNT, wanted[0], stage)
    name = best.test.name
    return Step(f"{name[:1].upper()}{name[1:]}", Urgency.HUNT, stage_key=stage or STAGE.key)


STAGE: Stage = Stage(
    key="diagnosis",
    name="Where to look next",
    state=state,
    page=page,
    next_step=diagnosis_step,
)
