"""Fits lifetimes: Weibull by maximum likelihood, units still good counted as censored.

Source: docs/formulas.md, “Lifetimes”. With r failures among ages t the shape k solves
Σtᵏ·ln t/Σtᵏ − 1/k = mean of ln t over the failures, and scale η = (Σtᵏ/r)^(1/k). Bounds are those
values whose profile likelihood is at most χ²₁(95 %)/2 = 1.9207 below the best.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from msgspec import Struct

from hale_rail.core.arrays import np
from hale_rail.core.errors import InputError

#: fewer failures than these: no fit; a fit that is called small
FEWEST, SMALL = 3, 10
#: half the 95 % point of χ² with one degree of freedom
_DROP = 1.9207294103470626
#: the share of B10, and what it is in a Weibull's exponent
_B10 = -math.log(0.9)
#: shapes that are looked at, and how far a bound is followed, in e-folds
_SHAPES = (1e-3, 1e3)
_FARTHEST = 40.0


class Bounded(Struct, frozen=True):
    """A figure with its 95 % bounds; `high` None: without bound."""

    value: float
    low: float | None
    high: float | None


class LifetimeFit(Struct, frozen=True):
    """A group's lifetimes: shape, scale in years, and the years by which a tenth has failed.

    The three are None where there is no fit, and `why` says so; `small`: fewer than ten failures.
    """

    n: int
    failures: int
    shape: Bounded | None
    scale_years: Bounded | None
    b10_years: Bounded | None
    small: bool
    why: str = ""

    @property
    def text(self) -> str:
        """Why there is no fit, or what is said of small numbers; "" for enough."""
        if self.why or not self.small:
            return self.why
        return (
            f"Only {self.failures} failures among {self.n}: the bounds are wide, read them first."
        )


class SurvivalStep(Struct, frozen=True):
    """The share that survives (Kaplan and Meier) from an age in years on."""

    years: float
    share: float


def fit(ages: Sequence[float], failed: Sequence[bool]) -> LifetimeFit:
    """The lifetimes of a group by ages in years, and which of them failed.

    Raises InputError for ages that are not above 0, or none.
    """
    if not ages or not all(0 < age < math.inf for age in ages):
        raise InputError("Ages must be above 0.")
    failures = sum(failed)
    dead = {age for age, is_dead in zip(ages, failed, strict=True) if is_dead}
    why = ""
    if failures < FEWEST:
        count = {0: "No failure", 1: "1 failure"}.get(failures, f"{failures} failures")
        why = f"{count} among {len(ages)}: too few for a fit."
    elif math.log(max(dead) / min(dead)) < 1 / _SHAPES[1]:
        why = f"All {failures} failures are at one age: no fit."
    if why:
        return LifetimeFit(len(ages), failures, None, None, None, True, why)
    return _Likelihood(np.asarray(ages, float), np.asarray(failed, bool)).fitted()


class _Likelihood:
    """The log likelihood of one group; ages as shares of the oldest, so that powers stay small."""

    def __init__(self, ages: np.ndarray, failed: np.ndarray) -> None:
        self.n, self.failures = len(ages), int(failed.sum())
        self.unit = float(ages.max())
        self.logs = np.log(ages / self.unit)
        self.dead = self.logs[failed]
        self.shape = self._best_shape()
        self.best = self.of(self.shape, self._scale_log(self.shape))

    def of(self, shape: float, scale_log: float) -> float:
        """The log likelihood of a shape and the logarithm of a scale (in units of the oldest)."""
        with np.errstate(over="ignore"):
            hazard = float(np.exp(shape * (self.logs - scale_log)).sum())
        lived = shape * float((self.dead - scale_log).sum())
        return self.failures * math.log(shape) + lived - float(self.dead.sum()) - hazard

    def _scale_log(self, shape: float) -> float:
        """The logarithm of the best scale at a shape."""
        return math.log(float(np.exp(shape * self.logs).sum()) / self.failures) / shape

    def _best_shape(self) -> float:
        from scipy.optimize import brentq

        def slope(shape: float) -> float:
            powers = np.exp(shape * self.logs)
            return float(powers @ self.logs / powers.sum() - 1 / shape - self.dead.mean())

        low, high = _SHAPES
        while slope(high) <= 0:  # as when all failed at nearly the same age
            high *= 10
        return float(brentq(slope, low, high, xtol=1e-13, rtol=1e-13))

    def fitted(self) -> LifetimeFit:
        """The group's figures with their bounds."""
        scale = self._scale_log(self.shape)
        b10 = scale + math.log(_B10) / self.shape
        shape = self._bounds(math.log(self.shape), self._of_shape)
        return LifetimeFit(
            self.n,
            self.failures,
            Bounded(self.shape, *map(_power, shape)),
            self._years(scale, self._bounds(scale, lambda log: self._profile(log, 0.0))),
            self._years(b10, self._bounds(b10, lambda log: self._profile(log, math.log(_B10)))),
            self.failures < SMALL,
        )

    def _years(self, log: float, ends: tuple[float | None, float | None]) -> Bounded:
        low, high = (None if end is None else self.unit * math.exp(end) for end in ends)
        return Bounded(self.unit * math.exp(log), low, high)

    def _of_shape(self, shape_log: float) -> float:
        shape = math.exp(shape_log)
        return self.of(shape, self._scale_log(shape))

    def _profile(self, log: float, exponent_log: float) -> float:
        """The best likelihood where the age at which a Weibull's exponent is `exponent_log` (as a
        logarithm) is `log`."""
        from scipy.optimize import minimize_scalar

        def loss(shape_log: float) -> float:
            shape = math.exp(shape_log)
            return -self.of(shape, log - exponent_log / shape)

        middle = math.log(self.shape)
        starts = np.linspace(middle - 6.0, middle + 4.0, 41)
        losses = [loss(start) for start in starts]
        place = int(np.argmin(losses))
        ends = starts[max(place - 1, 0)], starts[min(place + 1, len(starts) - 1)]
        profile = minimize_scalar(loss, bounds=ends, method="bounded", options={"xatol": 1e-10})
        return -float(min(profile.fun, losses[place]))

    def _bounds(
        self, best: float, profile: Callable[[float], float]
    ) -> tuple[float | None, float | None]:
        """Where a profile falls to the bound below and above its best, as logarithms."""
        return self._end(best, profile, -1), self._end(best, profile, 1)

    def _end(self, best: float, profile: Callable[[float], float], side: int) -> float | None:
        from scipy.optimize import brentq

        def above(log: float) -> float:
            return profile(log) - (self.best - _DROP)

        near, step = best, 0.02
        while step < _FARTHEST:
            far = best + side * step
            if above(far) < 0:
                return float(brentq(above, near, far, xtol=1e-10))
            near, step = far, step * 1.7
        return None


def _power(log: float | None) -> float | None:
    return None if log is None else math.exp(log)


def survival(ages: Sequence[float], failed: Sequence[bool]) -> list[SurvivalStep]:
    """The share of a group that survives, by age, as steps; from 1 at no age.

    Kaplan and Meier's estimate, units still good counted as censored (scipy's `ecdf`).
    """
    dead = [age for age, is_dead in zip(ages, failed, strict=True) if is_dead]
    if not dead:
        return [SurvivalStep(0.0, 1.0)]
    from scipy import stats

    alive = [age for age, is_dead in zip(ages, failed, strict=True) if not is_dead]
    shares = stats.ecdf(stats.CensoredData(uncensored=dead, right=alive)).sf
    steps = zip(shares.quantiles, shares.probabilities, strict=True)
    own = [SurvivalStep(float(age), float(share)) for age, share in steps if age in dead]
    return [SurvivalStep(0.0, 1.0), *own]


def survives(shape: float, scale_years: float, years: float) -> float:
    """The share of a Weibull that survives an age."""
    return math.exp(-((years / scale_years) ** shape))
