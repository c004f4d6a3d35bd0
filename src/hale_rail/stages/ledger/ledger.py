"""The ledger's page: groups with their lifetimes, what found faults, hours, what is taken over."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

import hale_rail.stages as stages
from hale_rail.case.ledger.ledger import Ledger, ledger, procedure_words
from hale_rail.core.charts import Chart
from hale_rail.core.ledger.chart import survival_chart
from hale_rail.core.ledger.ledger import by
from hale_rail.core.ledger.lifetimes import LifetimeFit, survival, survives
from hale_rail.core.parts.families import Family
from hale_rail.store.database import Store

KINDS = {"family": "Families", "role": "Roles", "unit_type": "Types of unit"}
_FAMILIES = {family.value: family.label for family in Family}
_AGES = 40


class TestRow(Struct, frozen=True):
    """A kind of reading: how often it was taken, and how often it was the last before a find."""

    words: str
    parts: int
    bad_parts: int


class LedgerPage(Struct, frozen=True):
    """The groups of one kind, one of them drawn; what found faults, hours by stage, and what the
    chances took over in words."""

    ledger: Ledger
    kind: str
    kinds: Mapping[str, str]
    groups: Mapping[str, LifetimeFit]
    here: str
    chart: Chart | None
    tests: tuple[TestRow, ...]
    hours: tuple[tuple[str, float], ...]
    used: tuple[str, ...]


def name_of(kind: str, group: str) -> str:
    """A group as one says it."""
    return _FAMILIES.get(group, group) if kind == "family" else group.replace("-", " ")


def page(store: Store, kind: str, group: str) -> LedgerPage:
    """The ledger; `kind` of group and the group that is drawn, the largest where none is asked."""
    whole_ledger = ledger(store)
    chosen = kind if kind in KINDS else "family"
    groups = whole_ledger.groups(chosen)
    fitted = next((name for name, one in groups.items() if one.shape), next(iter(groups), ""))
    shown = group if group in groups else fitted
    tests = [TestRow(procedure_words(code), *counts) for code, counts in whole_ledger.tests.items()]
    names = {stage.key: stage.name for stage in (*stages.STAGES, *stages.BESIDE)}
    hours = [(names.get(key, key), spent) for key, spent in whole_ledger.hours.items()]
    return LedgerPage(
        whole_ledger,
        chosen,
        KINDS,
        groups,
        shown,
        _chart(whole_ledger, chosen, shown, groups[shown]) if shown else None,
        tuple(sorted(tests, key=lambda row: -row.bad_parts)),
        tuple(sorted(hours, key=lambda row: -row[1])),
        tuple(_used(whole_ledger)),
    )


def _chart(ledger: Ledger, kind: str, group: str, told: LifetimeFit) -> Chart:
    own = by(ledger.lives, kind)[group]
    ages, failed = [life.years for life in own], [life.failed for life in own]
    alive = sorted({life.years for life in own if not life.failed})
    return survival_chart(survival(ages, failed), alive, told, _bounds(told, max(ages) * 1.1))


def _bounds(told: LifetimeFit, oldest: float) -> list[tuple[float, float, float]]:
    """The least and the most that survives by age, over the corners of shape and scale."""
    if not (told.shape and told.scale_years):
        return []
    shapes = [s for s in (told.shape.low, told.shape.high) if s] or [told.shape.value]
    scales = [s for s in (told.scale_years.low, told.scale_years.high) if s]
    bounds = []
    for place in range(1, _AGES + 1):
        years = oldest * place / _AGES
        shares = [survives(told.shape.value, scale, years) for scale in scales]
        shares += [survives(shape, told.scale_years.value, years) for shape in shapes]
        bounds.append((years, min(shares), max(shares)))
    return [(0.0, 1.0, 1.0), *bounds]


def _used(ledger: Ledger) -> list[str]:
    """Where the chances took over what the ledger says, in sentences."""
    told = []
    for family, factor in ledger.priors.families:
        own = by(ledger.lives, "family").get(family, [])
        failures = sum(life.failed for life in own)
        name = name_of("family", family)
        told.append(
            f"Short trace: {name} weighs {factor:.2g} times its usual ({failures} of {len(own)})."
        )
    years = ledger.priors.suppressor_years
    if years:
        told.append(f"Recap, offenders: suppressors past {years:g} years instead of 25.")
    topologies = sorted({where for where, _, factor in ledger.priors.faults if factor != 1.0})
    told += [f"Where to look next: faults of {name} supplies weigh as they were met here."
             for name in topologies]  # fmt: skip
    return told
