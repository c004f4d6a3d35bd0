"""Whether a hypothesis explains the readings at all, and which readings the rest speak against."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations

from msgspec import Struct
from scipy.special import chdtrc

from hale_rail.core.arrays import np
from hale_rail.core.shorts.board_model import Predicted
from hale_rail.core.shorts.evidence import (
    LEADS,
    PRIOR_DEVIATION,
    PRIOR_MEAN,
    SCALE,
    SHORT,
    Evidence,
    weigh,
)
from hale_rail.core.shorts.flows import Array

#: a best hypothesis whose χ² is rarer than this does not explain the readings
RARE = 0.001
#: at most this many readings, and at most one in this many, are set aside
_MOST_ASIDE, _ONE_IN = 2, 4
#: a scale of the copper so far from the drawn one means another map
_SCALES = (0.1, 2.5)
#: hypotheses that stay in the search for readings to set aside
_SEARCHED = 150
_WORST_Z2 = 9.0


class HypothesisFit(Struct, frozen=True):
    """How one hypothesis explains the readings: nuisances at their best, χ², degrees of freedom."""

    nuisances: Array
    chi2: float
    freedom: int

    @property
    def is_good(self) -> bool:
        """True unless χ² is beyond 99.9 %, or the copper's scale is beyond belief."""
        is_rare = self.freedom > 0 and chdtrc(self.freedom, self.chi2) < RARE
        return not is_rare and _SCALES[0] <= self.nuisances[SCALE] <= _SCALES[1]


def fit(evidence: Evidence, which: int, values: Array) -> HypothesisFit:
    """The fit of one hypothesis, its short and leads not below zero ohms."""
    design, spread = evidence.design[which], evidence.spread[which]
    used = [i for i in (SCALE, SHORT, LEADS) if design[:, i].any()]
    white = np.linalg.cholesky(np.linalg.inv(spread)).T
    best = PRIOR_MEAN.copy()
    free = list(used)
    while True:
        best[free] = _solve(white, design, values, best, free)
        low = [i for i in free if i != SCALE and best[i] < 0]
        if not low:
            break
        best[low] = 0.0
        free = [i for i in free if i not in low]
    rest = white @ (values - design @ best)
    return HypothesisFit(best, float(rest @ rest), len(values) - len(used))


def _solve(white: Array, design: Array, values: Array, now: Array, free: Sequence[int]) -> Array:
    """The free nuisances by least squares, their priors counted as readings."""
    fixed = [i for i in range(len(now)) if i not in free]
    rest = values - design[:, fixed] @ now[fixed]
    weights = np.diag(1 / PRIOR_DEVIATION[free])
    left = np.concatenate((white @ design[:, free], weights))
    right = np.concatenate((white @ rest, PRIOR_MEAN[free] / PRIOR_DEVIATION[free]))
    figures: Array = np.linalg.lstsq(left, right, rcond=None)[0]
    return figures


class Agreement(Struct, frozen=True):
    """The evidence, the places of readings set aside, and whether what is left is explained."""

    evidence: Evidence
    log: Array
    aside: tuple[int, ...]
    fit: HypothesisFit


def agree(predicted: Predicted, values: Array, noise: Array, prior: Array) -> Agreement:
    """Weigh all readings; where none explains them, without one or two that the rest speak against.

    `prior` is the log of each hypothesis's chance before drops and ohms.
    """
    whole = _weighed(predicted, values, noise, prior, ())
    if whole.fit.is_good:
        return whole
    robust = _robust_order(predicted, values, noise, prior)[:_SEARCHED]
    some = Predicted(
        predicted.drop[robust], predicted.across, predicted.leads, predicted.spread[robust]
    )
    for aside in _asides(len(values)):
        agreements = [_weighed(some, values, noise, prior[robust], a) for a in aside]
        good = [f for f in agreements if f.fit.is_good and f.fit.freedom > 0]
        if good:
            best = max(good, key=lambda f: float(f.log.max()))
            return _weighed(predicted, values, noise, prior, best.aside)
    return whole


def _asides(count: int) -> Iterator[list[tuple[int, ...]]]:
    for size in range(1, min(_MOST_ASIDE, count // _ONE_IN) + 1):
        yield list(combinations(range(count), size))


def _weighed(
    predicted: Predicted, values: Array, noise: Array, prior: Array, aside: tuple[int, ...]
) -> Agreement:
    kept = [i for i in range(len(values)) if i not in aside]
    some = Predicted(
        predicted.drop[:, kept],
        predicted.across[kept],
        predicted.leads[kept],
        predicted.spread[:, kept][:, :, kept],
    )
    evidence = weigh(some, values[kept], noise[kept])
    log = prior + evidence.log
    return Agreement(evidence, log, aside, fit(evidence, int(log.argmax()), values[kept]))


def _robust_order(predicted: Predicted, values: Array, noise: Array, prior: Array) -> list[int]:
    """Hypotheses, best first, by readings taken each alone, none of which counts too much."""
    loose = np.outer(predicted.drop[:, 0] * 0 + 1, noise**2)
    loose += np.diagonal(predicted.spread, axis1=1, axis2=2)
    loose += (predicted.drop * PRIOR_DEVIATION[SCALE]) ** 2
    loose += (predicted.across * PRIOR_DEVIATION[SHORT]) ** 2
    loose += (predicted.leads * PRIOR_DEVIATION[LEADS]) ** 2
    expected = predicted.drop + predicted.across * PRIOR_MEAN[SHORT]
    off = (values - expected - predicted.leads * PRIOR_MEAN[LEADS]) ** 2 / loose
    score = prior - 0.5 * np.minimum(off, _WORST_Z2).sum(axis=1) - 0.5 * np.log(loose).sum(axis=1)
    return [int(i) for i in np.argsort(-score)]
