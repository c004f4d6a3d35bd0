"""The facets of rail events, linear regulators, and pins named before chips were on the sheet."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.case.bring_up.machine_notes import notes_of
from hale_rail.case.file import CaseFile, facet
from hale_rail.core.bring_up.collateral import EVENTS, RailEvent, collateral, event_words
from hale_rail.core.bring_up.linear import Linear, linear
from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import board
from hale_rail.core.procedures import PIN_VOLTS, Condition, Point
from hale_rail.core.procedures.bring_up import CHIP, pin_target
from hale_rail.core.rails.judge import RailJudgement, RailReading, judge
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.supply.suspects import OvervoltageSuspect
from hale_rail.store.readings import Reading


class ChipPin(Struct, frozen=True):
    """A supply pin of a chip: the rail it should have, what was read there, judged."""

    name: str
    rail: Rail
    reading: Reading | None
    judgement: RailJudgement | None

    @property
    def point(self) -> Point:
        """Where it is read."""
        return Point(pin_target(CHIP, self.name), PIN_VOLTS)


class EventFacts(Struct, frozen=True):
    """A rail event and what it may have taken along."""

    key: str
    rail: Rail
    event: RailEvent
    peak_v: float | None
    at: str
    text: str
    suspects: tuple[OvervoltageSuspect, ...]


class RegulatorFacts(Struct, frozen=True):
    """A linear regulator as it was computed."""

    ref: str
    body: Mapping[str, Any]
    judged: Linear


@facet
def chip_pins(case: CaseFile) -> tuple[ChipPin, ...]:
    """The supply pins of chips that a person named."""
    chip_pins = []
    for key, _, body in notes_of(case, "chip"):
        rail = case.sheet.rail(str(body.get("rail", "")))
        if rail is None:
            continue
        reading = case.rows.standing.get(Point(pin_target(CHIP, key), PIN_VOLTS).key)
        judged = judge(_as_rail(rail, reading), case.tolerance) if reading else None
        chip_pins.append(ChipPin(key, rail, reading, judged))
    return tuple(chip_pins)


def _as_rail(rail: Rail, reading: Reading) -> RailReading:
    """A chip's pin as a reading of its rail, in the machine."""
    return RailReading(
        rail, reading.value, reading.high, reading.digit, Condition.MACHINE, reading.accuracy
    )


@facet
def events(case: CaseFile) -> tuple[EventFacts, ...]:
    """Rail events with what they may have taken along, oldest first."""
    events = []
    for key, note, body in notes_of(case, "event"):
        rail, event = case.sheet.rail(str(body.get("rail", ""))), EVENTS.get(str(body.get("event")))
        if rail is None or event is None:
            continue
        peak = body.get("peak_v")
        volt = float(peak) if isinstance(peak, int | float) else None
        boards = [p.ref for p in case.sheet.parts if p.kind is board.KIND and rail.key in p.rails]
        text = event_words(rail, event, volt, boards)
        suspects = tuple(collateral(case.sheet, rail, event, volt))
        events.append(EventFacts(key, rail, event, volt, note.at, text, suspects))
    return tuple(events)


@facet
def regulators(case: CaseFile) -> tuple[RegulatorFacts, ...]:
    """Linear regulators that were computed."""
    regulators = []
    for key, _, body in notes_of(case, "regulator"):
        try:
            reckoned = linear(
                float(body["v_in"]), float(body["v_out"]), float(body["amps"]),
                float(body["efficiency"]),
                float(body["case_c"]) if body.get("case_c") is not None else None,
            )  # fmt: skip
        except (InputError, KeyError, TypeError, ValueError):
            continue
        regulators.append(RegulatorFacts(key, body, reckoned))
    return tuple(regulators)
