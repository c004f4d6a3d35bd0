"""A position of the recap: what it asks, and every part that may stand there, drawn to scale."""

from __future__ import annotations

import heapq
from collections.abc import Mapping
from math import log
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.demands import needs_of
from hale_rail.case.file import CaseFile
from hale_rail.case.sourcing import Sources, market_of, sources
from hale_rail.core.parts.part import Part
from hale_rail.core.quantities import plain_number
from hale_rail.core.recap.matching import Group, Item, match
from hale_rail.core.recap.needs import Needs
from hale_rail.core.recap.substitutes import Fit, Level, fit
from hale_rail.errors import InputError
from hale_rail.formats.money import show_price
from hale_rail.stages.recap import build_words
from hale_rail.stages.stage import Asked, Stage, StageState, Status, is_part_id
from hale_rail.stages.trace import asked_target

#: of a long list, so many of the nearest capacitance are told why they do not fit
_NEAR = 1000
#: how many of each level are listed
_SHOWN = {Level.ALLOWED: 12, Level.FLAGGED: 8, Level.REFUSED: 8}


class Candidate(Struct, frozen=True):
    """A part on a list or in a drawer, how it stands, and what it costs here."""

    item: Item
    fit: Fit
    words: str
    where: str
    price: str
    is_nearest: bool
    is_drawn: bool


class PositionPage(Struct, frozen=True):
    """What a position asks, and its candidates: allowed, flagged, refused, each the best first.

    `needs` None where its value is not known; `drawn` the candidate in the picture; `old_mm` the
    old can's diameter and height where they were measured; `counts` by level's word.
    """

    part: Part | None
    needs: Needs | None
    note: Mapping[str, Any]
    candidates: tuple[Candidate, ...]
    drawn: Candidate | None
    old_mm: tuple[float, float] | None
    counts: Mapping[str, int]
    sources: Sources
    siblings: tuple[tuple[str, int], ...]


def page(case: CaseFile, asked: Asked) -> PositionPage:
    """The position of the part asked for, else of the first capacitor."""
    part = _part(case, asked)
    needs = needs_of(case, part) if part else None
    found = sources(case.store)
    note = case.rows.notes.get(part.id) if part else None
    body = note.body if note else {}
    ranked, total = _ranked(needs, found) if needs else ([], 0)
    counts = {lv: sum(f.level is lv for _, f in ranked) for lv in (Level.ALLOWED, Level.FLAGGED)}
    shown = _shown(ranked)
    nearest = next((item for item, f in ranked if not f.is_allowed), None)
    has_allowed = any(f.is_allowed for _, f in ranked)
    wanted = asked.load or (needs.sku if needs else "")
    drawn = next((item for item, _ in shown if item.sku == wanted), None)
    drawn = drawn or (shown[0][0] if shown else None)
    listed = tuple(
        Candidate(
            item,
            told,
            build_words(item.build),
            _where(item),
            _price(item, found),
            item is nearest and not has_allowed,
            item is drawn,
        )
        for item, told in shown
    )
    return PositionPage(
        part,
        needs,
        body,
        listed,
        next((candidate for candidate in listed if candidate.is_drawn), None),
        _old_mm(body),
        {
            **{lv.word: count for lv, count in counts.items()},
            Level.REFUSED.word: total - sum(counts.values()),
        },
        found,
        tuple((p.ref, p.id) for p in case.sheet.capacitors),
    )


def _part(case: CaseFile, asked: Asked) -> Part | None:
    if is_part_id(asked.at):
        return case.sheet.part(int(asked.at))
    target = asked_target(asked)
    named = case.sheet.part(target.part_id) if target else None
    return named or next(iter(case.sheet.capacitors), None)


def _ranked(needs: Needs, found: Sources) -> tuple[list[tuple[Item, Fit]], int]:
    """Parts against the position, and how many there are: passes first, then by how far they miss.

    Of a very long list, all that may stand there and those of the nearest capacitance.
    """
    items = market_of(found).items
    asked = replace(needs, sku="")
    may = match([Group((asked,))], items)[0].flagged
    near = heapq.nsmallest(_NEAR, items, key=lambda i: abs(log(i.build.farad / needs.farad)))
    known = {id(item): item for item in (*(items[place] for place in may), *near)}
    fits = [(item, fit(asked, item.build)) for item in known.values()]
    ranked = sorted(fits, key=lambda f: (f[1].level, f[1].miss, _cheapest(f[0]), f[0].sku))
    return ranked, len(items)


def _shown(ranked: list[tuple[Item, Fit]]) -> list[tuple[Item, Fit]]:
    return [
        one
        for level, most in _SHOWN.items()
        for one in [r for r in ranked if r[1].level is level][:most]
    ]


def _cheapest(item: Item) -> float:
    if item.at_hand:
        return 0.0
    return float(min(offer.prices[0][1] for offer in item.offers))


def _where(item: Item) -> str:
    words = [f"stock, {item.at_hand}"] if item.at_hand else []
    for offer in item.offers:
        left = "" if offer.available is None else f", {offer.available} there"
        words.append(f"{offer.vendor}{left}")
    return "; ".join(words)


def _price(item: Item, found: Sources) -> str:
    if not item.offers:
        return ""
    lowest = min(offer.prices[0][1] for offer in item.offers)
    return show_price(lowest, found.buying.currency)


def _old_mm(body: Mapping[str, Any]) -> tuple[float, float] | None:
    try:
        return plain_number(body["old_diameter_mm"]), plain_number(body["old_height_mm"])
    except (KeyError, InputError):
        return None


def state(_: CaseFile) -> StageState:
    """No step of the work."""
    return StageState(Status.DONE, "")


STAGE = Stage(key="position", name="Position", state=state, page=page, under="recap")
