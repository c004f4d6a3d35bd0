"""The ledger: what every case that was handed back tells, fitted and counted."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from contextlib import suppress
from datetime import datetime
from typing import Any

from msgspec import Struct

from hale_rail.case import worker
from hale_rail.case.diagnosis.diagnosis import met_faults
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.history import entries
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.worker import Analysis, AnalysisState, Progress
from hale_rail.case.workshop.workshop import workshop
from hale_rail.core.ledger.ledger import (
    Life,
    Priors,
    by,
    family_factors,
    fault_factors,
    offender_years,
)
from hale_rail.core.ledger.lifetimes import LifetimeFit, fit
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.looks import SOUND
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.procedures import (
    BOARD_DROP,
    CAPACITANCE,
    ESR,
    GROUND,
    INJECT,
    LEAKAGE,
    PIN_VOLTS,
    SET_OHMS,
    STORE,
    VOLTS,
    by_code,
)
from hale_rail.core.supply.sheet import TOPOLOGIES
from hale_rail.errors import StoreError
from hale_rail.formats.codec import from_text, to_text
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store import ledger as rows
from hale_rail.store import unit_types
from hale_rail.store.database import Store
from hale_rail.store.looks import LOOKS
from hale_rail.store.rework import REWORK_STEPS

_VERSION = 2
#: a pause longer than this is not work, in seconds
_PAUSE_S = 1800.0
#: lifetimes by kind of group and group
Fits = dict[str, dict[str, LifetimeFit]]
_BAD = (Verdict.FAILED, Verdict.WORN)
#: the stage in which a kind of entry, and a reading, counts as work
_BY_KIND = {
    "look": "look", "power": "first-power", "guard": "safe", "decision": "rework",
    "parts": "intake", "sheet": "intake", "pattern": "intake", "opened": "intake",
    "edited": "intake", "photo": "look", "note": "intake", "board-mark": "rework",
    "diagnosis": "diagnosis", "handed-back": "hand-back", "reopened": "hand-back",
}  # fmt: skip
_BY_PROCEDURE = {
    STORE: "safe", VOLTS: "rails", GROUND: "shorts", INJECT: "shorts", SET_OHMS: "shorts",
    BOARD_DROP: "shorts", ESR: "capacitors", CAPACITANCE: "capacitors", LEAKAGE: "capacitors",
    PIN_VOLTS: "machine",
}  # fmt: skip
_LOOK = "look"


class LedgerLine(Struct, frozen=True):
    """What a case tells the ledger: the lives of its parts, faults that were met, hours by stage,
    and of each kind of reading how often it was taken and how often it found a bad part."""

    topology: str
    lives: tuple[Life, ...]
    faults: tuple[str, ...]
    hours: Mapping[str, float]
    tests: Mapping[str, tuple[int, int]]


def line_of(case: CaseFile) -> LedgerLine:
    """What a case tells the ledger."""
    known = {t.id: t.name for t in unit_types.listed(case.store.read())}
    own = case.case.unit_type_id
    unit_type = (known.get(own, "") if own is not None else "") or case.sheet.name
    judged = [(facts, _before(facts)) for facts in parts(case).values()]
    lives = (_life(case, facts, was, unit_type) for facts, was in judged)
    return LedgerLine(
        case.sheet.topology.code,
        tuple(life for life in lives if life),
        tuple(sorted(met_faults(case))),
        _hours(case),
        _tests(case, judged),
    )


def _before(facts: PartFacts) -> PartFacts:
    """A part as it came in."""
    return facts.former if facts.is_fitted and facts.former else facts


def _life(case: CaseFile, facts: PartFacts, was: PartFacts, unit_type: str) -> Life | None:
    """The life of a part; None for one whose age or state is not known."""
    made = was.part.year or case.sheet.year
    is_bad = _is_bad(case, facts, was)
    is_known = is_bad or was.readings or was.state is PartState.GOOD
    if made is None or not is_known or was.part.rails:
        return None
    years = int(case.case.opened_at[:4]) - made
    family = was.part.family.value if was.part.family else was.part.kind.code
    if years <= 0:
        return None
    return Life(family, facts.part.role or "", unit_type, float(years), is_bad)


def _is_bad(case: CaseFile, facts: PartFacts, was: PartFacts) -> bool:
    """True for a part that readings or the eye found bad; age alone is what is asked here."""
    if was.verdict_but_age in _BAD:
        return True
    look = case.rows.newest(LOOKS).get(facts.part.id)
    if not facts.is_fitted or facts.decision is None or look is None:
        return False
    return look.log_id < facts.decision.log_id and bool(set(look.codes) - {SOUND})


def _hours(case: CaseFile) -> dict[str, float]:
    """Hours by stage: the time before each entry belongs to its stage, long pauses left out."""
    procedures = {r.log_id: r.procedure for r in case.rows.readings.values()}
    rework = {step.log_id for step in case.rows.all(REWORK_STEPS)}
    result: dict[str, float] = {}
    last: datetime | None = None
    for entry in entries(case):
        at = datetime.fromisoformat(entry.at)
        spent = (at - last).total_seconds() if last else 0.0
        last = at
        if not 0 < spent <= _PAUSE_S:
            continue
        stage = _BY_KIND.get(entry.kind, "cold")
        if entry.id in rework:
            stage = "rework"
        elif entry.id in procedures:
            stage = _BY_PROCEDURE.get(procedures[entry.id], "cold")
        result[stage] = result.get(stage, 0.0) + spent / 3600
    return {stage: round(hours, 4) for stage, hours in result.items()}


def _tests(
    case: CaseFile, judged: Sequence[tuple[PartFacts, PartFacts]]
) -> dict[str, tuple[int, int]]:
    """How often each kind of reading, or a look, was taken of a part, and was the last before a
    bad one was known as such."""
    counts: Counter[str] = Counter()
    counter: Counter[str] = Counter()
    for facts, was in judged:
        read = [r.procedure.code for r in was.readings if r.procedure.is_of_health]
        for code in set(read):
            counts[code] += 1
        if _is_bad(case, facts, was):
            last = read[-1] if read else _LOOK
            counter[last] += 1
            counts[_LOOK] += not read
    return {code: (count, counter[code]) for code, count in sorted(counts.items())}


class Ledger(Struct, frozen=True):
    """Every line together; `fits` of each group by its kind, once they are computed."""

    cases: int
    lives: tuple[Life, ...]
    hours: Mapping[str, float]
    tests: Mapping[str, tuple[int, int]]
    fits: AnalysisState
    priors: Priors

    def groups(self, kind: str) -> dict[str, LifetimeFit]:
        """The fits of one kind of group; none while they are computed."""
        fits: Fits = self.fits.shown or {}
        return fits.get(kind, {})


def refresh(store: Store) -> Priors:
    """Make the lines that are behind again, and what they give to the chances; keeps both.

    For after a commit: outside any transaction that changes a case.
    """
    for number in rows.stale(store.read()):
        case = open_case(store, number)
        body = to_text(line_of(case))
        with store.jot() as connection:
            rows.put_line(connection, case.case.id, case.case.revision, body)
    told = _lines(store)
    lives = _lives(told)
    paper = by(lives, "family").get(Family.SUPPRESSION_PAPER.value, [])
    fitted = fit([p.years for p in paper], [p.failed for p in paper]) if paper else None
    counts: dict[str, Counter[str]] = {}
    for line in told:
        counts.setdefault(line.topology, Counter()).update(line.faults)
    weights = {topology: knowledge_for(TOPOLOGIES[topology]).group_rates for topology in counts}
    priors = Priors(family_factors(lives), offender_years(fitted), fault_factors(counts, weights))
    with store.jot() as connection:
        rows.put_priors(connection, to_text(priors))
    return priors


def keep_up(store: Store) -> None:
    """Refresh after a commit, which stands whether or not this can be kept now."""
    with suppress(StoreError):
        refresh(store)


def _lines(store: Store) -> list[LedgerLine]:
    return [from_text(body, LedgerLine) for body in rows.lines(store.read())]


def _lives(told: Sequence[LedgerLine]) -> tuple[Life, ...]:
    return tuple(life for line in told for life in line.lives)


def ledger(store: Store) -> Ledger:
    """The whole ledger; the fits are computed beside the page."""
    priors = refresh(store) if rows.stale(store.read()) else None
    told = _lines(store)
    lives = _lives(told)
    hours: Counter[str] = Counter()
    tests: dict[str, tuple[int, int]] = {}
    for line in told:
        hours.update(line.hours)
        for code, (count, hits) in line.tests.items():
            before = tests.get(code, (0, 0))
            tests[code] = (before[0] + count, before[1] + hits)
    inputs = {
        kind: {
            name: [[life.years, life.failed] for life in own]
            for name, own in by(lives, kind).items()
        }
        for kind in ("family", "role", "unit_type")
    }
    fits = worker.ask(store, LIFETIMES, inputs, about="all")
    return Ledger(len(told), lives, dict(hours), tests, fits, priors or workshop(store).priors)


def _compute(inputs: Any, progress: Progress) -> Fits:
    count = max(sum(len(groups) for groups in inputs.values()), 1)
    done, result = 0, Fits()
    for kind, groups in inputs.items():
        result[kind] = {}
        for name, own in groups.items():
            result[kind][name] = fit([years for years, _ in own], [failed for _, failed in own])
            done += 1
            progress(done / count)
    return result


LIFETIMES = Analysis("lifetimes", _VERSION, _compute, Fits)


def procedure_words(code: str) -> str:
    """A kind of reading as one says it."""
    procedure = by_code(code)
    return procedure.label if procedure else "the eye"
