"""A position of the recap: what it asks, and every part that may be fitted, drawn to scale."""

from __future__ import annotations

import heapq
from collections.abc import Mapping, Sequence
from decimal import Decimal
from math import inf, log
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.file import CaseFile
from hale_rail.case.recap.demands import needs_of
from hale_rail.case.recap.ratings import sheet_cells, typed_ratings
from hale_rail.case.recap.recap import others
from hale_rail.case.recap.sourcing import Sources, market_of, sources
from hale_rail.core.parts.kinds import resistor
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.ratings import FIELDS
from hale_rail.core.quantities import plain_number
from hale_rail.core.recap.any_part import fit
from hale_rail.core.recap.findings import CandidateFit, Level
from hale_rail.core.recap.matching import MarketItem, PositionGroup, is_alike, match
from hale_rail.core.recap.needs import Build, Needs
from hale_rail.core.recap.rated_parts import AnyNeeds
from hale_rail.errors import InputError
from hale_rail.formats.tables.money import show_price
from hale_rail.stages.recap.recap import build_words
from hale_rail.stages.shorts.trace import asked_target
from hale_rail.stages.stage import PageQuery, Stage, StageState, Status, is_part_id
from hale_rail.store.rework import RECAP_NOTES

#: of a long list, this many of the nearest capacitance are told with the reason why they do not fit
_NEAR = 1000
#: how many of each level are listed
_SHOWN = {Level.ALLOWED: 12, Level.FLAGGED: 8, Level.REFUSED: 8}


class PositionCandidate(Struct, frozen=True):
    """A part on a list or in a drawer, its state, and what it costs here."""

    item: MarketItem
    fit: CandidateFit
    words: str
    where: str
    price: str
    is_nearest: bool
    is_drawn: bool


class RatingField(Struct, frozen=True):
    """A rating that counts at a position: its column, its name, what was said, what the sheet has.

    `is_needed`: nothing is chosen without it.
    """

    name: str
    words: str
    typed: str
    sheet: str
    is_needed: bool


class PositionPage(Struct, frozen=True):
    """What a position asks, and its candidates: allowed, flagged, refused, each the best first.

    `needs` None where its value is not known; `fields` what is said of a part that is not a
    capacitor; `drawn` the candidate in the picture; `old_mm` the
    old can's diameter and height where they were measured; `counts` by level's word.
    """

    part: Part | None
    needs: AnyNeeds | None
    note: Mapping[str, Any]
    fields: tuple[RatingField, ...]
    candidates: tuple[PositionCandidate, ...]
    drawn: PositionCandidate | None
    old_mm: tuple[float, float] | None
    counts: Mapping[str, int]
    sources: Sources
    siblings: tuple[tuple[str, int], ...]


def page(case: CaseFile, query: PageQuery) -> PositionPage:
    """The position of the part asked for, else of the first capacitor."""
    part = _part(case, query)
    needs = needs_of(case, part) if part else None
    all_sources = sources(case.store)
    note = case.rows.newest(RECAP_NOTES).get(part.id) if part else None
    body = note.body if note else {}
    ranked, total = _ranked(needs, all_sources) if needs else ([], 0)
    counts = {lv: sum(f.level is lv for _, f in ranked) for lv in (Level.ALLOWED, Level.FLAGGED)}
    shown = _shown(ranked)
    nearest = next((item for item, f in ranked if not f.is_allowed), None)
    has_allowed = any(f.is_allowed for _, f in ranked)
    wanted = query.load or (needs.sku if needs else "")
    drawn = next((item for item, _ in shown if item.sku == wanted), None)
    drawn = drawn or (shown[0][0] if shown else None)
    listed = tuple(
        PositionCandidate(
            item,
            told,
            build_words(item.build),
            _where(item),
            _price(item, all_sources),
            item is nearest and not has_allowed,
            item is drawn,
        )
        for item, told in shown
    )
    return PositionPage(
        part,
        needs,
        body,
        _fields(case, part) if part and part.kind.rules else (),
        listed,
        next((candidate for candidate in listed if candidate.is_drawn), None),
        _old_mm(body),
        {
            **{lv.word: count for lv, count in counts.items()},
            Level.REFUSED.word: total - sum(counts.values()),
        },
        all_sources,
        tuple((p.ref, p.id) for p in _siblings(case, part)),
    )


def _siblings(case: CaseFile, part: Part | None) -> list[Part]:
    """The capacitors, then what else is replaced, and the part that is looked at."""
    besides = {o.part.id: o.part for line in others(case) for o in line.others}
    if part and part.kind.rules:
        besides[part.id] = part
    return [*case.sheet.capacitors, *(p for p in besides.values() if p.kind.rules)]


def _fields(case: CaseFile, part: Part) -> tuple[RatingField, ...]:
    """The ratings by which another part is chosen, and the type."""
    ratings, sheet = typed_ratings(case, part), sheet_cells(case, part)
    result = {
        FIELDS[rule.name].column: (_words(part, rule.name, rule.words), rule.is_needed)
        for rule in part.kind.rules
    }
    if part.kind is resistor.KIND:
        result.setdefault(FIELDS["tolerance"].column, ("Tolerance, %", False))
    return tuple(
        RatingField(name, words, ratings.get(name, ""), sheet.get(name, ""), is_needed)
        for name, (words, is_needed) in result.items()
    )


def _words(part: Part, name: str, words: str) -> str:
    unit = part.kind.value_unit if name == "value" else FIELDS[name].unit
    symbol = f", {unit.symbol}{FIELDS[name].suffix}" if unit else ""
    return f"{words[:1].upper()}{words[1:]}{symbol}"


def _part(case: CaseFile, query: PageQuery) -> Part | None:
    if is_part_id(query.at):
        return case.sheet.part(int(query.at))
    target = asked_target(query)
    named = case.sheet.part(target.part_id) if target else None
    return named or next(iter(case.sheet.capacitors), None)


def _ranked(needs: AnyNeeds, sources: Sources) -> tuple[list[tuple[MarketItem, CandidateFit]], int]:
    """Parts against the position, and how many there are: passes first, then by how far they miss.

    Of a very long list, all that may be fitted there and those of the nearest capacitance.
    """
    items = market_of(sources).items
    bare = replace(needs, sku="")
    may = match([PositionGroup((bare,))], items)[0].flagged
    near = _nearest(needs, items)
    known = {id(item): item for item in (*(items[place] for place in may), *near)}
    fits = [(item, fit(bare, item.build)) for item in known.values()]
    ranked = sorted(fits, key=lambda f: (f[1].level, f[1].miss, _cheapest(f[0]), f[0].sku))
    return ranked, len(items) if isinstance(needs, Needs) else len(known)


def _nearest(needs: AnyNeeds, items: Sequence[MarketItem]) -> list[MarketItem]:
    """Parts of the kind; of capacitors those of the nearest capacitance."""
    if not isinstance(needs, Needs):
        return [item for item in items if is_alike(needs, item.build)][:_NEAR]
    farads = [(i, i.build.farad) for i in items if isinstance(i.build, Build)]
    near = heapq.nsmallest(_NEAR, farads, key=lambda f: abs(log(f[1] / needs.farad)))
    return [item for item, _ in near]


def _shown(ranked: list[tuple[MarketItem, CandidateFit]]) -> list[tuple[MarketItem, CandidateFit]]:
    return [
        one
        for level, most in _SHOWN.items()
        for one in [r for r in ranked if r[1].level is level][:most]
    ]


def _cheapest(item: MarketItem) -> float:
    if item.at_hand:
        return 0.0
    return float(min(_prices(item), default=inf))


def _prices(item: MarketItem) -> list[Decimal]:
    """The least prices of a part that is sold by itself."""
    return [offer.prices[0][1] for offer in item.offers if offer.prices]


def _where(item: MarketItem) -> str:
    words = [f"stock, {item.at_hand}"] if item.at_hand else []
    for offer in item.offers:
        left = "" if offer.available is None else f", {offer.available} there"
        inside = f", {offer.per_kit} in kit {offer.kit}" if offer.kit else ""
        words.append(f"{offer.vendor}{left}{inside}")
    return "; ".join(words)


def _price(item: MarketItem, sources: Sources) -> str:
    prices = _prices(item)
    return show_price(min(prices), sources.buying.currency) if prices else ""


def _old_mm(body: Mapping[str, Any]) -> tuple[float, float] | None:
    try:
        return plain_number(body["old_diameter_mm"]), plain_number(body["old_height_mm"])
    except (KeyError, InputError):
        return None


def state(_: CaseFile) -> StageState:
    """No step of the work."""
    return StageState(Status.DONE, "")


STAGE = Stage(
    key="position",
    name="Position",
    templates="recap/position",
    state=state,
    page=page,
    under="recap",
)
