"""Parts that are not capacitors: what a position asks by its ratings, what is on sale, what fits.

Source: docs/formulas.md, “Not only capacitors”. Which ratings count goes with each kind of part.
"""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from hale_rail.core.parts.kinds import KINDS
from hale_rail.core.parts.ratings import FIELDS, RECOVERY, Comparison, Ratings, Rule
from hale_rail.core.quantities import Unit, show_exact
from hale_rail.core.recap.findings import OTHER_KIND, RuleFinding, flag, refuse
from hale_rail.core.recap.needs import Build, Needs

#: a resistor's tolerance where it is not given
USUAL_TOLERANCE = 0.05
_SAME = 1e-6


class Ware:
    """What kind of part it is, as lists need it: its code, name, unit of value and rules."""

    def __init__(
        self, code: str, name: str, unit: Unit | None = None, rules: tuple[Rule, ...] = ()
    ) -> None:
        self.code = code
        self.name = name
        self.unit = unit
        self.rules = rules

    def __repr__(self) -> str:
        return f"<{self.code}>"

    @staticmethod
    def of_code(code: str) -> Ware:
        """The one of a code; raises ValueError for one that is not known."""
        if code not in WARES:
            raise ValueError(f"{code} is not a kind of part")
        return WARES[code]


#: a bag of several parts that is bought as one; it stands nowhere by itself
KIT = Ware("kit", "kit")
#: by code, what lists have besides capacitors
WARES = {k.code: Ware(k.code, k.name, k.value_unit, k.rules) for k in KINDS if k.rules} | {
    KIT.code: KIT
}


class RatedNeeds(Struct, frozen=True, tag="rated"):
    """What a position asks of a part that is not a capacitor; fields as in `Needs`."""

    id: str
    ref: str
    ware: Ware
    ratings: Ratings
    qty: int = 1
    bank: str = ""
    #: the part number that a person chose, "" where the order may choose
    sku: str = ""

    @property
    def is_known_by_type(self) -> bool:
        """True where the type is known, and tells all that counts in parts of the kind."""
        return bool(self.ratings.type_mark) and any(r.name == "type_mark" for r in self.ware.rules)

    @property
    def missing(self) -> tuple[str, ...]:
        """Ratings, in words, that have to be known before another type is chosen."""
        needed = (rule for rule in self.ware.rules if rule.is_needed)
        return tuple(rule.words for rule in needed if _is_open(getattr(self.ratings, rule.name)))


class RatedBuild(Struct, frozen=True, tag="rated"):
    """A part that is not a capacitor, as its list describes it."""

    ware: Ware
    ratings: Ratings = Ratings()

    @property
    def classes(self) -> frozenset[str]:
        """No safety class of a capacitor."""
        return frozenset()


#: what a position asks, and what a part on sale is, capacitor or not
AnyNeeds = Needs | RatedNeeds
AnyBuild = Build | RatedBuild


def _is_open(value: object) -> bool:
    return value is None or value == ""


def rated_findings(needs: RatedNeeds, build: RatedBuild) -> Iterable[RuleFinding]:
    """Every rule of the kind against one candidate; a type that tells all answers all of them."""
    if needs.ware.code != build.ware.code:
        yield refuse("kind", f"a {build.ware.name}, not a {needs.ware.name}", OTHER_KIND)
        return
    wanted, offered = needs.ratings, build.ratings
    if needs.is_known_by_type and _plain(wanted.type_mark) == _plain(offered.type_mark):
        return
    if needs.missing:
        begin = "another type, and " if needs.is_known_by_type else ""
        yield refuse("missing", begin + missing_words(needs), OTHER_KIND)
        return
    for rule in needs.ware.rules:
        yield from _rule(rule, needs, build)


def missing_words(needs: RatedNeeds) -> str:
    """Which ratings of a position are not on the sheet."""
    *first, last = needs.missing
    names = f"{', '.join(first)} and {last}" if first else last
    are = "are" if first else "is"
    return f"its {names} {are} not on the sheet: read the old part and say it"


def _rule(rule: Rule, needs: RatedNeeds, build: RatedBuild) -> Iterable[RuleFinding]:
    wanted, offered = getattr(needs.ratings, rule.name), getattr(build.ratings, rule.name)
    says = f": {rule.says}" if rule.says else ""
    if _is_open(wanted):
        if not rule.is_silent:
            yield flag(rule.name, f"the old part's {rule.words} is not known{says}")
        return
    rating = _shown(rule.name, wanted, needs.ware)
    if _is_open(offered):
        text = f"its {rule.words} is not given: {rating} is wanted{says}"
        is_refused = rule.is_needed or rule.must_say
        yield refuse(rule.name, text, 1.0) if is_refused else flag(rule.name, text)
        return
    miss = _COMPARE[rule.how](rule, needs.ratings, build.ratings)
    if miss <= _SAME:
        return
    given = _shown(rule.name, offered, build.ware)
    text = f"{rule.words} {given}, {rating} {_ASKED[rule.how]}{says}"
    is_strict = any(word in rule.strict for word in (_plain(wanted), _plain(offered)))
    is_flag = rule.is_minded and not is_strict
    yield flag(rule.name, text) if is_flag else refuse(rule.name, text, miss)


_ASKED = {
    Comparison.SAME: "is wanted",
    Comparison.AT_LEAST: "or more is wanted",
    Comparison.IN_BAND: "with its tolerance is wanted",
    Comparison.AS_FAST: "or faster is wanted",
    Comparison.TOLD_BY: "",
}


def _plain(word: object) -> str:
    return "".join(str(word).lower().split()).replace("-", "")


def _same(rule: Rule, wanted: Ratings, offered: Ratings) -> float:
    old, new = getattr(wanted, rule.name), getattr(offered, rule.name)
    if isinstance(old, str):
        return 0.0 if _plain(old) == _plain(new) else 1.0
    return float(max(0.0, abs(new / old - 1) - rule.share))


def _at_least(rule: Rule, wanted: Ratings, offered: Ratings) -> float:
    old, new = abs(getattr(wanted, rule.name)), abs(getattr(offered, rule.name))
    return float(max(0.0, 1 - new / old))


def _in_band(rule: Rule, wanted: Ratings, offered: Ratings) -> float:
    """How far the new part's band reaches out of the old one's, as a share."""
    old, new = getattr(wanted, rule.name), getattr(offered, rule.name)
    room = wanted.tolerance or USUAL_TOLERANCE
    own = offered.tolerance or USUAL_TOLERANCE
    return float(max(0.0, abs(new / old - 1) + own * new / old - room))


def _as_fast(rule: Rule, wanted: Ratings, offered: Ratings) -> float:
    old, new = getattr(wanted, rule.name), getattr(offered, rule.name)
    if old not in RECOVERY or new not in RECOVERY:
        return _same(rule, wanted, offered)
    return float(max(0, RECOVERY.index(old) - RECOVERY.index(new)))


def _told_by(_: Rule, __: Ratings, ___: Ratings) -> float:
    return 0.0


_COMPARE = {
    Comparison.SAME: _same,
    Comparison.AT_LEAST: _at_least,
    Comparison.IN_BAND: _in_band,
    Comparison.AS_FAST: _as_fast,
    Comparison.TOLD_BY: _told_by,
}


def _shown(name: str, value: object, ware: Ware) -> str:
    """A rating with its unit, or the word that it is."""
    known = FIELDS[name]
    unit = ware.unit if name == "value" else known.unit
    if not isinstance(value, float):
        return str(value)
    if name == "tolerance":
        return f"{100 * value:g}\u00a0%"
    return f"{show_exact(value, unit)}{known.suffix}" if unit else f"{value:g}"


#: ratings in the order in which one says them
_ORDER = ("type_mark", "speed", "value", "volt", "ampere", "watt", "tolerance", "ampere_hour",
          "breaking_a", "style", "case")  # fmt: skip


def rated_words(ware: Ware, ratings: Ratings) -> str:
    """A part in a line: its kind, type and ratings."""
    return f"{ware.name} {ratings_words(ware, ratings)}".strip()


def ratings_words(ware: Ware, ratings: Ratings) -> str:
    """Ratings in a line, in the order in which one says them."""
    known = ((name, getattr(ratings, name)) for name in _ORDER)
    words = [_shown(name, value, ware) for name, value in known if not _is_open(value)]
    return " ".join(words)
