"""The facet of the harness: its plan, what was read at its pins, and the colours found."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.core.bring_up.harness import USUAL_M, Expected, Harness, plan
from hale_rail.core.bring_up.wiring import Feed, Pin, Wire
from hale_rail.core.errors import InputError
from hale_rail.core.procedures import PIN_VOLTS, Point
from hale_rail.core.procedures.bring_up import HARNESS, pin_target
from hale_rail.core.quantities import Unit
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.formats.workshop.harness_csv import expected_words, read_source, read_target
from hale_rail.store.machine_notes import MACHINE_NOTES
from hale_rail.store.readings import Reading

#: how a connector's face is seen
SIDES = {"mating": "mating side", "wire": "wire side"}


class PinFacts(Struct, frozen=True):
    """A pin of the target with what is to be read there, what was, and the wire's colour found."""

    pin: Pin
    expected: Expected
    reading: Reading | None
    verdict: RailVerdict
    colour: str

    @property
    def point(self) -> Point:
        """Where it is read."""
        return Point(pin_target(HARNESS, self.pin.name), PIN_VOLTS)

    @property
    def words(self) -> str:
        """What it is to read."""
        return expected_words(self.expected)


class HarnessFacts(Struct, frozen=True):
    """The harness as it is now: what was written, and (None while it cannot be planned) the plan.

    `side` a code of `SIDES`: how the target's connector is seen.
    """

    source: str
    target: str
    length_m: float
    side: str
    feeds: tuple[Feed, ...]
    plan: Harness | None
    pins: tuple[PinFacts, ...]

    @property
    def is_planned(self) -> bool:
        """True once there is a plan."""
        return self.plan is not None

    def wire_of(self, facts: PinFacts) -> Wire | None:
        """The wire that feeds a pin, None where none does."""
        wires = self.plan.wires if self.plan else ()
        return next((wire for wire in wires if wire.pin.name == facts.pin.name), None)

    @property
    def unread(self) -> tuple[PinFacts, ...]:
        """Pins without a reading."""
        return tuple(pin for pin in self.pins if pin.reading is None)

    @property
    def wrong(self) -> tuple[PinFacts, ...]:
        """Pins that read what they must not."""
        return tuple(pin for pin in self.pins if pin.verdict is RailVerdict.FAIL)

    @property
    def may_connect(self) -> bool:
        """True when every pin was read and none is wrong."""
        return self.is_planned and not self.unread and not self.wrong


_NONE = HarnessFacts("", "", USUAL_M, "mating", (), None, ())


@facet
def harness(case: CaseFile) -> HarnessFacts:
    """The harness of the case; empty where none was written."""
    note = case.rows.newest(MACHINE_NOTES).get(("harness", ""))
    if note is None or note.body is None:
        return _NONE
    body = note.body
    try:
        feeds, pins = read_source(str(body["source"])), read_target(str(body["target"]))
        planned = plan(feeds, pins, float(body["length_m"]))
    except (InputError, KeyError, TypeError, ValueError):
        return _NONE
    known = {expected.pin: expected for expected in planned.expected}
    facts = tuple(_pin(case, pin, known[pin.name], note.log_id) for pin in pins)
    side = body.get("side") if body.get("side") in SIDES else "mating"
    return HarnessFacts(
        str(body["source"]), str(body["target"]), float(body["length_m"]), str(side),
        tuple(feeds), planned, facts,
    )  # fmt: skip


def _pin(case: CaseFile, pin: Pin, expected: Expected, since: int) -> PinFacts:
    point = Point(pin_target(HARNESS, pin.name), PIN_VOLTS)
    newest = case.rows.standing.get(point.key)
    reading = newest if newest and newest.log_id > since else None  # another plan, other pins
    note = case.rows.newest(MACHINE_NOTES).get(("colour", pin.name))
    colour = str((note.body or {}).get("colour", "")) if note else ""
    return PinFacts(pin, expected, reading, _verdict(expected, reading), colour)


def _verdict(expected: Expected, reading: Reading | None) -> RailVerdict:
    """What a pin's reading says: inside its limits by more than the meter's error, or not."""
    if reading is None:
        return RailVerdict.NOT_JUDGED
    verdict = RailVerdict.PASS
    for volt in (reading.value, reading.high):
        error = reading.accuracy.error(volt, reading.digit, Unit.VOLT)
        if volt + error < expected.low_v or volt - error > expected.high_v:
            return RailVerdict.FAIL
        if volt - error < expected.low_v or volt + error > expected.high_v:
            verdict = RailVerdict.MARGINAL
    return verdict


def pin_facts(case: CaseFile) -> Mapping[str, PinFacts]:
    """The pins by their point's key."""
    return {pin.point.key: pin for pin in harness(case).pins}
