"""What a rail loses along its line: stretch by stretch, V(drop)/I.

Source: docs/formulas.md, “Rails”.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from msgspec import Struct

from hale_rail.core.procedures import Condition
from hale_rail.core.rails.judge import RailReading
from hale_rail.core.targets import Place

#: resistance of a pin pair at amperes above which it is cleaned or crimped again, ohms
CONTACT_OHM = 0.020
#: the order of places along a line, from the supply on
_ALONG = (Place.SUPPLY, Place.CONNECTOR, Place.FAR)


class Stretch(Struct, frozen=True):
    """One stretch of a line: its two readings, volts lost, the meter's error, ohms where the
    current is known."""

    near: RailReading
    far: RailReading
    drop_v: float
    error_v: float
    ampere: float | None

    @property
    def ohm(self) -> float | None:
        """The resistance of harness and contacts, or None."""
        return self.drop_v / self.ampere if self.ampere else None

    @property
    def is_too_much(self) -> bool:
        """True where it is above what contacts may have, the meter's error taken off."""
        return bool(self.ampere) and (self.drop_v - self.error_v) / (self.ampere or 1) > CONTACT_OHM

    @property
    def begins(self) -> str:
        """Where it begins, in words."""
        return self.near.place.words if self.near.place is not Place.NONE else "supply end"


def stretches(readings: Sequence[RailReading]) -> list[Stretch]:
    """Every stretch between neighbouring places of one rail at one load, loads apart.

    `readings`: the newest at each rail, load and place; without load nothing is lost.
    """
    groups: dict[tuple[str, Condition], dict[Place, RailReading]] = {}
    for reading in readings:
        if reading.load is not Condition.NO_LOAD and not reading.is_turned:
            groups.setdefault((reading.rail.key, reading.load), {})[reading.place] = reading
    stretches = []
    for places in groups.values():
        along = [places[place] for place in _ALONG if place in places]
        if Place.SUPPLY not in places and Place.NONE in places and along:
            along = [places[Place.NONE], *along]
        stretches += [_stretch(near, far) for near, far in pairwise(along)]
    return stretches


def _stretch(near: RailReading, far: RailReading) -> Stretch:
    volt_near, volt_far = abs(sum(near.ends)) / 2, abs(sum(far.ends)) / 2
    error = near.uncertainty_v(volt_near) + far.uncertainty_v(volt_far)
    return Stretch(near, far, volt_near - volt_far, error, far.ampere or near.ampere)
