"""From readings on a shorted rail to the part that shorts it.

Hypotheses are the parts between rail and ground and, with a small prior, every pad of the rail.
Each is weighed by its evidence (evidence.py); what the rest speak against is set aside (fit.py);
where no single short explains the readings, pairs are tried (pairs.py).
Source: docs/formulas.md, “Tracing a shorted rail”.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

from msgspec import Struct
from scipy.special import ndtr

from hale_rail.core.arrays import np
from hale_rail.core.shorts.board import Board, BoardPart, Trouble, connected
from hale_rail.core.shorts.board_model import (
    BoardModel,
    Predicted,
    ShortHypothesis,
    TraceReading,
    hypotheses,
)
from hale_rail.core.shorts.checks import impossible, unusable
from hale_rail.core.shorts.copper import Pad
from hale_rail.core.shorts.distrust import Doubt, explained, repeated
from hale_rail.core.shorts.evidence import PRIOR_DEVIATION, PRIOR_MEAN, SHORT
from hale_rail.core.shorts.fit import Agreement, agree
from hale_rail.core.shorts.flows import Array
from hale_rail.core.shorts.pairs import PairChance, best_pairs
from hale_rail.core.shorts.warmth import log_of_touch

#: hypotheses lighter than this share of the heaviest do not count for the short's ohms
_LIGHT = 1e-5
_GRID = 2000


class ShortOhm(Struct, frozen=True):
    """The short's own resistance in Ω: its median, and the bounds of 95 %."""

    value: float
    low: float
    high: float


class Trace(Struct, frozen=True, dict=True):
    """What the readings say.

    `held` the hypotheses and `chance` theirs, shape (hypotheses,); `copper` the drops and ohms and
    `agreement` how they are explained, None while there are none; `outliers` those of them that
    are set aside; `doubt`: readings that the map contradicts although they were repeated.
    """

    board: Board
    model: BoardModel
    held: tuple[ShortHypothesis, ...]
    chance: Array
    readings: tuple[TraceReading, ...]
    copper: tuple[TraceReading, ...]
    predicted: Predicted | None
    agreement: Agreement | None
    outliers: tuple[TraceReading, ...]
    pairs: tuple[PairChance, ...]
    troubles: tuple[Trouble, ...]
    doubt: Doubt = Doubt(())

    @property
    def is_misfit(self) -> bool:
        """True when no single short on this map explains the readings, or the map is doubted."""
        is_bad = self.agreement is not None and not self.agreement.fit.is_good
        return is_bad or bool(self.doubt.readings)

    @cached_property
    def candidates(self) -> tuple[tuple[BoardPart, float], ...]:
        """Every part with its chance, best first; of equals the earlier in the map."""
        parts = [(h.part, float(c)) for h, c in zip(self.held, self.chance, strict=True) if h.part]
        return tuple(sorted(parts, key=lambda item: -item[1]))

    @cached_property
    def places(self) -> tuple[tuple[Pad, float], ...]:
        """Every rail pad with the chance that something short-circuits there that is not a part."""
        pads = [
            (self.board.rail.by_id[h.rail_pad], float(c))
            for h, c in zip(self.held, self.chance, strict=True)
            if h.part is None
        ]
        return tuple(sorted(pads, key=lambda item: -item[1]))

    @property
    def elsewhere(self) -> float:
        """The chance that it is not a part of the map."""
        return float(sum(chance for _, chance in self.places))

    @cached_property
    def short_ohm(self) -> ShortOhm:
        """The short's own ohms, over all hypotheses."""
        return _short_ohm(self.chance, self.agreement)


def trace(board: Board, readings: Sequence[TraceReading]) -> Trace:
    """Weigh every hypothesis by the readings, which stand in the order they were taken.

    Readings that cannot be used are named among `troubles` and left out.
    """
    board = connected(board)
    troubles = list(board.troubles)
    usable = []
    for reading in readings:
        why = unusable(board, reading)
        if why:
            troubles.append(Trouble(why, line=reading.line, id=reading.plus))
        else:
            usable.append(reading)
    held = hypotheses(board)
    pads = {p for r in usable for p in (r.plus, r.minus, r.inject, r.drain) if r.is_of_copper}
    model = BoardModel(board, held, pads)
    weight = np.array([h.weight for h in held])
    log = np.log(weight / weight.sum()) + log_of_touch(board, held, usable)
    return _weighed(model, tuple(usable), log, troubles)


def _weighed(
    model: BoardModel,
    readings: tuple[TraceReading, ...],
    log: Array,
    troubles: list[Trouble],
    doubted: tuple[TraceReading, ...] = (),
) -> Trace:
    copper = tuple(r for r in readings if r.is_of_copper)
    predicted = agreement = None
    outliers: tuple[TraceReading, ...] = ()
    pairs: tuple[PairChance, ...] = ()
    if copper:
        predicted = model.predict(copper)
        wrong = impossible(copper, predicted)
        if wrong:
            twice = repeated(copper)
            sure = tuple(copper[at] for at in wrong if copper[at].line in twice)
            troubles += [t for at, t in wrong.items() if copper[at] not in sure]
            gone = {id(copper[at]) for at in wrong}
            readings = tuple(r for r in readings if id(r) not in gone)
            return _weighed(model, readings, log, troubles, (*doubted, *sure))
        values, noise = (np.array([getattr(r, name) for r in copper]) for name in _FIGURES)
        agreement = agree(predicted, values, noise, log)
        log = agreement.log
        outliers = tuple(copper[i] for i in agreement.aside)
        if not agreement.fit.is_good:
            pairs = best_pairs(model, readings, predicted.spread)
    chance = np.exp(log - log.max())
    doubt = Doubt(doubted)
    if doubted:
        prior = np.log(np.array([h.weight for h in model.held]))
        doubt = Doubt(doubted, explained(model.board, model.held, (*copper, *doubted), prior))
    return Trace(
        model.board, model, model.held, chance / chance.sum(), readings,
        tuple(copper), predicted, agreement, outliers, pairs,
        tuple(troubles), doubt,
    )  # fmt: skip


_FIGURES = ("value", "noise")


def _short_ohm(chance: Array, agreement: Agreement | None) -> ShortOhm:
    """Median and 95 % bounds of the mixture of normals cut at zero."""
    mean, deviation = PRIOR_MEAN[SHORT : SHORT + 1], PRIOR_DEVIATION[SHORT : SHORT + 1]
    weight = np.ones(1)
    if agreement is not None:
        kept = chance > _LIGHT * chance.max()
        weight = chance[kept]
        mean = agreement.evidence.mean[kept, SHORT]
        deviation = np.sqrt(agreement.evidence.covariance[kept, SHORT, SHORT])
    cut = ndtr(-mean / deviation)
    top = float(np.max(np.maximum(mean, 0) + 6 * deviation))
    grid = np.linspace(0.0, 1.0, _GRID) ** 2 * top
    below = ndtr((grid[:, None] - mean) / deviation) - cut
    share = (below / np.maximum(1 - cut, 1e-300)) @ (weight / weight.sum())
    low, middle, high = np.interp((0.025, 0.5, 0.975), share, grid)
    return ShortOhm(float(middle), float(low), float(high))
