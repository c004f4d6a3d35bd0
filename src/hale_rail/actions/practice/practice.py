"""Practice: a case whose unit is simulated, read with the same pages as any other."""

from __future__ import annotations

from hale_rail import clock
from hale_rail.actions import readings
from hale_rail.actions.change import changing
from hale_rail.actions.diagnosis import diagnosis as saying
from hale_rail.actions.intake.cases import open_with
from hale_rail.actions.parts import looks
from hale_rail.actions.practice.diagnosis_benchmark import BY_HAND
from hale_rail.actions.practice.review import review
from hale_rail.actions.readings import Saved
from hale_rail.case.file import open_case
from hale_rail.case.practice.practice import (
    bench_of,
    chip_choices,
    practising,
    question,
    seen_at,
)
from hale_rail.core.procedures import Point, ReadingSource
from hale_rail.core.simulate.graded_cases import drawn_of, graded
from hale_rail.core.simulate.meters import OVERLOAD
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.questions import WAVEFORM
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.codec import plain
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.formats.records.wave_csv import wave_text
from hale_rail.store import practice
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store
from hale_rail.store.practice import BLED, ENDED, PRACTICE_ACTS, PracticeAct, Practised

#: numbers of practice cases begin so, apart from the workshop's own
PREFIX = "PX-"
_MOST_SEED = 10**9


def start(store: Store, unit: Practised, at: str | None = None) -> str:
    """Bring a unit to the bench; returns the case's number. Raises InputError naming the field."""
    if not 0 <= unit.seed <= _MOST_SEED:
        raise InputError("A seed is a whole number from 0 to 1 000 000 000.", field="seed")
    drawn = drawn_of(unit.graded, unit.topology, unit.difficulty, unit.seed)
    symptom = drawn.unit().symptom
    known = knowledge_for(drawn.sheet.topology)
    current_symptom = known.symptom(symptom.value) if symptom else None
    if unit.graded is not None:
        chosen = graded(unit.graded)
        machine, told = f"Practice {unit.graded}: {chosen.title}", chosen.told
        unit = Practised(unit.graded, chosen.topology.code, "", chosen.seed)
    else:
        machine, told = f"Practice: {drawn.sheet.topology.words} {unit.seed}", ""
    words = " ".join(
        text for text in (told, f"{current_symptom.name}." if current_symptom else "") if text
    )
    number = _next_number(store)
    moment = at or clock.now()
    fields = Fields(machine, words, "Nothing is known.", "proven", "strict", None)
    symptoms = (current_symptom.id,) if current_symptom else ()
    open_with(
        store, number, fields, drawn.sheet, moment, symptoms, start="practice", practised=unit
    )
    return number


def _next_number(store: Store) -> str:
    next_number = [row.number for row in practice.listed(store.read())]
    counts = [
        int(n.removeprefix(PREFIX)) for n in next_number if n.removeprefix(PREFIX).isdecimal()
    ]
    return f"{PREFIX}{max(counts, default=0) + 1:03d}"


def _open(store: Store, number: str) -> None:
    """Raise ConflictError where the practice is over, InputError where it is none."""
    practice = practising(open_case(store, number))
    if practice is None:
        raise InputError("This is not a case of practice.")
    if practice.is_over:
        raise ConflictError("This practice is over; its readings can no longer change.")


def touch(store: Store, number: str, point: Point) -> Saved:
    """Put the probes to a point and take what the unit shows; raises InputError.

    An overload is not a reading: it is told, and costs nothing.
    """
    _open(store, number)
    moment = clock.now()
    case = open_case(store, number)
    bench, simulated_question = bench_of(case, moment), question(case, point)
    with bench.powered_for(simulated_question):
        text = bench.answer(simulated_question)
    if text == OVERLOAD:
        raise InputError(
            "The meter shows an overload: something there is charged, or under power. Read its "
            "volts first."
        )
    return readings.save_reading(
        store, number, point, text, at=moment, check_seen=False, source=ReadingSource.SIMULATED
    )


def record(store: Store, number: str, rail: str, load: str) -> bytes:
    """A scope's record of a simulated unit's rail as CSV; raises InputError."""
    _open(store, number)
    bench = bench_of(open_case(store, number), clock.now())
    question = SimulatedQuestion(rail, WAVEFORM, load)
    with bench.powered_for(question):
        volt, step = bench.wave(question, bench.turn(question))
    return wave_text(volt, step).encode()


def look_at(store: Store, number: str, part_id: int) -> None:
    """Look at a part; what is found is kept. Raises NotFoundError for no such part."""
    _open(store, number)
    case = open_case(store, number)
    part = case.sheet.part(part_id)
    if part is None:
        raise NotFoundError("There is no such part on this unit.")
    looks.look(store, number, part_id, seen_at(case, bench_of(case, clock.now()), part))


def by_hand(store: Store, number: str, test_id: str) -> None:
    """Take a test that no meter's figure answers; raises InputError."""
    _open(store, number)
    case = open_case(store, number)
    test = knowledge_for(case.sheet.topology).test(test_id)
    finding = BY_HAND.get(test_id)
    if test is None or finding is None:
        raise InputError("That test is answered by readings: touch its points.")
    place = finding(bench_of(case, clock.now()).unit)
    saying.say(store, number, "result", test_id, test.results[-1 if place is None else place])


def bleed(store: Store, number: str) -> None:
    """Bleed every store through a resistor; raises InputError under power."""
    _open(store, number)
    moment = clock.now()
    bench_of(open_case(store, number), moment).unit.bleed()
    with changing(store, number, moment) as change:
        log_id = change.log("note", "Every store bled through a resistor.")
        change.append(PRACTICE_ACTS, log_id, PracticeAct(BLED, {}))


def end(store: Store, number: str, named: str) -> None:
    """Name the fault and end the practice; its review is kept. Raises InputError."""
    _open(store, number)
    case = open_case(store, number)
    known = {h.id: h.name for h in knowledge_for(case.sheet.topology).groups}
    known |= chip_choices(case)
    if named not in known:
        raise InputError("Say what you found, or that you give up.", field="named")
    current_practice = practising(case)
    if current_practice is None:
        raise InputError("This is not a case of practice.")
    body = plain(review(case, current_practice, named))
    with changing(store, number) as change:
        if any(act.kind == ENDED for act in change.file.rows.all(PRACTICE_ACTS)):
            raise ConflictError("Another tab ended this practice first.")
        log_id = change.log("note", f"Practice ended: {known[named]} named.")
        change.append(PRACTICE_ACTS, log_id, PracticeAct(ENDED, body))
