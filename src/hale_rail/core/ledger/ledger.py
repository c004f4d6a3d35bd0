"""What many cases say together: lives of parts by group, and what that gives to the chances.

Source: docs/formulas.md, “Ledger”. A factor is used only with ten failures and twenty parts behind
it, and stays between a third and three.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from hale_rail.core.ledger.lifetimes import SMALL, LifetimeFit

#: parts behind a family's factor at least, cases behind a diagnosis's
FEWEST_PARTS, FEWEST_CASES = 20, 10
LEAST, MOST = 1 / 3, 3.0
#: ages between which an offender's age may be moved, in years
YEARS = (15.0, 40.0)


class Life(Struct, frozen=True):
    """One part of a case handed back: family (or kind), role, type of unit, age, did it fail."""

    family: str
    role: str
    unit_type: str
    years: float
    failed: bool


class Priors(Struct, frozen=True):
    """What the ledger gives: factors by family, an offender's age, factors of faults by topology.

    Each is empty, or None, where the numbers do not allow it.
    """

    families: tuple[tuple[str, float], ...] = ()
    suppressor_years: float | None = None
    faults: tuple[tuple[str, str, float], ...] = ()

    def of_family(self, family: str) -> float:
        """How much more a family's parts weigh than others, 1 where nothing is known."""
        return dict(self.families).get(family, 1.0)

    def of_fault(self, topology: str, fault: str) -> float:
        """How much more a fault weighs, 1 where nothing is known."""
        known = {(where, what): factor for where, what, factor in self.faults}
        return known.get((topology, fault), 1.0)


def by(lives: Iterable[Life], name: str) -> dict[str, list[Life]]:
    """Lives by `family`, `role` or `unit_type`, the largest group first; "" is left out."""
    by_group: dict[str, list[Life]] = {}
    for life in lives:
        key = str(getattr(life, name))
        if key:
            by_group.setdefault(key, []).append(life)
    return dict(sorted(by_group.items(), key=lambda item: (-len(item[1]), item[0])))


def family_factors(lives: Sequence[Life]) -> tuple[tuple[str, float], ...]:
    """How often each family failed against all, where the numbers allow."""
    if not any(life.failed for life in lives):
        return ()
    whole = sum(life.failed for life in lives) / len(lives)
    family_factors = []
    for family, own in by(lives, "family").items():
        failures = sum(life.failed for life in own)
        if len(own) >= FEWEST_PARTS and failures >= SMALL:
            factor = min(max(failures / len(own) / whole, LEAST), MOST)
            family_factors.append((family, round(factor, 3)))
    return tuple(sorted(family_factors))


def offender_years(paper: LifetimeFit | None) -> float | None:
    """The age from which suppressors of paper are offenders: by which a tenth has failed."""
    if paper is None or paper.b10_years is None or paper.small:
        return None
    return round(min(max(paper.b10_years.value, YEARS[0]), YEARS[1]), 1)


def fault_factors(
    counts: Mapping[str, Mapping[str, int]], weights: Mapping[str, Mapping[str, float]]
) -> tuple[tuple[str, str, float], ...]:
    """How much more each fault was met than its weight says, by topology; one case more of each
    is assumed, so that what was never met does not vanish."""
    fault_factors = []
    for topology, met in counts.items():
        known = weights.get(topology, {})
        cases, total = sum(met.values()), sum(known.values())
        if cases < FEWEST_CASES or not total:
            continue
        for fault, weight in known.items():
            wanted = cases * weight / total
            factor = (met.get(fault, 0) + 1) / (wanted + 1)
            fault_factors.append((topology, fault, round(min(max(factor, LEAST), MOST), 3)))
    return tuple(sorted(fault_factors))
