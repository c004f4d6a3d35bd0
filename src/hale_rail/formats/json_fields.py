"""Reads the objects of a JSON file field by field, naming the place of whatever is wrong."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read

_LONGEST = 120


def read_object(text: str, what: str) -> JsonObject:
    """The object of a JSON text; raises InputError saying where it is none. `what` it should be."""
    try:
        data = json.loads(text.lstrip("\ufeff"), parse_constant=_no_constant)
    except json.JSONDecodeError as error:
        raise InputError(f"line {error.lineno}: no JSON here ({error.msg}).") from error
    except (ValueError, RecursionError) as error:
        raise InputError(f"This is not a {what}: {error}.") from error
    return JsonObject(data, f"the {what}")


def _no_constant(word: str) -> float:
    raise ValueError(f"{word} is not a number")


class JsonObject:
    """One object of the file, its fields read with the place of whatever is wrong."""

    def __init__(self, data: object, where: str) -> None:
        if not isinstance(data, dict):
            raise InputError(f"{where} is not an object of names and values.")
        self.data = data
        self.where = where

    def wrong(self, name: str, why: str) -> InputError:
        """The error of a field, with its place."""
        return InputError(f"{self.where}: {name} {why}.")

    def text(self, name: str) -> str:
        """A short text; "" where it is absent."""
        text = self.data.get(name)
        if text is None:
            return ""
        if not isinstance(text, str) or len(text) > _LONGEST:
            raise self.wrong(name, f"is not text of at most {_LONGEST} characters")
        return text.strip()

    def name(self, name: str) -> str:
        """A short text or a whole number, as ids are written; "" where it is absent."""
        result = self.data.get(name)
        if isinstance(result, int) and not isinstance(result, bool):
            return str(result)
        return self.text(name)

    def object(self, name: str) -> JsonObject | None:
        """An object inside this one; None where it is absent."""
        result = self.data.get(name)
        return None if result is None else JsonObject(result, f"{self.inside}{name}")

    @property
    def inside(self) -> str:
        """What is before the names of this object's fields."""
        return "" if self.where.startswith("the ") else f"{self.where}."

    def choice(self, name: str, words: Sequence[str], *, usual: str = "") -> str:
        """One of some words; `usual` where it is absent."""
        choice = self.text(name)
        if choice and choice not in words:
            raise self.wrong(name, f"“{choice}” is not one of {', '.join(words)}")
        return choice or usual

    def number(self, name: str, unit: Unit | None, most: float = 1e12) -> float | None:
        """A number, or a text as people write it; None where it is absent."""
        number = self.data.get(name)
        if number is None or number == "":
            return None
        if isinstance(number, str) and unit is not None:
            try:
                return read(number, unit, allow_words=False).value
            except InputError as error:
                raise self.wrong(name, f"cannot be read: {str(error).rstrip('.')}") from error
        if isinstance(number, bool) or not isinstance(number, (int, float)):
            raise self.wrong(name, "is not a number")
        if not math.isfinite(number) or abs(number) > most:
            raise self.wrong(name, "is not a possible number")
        return float(number)

    def whole(self, name: str, low: int, high: int) -> int | None:
        """A whole number within bounds; None where it is absent."""
        whole = self.number(name, None)
        if whole is None:
            return None
        if whole != int(whole) or not low <= whole <= high:
            raise self.wrong(name, f"is not a whole number from {low} to {high}")
        return int(whole)

    def above_zero(self, name: str, unit: Unit | None, most: float = 1e12) -> float | None:
        """A number above 0; None where it is absent."""
        above_zero = self.number(name, unit, most)
        if above_zero is not None and above_zero <= 0:
            raise self.wrong(name, "must be above 0")
        return above_zero

    def yes_no(self, name: str) -> bool | None:
        """True, false, or None."""
        yes_no = self.data.get(name)
        if yes_no is not None and not isinstance(yes_no, bool):
            raise self.wrong(name, "is true, false or null")
        return yes_no

    def entries(self, name: str, most: int) -> list[JsonObject]:
        """A list of objects; empty where it is absent."""
        entries = self.data.get(name)
        if entries is None:
            return []
        if not isinstance(entries, list) or len(entries) > most:
            raise self.wrong(name, f"is not a list of at most {most}")
        return [
            JsonObject(one, f"{self.inside}{name}[{place}]") for place, one in enumerate(entries)
        ]

    def tolerance(self) -> tuple[float, float] | None:
        """`[-0.05, 0.05]` as shares below and above, or None."""
        tolerance = self.data.get("tolerance")
        if tolerance is None:
            return None
        numbers = tolerance if isinstance(tolerance, list) else []
        if len(numbers) != 2 or any(not isinstance(n, (int, float)) for n in numbers):
            raise self.wrong("tolerance", "is two shares, such as [-0.05, 0.05]")
        low, high = -float(numbers[0]), float(numbers[1])
        if not (0 <= low < 1 and 0 <= high <= 3):
            raise self.wrong("tolerance", "goes from a share below 0 to one above it")
        return low, high
