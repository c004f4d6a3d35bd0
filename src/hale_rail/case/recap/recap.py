"""The facet of the recap: every capacitor as a position, and what each school replaces."""

from __future__ import annotations

from hale_rail import clock
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import of_each, parts
from hale_rail.case.recap.ratings import ratings_of
from hale_rail.core.ledger.ledger import Priors
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.families import PAPER_YEARS
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.states import PartState
from hale_rail.core.recap.demand import (
    Position,
    RecapLine,
    RecapPolicy,
    ReplaceDecision,
    choose,
    is_replaced,
    kept_by_decision,
    recap_list,
)
from hale_rail.core.recap.other_parts import Other, OtherLine, other, other_lines
from hale_rail.core.supply.sheet import Sheet


def position(sheet: Sheet, facts: PartFacts, priors: Priors) -> Position:
    """One capacitor as the recap sees it; a part of the trunk carries no rail."""
    years = priors.suppressor_years or PAPER_YEARS
    rail = sheet.rail(facts.part.line)
    return Position(facts.part, facts.verdict_but_age, rail, facts.decision, years, sheet.year)


@facet
def positions(case: CaseFile) -> list[Position]:
    """The sheet's capacitors, in power order."""
    return list(_positions(case).values())


@facet
def _positions(case: CaseFile) -> dict[int, Position]:
    """The capacitors by id."""
    sheet, priors = case.sheet, case.workshop.priors

    def made(facts: PartFacts) -> Position | None:
        return position(sheet, facts, priors) if facts.part.kind is capacitor.KIND else None

    positions = of_each(case, "positions", (case.rows.sheet_version, priors), made)
    return {i: one for i, one in positions.items() if one}


def recap_lines(case: CaseFile, school: RecapPolicy) -> list[RecapLine]:
    """What a school replaces; parts already fitted stay on the list as done."""
    return recap_list(positions(case), school, clock.this_year())


@facet
def others(case: CaseFile) -> list[OtherLine]:
    """What is replaced besides capacitors, and capacitors of which too little is known to list."""
    others = [one for one in of_each(case, "others", None, _other).values() if one]
    return other_lines(others, lambda part: ratings_of(case, part) if part.kind.rules else None)


def _other(facts: PartFacts) -> Other | None:
    part = facts.part
    is_listed = part.kind.rules or part.kind is capacitor.KIND
    if not is_listed or (part.value and part.family):
        return None
    return other(part, facts.state, facts.decision)


def count_replaced(case: CaseFile, school: RecapPolicy) -> int:
    """How many positions a school replaces."""
    year = clock.this_year()
    of_capacitors = sum(is_replaced(position, school, year) for position in positions(case))
    return of_capacitors + sum(line.quantity for line in others(case))


@facet
def kept(case: CaseFile) -> list[Position]:
    """Positions kept or left out by decision."""
    return kept_by_decision(positions(case))


def choices(case: CaseFile, facts: PartFacts) -> list[tuple[RecapPolicy, ReplaceDecision]]:
    """What each school does with one capacitor, and why."""
    here = position(case.sheet, facts, case.workshop.priors)
    year = clock.this_year()
    return [(school, choose(here, school, year)) for school in RecapPolicy]


@facet
def left_to_replace(case: CaseFile) -> frozenset[int]:
    """The ids of the parts the case's school replaces that are neither done nor left out."""
    done = (DecisionKind.FITTED, DecisionKind.LEFT_OUT)
    left = [p.part.id for p in replaced(case) if not (p.decision and p.decision.kind in done)]
    of_others = [one for line in others(case) for one in line.others if not one.is_fitted]
    return frozenset([*left, *(one.part.id for one in of_others)])


def to_replace(case: CaseFile) -> int:
    """How many parts the case's school replaces that are neither done nor left out."""
    return len(left_to_replace(case))


@facet
def replaced(case: CaseFile) -> list[Position]:
    """Capacitors that the case's own school replaces, done or not."""
    year, school, known = clock.this_year(), case.school, _positions(case)

    def goes(facts: PartFacts) -> bool:
        one = known.get(facts.part.id)
        return bool(one and is_replaced(one, school, year))

    of_all = (case.rows.sheet_version, case.workshop.priors, school, year)
    replaced = of_each(case, "replaced", of_all, goes)
    return [one for i, one in known.items() if replaced[i]]


@facet
def settled(case: CaseFile) -> int:
    """How many parts are replaced or left out."""
    done = (DecisionKind.FITTED, DecisionKind.LEFT_OUT)
    decided = (facts.decision for facts in parts(case).values())
    return sum(bool(decision and decision.kind in done) for decision in decided)


def has_unread(case: CaseFile) -> bool:
    """True while a capacitor was neither read nor looked at."""
    known = parts(case)
    return any(known[p.id].state is PartState.UNSEEN for p in case.sheet.capacitors)
