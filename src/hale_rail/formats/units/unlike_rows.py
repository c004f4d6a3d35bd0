"""Rows of a list whose figures are a thousand times their neighbours', or a thousandth: a slip of
the unit, or of how it was read."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from statistics import median

from msgspec import Struct

from hale_rail.core.quantities import Unit, show
from hale_rail.core.recap.offers import Offer
from hale_rail.core.recap.rated_parts import RatedBuild
from hale_rail.formats.plans.price_lists import RowRead

#: a figure is held against so many rows of its family before it, and behind it
_BESIDE, _FEWEST = 2, 2
#: so far from their median, rounding aside, it is shown
_APART = math.log10(1000) - 1e-6


class Unlike(Struct, frozen=True):
    """One figure of a row: its line, what it is, as what it was understood beside the others."""

    line: int
    what: str
    text: str


_Figure = Callable[[Offer], float | None]


def _of_capacitor(name: str) -> _Figure:
    """A figure of a capacitor's; other parts have none that is compared."""

    def figure(offer: Offer) -> float | None:
        known = None if isinstance(offer.build, RatedBuild) else getattr(offer.build, name)
        return float(known) if known is not None else None

    return figure


_FIGURES: tuple[tuple[str, _Figure, Callable[[float], str]], ...] = (
    ("capacitance", _of_capacitor("farad"), lambda v: show(v, Unit.FARAD)),
    ("ESR", _of_capacitor("esr_ohm"), lambda v: show(v, Unit.OHM)),
    ("ripple current", _of_capacitor("ripple_a"), lambda v: show(v, Unit.AMPERE)),
    ("volts", _of_capacitor("volt"), lambda v: show(v, Unit.VOLT)),
    ("price", lambda o: float(o.prices[0][1]) if o.prices else None, lambda v: f"{v:g}"),
)


def unlike(rows: Sequence[RowRead]) -> tuple[Unlike, ...]:
    """The figures that stand a thousandfold apart from their family's rows beside them."""
    slips = [one for what, figure, words in _FIGURES for one in _of(rows, what, figure, words)]
    return tuple(sorted(slips, key=lambda one: one.line))


def _of(
    rows: Sequence[RowRead], what: str, figure: _Figure, words: Callable[[float], str]
) -> Iterator[Unlike]:
    families: dict[object, list[tuple[int, float]]] = {}
    for row in rows:
        value = figure(row.offer) if row.offer else None
        if row.offer and value is not None and value > 0:
            build = row.offer.build
            kind = build.ware if isinstance(build, RatedBuild) else build.family
            families.setdefault(kind, []).append((row.line, value))
    for own in families.values():
        for place, (line, value) in enumerate(own):
            near = own[max(0, place - _BESIDE) : place] + own[place + 1 : place + 1 + _BESIDE]
            usual = median(v for _, v in near) if len(near) >= _FEWEST else value
            if abs(math.log10(value / usual)) >= _APART:
                yield Unlike(line, what, f"{words(value)}, beside {words(usual)}")
