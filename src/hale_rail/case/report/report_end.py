"""What a report says first, and of the end of the work: summary, machine, earth, inspection."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from hale_rail import clock
from hale_rail.case.behind.evidence import symptoms
from hale_rail.case.bring_up.bring_up import regulators
from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.case.bring_up.pins import EARTH_OHM, is_earth_good
from hale_rail.case.file import CaseFile
from hale_rail.case.parts.parts import parts, standing_failed
from hale_rail.case.power.machine_behaviour import last_power_on
from hale_rail.case.rails.rails import Judged, RailVolts, rail_reading, rails, rank
from hale_rail.case.report.owner_words import wrong_sentences
from hale_rail.case.report.report_behind import bad_chips, board_rows, open_behind
from hale_rail.case.ripple.waves import failing_ripple
from hale_rail.case.soak.soaks import hours_done, verdict_of
from hale_rail.case.words import counted, named, show_reading
from hale_rail.core.behind.symptoms import SYMPTOMS
from hale_rail.core.parts.age import years_to_inspection
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.families import Family
from hale_rail.core.power.machine_behaviour import Did
from hale_rail.core.procedures import EARTH, VOLTS, Condition, Point
from hale_rail.core.procedures.bring_up import EARTH_TARGET
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.harness import stretches
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.soak.soak import SoakVerdict
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.targets import Place
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.power_steps import POWER_STEPS
from hale_rail.store.readings import Reading

#: years of a wet capacitor of which nothing is known: old is the risk
_UNKNOWN_AGE = 100.0
_WET = (Family.ALUMINIUM, Family.ALUMINIUM_BIPOLAR)
_NAMED = 8
_DAYS = 365.25
#: the heading under which the first page has the rails
READS = "What it reads now"
Rows = tuple[tuple[str, str, str, str], ...]
#: what the machine may not do as it goes back
_BAD_DID = (Did.STILL, Did.FUSE, Did.SMELL, Did.FAN_STOPS, Did.NOTHING)


def summary(case: CaseFile, undone: list[str]) -> tuple[tuple[str, str], ...]:
    """What was wrong, what was done, what it reads now, what stays open, a sentence a line."""
    return (
        ("What was wrong", "\n".join(_wrong(case))),
        ("What was done", "\n".join(_done(case))),
        (READS, "\n".join(_reads(case))),
        (
            "What stays open",
            "\n".join(f"{text.rstrip('.')}." for text in undone) or "Nothing known.",
        ),
    )


def bad(case: CaseFile) -> list[str]:
    """What is bad as the unit goes back, in sentences: the report tells it first."""
    result = []
    for volts in rails(case):
        worst = worst_now(case, volts)
        if worst and worst[1].verdict is RailVerdict.FAIL:
            where = at_place(worst[0].condition, worst[0])
            result.append(
                f"{volts.rail.key} reads {show_reading(worst[0])} ({where}): out of band."
            )
        result += _lost(case, volts)
    failed = [f.part.ref for f in standing_failed(case)]
    if failed:
        result.append(
            f"{named(failed)} {'is' if len(failed) == 1 else 'are'} failed, not replaced."
        )
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
    result += [
        f"The machine: {SYMPTOMS[code].words}." for code in symptoms(case) if code in SYMPTOMS
    ]
    last = last_power_on(case)
    bad = [did.told(n) for did, n in last.did if did in _BAD_DID] if last else []
    if bad:
        result.append(f"At the last power-on: {', '.join(bad)}.")
    result += [
        f"Power was put on unread: {step.note}."
        for step in case.rows.all(POWER_STEPS)
        if step.what == "begun" and step.note
    ]
    result += [
        f"The guard was passed without a reading: {event.reason}."
        for event in case.rows.all(POWER_EVENTS)
        if event.reason
    ]
    return result


def _lost(case: CaseFile, volts: RailVolts) -> list[str]:
    """What a rail's line loses where that is too much."""
    read = [rail_reading(case, volts.rail, reading) for reading, _ in volts.by_place.values()]
    return [
        f"{volts.rail.key} loses {show(stretch.drop_v, Unit.VOLT, 2)} from the {stretch.begins} to "
        f"the {stretch.far.place.words}: clean or crimp the connector."
        for stretch in stretches(read)
        if stretch.is_too_much
    ]


def _wrong(case: CaseFile) -> list[str]:
    """The complaint, then a sentence a part that was bad, replaced since or not."""
    symptom = case.case.symptom.rstrip(".")
    told = [f"{symptom}."] if symptom else []
    return told + ([*wrong_sentences(case), *bad_chips(case)] or ["No part was found bad."])


def _done(case: CaseFile) -> list[str]:
    """Parts replaced, those with one reason together; how many there are in all."""
    by_reason: dict[str, list[str]] = {}
    for facts in parts(case).values():
        if facts.is_fitted:
            reason = facts.decision.reason if facts.decision else ""
            by_reason.setdefault(reason, []).append(facts.part.ref)
    if not by_reason:
        return ["No part was replaced."]
    measured = [facts for facts in parts(case).values() if facts.part.kind.is_measured]
    count = sum(facts.is_fitted for facts in measured)
    told = []
    if count:
        is_are = "is" if count == 1 else "are"
        told = [f"{count} of its {counted(len(measured), 'part')} {is_are} new."]
    for reason, refs in list(by_reason.items())[:_NAMED]:
        told.append(f"Replaced: {named(refs)}{f' ({reason})' if reason else ''}.")
    more = len(by_reason) - _NAMED
    return told + ([f"And {more} more, listed below."] if more > 0 else [])


def _reads(case: CaseFile) -> list[str]:
    """What no table of the first page has: that rails were not read, and the soak."""
    unread = [volts.rail.key for volts in rails(case) if not volts.by_load]
    told = [f"Not read: {', '.join(unread)}."] if unread else []
    verdict = verdict_of(case)
    if verdict:
        told.append(f"Soak of {hours_done(case):.3g} h: {verdict.words}.")
    return told


def rails_now(case: CaseFile) -> tuple[tuple[str, str, str, str], ...]:
    """Each rail as it is now at its worst place and load: key, read, where, verdict."""
    rows = []
    for volts in rails(case):
        worst = worst_now(case, volts)
        if worst:
            reading, judged = worst
            where = at_place(reading.condition, reading)
            rows.append((volts.rail.key, show_reading(reading), where, judged.verdict.words))
    return tuple(rows)


def worst_now(case: CaseFile, volts: RailVolts) -> Judged | None:
    """The worst of what was read under any load since the last new part; else of all readings.

    What was read before a part was replaced says what was wrong, not what is.
    """
    last = max((f.decision.log_id for f in parts(case).values() if f.is_fitted and f.decision),
               default=0)  # fmt: skip
    loaded = [
        one for (load, _), one in volts.by_place.items() if load is not Condition.NO_LOAD
    ] or list(volts.by_place.values())
    since = [one for one in loaded if one[0].log_id > last]
    return min(since or loaded, key=rank, default=None)


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
        ("The board behind the supply", board_rows(case)),
        ("Harness", _harness(case)),
        ("Continuity", _continuity(case)),
        ("Linear regulators", _regulators(case)),
    )
    return tuple((title, rows) for title, rows in machine_rows if rows)


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
    return left_open + open_behind(case)


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
