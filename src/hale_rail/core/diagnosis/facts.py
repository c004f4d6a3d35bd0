"""What is known of a case: readings, looks, symptoms and answers, each with its place in time."""

from __future__ import annotations

from collections.abc import Callable

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


class Fitted(Struct, frozen=True):
    """What was fitted before a fact: how many parts, and whether a part by its id is new."""

    count: int
    is_new: Callable[[int], bool]


class BaseFact(Struct, frozen=True):
    """What every kind of evidence has: its place in the log."""

    at: int

    def shares(self, _: Fitted, /) -> object:
        """What facts that share their errors, or the state that they speak of, have in common.

        None where each is by itself.
        """
        return None


class PartFact(BaseFact, frozen=True):
    """A reading of a part; `words`: it as a sentence.

    `is_outdated`: power came since, which may break what is old and stressed.
    """

    part_id: int
    figure: ReadValue
    is_lifted: bool
    words: str
    is_outdated: bool = False

    def shares(self, fitted: Fitted, /) -> object:
        """The part or rail, and the state that it was in."""
        return (self.part_id, fitted.is_new(self.part_id), self.is_lifted)


class PairsFact(BaseFact, frozen=True):
    """The junction drops of one part, read in one condition."""

    part_id: int
    figures: tuple[ReadValue, ...]
    is_lifted: bool
    words: str

    def shares(self, fitted: Fitted, /) -> object:
        """The part or rail, and the state that it was in."""
        return (self.part_id, fitted.is_new(self.part_id), self.is_lifted)


class GroundFact(BaseFact, frozen=True):
    """A rail to ground, cold: ohms, the far end of a reading that jumps or bounds, and what the
    sheet or a like unit says (None: nothing).

    `is_logic`: it feeds logic, which conducts itself; `is_reversed`: read with the leads turned
    round.
    """

    rail: str
    is_attached: bool
    ohm: float
    high: float
    expected: float | None
    words: str
    is_logic: bool = False
    is_reversed: bool = False

    def shares(self, fitted: Fitted, /) -> object:
        """The part or rail, and the state that it was in."""
        return ("ground", self.rail, self.is_attached, fitted.count)


class VoltsFact(BaseFact, frozen=True):
    """A rail under power: volts as shares of nominal, the far end of a jumping one, their error."""

    rail: str
    in_machine: bool
    is_far: bool
    is_loaded: bool
    share: float
    high: float
    error: float
    words: str

    def shares(self, fitted: Fitted, /) -> object:
        """The part or rail, and the state that it was in."""
        return ("volts", self.rail, self.in_machine, fitted.count)


class HeldFact(BaseFact, frozen=True):
    """Volts on a store of the mains side, as a share of what a sound unit has there under power."""

    part_id: int
    share: float
    words: str


class TogetherFact(BaseFact, frozen=True):
    """Rails of the switching loop that were read at one load: key, share of nominal, its error.

    `is_off`: one of them is off; else each tells for itself that it is right, and this one is
    weighed and not told.
    """

    rails: tuple[tuple[str, float, float], ...]
    is_loaded: bool
    is_off: bool
    words: str

    def shares(self, fitted: Fitted, /) -> object:
        """The part or rail, and the state that it was in."""
        return ("together", fitted.count)


class JumpFact(BaseFact, frozen=True):
    """Whether any rail jumped while rails were read at one load."""

    has_jumped: bool
    in_machine: bool
    words: str

    def shares(self, fitted: Fitted, /) -> object:
        """The part or rail, and the state that it was in."""
        return ("jump", fitted.count)


class RippleFact(BaseFact, frozen=True):
    """A rail's ripple as shares of its limit: at the mains' frequency, at twice it, at the
    switching frequency; None for what its record cannot show. `is_raw`: before the regulator."""

    rail: str
    is_raw: bool
    in_machine: bool
    is_loaded: bool
    mains: float | None
    rectified: float | None
    switching: float | None
    words: str


class LookFact(BaseFact, frozen=True):
    """What the eye found at a part, by class of `views.LOOKS`."""

    part_id: int
    finding: str
    words: str

    def shares(self, _: Fitted, /) -> object:
        """The part or rail, and the state that it was in."""
        return ("look", self.part_id)


class SymptomFact(BaseFact, frozen=True):
    """A symptom that was said, by id."""

    symptom: str
    words: str


class ResultFact(BaseFact, frozen=True):
    """A test's result, said by hand."""

    test: str
    result: str
    words: str


class DidFact(BaseFact, frozen=True):
    """What happened at a power-on, as chances of what the unit does as a whole."""

    regimes: tuple[tuple[str, float], ...]
    words: str


class ObservationFact(BaseFact, frozen=True):
    """What was heard or smelt at a power-on, by the symptom that it is."""

    symptom: str
    words: str


class NoVoltsFact(BaseFact, frozen=True):
    """No rail had its volts when they were read under power."""

    words: str


class GoneFact(BaseFact, frozen=True):
    """Whether the complaint was gone or still there at a power-on."""

    is_gone: bool
    words: str


Fact = (
    PartFact | PairsFact | GroundFact | VoltsFact | HeldFact | LookFact | SymptomFact
    | ResultFact | DidFact | ObservationFact | NoVoltsFact | GoneFact | TogetherFact | RippleFact
    | JumpFact
)  # fmt: skip
