"""What a report says first, and of the end of the work: summary, machine, earth, inspection."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from hale_rail import clock
from hale_rail.case.bring_up.bring_up import chip_pins, events, memory, regulators, signs, swaps
from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.case.bring_up.pins import EARTH_OHM, is_earth_good
from hale_rail.case.file import CaseFile
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.power.machine_behaviour import last_power_on
from hale_rail.case.rails.rails import rails
from hale_rail.case.ripple.waves import failing_ripple
from hale_rail.case.soak.soaks import hours_done, verdict_of
from hale_rail.case.words import counted, show_reading
from hale_rail.core.parts.age import years_to_inspection
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.states import PartState
from hale_rail.core.power.machine_behaviour import Did
from hale_rail.core.procedures import EARTH, VOLTS, Condition, Point
from hale_rail.core.procedures.bring_up import EARTH_TARGET
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.soak.soak import SoakVerdict
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.targets import Place
from hale_rail.store.power_steps import POWER_STEPS
from hale_rail.store.readings import Reading

#: years of a wet capacitor of which nothing is known: old is the risk
_UNKNOWN_AGE = 100.0
_WET = (Family.ALUMINIUM, Family.ALUMINIUM_BIPOLAR)
_NAMED = 8
_DAYS = 365.25
Rows = tuple[tuple[str, str, str, str], ...]
#: what the machine may not do as it goes back
_BAD_DID = (Did.STILL, Did.FUSE, Did.SMELL, Did.FAN_STOPS, Did.NOTHING)


def summary(case: CaseFile, undone: list[str]) -> tuple[tuple[str, str], ...]:
    """What was wrong, what was done, what it reads now, what stays open: for the first page."""
    return (
        ("What was wrong", _wrong(case)),
        ("What was done", _done(case)),
        ("What it reads now", _reads(case)),
        (
            "What stays open",
            " ".join(f"{text.rstrip('.')}." for text in undone) or "Nothing known.",
        ),
    )


def bad(case: CaseFile) -> list[str]:
    """What is bad as the unit goes back, in sentences: the report tells it first."""
    result = []
    for volts in rails(case):
        worst = volts.most_telling
        if worst and worst[1].verdict is RailVerdict.FAIL:
            where = at_place(worst[0].condition, worst[0])
            result.append(f"{volts.rail.key} reads {show_reading(worst[0])} {where}: out of band.")
    result += [f"Ripple on {key} fails its limit." for key in failing_ripple(case)]
    verdict = verdict_of(case)
    if verdict is SoakVerdict.FAIL:
        result.append(f"The soak: {verdict.words}.")
    left = [
        f.part.ref
        for f in parts(case).values()
        if f.decision and f.decision.kind is DecisionKind.LEFT_OUT
    ]
    if left:
        result.append(f"{', '.join(left)} left out on purpose.")
    last = last_power_on(case)
    bad = [did.told(n) for did, n in last.did if did in _BAD_DID] if last else []
    if bad:
        result.append(f"At the last power-on: {', '.join(bad)}.")
    result += [
        f"Power was put on unread: {step.note}."
        for step in case.rows.all(POWER_STEPS)
        if step.what == "begun" and step.note
    ]
    return result


def _wrong(case: CaseFile) -> str:
    """The parts that were bad when they were read, replaced since or not."""
    refs: dict[str, list[str]] = {}
    for facts in parts(case).values():
        was = facts.former if facts.is_fitted and facts.former else facts
        if was.state in (PartState.FAILED, PartState.WORN) and was.judgement.reasons:
            why = was.judgement.reasons[0].text.rstrip(".")
            refs.setdefault(why, []).append(facts.part.ref)
    bad = [f"{', '.join(own)}: {why}" for why, own in refs.items()]
    wrong = f"{case.case.symptom.rstrip('.')}."
    return f"{wrong} Found: {_some(bad)}." if bad else f"{wrong} No part was found bad by reading."


def _some(texts: list[str]) -> str:
    more = len(texts) - _NAMED
    return "; ".join(texts[:_NAMED]) + (f"; and {more} more" if more > 0 else "")


def _done(case: CaseFile) -> str:
    fitted = [facts for facts in parts(case).values() if facts.is_fitted]
    if not fitted:
        return "No part was replaced."
    told = [_fitted(facts) for facts in fitted]
    return f"{counted(len(fitted), 'part')} replaced: {_some(told)}."


def _fitted(facts: PartFacts) -> str:
    reason = facts.decision.reason if facts.decision else ""
    return f"{facts.part.ref} ({reason})" if reason else facts.part.ref


def _reads(case: CaseFile) -> str:
    told = []
    for volts in rails(case):
        for load in (Condition.MACHINE, Condition.DUMMY, Condition.NO_LOAD):
            worst = volts.worst_at(load)
            if worst:
                reading, judged = worst
                read = f"{volts.rail.key} {show_reading(reading)}"
                told.append(f"{read} {at_place(load, reading)} ({judged.verdict.words})")
                break
        else:
            told.append(f"{volts.rail.key} not read")
    verdict = verdict_of(case)
    soak = f" Soak of {hours_done(case):.3g} h: {verdict.words}." if verdict else ""
    return f"{', '.join(told)}.{soak}" if told else f"No rail was read.{soak}"


def at_place(load: Condition, reading: Reading) -> str:
    """Under what load a rail was read, and where along its line."""
    place = reading.target.place
    return load.words if place is Place.NONE else f"{load.words}, at the {place.words}"


def rails_since(case: CaseFile) -> tuple[tuple[str, str, str], ...]:
    """Each rail that was read in the machine before the first new part and after it: key, before,
    after."""
    fitted = [f.decision.log_id for f in parts(case).values() if f.is_fitted and f.decision]
    if not fitted:
        return ()
    first, rails_since = min(fitted), []
    for rail in case.sheet.rails:
        own = [r for r in case.rows.of_rail.get(rail.key, ()) if r.procedure is VOLTS]
        before = [r for r in _ever(case, rail.key) if r.log_id < first]
        after = [r for r in own if r.log_id > first]
        if before and after:
            rails_since.append((rail.key, show_reading(before[-1]), show_reading(after[-1])))
    return tuple(rails_since)


def _ever(case: CaseFile, key: str) -> list[Reading]:
    """Volts of a rail that were not struck out, superseded or not."""
    known = case.rows.ever.get(key, ())
    return [
        r for r in known
        if r.procedure is VOLTS and case.rows.aside.get(r.id, "superseded") == "superseded"
    ]  # fmt: skip


def machine_rows(case: CaseFile) -> tuple[tuple[str, Rows], ...]:
    """Tables of the end of the work by heading, without the empty ones."""
    machine_rows = (
        ("The board behind the supply", _board(case)),
        ("Harness", _harness(case)),
        ("Continuity", _continuity(case)),
        ("Linear regulators", _regulators(case)),
    )
    return tuple((title, rows) for title, rows in machine_rows if rows)


def _board(case: CaseFile) -> Rows:
    rows = [
        (one.sign.words, "seen" if one.is_seen else "missing", one.note, "")
        for one in signs(case)
        if one.is_seen is not None
    ]
    rows += [
        (chip.name, chip.rail.key, show_reading(chip.reading),
         chip.judgement.verdict.words if chip.judgement else "")
        for chip in chip_pins(case)
        if chip.reading
    ]  # fmt: skip
    current_memory = memory(case)
    rows += [
        (chip.ref or "a chip", f"bank {chip.bank}, bit {chip.bit}", "wrong in a memory test",
         current_memory.common)
        for chip in current_memory.chips
    ]  # fmt: skip
    rows += [
        (f"{swap.one} and {swap.other}", "swapped as a test", swap.moved.words, swap.says)
        for swap in swaps(case)
    ]
    rows += [
        (
            event.rail.key,
            event.event.words,
            event.text,
            ", ".join(s.part.ref for s in event.suspects),
        )
        for event in events(case)
    ]
    return tuple(rows)


def _harness(case: CaseFile) -> Rows:
    facts = harness(case)
    rows = [
        (f"pin {pin.pin.name}", pin.words,
         show_reading(pin.reading) if pin.reading else "not read",
         f"{pin.verdict.words}{f', {pin.colour} wire found' if pin.colour else ''}")
        for pin in facts.pins
    ]  # fmt: skip
    missing = facts.plan.missing if facts.plan else ()
    rows += [("missing", show(volt, Unit.VOLT), text, "") for volt, text in missing]
    return tuple(rows)


def _continuity(case: CaseFile) -> Rows:
    rows = []
    for one in lists(case):
        trust = f"{one.drawing.name}, {one.drawing.words}" if one.drawing else "no drawing"
        read = f"{len(one.pairs) - one.unread} of {len(one.pairs)} pairs read"
        rows.append((one.name, one.board, read, trust))
        for pair in one.results:
            word = "open again: not of this board" if pair.is_reopened else ""
            mark = pair.mark.words if pair.mark else pair.state.value
            ends = f"{pair.pair.one} to {pair.pair.other}"
            rows.append((ends, mark, pair.told, word))
    return tuple(rows)


def _regulators(case: CaseFile) -> Rows:
    return tuple(
        (one.ref, f"{show(one.judged.heat_w, Unit.WATT, 3)} of heat",
         f"a switching module saves {show(one.judged.saved_a, Unit.AMPERE, 2)}",
         " ".join(one.judged.notes))
        for one in regulators(case)
    )  # fmt: skip


def left_open(case: CaseFile) -> list[str]:
    """What the end of the work leaves undone, in sentences."""
    left_open = []
    facts = harness(case)
    if facts.wrong or facts.unread:
        names = ", ".join(pin.pin.name for pin in (*facts.wrong, *facts.unread))
        left_open.append(f"Harness pins not proven: {names}.")
    for one in lists(case):
        if one.is_distrusted and one.results:
            left_open.append(
                f"{one.name}: what was concluded from another board's drawing is open."
            )
        elif one.open:
            left_open.append(f"{one.name}: {counted(len(one.open), 'pair')} not as they should be.")
    verdict = verdict_of(case)
    if verdict and verdict.value != "pass":
        left_open.append(f"The soak: {verdict.words}.")
    return left_open


def earth_applies(case: CaseFile) -> bool:
    """True for a unit fed by the mains, which may be of class I."""
    return case.sheet.topology is not Topology.DC_FED


def earth(case: CaseFile) -> str:
    """Earth continuity as it was read, or that it was not; "" where it does not apply."""
    if not earth_applies(case):
        return ""
    reading = case.rows.standing.get(Point(EARTH_TARGET, EARTH).key)
    if reading is None:
        return "Earth continuity was not read here."
    says = "within" if is_earth_good(reading) else "above"
    limit = f"{show(EARTH_OHM, Unit.OHM)} and the lead's own"
    return f"Earth pin to case {show_reading(reading)}: {says} {limit}."


def wet_words(made: Sequence[int | None], year: int) -> str:
    """How old its wet capacitors are, by count: the oldest, those of no known year, the new."""
    if not made:
        return "it has no wet capacitor"
    unknown, new = made.count(None), made.count(year)
    oldest = year - min((at for at in made if at is not None), default=year)
    words = [f"its oldest wet capacitor is {oldest} years old"] if oldest > 0 else []
    words += [f"{unknown} of {len(made)} are of unknown year, which counts as old"] * bool(unknown)
    return ", ".join([*words, f"{new} of its {len(made)} wet capacitors are new"])


def next_inspection(case: CaseFile, closed_at: str) -> tuple[str, str]:
    """The day by which it is to be looked at again, and why then."""
    use, year = case.workshop.use, int((closed_at or clock.now())[:4])
    wet = [facts for facts in parts(case).values() if facts.part.family in _WET]
    made = [year if facts.is_fitted else facts.part.year or case.sheet.year for facts in wet]
    ages = [_UNKNOWN_AGE if at is None else max(0.0, float(year - at)) for at in made]
    years = years_to_inspection(ages, use)
    begin = datetime.fromisoformat(closed_at or clock.now())
    day = (begin + timedelta(days=years * _DAYS)).strftime("%Y-%m-%d")
    why = (
        f"{wet_words(made, year)}; at {use.hours_a_day:g} h a day and {use.core_c:g} °C inside, "
        "half of what is left to it, at least one year and at most five"
    )
    return day, why
