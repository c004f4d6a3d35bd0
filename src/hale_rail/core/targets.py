"""What is read: a part, a pair of its pins, a rail at a place, and what later features read."""

from __future__ import annotations

from enum import Enum
from functools import cached_property

from msgspec import Struct

from hale_rail.core.errors import InputError

#: the longest a part's id can be in an address
_ID_DIGITS = 15


class TargetKind(Enum):
    """What a reading can be of; the values are those the store keeps."""

    PART = "part"
    PAIR = "pair"
    RAIL = "rail"
    PIN = "pin"
    PAD = "pad"
    CONNECTION = "connection"
    ITEM = "item"
    CHANNEL = "channel"


class Place(Enum):
    """Where along its line a rail is read; NONE where it is not said."""

    NONE = ""
    SUPPLY = "supply"
    CONNECTOR = "connector"
    FAR = "far"

    @property
    def words(self) -> str:
        """The place as one says it."""
        return {"supply": "supply end", "far": "far end"}.get(self.value, self.value)


class Pair(Struct, frozen=True):
    """Two pins, the plus lead's first."""

    plus: str
    minus: str

    @property
    def turned(self) -> Pair:
        """The same pins with the leads turned round."""
        return Pair(self.minus, self.plus)

    @property
    def code(self) -> str:
        """The pair as files and addresses have it: `B>E`."""
        return f"{self.plus}>{self.minus}"

    @property
    def words(self) -> str:
        """The pair as one says it: `B to E`, `AC1 to +`."""
        return f"{_PIN_WORDS.get(self.plus, self.plus)} to {_PIN_WORDS.get(self.minus, self.minus)}"


_PIN_WORDS = {"~1": "AC1", "~2": "AC2", "-": "−"}


class Target(Struct, frozen=True, dict=True):
    """One thing that can be read.

    `part_id` for a part, a pair or a pin; `rail` (its key) and `place` for a rail; `plus` and
    `minus` name two pins of a pair or the two ends of a connection, `plus` alone a pin, a pad (or
    what is on it) or a channel; of two pins of a list `minus` is the other. Of an item, `plus`
    is the rail and `minus` what is attached.
    """

    kind: TargetKind
    part_id: int | None = None
    rail: str = ""
    place: Place = Place.NONE
    plus: str = ""
    minus: str = ""

    @property
    def pair(self) -> Pair | None:
        """The two pins, where it is a pair."""
        return Pair(self.plus, self.minus) if self.kind is TargetKind.PAIR else None

    @property
    def line(self) -> str:
        """The rail that it is read on, where its own texts say; "" for a part."""
        if self.kind in (TargetKind.CONNECTION, TargetKind.PAD, TargetKind.ITEM):
            return self.plus.partition("/")[0]
        return self.rail

    @cached_property
    def code(self) -> str:
        """The target as one word of an address, undone by `parse_target`."""
        if self.kind is TargetKind.PART:
            return str(self.part_id)
        if self.kind is TargetKind.PAIR:
            return f"{self.part_id}:{self.plus}>{self.minus}"
        if self.kind is TargetKind.RAIL:
            return f"r{self.rail}" + (f"@{self.place.value}" if self.place.value else "")
        ends = f"{self.plus}>{self.minus}" if self.minus else self.plus
        return f"{self.kind.value}!{self.part_id or ''}!{ends}"


def part_target(part_id: int, pair: Pair | None = None) -> Target:
    """A part, or a pair of its pins."""
    if pair is None:
        return Target(TargetKind.PART, part_id)
    return Target(TargetKind.PAIR, part_id, plus=pair.plus, minus=pair.minus)


def rail_target(key: str, place: Place = Place.NONE) -> Target:
    """A rail by its key, at a place along its line."""
    return Target(TargetKind.RAIL, rail=key, place=place)


def parse_target(code: str) -> Target:
    """The target of an address; raises InputError when there can be none."""
    if code.startswith("r"):
        key, _, place = code[1:].partition("@")
        if place in [p.value for p in Place]:
            return rail_target(key, Place(place))
    elif "!" in code:
        return _parse_other(code)
    else:
        number, _, ends = code.partition(":")
        plus, _, minus = ends.partition(">")
        if _is_id(number) and bool(plus) == bool(minus):
            return part_target(int(number), Pair(plus, minus) if plus else None)
    raise InputError("That is not a test point of this unit.")


def _parse_other(code: str) -> Target:
    name, _, rest = code.partition("!")
    number, _, ends = rest.partition("!")
    kind = next((k for k in TargetKind if k.value == name), None)
    if kind is None or not ends or (number and not _is_id(number)):
        raise InputError("That is not a test point of this unit.")
    plus, _, minus = ends.partition(">")
    return Target(kind, int(number) if number else None, plus=plus, minus=minus)


def _is_id(text: str) -> bool:
    return text.isascii() and text.isdecimal() and len(text) <= _ID_DIGITS
