"""What else is to be replaced: parts that are not capacitors, with their ratings, for buying."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from msgspec import Struct

from hale_rail.core.parts.decisions import Decision, DecisionKind
from hale_rail.core.parts.kinds import fuse
from hale_rail.core.parts.part import Part, PartKind
from hale_rail.core.parts.ratings import Ratings
from hale_rail.core.parts.states import PartState
from hale_rail.core.quantities import Unit, show
from hale_rail.core.recap.rated_parts import WARES, ratings_words

UNKNOWN = "rating not on the sheet: read it off the part"
_FUSE = "same current, speed, voltage and breaking capacity"


class Other(Struct, frozen=True):
    """A part as the list has it, and why it is there."""

    part: Part
    why: str
    is_fitted: bool


class OtherLine(Struct, frozen=True):
    """One line of the list: parts of the same kind and rating."""

    kind: PartKind
    rating: str
    others: tuple[Other, ...]

    @property
    def quantity(self) -> int:
        """How many parts."""
        return len(self.others)

    @property
    def refs(self) -> str:
        """Their designators, apart by commas."""
        return ", ".join(other.part.ref for other in self.others)

    @property
    def whys(self) -> tuple[str, ...]:
        """Why they are replaced, each reason once."""
        return tuple(dict.fromkeys(other.why for other in self.others))

    @property
    def volt(self) -> float | None:
        """Their rated volts, or None."""
        return self.others[0].part.volt

    @property
    def left(self) -> int:
        """How many are not replaced yet."""
        return sum(not other.is_fitted for other in self.others)


def other(part: Part, state: PartState, decision: Decision | None) -> Other | None:
    """A part that is replaced: done already, by decision, or found failed; None for one that stays.

    Every school replaces it: what is proven bad is bad under each.
    """
    if decision and decision.kind is DecisionKind.FITTED:
        return Other(part, "replaced already", is_fitted=True)
    if decision and decision.stands:
        why = f"{decision.kind.words}: {decision.reason}"
        return Other(part, why, is_fitted=False) if decision.kind is DecisionKind.REPLACE else None
    return Other(part, "found failed", is_fitted=False) if state is PartState.FAILED else None


def rating(part: Part, ratings: Ratings | None) -> str:
    """A part's ratings in words, as one buys it."""
    ware = WARES.get(part.kind.code)
    volts = show(part.volt, Unit.VOLT, 4) if part.volt else ""
    rating = (ratings_words(ware, ratings) if ware and ratings else volts) or UNKNOWN
    return f"{rating}; {_FUSE}" if part.kind is fuse.KIND else rating


def other_lines(
    others: Iterable[Other], ratings_of: Callable[[Part], Ratings | None]
) -> list[OtherLine]:
    """Grouped by kind and rating, in the order of the sheet."""
    groups: dict[tuple[str, str], list[Other]] = {}
    for one in others:
        words = rating(one.part, ratings_of(one.part))
        groups.setdefault((one.part.kind.code, words), []).append(one)
    return [
        OtherLine(members[0].part.kind, words, tuple(members))
        for (_, words), members in groups.items()
    ]
