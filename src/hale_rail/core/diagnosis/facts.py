"""What is known of a case: readings, looks, symptoms and answers, each with its place in time."""

from __future__ import annotations

from msgspec import Struct


class ReadValue(Struct, frozen=True):
    """What was read of a part: the procedure's code, its value and far end (SI), its error.

    `forward`: for a drop, whether the pins are in the conducting way; `blocks`: the pair blocks
    both ways; `pair` its two pins, either way round; `bank`: how many parts were read together.
    """

    procedure: str
    value: float
    high: float
    error: float = 0.0
    forward: bool = True
    blocks: bool = False
    bank: int = 1
    pair: str = ""


class PartFact(Struct, frozen=True):
    """A reading of a part; `words`: it as a sentence.

    `is_outdated`: power came since, which may break what is old and stressed.
    """

    at: int
    part_id: int
    figure: ReadValue
    is_lifted: bool
    words: str
    is_outdated: bool = False


class PairsFact(Struct, frozen=True):
    """The junction drops of one part, read in one condition."""

    at: int
    part_id: int
    figures: tuple[ReadValue, ...]
    is_lifted: bool
    words: str


class GroundFact(Struct, frozen=True):
    """A rail to ground, cold: ohms, the far end of a reading that jumps or bounds, and what the
    sheet or a like unit says (None: nothing).

    `is_logic`: it feeds logic, which conducts itself; `is_reversed`: read with the leads turned
    round.
    """

    at: int
    rail: str
    is_attached: bool
    ohm: float
    high: float
    expected: float | None
    words: str
    is_logic: bool = False
    is_reversed: bool = False


class VoltsFact(Struct, frozen=True):
    """A rail under power: volts as shares of nominal, the far end of a jumping one, their error."""

    at: int
    rail: str
    in_machine: bool
    is_far: bool
    is_loaded: bool
    share: float
    high: float
    error: float
    words: str


class HeldFact(Struct, frozen=True):
    """Volts on a store of the mains side, as a share of what a sound unit has there under power."""

    at: int
    part_id: int
    share: float
    words: str


class TogetherFact(Struct, frozen=True):
    """Rails of the switching loop that were read at one load: key, share of nominal, its error.

    `is_off`: one of them is off; else each tells for itself that it is right, and this one is
    weighed and not told.
    """

    at: int
    rails: tuple[tuple[str, float, float], ...]
    is_loaded: bool
    is_off: bool
    words: str


class JumpFact(Struct, frozen=True):
    """Whether any rail jumped while rails were read at one load."""

    at: int
    has_jumped: bool
    in_machine: bool
    words: str


class RippleFact(Struct, frozen=True):
    """A rail's ripple as shares of its limit: at the mains' frequency, at twice it, at the
    switching frequency; None for what its record cannot show. `is_raw`: before the regulator."""

    at: int
    rail: str
    is_raw: bool
    in_machine: bool
    is_loaded: bool
    mains: float | None
    rectified: float | None
    switching: float | None
    words: str


class LookFact(Struct, frozen=True):
    """What the eye found at a part, by class of `views.LOOKS`."""

    at: int
    part_id: int
    found: str
    words: str


class SymptomFact(Struct, frozen=True):
    """A symptom that was said, by id."""

    at: int
    symptom: str
    words: str


class ResultFact(Struct, frozen=True):
    """A test's result, said by hand."""

    at: int
    test: str
    result: str
    words: str


class DidFact(Struct, frozen=True):
    """What happened at a power-on, as chances of what the unit does as a whole."""

    at: int
    regimes: tuple[tuple[str, float], ...]
    words: str


class ObservationFact(Struct, frozen=True):
    """What was heard or smelt at a power-on, by the symptom that it is."""

    at: int
    symptom: str
    words: str


class NoVoltsFact(Struct, frozen=True):
    """No rail had its volts when they were read under power."""

    at: int
    words: str


class GoneFact(Struct, frozen=True):
    """Whether the complaint was gone or still there at a power-on."""

    at: int
    is_gone: bool
    words: str


Fact = (
    PartFact | PairsFact | GroundFact | VoltsFact | HeldFact | LookFact | SymptomFact
    | ResultFact | DidFact | ObservationFact | NoVoltsFact | GoneFact | TogetherFact | RippleFact
    | JumpFact
)  # fmt: skip
