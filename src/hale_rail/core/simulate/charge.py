"""What capacitors hold after power: how it bleeds away, and what absorption brings back.

Source: a store C with R beside it, and the dielectric's slow part as C_a, a share of C by family,
behind R_a with R_a·C_a = `SLOW_S`; two linear equations, solved exactly over each stretch of time.
"""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.parts.families import Family

#: the slow part's share of C: of wet aluminium, of solid electrolytics, of films and ceramics
WET, SOLID, FILM = 0.10, 0.02, 0.003
SLOW_S = 60.0
#: how long the resistor is left on a store that is bled by hand
_BLED_S = 120.0


def absorbed(family: Family) -> float:
    """The share of a family's C that takes its time."""
    if family.is_wet:
        return WET
    return SOLID if family in (Family.TANTALUM, Family.POLYMER) else FILM


class Charge(Struct, frozen=True):
    """Volts across a store, and of its dielectric's slow part."""

    volt: float = 0.0
    slow_v: float = 0.0


def held(volt: float) -> Charge:
    """A store that was long at a voltage."""
    return Charge(volt, volt)


def after(charge: Charge, farad: float, ohm: float, seconds: float, share: float = WET) -> Charge:
    """The charge so many seconds later, with `ohm` beside it (infinite: nothing drains it).

    `share` of `farad` is slow.

    C·dv/dt = −v/R − (v − u)/R_a, C_a·du/dt = (v − u)/R_a.
    """
    if seconds <= 0 or (charge.volt == 0 and charge.slow_v == 0):
        return charge
    rate = 0.0 if math.isinf(ohm) else 1 / (max(ohm, 1e-6) * max(farad, 1e-15))
    over = share / SLOW_S
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
    """A store that was bled down by hand: what is left of its slow part comes back."""
    return Charge(0.0, charge.slow_v * math.exp(-_BLED_S / SLOW_S))
