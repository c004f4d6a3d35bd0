"""A wave record: volts at even steps of time."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.arrays import Floats, np

Samples = Floats
#: how many samples the converter's step is looked for in
_LOOKED_AT = 400_000
#: a step below this share of the span is the rounding of floats
_ROUNDING = 1e-9


class Wave(Struct, frozen=True, eq=False):
    """Volts (shape (n,)) `dt_s` seconds apart, the first at `start_s`.

    `dialect` says how its file was read; `notes` what was done to it on the way; `says_unit`: its
    file says that the numbers are volts, or how many.
    """

    volt: Samples
    dt_s: float
    start_s: float = 0.0
    dialect: str = ""
    notes: tuple[str, ...] = ()
    says_unit: bool = True

    @property
    def length_s(self) -> float:
        """How long it is, in seconds."""
        return len(self.volt) * self.dt_s

    @property
    def rate_hz(self) -> float:
        """Samples a second."""
        return 1 / self.dt_s


def resolution_v(volt: Samples) -> float:
    """The step of the converter: the least distance of two values that occur; 0 where all agree."""
    levels = np.unique(volt[:_LOOKED_AT])
    if len(levels) < 2:
        return 0.0
    steps = np.diff(levels)
    apart = steps[steps > _ROUNDING * (levels[-1] - levels[0])]
    return float(apart.min())
