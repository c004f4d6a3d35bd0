"""Harness: from a source to the board's connector; every pin read before the board goes on."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.bring_up.bring_up import chip_pins
from hale_rail.case.bring_up.harness import SIDES, HarnessFacts, PinFacts, harness, pin_facts
from hale_rail.case.file import CaseFile
from hale_rail.case.words import counted
from hale_rail.core.bring_up.harness import USUAL_M
from hale_rail.core.procedures import PIN_VOLTS, Point
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.formats.workshop.harness_csv import SOURCE, TARGET
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.readings import Reading

#: what stands in the source's table before a person writes it
_FEEDS = ("5,20,4,18,6", "12,8,2,18,6", "-12,0.5,1,22,3", "0,,6,18,6")
_SOURCE = "\n".join((",".join(SOURCE[:5]), *_FEEDS))


class HarnessPage(Struct, frozen=True):
    """The plan and its pins, and what is in the form."""

    facts: HarnessFacts
    here: PinFacts | None
    source: str
    target: str
    length_m: float
    sides: tuple[tuple[str, str], ...]

    @property
    def side_words(self) -> str:
        """Which side of the target is seen."""
        return SIDES[self.facts.side]


def state(case: CaseFile) -> StageState:
    """Done when every pin was read and none is wrong."""
    facts = harness(case)
    if not facts.is_planned:
        return StageState(Status.OPEN, "")
    if facts.wrong:
        return StageState(Status.ATTENTION, f"{counted(len(facts.wrong), 'pin')} wrong")
    if facts.unread:
        return StageState(Status.OPEN, f"{counted(len(facts.unread), 'pin')} unread")
    return StageState(Status.DONE, "every pin read")


def page(case: CaseFile, query: PageQuery) -> HarnessPage:
    """The harness as it is now."""
    facts = harness(case)
    here = pin_facts(case).get(query.at)
    sides = tuple(SIDES.items())
    if not facts.is_planned:
        return HarnessPage(facts, None, _SOURCE, _target(case), USUAL_M, sides)
    if here is None:
        here = next(iter(facts.unread), None)
    return HarnessPage(facts, here, facts.source, facts.target, facts.length_m, sides)


def _target(case: CaseFile) -> str:
    """What is in the target's table before a person writes it: a pin for each rail."""
    rows = [",".join(TARGET)]
    for number, rail in enumerate(case.sheet.rails, start=1):
        volt = f"{rail.nominal_v:g} VAC" if rail.is_ac else f"{rail.nominal_v:g}"
        amps = f"{rail.load_max_a:g} total" if rail.load_max_a else ""
        rows.append(f"{number},rail,{volt},{amps},")
    return "\n".join((*rows, f"{len(rows)},ground,,,", f"{len(rows) + 1},signal,,,power-good"))


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """Every pin, in the connector's order."""
    return [pin.point for pin in harness(case).pins]


def next_step(case: CaseFile) -> StageStep | None:
    """Pins that are wrong or unread keep the board off."""
    facts = harness(case)
    if facts.wrong:
        names = ", ".join(pin.pin.name for pin in facts.wrong)
        return StageStep(f"Harness pin {names} is wrong: the board stays off", Urgency.FAULT)
    if facts.unread:
        first = facts.unread[0]
        text = f"Read harness pin {first.pin.name} before the board goes on"
        return StageStep(text, Urgency.LATER, first.point)
    return None


def meaning(case: CaseFile, reading: Reading) -> Meaning:
    """What a pin's volts say, of the harness or of a chip."""
    pin = pin_facts(case).get(reading.key)
    if pin is None:
        return _of_chip(case, reading)
    words = {
        RailVerdict.PASS: "right",
        RailVerdict.MARGINAL: "marginal",
        RailVerdict.FAIL: "wrong",
        RailVerdict.NOT_JUDGED: "noted",
    }[pin.verdict]
    left = harness(case).unread
    rest = f"{counted(len(left), 'pin')} left." if left else "Every pin is read."
    if pin.verdict is RailVerdict.FAIL:
        rest = "The board stays off until this is right."
    return Meaning(pin.verdict.shape, words, f"Wanted {pin.words}. {rest}")


def _of_chip(case: CaseFile, reading: Reading) -> Meaning:
    chip = next((c for c in chip_pins(case) if c.point.key == reading.key), None)
    if chip is None or chip.judgement is None:
        return Meaning.noted()
    verdict = chip.judgement.verdict
    return Meaning(verdict.shape, verdict.words, f"{chip.rail.key}: {chip.judgement.text}")


STAGE = Stage(
    key="harness",
    name="Harness",
    templates="bring_up/harness",
    state=state,
    page=page,
    points=points,
    next_step=next_step,
    begun=lambda case: harness(case).is_planned,
    done=lambda case: frozenset(pin.point.key for pin in harness(case).pins if pin.reading),
    under="machine",
    meanings={PIN_VOLTS.code: meaning},
)
