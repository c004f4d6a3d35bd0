"""Harness: from a source to the board's connector; every pin read before the board goes on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from msgspec import Struct

from hale_rail.case.bring_up.bring_up import chip_pins
from hale_rail.case.bring_up.harness import SIDES, HarnessFacts, PinFacts, harness, pin_facts
from hale_rail.case.file import CaseFile
from hale_rail.case.words import counted
from hale_rail.core.bring_up.harness import USUAL_M
from hale_rail.core.bring_up.wiring import Feed, Pin, PinKind
from hale_rail.core.procedures import PIN_VOLTS, Point
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.errors import InputError
from hale_rail.formats.workshop.harness_csv import SOURCE, TARGET, read_source, read_target
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.readings import Reading

_Row = TypeVar("_Row")
#: what stands in the source's table before a person writes it
_SOURCE = "\n".join((",".join(SOURCE), "5,20,4,18,6", "12,8,2,18,6", "-12,0.5,1,22,3", "0,,6,18,6"))


class HarnessTables(Struct, frozen=True):
    """The two ends of a harness as they are understood while typed: each row's name and words.

    A table that cannot be read has no rows, and a problem.
    """

    feeds: Sequence[tuple[str, str]] = ()
    pins: Sequence[tuple[str, str]] = ()
    source_problem: str = ""
    target_problem: str = ""


class HarnessPage(Struct, frozen=True):
    """The plan and its pins, and what is in the form."""

    facts: HarnessFacts
    here: PinFacts | None
    source: str
    target: str
    length_m: float
    sides: tuple[tuple[str, str], ...]

    @property
    def tables(self) -> HarnessTables:
        """What is in the form, as it is understood."""
        return tables(self.source, self.target)

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


def tables(source: str, target: str) -> HarnessTables:
    """Both ends as far as they can be read."""
    feeds, source_problem = _understood(read_source, source)
    pins, target_problem = _understood(read_target, target)
    return HarnessTables(
        [(feed.name, _feed_words(feed)) for feed in feeds],
        [(pin.name, _pin_words(pin)) for pin in pins],
        source_problem,
        target_problem,
    )


def _feed_words(feed: Feed) -> str:
    """`20 A, 4 conductors of AWG 18, 6 A a contact`."""
    gauge = "" if feed.awg is None else f" of AWG {_gauge_words(feed.awg)}"
    words = [
        "" if feed.amps is None else show(feed.amps, Unit.AMPERE),
        f"{counted(feed.conductors, 'conductor')}{gauge}",
        f"{show(feed.pin_amps, Unit.AMPERE)} a contact" if feed.pin_amps else "",
        f"needs {show(feed.min_a, Unit.AMPERE)}" if feed.min_a else "",
        "isolated" if feed.isolated else "",
    ]
    return ", ".join(word for word in words if word)


def _gauge_words(awg: int) -> str:
    return str(awg) if awg > 0 else f"{1 - awg}/0"


def _pin_words(pin: Pin) -> str:
    """`+5 V, 3 A`, `ground`, `signal, power good`, `not connected`."""
    named = "not connected" if pin.kind is PinKind.NC else pin.kind.value
    words = [
        pin.rail_name if pin.rail_v is not None else named,
        "" if pin.amps is None else show(pin.amps, Unit.AMPERE, 3),
        pin.use.value.replace("-", " ") if pin.use else "",
    ]
    return ", ".join(word for word in words if word)


def _understood(reads: Callable[[str], Sequence[_Row]], text: str) -> tuple[Sequence[_Row], str]:
    try:
        return reads(text), ""
    except InputError as error:
        return (), str(error)


def _target(case: CaseFile) -> str:
    """What is in the target's table before a person writes it: a pin for each rail."""
    rows = [",".join((*TARGET, "use"))]
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
