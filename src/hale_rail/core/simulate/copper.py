"""Copper with a shorted part: what a meter shows along a rail and its ground, and where it is warm.

Source: Kirchhoff's laws on both nets, joined by the short alone; solved by nodal analysis.
"""

from __future__ import annotations

import random
from collections.abc import Iterable

from msgspec import Struct

from hale_rail.core.simulate.nodal import Network, NodalResistor

#: ohms between the two ends of each piece of copper, by its pads
Copper = Iterable[tuple[str, str, float]]
_CONTACT_V = 5e-5
_STEP_V = 1e-4


class ShortedBoard(Struct, frozen=True):
    """A rail's copper and its ground's, with a short of so many ohms between two pads.

    An ideal ground is one pad.
    """

    network: Network

    @classmethod
    def of(cls, copper: Copper, short: tuple[str, str, float]) -> ShortedBoard:
        """From pieces of copper and the short's pads and ohms."""
        made = [NodalResistor(a, b, ohm) for a, b, ohm in copper]
        return cls(Network([*made, NodalResistor(*short)]))

    def drop(self, plus: str, minus: str, inject: str, drain: str, ampere: float) -> float:
        """Volts between two pads while a current flows in at one and out at another."""
        volts = self.network.volts({inject: ampere}, drain)
        return volts.get(plus, 0.0) - volts.get(minus, 0.0)

    def shown(
        self, ends: tuple[str, str], clamps: tuple[str, str], ampere: float, rng: random.Random
    ) -> float:
        """The drop as a meter shows it, to a tenth of a millivolt, its contacts' noise on it."""
        volt = self.drop(*ends, *clamps, ampere) + rng.gauss(0.0, _CONTACT_V)
        return round(volt / _STEP_V) * _STEP_V


def etched(
    copper: Copper, thickness: float, spread: float, rng: random.Random
) -> list[tuple[str, str, float]]:
    """Copper as it was really etched: all thicker or thinner, each piece a little off."""
    return [(a, b, ohm * thickness * rng.gauss(1.0, spread)) for a, b, ohm in copper]
