"""A trimmer turned while the meter is watched: how far it is, and where the other rails will end.

Source: a main loop's rails go together: an auxiliary follows in proportion.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.procedures import Condition
from hale_rail.core.rails.judge import RailReading, Tolerance, band
from hale_rail.core.supply.sheet import Rail, Regulation


class Follower(Struct, frozen=True):
    """Another rail: where it is, where it will stand, and whether that is inside its band."""

    rail: Rail
    now_v: float
    then_v: float
    is_inside: bool


class Trim(Struct, frozen=True):
    """The live figure: volts off nominal (with sign), the share, `way` to turn the rail's volts.

    `is_over`: power goes off at once; `within_v`: the meter's error, nearer than which it is right.
    """

    rail: Rail
    volt: float
    off_v: float
    off_share: float
    within_v: float
    band_v: tuple[float, float]
    is_inside: bool
    is_over: bool
    way: str
    followers: tuple[Follower, ...]

    @property
    def is_right(self) -> bool:
        """True where the meter cannot tell it from nominal."""
        return abs(self.off_v) <= self.within_v


def trim(
    reading: RailReading,
    others: Sequence[RailReading],
    tolerance: Tolerance,
    load: Condition = Condition.MACHINE,
) -> Trim:
    """How far a rail is from its nominal volts, and what follows for the others when it is there.

    `reading`: what the meter shows now; `others`: the newest of the other rails at the same load.
    """
    rail = reading.rail
    volt = sum(reading.ends) / 2
    low, high = band(rail, tolerance, load)
    off = volt - rail.nominal_v
    error = reading.uncertainty_v(volt)
    is_over = reading.is_over
    more = "up" if abs(volt) < abs(rail.nominal_v) else "down"
    is_right = abs(off) <= error
    return Trim(
        rail, volt, off, volt / rail.nominal_v - 1, error, (low, high),
        low <= volt <= high, is_over, "" if is_right else more,
        _followers(rail, volt, others, tolerance, load),
    )  # fmt: skip


def _followers(
    rail: Rail,
    volt: float,
    others: Sequence[RailReading],
    tolerance: Tolerance,
    load: Condition,
) -> tuple[Follower, ...]:
    """What hangs on the same loop, in proportion; a linear rail stays where it is."""
    if rail.regulation is not Regulation.MAIN or not volt:
        return ()
    followers = []
    for other in others:
        if other.rail.regulation is not Regulation.AUXILIARY:
            continue
        now = sum(other.ends) / 2
        then = now * rail.nominal_v / volt
        low, high = band(other.rail, tolerance, load)
        followers.append(Follower(other.rail, now, then, low <= then <= high))
    return tuple(followers)
