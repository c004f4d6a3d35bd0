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
        raise InputError(f"This is no {what}: {error}.") from error
    return JsonObject(data, f"the {what}")


def _no_constant(word: str) -> float:
    raise ValueError(f"{word} is no number")


class JsonObject:
    """One object of the file, its fields read with the place of whatever is wrong."""

    def __init__(self, data: object, where: str) -> None:
        if not isinstance(data, dict):
            raise InputError(f"{where} is no object of names and values.")
        self.data = data
        self.where = where

    def wrong(self, name: str, why: str) -> InputError:
        """The error of a field, with its place."""
        return InputError(f"{self.where}: {name} {why}.")

    def text(self, name: str) -> str:
        """A short text; "" where it is absent."""
        found = self.data.get(name)
        if found is None:
            return ""
        if not isinstance(found, str) or len(found) > _LONGEST:
            raise self.wrong(name, f"is no text of at most {_LONGEST} characters")
        return found.strip()

    def name(self, name: str) -> str:
        """A short text or a whole number, as ids are written; "" where it is absent."""
        found = self.data.get(name)
        if isinstance(found, int) and not isinstance(found, bool):
            return str(found)
        return self.text(name)

    def object(self, name: str) -> JsonObject | None:
        """An object inside this one; None where it is absent."""
        found = self.data.get(name)
        return None if found is None else JsonObject(found, f"{self.inside}{name}")

    @property
    def inside(self) -> str:
        """What stands before the names of this object's fields."""
        return "" if self.where.startswith("the ") else f"{self.where}."

    def choice(self, name: str, words: Sequence[str], *, usual: str = "") -> str:
        """One of some words; `usual` where it is absent."""
        found = self.text(name)
        if found and found not in words:
            raise self.wrong(name, f"“{found}” is none of {', '.join(words)}")
        return found or usual

    def number(self, name: str, unit: Unit | None, most: float = 1e12) -> float | None:
        """A number, or a text as people write it; None where it is absent."""
        found = self.data.get(name)
        if found is None or found == "":
            return None
        if isinstance(found, str) and unit is not None:
            try:
                return read(found, unit, allow_words=False).value
            except InputError as error:
                raise self.wrong(name, f"cannot be read: {str(error).rstrip('.')}") from error
        if isinstance(found, bool) or not isinstance(found, (int, float)):
            raise self.wrong(name, "is no number")
        if not math.isfinite(found) or abs(found) > most:
            raise self.wrong(name, "is no number that can be")
        return float(found)

    def whole(self, name: str, low: int, high: int) -> int | None:
        """A whole number within bounds; None where it is absent."""
        found = self.number(name, None)
        if found is None:
            return None
        if found != int(found) or not low <= found <= high:
            raise self.wrong(name, f"is no whole number from {low} to {high}")
        return int(found)

    def above_zero(self, name: str, unit: Unit | None, most: float = 1e12) -> float | None:
        """A number above 0; None where it is absent."""
        found = self.number(name, unit, most)
        if found is not None and found <= 0:
            raise self.wrong(name, "must be above 0")
        return found

    def yes_no(self, name: str) -> bool | None:
        """True, false, or None."""
        found = self.data.get(name)
        if found is not None and not isinstance(found, bool):
            raise self.wrong(name, "is true, false or null")
        return found

    def entries(self, name: str, most: int) -> list[JsonObject]:
        """A list of objects; empty where it is absent."""
        found = self.data.get(name)
        if found is None:
            return []
        if not isinstance(found, list) or len(found) > most:
            raise self.wrong(name, f"is no list of at most {most}")
        return [JsonObject(one, f"{self.inside}{name}[{place}]") for place, one in enumerate(found)]

    def tolerance(self) -> tuple[float, float] | None:
        """`[-0.05, 0.05]` as shares below and above, or None."""
        found = self.data.get("tolerance")
        if found is None:
            return None
        numbers = found if isinstance(found, list) else []
        if len(numbers) != 2 or any(not isinstance(n, (int, float)) for n in numbers):
            raise self.wrong("tolerance", "is two shares, such as [-0.05, 0.05]")
        low, high = -float(numbers[0]), float(numbers[1])
        if not (0 <= low < 1 and 0 <= high <= 3):
            raise self.wrong("tolerance", "goes from a share below 0 to one above it")
        return low, high
