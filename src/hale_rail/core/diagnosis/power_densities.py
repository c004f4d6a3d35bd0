"""How likely a figure under power is: ripple, volts on the bulk, rails that move together.

Source: docs/formulas.md, “Where to look next”. Shares are taken on a logarithmic scale.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from hale_rail.core.arrays import Floats, np
from hale_rail.core.diagnosis.densities import SLIP, normal, of_volts
from hale_rail.core.diagnosis.effects import Shares
from hale_rail.core.diagnosis.facts import RippleFact
from hale_rail.core.diagnosis.power_views import BULK, FAST, SLOW

#: ripple as a share of its limit: ln of the middle and its spread
_QUIET, _LARGE = (math.log(0.3), 0.9), (math.log(2.2), 0.7)
#: ratio of mains frequency to twice it, where both half waves come, where one is
#: missing, and of what is quiet
_FULL_WAVE, _HALF_WAVE, _ANY_WAVE = (math.log(0.1), 0.9), (math.log(1.3), 0.7), (math.log(0.4), 1.5)
#: below this share of the limit a band is nothing, and below this ratio no half wave is missing
_LEAST, _LEAST_RATIO_LN = 0.02, math.log(0.08)
#: the density of a slip, anywhere on the scale, by how many bands were seen
_SLIP_BAND = 0.1
#: volts on the bulk, as a share of what a sound unit has: middle and spread
_HELD = {"full": (1.0, 0.08), "empty": (0.0, 0.06), "low": (0.6, 0.17), "over": (1.7, 0.3)}
_SLIP_HELD = 0.3
_LEAST_RATIO = 0.004
#: a loop that is off scales all its rails by shares of nominal: from, to, number of steps
_SCALES = (0.15, 2.3, 700)


def of_ripple(fact: RippleFact) -> Floats:
    """Densities of a rail's ripple by class, shape (classes,)."""
    slow, fast = _slow(fact.mains, fact.rectified), _fast(fact.switching)
    seen = (fact.rectified is not None) + (fact.switching is not None)
    values = np.array([slow[a] * fast[b] for a in SLOW for b in FAST])
    return (1 - SLIP) * values + SLIP * _SLIP_BAND**seen


def _ln(share: float) -> float:
    return math.log(max(share, _LEAST))


def _slow(mains: float | None, rectified: float | None) -> Mapping[str, float]:
    if mains is None or rectified is None:
        return dict.fromkeys(SLOW, 1.0)
    most = max(_ln(mains), _ln(rectified))
    ratio = max(_ln(mains) - _ln(rectified), _LEAST_RATIO_LN)
    large = normal(most, *_LARGE)
    return {
        "quiet": normal(most, *_QUIET) * normal(ratio, *_ANY_WAVE),
        "full": large * normal(ratio, *_FULL_WAVE),
        "half": large * normal(ratio, *_HALF_WAVE),
    }


def _fast(switching: float | None) -> Mapping[str, float]:
    if switching is None:
        return dict.fromkeys(FAST, 1.0)
    x = _ln(switching)
    return {"still": normal(x, *_QUIET), "fast": normal(x, *_LARGE)}


def of_held(share: float) -> Floats:
    """Densities of volts on the bulk by class, shape (classes,)."""
    values = np.array([normal(share, *_HELD[name]) for name in BULK])
    return (1 - SLIP) * values + SLIP * _SLIP_HELD


def of_rails_together(
    shares: Sequence[float], spreads: Sequence[float], errors: Sequence[float], off: Shares
) -> float:
    """How much likelier rails are so where they move in proportion than each for itself, as a
    ratio.

    `off`: the chances that the loop's rails are missing, low, right, high. The joint density is
    ∫ p(s)·Π N(share; s, s·spread) ds over the scale s on which all of them stand.
    """
    missing, low, right, high = off
    scales = np.linspace(*_SCALES)
    spread = min(spreads)
    scale = (
        right * np.exp(-0.5 * ((scales - 1) / spread) ** 2) / (spread * math.sqrt(2 * math.pi))
        + low * ((scales > 0.3) & (1 - 1.5 * spread > scales)) / (0.7 - 1.5 * spread)
        + high * ((1 + 1.5 * spread < scales) & (scales < 2.2)) / (1.2 - 1.5 * spread)
    )
    alone = 1.0
    for share, own, error in zip(shares, spreads, errors, strict=True):
        width = np.hypot(own * scales, error)
        bell = np.exp(-0.5 * ((share - scales) / width) ** 2) / (width * math.sqrt(2 * math.pi))
        scale = scale * bell
        classes = of_volts(share, own, error)
        alone *= float(classes @ np.array([right, missing, low, high]))
    step = float(scales[1] - scales[0])
    slip = (0.2 * SLIP) ** len(shares)
    ratio = (float(scale.sum()) * step + slip) / max(alone, slip)
    return min(max(ratio, _LEAST_RATIO), 1 / _LEAST_RATIO)
