"""What is to be replaced under each school, and the list grouped for buying.

Source: docs/formulas.md, “Schools”: *proven only* (found bad), *offenders* (plus safety-class
suppressors past 25 years and tantalums on stiff rails above half their rating), *blanket* (every
wet electrolytic, tantalum and paper part).
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.decisions import Decision, DecisionKind
from hale_rail.core.parts.families import PAPER_YEARS, Family
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.quantities import farad_spellings
from hale_rail.core.supply.sheet import Rail


class RecapPolicy(Coded):
    """How much is replaced."""

    PROVEN = ("proven", "proven only")
    OFFENDERS = ("offenders", "offenders")
    BLANKET = ("blanket", "blanket")


#: above this nobody prints nanofarads
_NANO_UP_TO_F = 9.995e-6
SCHOOLS = {school.code: school for school in RecapPolicy}


class Position(Struct, frozen=True):
    """A capacitor of the sheet with what is known of it.

    `verdict` is that of its readings and looks alone (age is the schools' business), None while
    there are none.
    """

    part: Part
    verdict: Verdict | None
    rail: Rail | None = None
    #: the person's own word, which outranks every school
    decision: Decision | None = None
    #: the age from which a suppressor is an offender
    suppressor_years: float = PAPER_YEARS
    #: when the unit was made: the year of parts without one
    unit_year: int | None = None

    @property
    def is_fitted(self) -> bool:
        """True when a new part is there already."""
        return self.decision is not None and self.decision.kind is DecisionKind.FITTED

    @property
    def decided(self) -> Decision | None:
        """A decision that stands against the schools."""
        if self.decision and self.decision.stands and not self.is_fitted:
            return self.decision
        return None


class ReplaceDecision(Struct, frozen=True):
    """Whether a school replaces a position, and why."""

    replace: bool
    why: str


class RecapLine(Struct, frozen=True):
    """One line of the list: parts of the same value, voltage, family and class."""

    farad: float
    volt: float | None
    family: Family
    safety_class: str
    positions: tuple[Position, ...]
    whys: tuple[str, ...]

    @property
    def quantity(self) -> int:
        """How many parts."""
        return len(self.positions)

    @property
    def refs(self) -> str:
        """Their designators, apart by commas."""
        return ", ".join(p.part.ref for p in self.positions)

    @property
    def spellings(self) -> tuple[str, str, str]:
        """The value as pF, nF and µF."""
        return farad_spellings(self.farad)

    @property
    def printed(self) -> tuple[str, ...]:
        """The spellings that a person meets on a part: from 10 µF on no nanofarads."""
        pico, nano, micro = self.spellings
        return tuple(s for s in (pico, nano if self.farad < _NANO_UP_TO_F else "", micro) if s)


def choose(position: Position, school: RecapPolicy, this_year: int) -> ReplaceDecision:
    """What one school does with one position; what was replaced already stays on every list."""
    if position.is_fitted:
        return ReplaceDecision(True, "replaced already")
    decided = position.decided
    if decided:
        replace = decided.kind is DecisionKind.REPLACE
        return ReplaceDecision(replace, f"{decided.kind.words}: {decided.reason}")
    if position.verdict in (Verdict.FAILED, Verdict.WORN):
        return ReplaceDecision(True, f"found {position.verdict.value}")
    if school is RecapPolicy.PROVEN:
        return ReplaceDecision(False, "not found bad")
    offence = _offence(position, this_year)
    if offence:
        return ReplaceDecision(True, offence)
    family = position.part.family
    if school is RecapPolicy.BLANKET and family is not None and _is_blanket(family):
        return ReplaceDecision(True, f"every {family.label} part")
    return ReplaceDecision(
        False, "no offender" if school is RecapPolicy.OFFENDERS else "keeps for decades"
    )


def _offence(position: Position, this_year: int) -> str:
    part, rail = position.part, position.rail
    if part.family and part.family.is_suppressor:
        made = part.year or position.unit_year
        if made is not None and this_year - made > position.suppressor_years:
            return f"suppressor {this_year - made} years old"
        if made is None and part.family is Family.SUPPRESSION_PAPER:
            return "paper suppressor of unknown year"
    if part.family is Family.TANTALUM and rail is not None and rail.is_stiff:
        if part.volt is None:
            return f"tantalum of unknown rating on stiff {rail.key}"
        if abs(rail.nominal_v) > part.volt / 2:
            return f"{part.volt:g} V tantalum above half its rating on stiff {rail.key}"
    return ""


def _is_blanket(family: Family) -> bool:
    return family.is_wet or family in (Family.TANTALUM, Family.SUPPRESSION_PAPER)


def kept_by_decision(positions: Sequence[Position]) -> list[Position]:
    """Positions the person keeps, or leaves out for now, against what a school would do."""
    kinds = (DecisionKind.KEEP, DecisionKind.LEFT_OUT)
    return [p for p in positions if p.decision and p.decision.kind in kinds]


def is_replaced(position: Position, school: RecapPolicy, this_year: int) -> bool:
    """True when the school replaces it; a part of unknown value cannot be bought."""
    part = position.part
    is_known = part.value is not None and part.family is not None
    return is_known and choose(position, school, this_year).replace


def recap_list(
    positions: Sequence[Position], school: RecapPolicy, this_year: int
) -> list[RecapLine]:
    """Positions the school replaces, grouped by value, voltage, family and class; big first."""
    groups: dict[tuple[float, float | None, Family, str], list[tuple[Position, str]]] = {}
    for position in positions:
        part = position.part
        if part.value and part.family and is_replaced(position, school, this_year):
            key = (part.value, part.volt, part.family, part.safety_class)
            why = choose(position, school, this_year).why
            groups.setdefault(key, []).append((position, why))
    lines = []
    for (farad, volt, family, safety_class), chosen in groups.items():
        whys = tuple(dict.fromkeys(why for _, why in chosen))
        members = tuple(position for position, _ in chosen)
        lines.append(RecapLine(farad, volt, family, safety_class, members, whys))
    return sorted(lines, key=lambda line: (-line.farad, line.volt or 0, line.family.value))
