"""Any candidate against any position, each by the rules of what it is."""

from __future__ import annotations

from collections.abc import Iterable

from hale_rail.core.recap.findings import OTHER_KIND, CandidateFit, Level, RuleFinding, refuse
from hale_rail.core.recap.needs import Build, Needs
from hale_rail.core.recap.rated_parts import (
    AnyBuild,
    AnyNeeds,
    RatedBuild,
    RatedNeeds,
    rated_findings,
)
from hale_rail.core.recap.substitutes import RULES


def fit(needs: AnyNeeds, build: AnyBuild) -> CandidateFit:
    """Every rule against one candidate."""
    return CandidateFit(tuple(_findings(needs, build)))


def level_of(needs: AnyNeeds, build: AnyBuild) -> Level:
    """How a candidate compares, without the words: the first refusal settles it."""
    worst = Level.ALLOWED
    for finding in _findings(needs, build):
        if finding.level is Level.REFUSED:
            return Level.REFUSED
        worst = Level.FLAGGED
    return worst


def _findings(needs: AnyNeeds, build: AnyBuild) -> Iterable[RuleFinding]:
    if isinstance(needs, Needs) and isinstance(build, Build):
        for rule in RULES:
            yield from rule(needs, build)
    elif isinstance(needs, RatedNeeds) and isinstance(build, RatedBuild):
        yield from rated_findings(needs, build)
    else:
        yield refuse("kind", "another kind of part", OTHER_KIND)
