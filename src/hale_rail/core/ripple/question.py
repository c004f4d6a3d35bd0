"""What is asked of a record, and what is answered."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.coded_words import Coded


class RailSource(Coded):
    """What makes the rail that was recorded."""

    LINEAR = ("linear", "linear")
    FLYBACK = ("flyback", "flyback")
    FORWARD = ("forward", "forward or half-bridge")

    @property
    def is_switching(self) -> bool:
        """True where the rail is made at high frequency."""
        return self is not RailSource.LINEAR


STAGES = {stage.code: stage for stage in RailSource}


class RippleQuestion(Struct, frozen=True):
    """What is known of the rail that a record is of; None where it is not.

    `nominal_v` with its sign; `limit_v` peak to peak; `is_raw`: a raw rail, whose usual limit is
    wider; `load_a` drawn while it was taken, `full_load_a` the rail's; `delta_a` the current's p-p;
    `bank_esr_ohm` and `nominal_farad` what a sound bank or filter has; `is_ac` the coupling.
    """

    nominal_v: float
    limit_v: float | None = None
    is_raw: bool = False
    mains_hz: float | None = None
    load_a: float | None = None
    stage: RailSource | None = None
    is_ac: bool | None = None
    switching_hz: float | None = None
    full_load_a: float | None = None
    delta_a: float | None = None
    bank_esr_ohm: float | None = None
    nominal_farad: float | None = None

    @property
    def sign(self) -> float:
        """−1 for a negative rail, on which the shapes are upside down."""
        return -1.0 if self.nominal_v < 0 else 1.0


class Estimate(Struct, frozen=True):
    """A number that supports a cause, with the range it can lie in, and its unit's symbol."""

    name: str
    value: float
    low: float
    high: float
    unit: str


class Cause(Struct, frozen=True):
    """A cause of ripple: its code, the share of the p-p it explains (0 to 1), why, and a number.

    `expected` the sound part's number in the estimate's unit; `renewed_vpp_v` the record's p-p with
    new parts; `advice` what to do.
    """

    code: str
    share: float
    text: str
    estimate: Estimate | None = None
    expected: float | None = None
    renewed_vpp_v: float | None = None
    advice: str = ""
