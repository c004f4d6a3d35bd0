"""What a part is rated for, and which of its ratings a new part in its place has to meet.

Source: docs/formulas.md, “Not only capacitors”. Every kind of part names its own rules.
"""

from __future__ import annotations

from enum import Enum
from typing import Any

from msgspec import Struct

from hale_rail.core.quantities import Unit


class Ratings(Struct, frozen=True):
    """A part's ratings; None or "" where they are not known.

    `value` in its kind's own unit; `tolerance` a share; `style` what its kind tells apart by a
    word (polarity, contacts, chemistry, construction); `type_mark` the type printed on it.
    """

    value: float | None = None
    volt: float | None = None
    ampere: float | None = None
    watt: float | None = None
    tolerance: float | None = None
    breaking_a: float | None = None
    ampere_hour: float | None = None
    speed: str = ""
    style: str = ""
    case: str = ""
    type_mark: str = ""


class Field(Struct, frozen=True):
    """A rating as lists and pages have it: its column, its name, its unit (None: a word).

    `suffix` follows the unit.
    """

    column: str
    label: str
    unit: Unit | None = None
    suffix: str = ""


#: the ratings by name; `value` has the unit of the kind
FIELDS = {
    "value": Field("value", "value"),
    "volt": Field("voltage", "voltage", Unit.VOLT),
    "ampere": Field("amps", "current", Unit.AMPERE),
    "watt": Field("watts", "power", Unit.WATT),
    "tolerance": Field("tolerance", "tolerance"),
    "breaking_a": Field("breaking_a", "breaking capacity", Unit.AMPERE),
    "ampere_hour": Field("capacity_ah", "capacity", Unit.AMPERE, "h"),
    "speed": Field("speed", "speed"),
    "style": Field("style", "style"),
    "case": Field("case", "case"),
    "type_mark": Field("type", "type"),
}


class Comparison(Enum):
    """How a rating is compared."""

    #: equal within the rule's share
    SAME = "same"
    #: the old part's or more
    AT_LEAST = "at least"
    #: within the old part's tolerance, its own included
    IN_BAND = "in band"
    #: as fast as the old part, or faster
    AS_FAST = "as fast"
    #: another type may be right; the same one answers all other rules
    TOLD_BY = "told by"


class Rule(Struct, frozen=True):
    """How one rating of a new part stands against the old part's.

    `share` for `SAME`; `is_needed`: both parts have to say it; `is_minded`: a new part that differs
    is flagged, not refused, but for the words of `strict`, which stay; `must_say`: refused
    where the old part's is known and the new one's is not; `is_silent`: asked
    only where the old part's is known; `says` is added to what is told; `label` is what the kind
    calls it.
    """

    name: str
    how: Comparison
    share: float = 0.0
    is_needed: bool = False
    is_minded: bool = False
    is_silent: bool = False
    must_say: bool = False
    strict: tuple[str, ...] = ()
    says: str = ""
    label: str = ""

    @property
    def words(self) -> str:
        """The rating as one says it."""
        return self.label or FIELDS[self.name].label


def same(name: str, share: float = 0.0, **more: Any) -> Rule:
    """The same, needed."""
    return Rule(name, Comparison.SAME, share, is_needed=True, **more)


def at_least(name: str, **more: Any) -> Rule:
    """The old part's or more, needed."""
    return Rule(name, Comparison.AT_LEAST, is_needed=True, **more)


def minded(name: str, how: Comparison = Comparison.SAME, **more: Any) -> Rule:
    """Flagged where it differs or is not known."""
    return Rule(name, how, is_minded=True, **more)


#: recovery of a rectifier, slowest first
RECOVERY = ("standard", "fast", "ultrafast")
CASE = minded("case")
#: what a part's ratings do not tell, its type does
OTHER_TYPE = minded("type_mark", says="compare the pins and the data sheets")
#: a part of the same type is the same part; another is judged by its ratings
TYPE = Rule("type_mark", Comparison.TOLD_BY, is_silent=True)
#: a transistor by its ratings; what they do not tell, its type does
RATED_TYPE = (
    same("style", label="polarity"),
    at_least("volt"),
    at_least("ampere"),
    at_least("watt"),
    CASE,
    OTHER_TYPE,
)
#: a part that nothing but its type describes
TYPE_ALONE = (same("type_mark"),)
