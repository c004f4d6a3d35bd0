"""What a short trace says, as records: the open formats' contract, and what a page adds to it."""

from __future__ import annotations

from msgspec import Struct


class LikelyPart(Struct, frozen=True):
    """A part of the map and the chance that it shorts the rail."""

    id: str
    ref: str
    probability: float


class LikelyPad(Struct, frozen=True):
    """A pad and the chance that the rail is shorted there, where no part is drawn."""

    pad: str
    probability: float


class OhmRange(Struct, frozen=True):
    """Ohms, and between what they lie."""

    value: float
    low: float
    high: float


class LikelyPair(Struct, frozen=True):
    """Parts that short the rail together, and the chance of that."""

    ids: tuple[str, ...]
    probability: float


class NextReading(Struct, frozen=True, rename={"drain": "return"}):
    """A reading to take next, None where a field does not apply; `bits` is what it tells."""

    kind: str
    plus: str
    minus: str | None = None
    inject: str | None = None
    drain: str | None = None
    amps: float | None = None
    bits: float = 0.0


class TraceProblem(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What is wrong with a reading, by its line, or with the map, by an id."""

    line: int | None = None
    id: str | None = None
    text: str


class TraceSummary(Struct, frozen=True):
    """What the readings of a rail say: the contract of `hale-rail trace`."""

    candidates: tuple[LikelyPart, ...]
    elsewhere: float
    elsewhere_pads: tuple[LikelyPad, ...]
    short_ohm: OhmRange
    misfit: bool
    pairs: tuple[LikelyPair, ...]
    outliers: tuple[int, ...]
    next: NextReading | None
    advice: str
    problems: tuple[TraceProblem, ...]


class ReadingSaid(Struct, frozen=True):
    """What a reading said, by its id, and whether it is obeyed."""

    id: int
    text: str
    obeyed: bool


class SegmentCurrent(Struct, frozen=True):
    """Amperes along copper from pad `a` to pad `b`."""

    a: str
    b: str
    amps: float


class TracedBoard(TraceSummary, frozen=True):
    """The same with what each reading said, and the current in each segment.

    `expected`: between what the likely hypotheses see the next reading; `flow`: currents of the
    likeliest hypothesis with the clamps as proposed, else as they stood last.
    """

    said: tuple[ReadingSaid, ...]
    expected: tuple[float, float] | None
    flow: tuple[SegmentCurrent, ...]
