"""Where to look next: chances over faults, and the test that tells most for its minutes."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.case.diagnosis import CaseDiagnosis, diagnosis, unread_part
from hale_rail.case.file import CaseFile
from hale_rail.case.walks import part_point
from hale_rail.core.diagnosis.engine import BELIEFS, Hypothesis, Ranked
from hale_rail.stages.stage import Asked, Stage, StageState, Status

#: below this a test tells nothing that is worth a box of its own
_NEXT_WORTH_BITS = 0.001
#: below these shares a chance is written with a decimal, and as next to nothing
_ONE_PER_CENT, _NOTHING = 0.01, 0.0005
_OTHERS = 8
DANGER_WORDS = {"look": "by eye", "cold": "cold", "lift": "a part out", "live": "under power"}


@dataclass(frozen=True)
class Chance:
    """A fault with its chance: as a share, as written, and what the person believes of it."""

    hypothesis: Hypothesis
    share: float
    words: str
    belief: str


@dataclass(frozen=True)
class NextTest:
    """The test that tells most, how it is done in words, and where the case takes its reading.

    `stage` and `point_key` "" where nothing of the case answers it.
    """

    ranked: Ranked
    danger: str
    place: str
    stage: str
    point_key: str


@dataclass(frozen=True)
class DiagnosisPage:
    """The diagnosis as it is shown."""

    found: CaseDiagnosis
    sentence: str
    next: NextTest | None
    chances: tuple[Chance, ...]
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
    return DiagnosisPage(
        found,
        found.diagnosis.sentence if is_asked else usual,
        _next(case, found),
        tuple(
            Chance(h, share, _chance_words(share), found.beliefs.get(h.id, ""))
            for h, share in found.diagnosis.chances
        ),
        found.diagnosis.tests[1 : 1 + _OTHERS],
        tuple(BELIEFS),
    )


def _chance_words(share: float) -> str:
    if share > 1 - _ONE_PER_CENT:
        return ">99"
    if share >= _ONE_PER_CENT:
        return f"{100 * share:.0f}"
    return f"{100 * share:.1f}" if share >= _NOTHING else "<0.1"


def _next(case: CaseFile, found: CaseDiagnosis) -> NextTest | None:
    best = found.diagnosis.next
    if best is None or best.bits <= _NEXT_WORTH_BITS:
        return None
    place, stage, key = _place(case, best)
    return NextTest(best, DANGER_WORDS[best.test.danger], place, stage, key)


def _place(case: CaseFile, best: Ranked) -> tuple[str, str, str]:
    """Where a test's answer is read: words for the link, the stage, and the point."""
    if best.test.danger == "look":
        return "To the look-over", "look", ""
    if "ground" in best.test.points:
        return "To the shorts table", "shorts", ""
    facts = unread_part(case, best.test)
    if facts is None:
        return "", "", ""
    point = part_point(case, facts.part)
    stage = "capacitors" if facts.part.capacitor else "cold"
    return f"Read {facts.part.ref}", stage, point.key if point else ""


STAGE = Stage(key="diagnosis", name="Where to look next", state=state, page=page)
