"""How well each hypothesis explains the readings, with what is not known integrated out.

Not known: the copper's scale s ~ N(1, 0.3²), the short's own ohms ~ N(0.2, 0.5²) cut at zero, the
leads' ohms ~ N(0.15, 0.15²) cut at zero. A reading is s·drop + across·Rs + leads·offset + noise, so
the evidence is a normal density times the ratio of what the cuts leave after and before reading.
Source: docs/formulas.md, “Tracing a shorted rail”.
"""

from __future__ import annotations

from msgspec import Struct
from scipy.special import log_ndtr, ndtr, ndtri

from hale_rail.core.arrays import np
from hale_rail.core.shorts.board_model import Predicted
from hale_rail.core.shorts.flows import Array

#: means and standard deviations of scale, short and leads before anything is read
PRIOR_MEAN = np.array([1.0, 0.2, 0.15])
PRIOR_DEVIATION = np.array([0.3, 0.5, 0.15])
#: the place of each among them
SCALE, SHORT, LEADS = range(3)
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(96)
#: below this the closed form of the quadrant has no digits left
_SMALL = 1e-7


class Evidence(Struct, frozen=True):
    """For each hypothesis: log evidence, and the nuisances after reading (cuts not applied).

    Shapes (hypotheses,), (hypotheses, 3), (hypotheses, 3, 3); `design` (hypotheses, readings, 3) is
    how readings follow the nuisances, `spread` (hypotheses, readings, readings) their noise.
    """

    log: Array
    mean: Array
    covariance: Array
    design: Array
    spread: Array


def weigh(predicted: Predicted, values: Array, noise: Array) -> Evidence:
    """The evidence of readings `values` with standard deviations `noise`, shape (readings,)."""
    count, size = predicted.drop.shape
    design = np.empty((count, size, 3))
    design[:, :, SCALE] = predicted.drop
    design[:, :, SHORT] = predicted.across
    design[:, :, LEADS] = predicted.leads
    spread = predicted.spread + np.diag(noise**2)
    weighted = design * PRIOR_DEVIATION
    total = spread + weighted @ weighted.transpose(0, 2, 1)
    lower = np.linalg.cholesky(total)
    rest = values - design @ PRIOR_MEAN
    white = np.linalg.solve(lower, np.concatenate((rest[:, :, None], weighted), axis=2))
    log = -0.5 * np.sum(white[:, :, 0] ** 2, axis=1)
    log -= np.sum(np.log(np.diagonal(lower, axis1=1, axis2=2)), axis=1)
    log -= 0.5 * size * np.log(2 * np.pi)
    gain = white[:, :, 1:].transpose(0, 2, 1)
    mean = PRIOR_MEAN + PRIOR_DEVIATION * (gain @ white[:, :, :1])[:, :, 0]
    left = np.eye(3) - gain @ white[:, :, 1:]
    covariance = left * np.outer(PRIOR_DEVIATION, PRIOR_DEVIATION)
    log += _cut(mean, covariance, bool(predicted.across.any()), bool(predicted.leads.any()))
    return Evidence(log, mean, covariance, design, spread)


def _cut(mean: Array, covariance: Array, has_short: bool, has_leads: bool) -> Array:
    """Log of the ratio that the cuts at zero leave; what no reading holds leaves none."""
    cut = np.zeros(len(mean))
    at = {which: mean[:, which] / _deviation(covariance, which) for which in (SHORT, LEADS)}
    before: Array = log_ndtr(PRIOR_MEAN / PRIOR_DEVIATION)
    if has_short and has_leads:
        between = covariance[:, SHORT, LEADS]
        rho = between / (_deviation(covariance, SHORT) * _deviation(covariance, LEADS))
        cut += log_quadrant(at[SHORT], at[LEADS], rho) - before[SHORT] - before[LEADS]
    elif has_short:
        cut += log_ndtr(at[SHORT]) - before[SHORT]
    elif has_leads:
        cut += log_ndtr(at[LEADS]) - before[LEADS]
    return cut


def _deviation(covariance: Array, which: int) -> Array:
    deviation: Array = np.sqrt(np.maximum(covariance[:, which, which], 1e-30))
    return deviation


def log_quadrant(a: Array, b: Array, rho: Array) -> Array:
    """Log of P(X > −a, Y > −b) of two standard normal X, Y with correlation `rho`, each (n,).

    Φ(a)Φ(b) plus an integral over the angle (Drezner and Wesolowsky, 1990); where that has no
    digits left, the mean of Φ over the quantiles of X that are not cut.
    """
    rho = np.clip(rho, -0.999999, 0.999999)
    top = np.arcsin(rho)[:, None]
    angle = 0.5 * top * (_NODES + 1)
    sine, cosine = np.sin(angle), np.cos(angle)
    a, b = a[:, None], b[:, None]
    power = -(a * a - 2 * a * b * sine + b * b) / (2 * cosine**2)
    more = np.sum(_WEIGHTS * np.exp(power), axis=1) * 0.5 * top[:, 0] / (2 * np.pi)
    closed = (ndtr(a) * ndtr(b))[:, 0] + more
    below = log_ndtr(a)[:, 0]
    share = 0.5 * (_NODES + 1)
    cut = -_quantile(np.log(share) + below[:, None])
    root = np.sqrt(1 - rho[:, None] ** 2)
    tail = log_ndtr((b + rho[:, None] * cut) / root) + np.log(0.5 * _WEIGHTS)
    most = tail.max(axis=1)
    by_quantiles = below + most + np.log(np.sum(np.exp(tail - most[:, None]), axis=1))
    log_quadrant: Array = np.where(
        closed > _SMALL, np.log(np.maximum(closed, _SMALL)), by_quantiles
    )
    return log_quadrant


def _quantile(log_share: Array) -> Array:
    """The normal quantile of exp(log_share)."""
    quantile: Array = ndtri(np.exp(np.maximum(log_share, -700.0)))
    return quantile
