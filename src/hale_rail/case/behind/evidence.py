"""The facet of all that was read behind the supply, as the chain takes it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from msgspec.structs import replace

from hale_rail.case.behind.chips import (
    chip_by_id,
    chips,
    crystals,
    memory_table,
    word_bits,
)
from hale_rail.case.behind.roms import rom_reads
from hale_rail.case.bring_up.machine_notes import notes_of
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.power.machine_behaviour import power_ons
from hale_rail.case.rails.rails import rails
from hale_rail.case.walks import of_former_parts
from hale_rail.core.behind.acts import RESULTS, Act, Exchange, Result, read_act
from hale_rail.core.behind.evidence import At, Evidence, Supplied, WorkLook
from hale_rail.core.behind.memory import MemoryRead
from hale_rail.core.behind.memory_text import base_of, read_memory
from hale_rail.core.behind.signals import Signal, read_signal
from hale_rail.core.behind.words import Base
from hale_rail.core.errors import InputError
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.power.machine_behaviour import Did
from hale_rail.core.procedures import ACT, BEHIND, MEMORY_TEST, PIN_OHMS, SIGNAL, WORK, Condition
from hale_rail.core.procedures.behind import bank_of, is_clean
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailReading, RailVerdict, judge
from hale_rail.core.targets import Place, TargetKind
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.hunt_notes import HUNT_NOTES, SYMPTOM
from hale_rail.store.looks import LOOKS
from hale_rail.store.readings import Reading
from hale_rail.store.rework import REWORK_STEPS
from hale_rail.store.statements import STATEMENTS

#: the diagnosis' symptoms with which a hunt comes here, as the machine's symptom
FROM_DIAGNOSIS = {"machine-dead": "dead"}
#: the code of a look: felt hot beside cool ones
HOT = "hot"


def _standing(case: CaseFile) -> Iterator[Reading]:
    """The standing readings, without those of chips since replaced."""
    former = of_former_parts(case)
    for key, reading in case.rows.standing.items():
        if key not in former:
            yield reading


@facet
def evidence(case: CaseFile) -> Evidence:
    """All that is known behind the supply."""
    signals: dict[At, Signal] = {}
    supplies: dict[At, Supplied] = {}
    ohms: dict[tuple[str, str, str], float] = {}
    for reading in _standing(case):
        chip = chip_by_id(case).get(reading.target.part_id or 0)
        pin = chip.pin(reading.target.plus) if chip else None
        if chip is None or pin is None:
            continue
        if reading.procedure is PIN_OHMS:
            ohms[chip.ref, pin.name, reading.target.minus] = reading.value
        elif reading.procedure is SIGNAL and pin.is_supply:
            supplies[chip.ref, pin.name] = _supplied(case, pin.rail, reading)
        elif reading.procedure is SIGNAL:
            signals[chip.ref, pin.name] = read_signal(reading.typed)
    return Evidence(
        chips=chips(case),
        signals=signals,
        supplies=supplies,
        ohms=ohms,
        work=work_look(case),
        was_worked_on=last_work(case) > 0,
        memory=tuple(read for _, read in memory_reads(case)),
        table=memory_table(case),
        roms=rom_reads(case),
        acts=acts(case),
        hot=frozenset(hot_chips(case)),
        crystals=crystals(case),
        failed_rails=failed_rails(case),
        replaced=frozenset(replaced_chips(case)),
        is_act_last=_is_act_last(case),
        symptoms=symptoms(case),
    )


def _supplied(case: CaseFile, key: str, reading: Reading) -> Supplied:
    """A supply pin's volts, held against its rail's limits."""
    figure = show(reading.value, Unit.VOLT, 4)
    rail = case.sheet.rail(key)
    if rail is None:
        return Supplied(reading.value, True, figure)
    read = RailReading(rail, reading.value, reading.high, reading.digit, Condition.MACHINE,
                       reading.accuracy)  # fmt: skip
    verdict = judge(read, case.tolerance).verdict
    is_right = verdict is not RailVerdict.FAIL
    return Supplied(reading.value, is_right, f"{figure}, {verdict.words}")


@facet
def failed_rails(case: CaseFile) -> tuple[str, ...]:
    """The rails that read wrong at their connector while the machine is on them."""
    places = (Place.NONE, Place.SUPPLY, Place.CONNECTOR)
    return tuple(
        volts.rail.key
        for volts in rails(case)
        if any(
            load is Condition.MACHINE and place in places and judged.verdict is RailVerdict.FAIL
            for (load, place), (_, judged) in volts.by_place.items()
        )
    )


@facet
def last_work(case: CaseFile) -> int:
    """The entry of the log by which something was last soldered or fitted, 0 for none."""
    fitted = [d.log_id for d in case.rows.all(PART_DECISIONS) if d.kind is DecisionKind.FITTED]
    return max((*fitted, *(step.log_id for step in case.rows.active(REWORK_STEPS))), default=0)


def work_look(case: CaseFile) -> WorkLook | None:
    """The look at own work, None where there was none since the last of it."""
    reading = next((r for r in case.rows.standing.values() if r.procedure is WORK), None)
    if reading is None or reading.log_id < last_work(case):
        return None
    return WorkLook(is_clean(reading.typed), reading.typed.strip())


def base_typed(case: CaseFile) -> Base | None:
    """The base that the case's memory readings show, None where none of them does."""
    return base_of(r.typed for r in case.rows.readings.values() if r.procedure is MEMORY_TEST)


@facet
def replaced_chips(case: CaseFile) -> Mapping[str, int]:
    """The chips that were fitted new, each with the entry of the log."""
    decisions = case.rows.newest(PART_DECISIONS)
    return {
        chip.ref: decisions[chip.id].log_id
        for chip in chips(case)
        if chip.id in decisions and decisions[chip.id].kind is DecisionKind.FITTED
    }


def _is_act_last(case: CaseFile) -> bool:
    """True where nothing was observed behind the supply since the last act."""
    behind = [
        (r.log_id, r.procedure) for r in case.rows.readings.values()
        if r.procedure in BEHIND and r.id not in case.rows.aside
    ]  # fmt: skip
    return not behind or max(behind, key=lambda one: one[0])[1] is ACT


@facet
def memory_reads(case: CaseFile) -> tuple[tuple[str, MemoryRead], ...]:
    """Every place of the memory test that stands, by the reading's id or an old note's key.

    What was read before a memory chip was replaced speaks of the former one.
    """
    found: list[tuple[str, MemoryRead]] = []
    memory = [c.ref for c in chips(case) if c.ref in set(memory_table(case).values())]
    since = max((replaced_chips(case).get(ref, 0) for ref in memory), default=0)
    for key, note, body in notes_of(case, "memory"):
        if note.log_id < since:
            continue
        written, read, bits = body.get("written"), body.get("read"), body.get("bits")
        if isinstance(written, int) and isinstance(read, int) and isinstance(bits, int):
            found.append((f"n{key}", MemoryRead(str(body.get("bank", "")), bits, written, read)))
    base, refs = base_typed(case), tuple(memory_table(case).values())
    for reading in case.rows.readings.values():
        is_there = reading.procedure is MEMORY_TEST and reading.id not in case.rows.aside
        if not is_there or reading.log_id < since:
            continue
        bank = bank_of(reading.target) or ""
        try:
            read_back = read_memory(
                reading.typed, bits=word_bits(case), bank=bank, refs=refs, base=base
            )
        except InputError:  # the table or the base is another since
            mask = int(reading.figures.get("mask", 0))
            read_back = MemoryRead(bank, word_bits(case), mask=mask)
        found.append((str(reading.id), read_back))
    return tuple(found)


@facet
def acts(case: CaseFile) -> tuple[Exchange, ...]:
    """Exchanges, substitutions, removals, in the order in which they were made."""
    timed: list[tuple[int, Exchange]] = []
    for key, note, body in notes_of(case, "swap"):
        result = RESULTS.get(str(body.get("moved", "")), Result.STAYED)
        old = Exchange(str(body.get("one", "")), Act.EXCHANGED, result, str(body.get("other", "")),
                       why=str(body.get("why", "")), key=f"n{key}", at=note.at)  # fmt: skip
        timed.append((note.log_id, old))
    for reading in case.rows.readings.values():
        part = case.sheet.part(reading.target.part_id)
        if reading.procedure is not ACT or reading.id in case.rows.aside or part is None:
            continue
        chip = chip_by_id(case).get(part.id)
        try:
            act = read_act(chip.ref if chip else part.ref, reading.typed)
        except InputError:
            continue
        timed.append((reading.log_id, replace(act, key=str(reading.id), at=reading.taken_at)))
    return tuple(act for _, act in sorted(timed, key=lambda one: one[0]))


def hot_chips(case: CaseFile) -> list[str]:
    """The chips that were felt hot."""
    looks = case.rows.newest(LOOKS)
    return [chip.ref for chip in chips(case) if chip.id in looks and HOT in looks[chip.id].codes]


@facet
def symptoms(case: CaseFile) -> tuple[str, ...]:
    """What the machine shows, as said here, else as the diagnosis was told; the last said last.

    The diagnosis passes its complaint on once the rails are right at the board.
    """
    gone = _said_gone(case)
    own = [
        key
        for (kind, key), note in case.rows.newest(HUNT_NOTES).items()
        if kind == SYMPTOM and note.body is not None and note.log_id > gone
    ]
    if own:
        return tuple(own)
    passed = _passed_on(case, gone)
    return passed if passed and rails_right_at_board(case) else ()


@facet
def is_untouched(case: CaseFile) -> bool:
    """True where nothing stands behind the supply: no chip, no pin read, no note, no act."""
    return not (
        chips(case)
        or case.rows.newest(HUNT_NOTES)
        or any(notes_of(case, kind) for kind in ("memory", "swap"))
        or any(one.target.kind is TargetKind.PIN for one in case.rows.standing.values())
    )


def _passed_on(case: CaseFile, gone: int) -> tuple[str, ...]:
    """The machine's symptoms that the diagnosis was told, said since the complaint was gone."""
    said: dict[str, bool] = {}
    for one in case.rows.all(STATEMENTS):
        if one.kind == "symptom":
            said[one.key] = bool(one.value) and one.log_id > gone
    return tuple(code for symptom, code in FROM_DIAGNOSIS.items() if said.get(symptom))


@facet
def rails_right_at_board(case: CaseFile) -> bool:
    """True where every rail was read in the machine, and none of them is wrong."""
    worst = [volts.worst_at(Condition.MACHINE) for volts in rails(case)]
    return bool(worst) and all(
        judged is not None and judged[1].verdict in (RailVerdict.PASS, RailVerdict.MARGINAL)
        for judged in worst
    )


@facet
def is_passed_on(case: CaseFile) -> bool:
    """True where the rails are right at the board and the machine is dead: the hunt is here."""
    return rails_right_at_board(case) and bool(_passed_on(case, _said_gone(case)))


def _said_gone(case: CaseFile) -> int:
    """The entry of the log by which the complaint was last said to be gone, 0 for none."""
    return max((on.said_id for on in power_ons(case) if on.times(Did.GONE)), default=0)
