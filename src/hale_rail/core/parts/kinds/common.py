"""What several kinds of part share."""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.parts.families import SHORT_OHM
from hale_rail.core.parts.looks import seen_reasons
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.parts.verdicts import Judgement, Reason, conclude
from hale_rail.core.procedures import DIODE, OHMS, Condition
from hale_rail.core.targets import Pair

SEMICONDUCTOR = (
    "Same polarity, ratings at or above the old part's, and the pin order checked before it is "
    "soldered; its insulation and heatsink fit as before."
)
NOT_MEASURED = Reason("not-measured", "Nothing has been read yet.")
NOT_SHORT = f"not below {SHORT_OHM:g} Ω"


def looking_for(words: str) -> Callable[[Part], str]:
    """The same words for every part of a kind."""
    return lambda _: words


def advising(words: str) -> Callable[[Part], str]:
    """The same advice for every part of a kind."""
    return lambda _: words


def only_ohms(_: Part) -> tuple[Ask, ...]:
    """Its resistance is all that is read."""
    return (Ask(OHMS),)


def nothing(_: Part) -> tuple[Ask, ...]:
    """Nothing is measured at it here."""
    return ()


def no_words(_: Part, __: Ask, ___: Condition) -> str:
    """Nothing is expected of it."""
    return ""


def junction_asks(across: Pair | None, *pairs: Pair) -> Callable[[Part], tuple[Ask, ...]]:
    """Ohms first, then each pair both ways."""
    ways = tuple(Ask(DIODE, way) for pair in pairs for way in (pair, pair.turned))
    asks = (Ask(OHMS, across), *ways)
    return lambda _: asks


def concluded(
    reasons: list[Reason], readings: PartReadings, *, sound_is_good: bool = False
) -> Judgement:
    """The judgement of what was read, with what was seen."""
    with_looks = [*reasons, *seen_reasons(readings.seen, sound_is_good=sound_is_good)]
    return conclude(with_looks or [NOT_MEASURED])


def looked_at(_: Part, readings: PartReadings) -> Judgement:
    """A part that is judged by looks alone."""
    return concluded([], readings, sound_is_good=True)
