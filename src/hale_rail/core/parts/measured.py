"""What was read of a part, in the form that its judgement takes."""

from __future__ import annotations

import math
from collections.abc import Mapping

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail.core.parts.families import ESR_METER_MIN_F
from hale_rail.core.procedures import Accuracy, Procedure, rounding
from hale_rail.core.targets import Pair

#: figures closer than this are the same
_ROUNDING = 1e-6
#: a reading's place among a part's: the procedure's code and the pins, None across the whole part
Key = tuple[str, Pair | None]


class MeasuredValue(Struct, frozen=True):
    """One value as read (SI): lifted or in circuit, its last digit's weight, the meter's accuracy.

    `accuracy` is None where a procedure's usual one is meant; `again`: the same point was read
    before, and this reading took that one's place; `high`: the far end of a jumping reading or of a
    bound, None for a figure; `beeps`: a beeper told it, no figure.
    """

    value: float
    lifted: bool
    digit: float = 0.0
    accuracy: Accuracy | None = None
    again: bool = False
    high: float | None = None
    beeps: bool = False

    def error(self, procedure: Procedure) -> float:
        """The reading's uncertainty as that procedure's meter has it (SI); 0 for over-range."""
        if math.isinf(self.value):
            return 0.0
        how = self.accuracy or procedure.accuracy
        return how.error(self.value, self.digit, procedure.unit)

    def rounding(self, procedure: Procedure) -> float:
        """Half of the last digit as typed, where the meter shows more (SI); else 0."""
        return rounding(self.value, self.digit, procedure.unit)

    def is_rounded_over(self, procedure: Procedure, *limits: float) -> bool:
        """True where what was rounded off lies on both sides of a limit."""
        half = self.rounding(procedure)
        edge = half * (1 - _ROUNDING)
        return half > 0 and any(abs(self.value - limit) < edge for limit in limits)


class Beside(Struct, frozen=True):
    """What the sheet has beside a capacitor, in ohms, None where there is none.

    `ohm`: the least that the other capacitors of its node may show an ESR meter; `bleeder_ohm`: the
    resistor in its own case.
    """

    ohm: float | None = None
    bleeder_ohm: float | None = None


NOTHING_BESIDE = Beside()


class PartReadings(Struct, frozen=True):
    """The standing readings of one part, the newest of each; a lifted one outranks the others.

    `seen` the codes of the newest look; `output_right`: its rail passed under load; `fresh_farad`
    and `fresh_esr_ohm` a fresh part's figures; `esr_min_farad`: where the ESR meter's range starts;
    `unit_year`: when the unit was made; `is_new`: the part was replaced, and these are the new
    one's; `beside`: what the sheet has beside a capacitor; `fitted`: what was said to be fitted.
    """

    values: Mapping[Key, MeasuredValue] = field(default_factory=dict)
    seen: tuple[str, ...] = ()
    output_right: bool = False
    this_year: int = 0
    fresh_farad: float | None = None
    fresh_esr_ohm: float | None = None
    esr_min_farad: float = ESR_METER_MIN_F
    unit_year: int | None = None
    is_new: bool = False
    beside: Beside = NOTHING_BESIDE
    fitted: str = ""

    @property
    def ends(self) -> tuple[PartReadings, PartReadings] | None:
        """The same with every jumping reading at its lower and at its higher end, or None."""
        spans = {key: t for key, t in self.values.items() if t.high is not None}
        if not spans:
            return None
        low = {key: replace(t, high=None) for key, t in spans.items()}
        high = {key: replace(t, value=t.high, high=None) for key, t in spans.items()}
        return (
            replace(self, values={**self.values, **low}),
            replace(self, values={**self.values, **high}),
        )

    def get(self, procedure: Procedure, pair: Pair | None = None) -> MeasuredValue | None:
        """The value of one procedure, or None while it was not read."""
        return self.values.get((procedure.code, pair))

    def both_ways(
        self, procedure: Procedure, pair: Pair
    ) -> tuple[MeasuredValue | None, MeasuredValue | None]:
        """A pair's value as named, and with the leads turned."""
        return self.get(procedure, pair), self.get(procedure, pair.turned)
