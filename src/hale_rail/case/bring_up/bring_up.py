"""The facet of the board behind the supply: chips, signs, memory, swaps, events, regulators."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.core.bring_up.bring_up import (
    MOVES,
    BadChip,
    MemoryRead,
    Moved,
    Sign,
    bad_chips,
    common_cause,
    swap_says,
)
from hale_rail.core.bring_up.collateral import EVENTS, RailEvent, collateral, event_words
from hale_rail.core.bring_up.linear import Linear, linear
from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import board
from hale_rail.core.procedures import PIN_VOLTS, Condition, Point
from hale_rail.core.procedures.bring_up import CHIP, pin_target
from hale_rail.core.rails.judge import RailJudgement, RailReading, judge
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.supply.suspects import OvervoltageSuspect
from hale_rail.formats.readings.machine_lists import read_layout
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote
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


class SignFacts(Struct, frozen=True):
    """A sign of life: seen (True), missing (False), or not said (None), and what was noted."""

    sign: Sign
    is_seen: bool | None
    note: str


class Memory(Struct, frozen=True):
    """What a memory test says: its readings, the chips it names, and what they have in common."""

    readings: tuple[tuple[str, MemoryRead], ...]
    layout: str
    chips: tuple[BadChip, ...]
    common: str


class Swap(Struct, frozen=True):
    """A swap as a test: of what, why, what became of the fault, and what that proves."""

    key: str
    one: str
    other: str
    moved: Moved
    why: str
    at: str

    @property
    def says(self) -> str:
        """What it proves."""
        return swap_says(self.moved, self.one, self.other)


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


def _notes(case: CaseFile, kind: str) -> list[tuple[str, MachineNote, Mapping[str, Any]]]:
    """The notes of a kind that stand, in the order in which they were said."""
    return [
        (key, note, note.body)
        for (of_kind, key), note in case.rows.newest(MACHINE_NOTES).items()
        if of_kind == kind and note.body is not None
    ]


@facet
def chip_pins(case: CaseFile) -> tuple[ChipPin, ...]:
    """The supply pins of chips that a person named."""
    chip_pins = []
    for key, _, body in _notes(case, "chip"):
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
def signs(case: CaseFile) -> tuple[SignFacts, ...]:
    """Every sign of life in order."""
    signs = {key: body for key, _, body in _notes(case, "sign")}
    result = []
    for sign in Sign:
        body = signs.get(sign.code, {})
        is_seen = {"yes": True, "no": False}.get(str(body.get("seen", "")))
        result.append(SignFacts(sign, is_seen, str(body.get("note", ""))))
    return tuple(result)


@facet
def memory(case: CaseFile) -> Memory:
    """The memory test as far as it was written down."""
    memory = []
    for key, _, body in _notes(case, "memory"):
        written, read, bits = body.get("written"), body.get("read"), body.get("bits")
        if isinstance(written, int) and isinstance(read, int) and isinstance(bits, int):
            memory.append((key, MemoryRead(str(body.get("bank", "")), written, read, bits)))
    note = case.rows.newest(MACHINE_NOTES).get(("layout", ""))
    text = str((note.body or {}).get("table", "")) if note else ""
    try:
        layout = read_layout(text) if text else {}
    except InputError:
        layout = {}
    readings = [reading for _, reading in memory]
    return Memory(tuple(memory), text, tuple(bad_chips(readings, layout)), common_cause(readings))


@facet
def swaps(case: CaseFile) -> tuple[Swap, ...]:
    """The swaps that were made as tests, oldest first."""
    return tuple(
        Swap(key, str(body.get("one", "")), str(body.get("other", "")), MOVES[str(body["moved"])],
             str(body.get("why", "")), note.at)
        for key, note, body in _notes(case, "swap")
        if body.get("moved") in MOVES
    )  # fmt: skip


@facet
def events(case: CaseFile) -> tuple[EventFacts, ...]:
    """Rail events with what they may have taken along, oldest first."""
    events = []
    for key, note, body in _notes(case, "event"):
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
    for key, _, body in _notes(case, "regulator"):
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


def signs_known(case: CaseFile) -> bool:
    """True once anything of the bring-up was said."""
    return any(
        kind in ("chip", "sign", "memory", "swap") for kind, _ in case.rows.newest(MACHINE_NOTES)
    )
