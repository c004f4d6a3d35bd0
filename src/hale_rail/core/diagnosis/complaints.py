"""How a complaint follows from what the unit does: P(symptom | fault), by one table a regime.

Source: docs/formulas.md, “Where to look next”.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from hale_rail.core.diagnosis.effects import (
    BLACK,
    CLEAN,
    DEAD,
    HICCUP,
    LATCHED,
    LATE,
    REGIMES,
    RUNS,
    TRIPS,
    Effect,
)

#: the least chance of a statement, whatever the unit does
_LEAST = 0.0015
#: how often what is said of a unit that does not run, by what it does
_SAID: Mapping[str, Mapping[str, float]] = {
    CLEAN: {"fuse-clean": 0.7, "fuse-later": 0.12, "fuse-at-once": 0.08, "blew-again": 0.05},
    BLACK: {"fuse-black": 0.7, "fuse-at-once": 0.22, "blew-again": 0.05, "smoke": 0.02},
    TRIPS: {"breaker": 0.92, "fuse-at-once": 0.04},
    DEAD: {"dead-whole": 0.9, "stays-off": 0.03, "machine-dead": 0.01, "no-load-only": 0.03},
    HICCUP: {"hiccup": 0.8, "squeals": 0.08, "stays-off": 0.06, "no-load-only": 0.05},
    LATE: {"second-try": 0.9, "stays-off": 0.04},
    LATCHED: {"stays-off": 0.5, "protection": 0.25, "dead-whole": 0.2},
}  # fmt: skip
_MISSING, _LOW, _RIGHT, _HIGH = range(4)
#: who reports a rail that is wrong
_NOTICED = 0.8


def chance_of_complaint(effect: Effect, symptom: str) -> float:
    """P(symptom | fault): over what the unit does as a whole, and what is felt while it runs."""
    share = sum(
        effect.regime(regime) * _SAID[regime].get(symptom, 0.0)
        for regime in REGIMES
        if regime != RUNS
    )
    value = max(effect.symptoms.get(symptom, 0.0), _of_rails(effect, symptom))
    return max(_LEAST, share + effect.regime(RUNS) * value)


def _of_rails(effect: Effect, symptom: str) -> float:
    """What the rails and the ripple make a person say, where the rule names nothing."""
    own = [*effect.rails.values()]
    every = effect.every
    if symptom == "overvoltage":
        return _NOTICED * max([every[_HIGH], *(s[_HIGH] for s in own)])
    if symptom == "rail-missing":
        missing = 1 - math.prod(1 - s[_MISSING] for s in own) if own else 0.0
        return 0.5 * missing
    if symptom == "rails-low":
        return 0.3 * every[_LOW]
    if symptom == "ripple":
        return 0.3 * max(effect.slow, effect.fast) if max(effect.slow, effect.fast) > 0.1 else 0.0
    if symptom == "power-good-low":
        return 0.1 * max((1 - s[_RIGHT] for s in own), default=0.0)
    if symptom == "machine-dead":
        return 0.15 * max((s[_MISSING] + 0.5 * s[_LOW] for s in own), default=0.0)
    if symptom == "resets":
        return 0.1 * max((s[_LOW] for s in own), default=0.0)
    return 0.0
