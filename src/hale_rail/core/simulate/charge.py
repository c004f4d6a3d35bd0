"""What capacitors hold after power: how it bleeds away, and what absorption brings back.

Source: a store C with R beside it, and the dielectric's slow part as C_a = `ABSORBED`·C behind R_a
with R_a·C_a = `SLOW_S`; two linear equations, solved exactly over each stretch of time.
"""

from __future__ import annotations

import math

from msgspec import Struct

ABSORBED, SLOW_S = 0.02, 60.0


class Charge(Struct, frozen=True):
    """Volts across a store, and of its dielectric's slow part."""

    volt: float = 0.0
    slow_v: float = 0.0


def held(volt: float) -> Charge:
    """A store that was long at a voltage."""
    return Charge(volt, volt)


def after(charge: Charge, farad: float, ohm: float, seconds: float) -> Charge:
    """The charge so many seconds later, with `ohm` beside it (infinite: nothing drains it).

    C·dv/dt = −v/R − (v − u)/R_a, C_a·du/dt = (v − u)/R_a.
    """
    if seconds <= 0 or (charge.volt == 0 and charge.slow_v == 0):
        return charge
    rate = 0.0 if math.isinf(ohm) else 1 / (max(ohm, 1e-6) * max(farad, 1e-15))
    over = ABSORBED / SLOW_S
    # [v, u]' = [[−rate−over, over], [1/SLOW_S, −1/SLOW_S]]·[v, u]
    mean = -(rate + over + 1 / SLOW_S) / 2
    root = math.sqrt(max(0.0, mean**2 - rate / SLOW_S))
    fast, slow = mean - root, mean + root
    if fast == slow:
        return charge
    a = -rate - over
    # along each eigenvector: (over, λ − a)
    first = ((slow - a) * charge.volt - over * charge.slow_v) / (slow - fast)
    second = charge.volt - first
    grown = (first * math.exp(fast * seconds), second * math.exp(slow * seconds))
    volt = sum(grown)
    kept = (grown[0] * (fast - a) + grown[1] * (slow - a)) / over
    return Charge(volt, kept)


def bled(charge: Charge) -> Charge:
    """A store that was bled down by hand: its slow part stays, and comes back."""
    return Charge(0.0, charge.slow_v)
