"""A chip's fields of UNIT.json: `package`, `bits`, `active`, `pins`."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from hale_rail.core.behind.pins import HIGH, LOW, MOST_PINS, Pin, read_pins
from hale_rail.core.errors import InputError
from hale_rail.core.parts.part import Part
from hale_rail.formats.json_fields import JsonObject
from hale_rail.formats.units.chip_words import MOST_BIT

_MOST_PACKAGE = 400


def read_chip(entry: JsonObject, rails: Sequence[str]) -> dict[str, Any]:
    """What a part's entry says of a chip; raises InputError saying where."""
    return {
        "package": entry.whole("package", 2, _MOST_PACKAGE),
        "bits": _bits(entry),
        "active": entry.choice("active", (LOW, HIGH)),
        "pins": _pins(entry, rails),
    }


def _bits(entry: JsonObject) -> tuple[int, ...]:
    bits = entry.data.get("bits") or []
    is_list = isinstance(bits, list) and all(
        isinstance(bit, int) and not isinstance(bit, bool) and 0 <= bit <= MOST_BIT for bit in bits
    )
    if not is_list:
        raise entry.wrong("bits", f"is a list of whole numbers from 0 to {MOST_BIT}")
    return tuple(sorted(set(bits)))


def _pins(entry: JsonObject, rails: Sequence[str]) -> tuple[Pin, ...]:
    lines = []
    for one in entry.entries("pins", MOST_PINS):
        words = (one.text("name"), one.text("use"), one.text("active") or one.text("rail"))
        lines.append(" ".join(word for word in words if word))
    try:
        return read_pins("\n".join(lines), rails)
    except InputError as error:
        raise entry.wrong("pins", f"cannot be read: {error}") from error


def written_chip(part: Part) -> dict[str, Any]:
    """The same fields of a chip; {} for any other part."""
    chip = part.chip
    if chip is None:
        return {}
    return {
        "package": chip.package,
        "bits": list(chip.bits),
        "active": chip.active,
        "pins": [_written(pin) for pin in chip.pins],
    }


def _written(pin: Pin) -> dict[str, str]:
    known = {"name": pin.name, "use": pin.use.code, "active": pin.active, "rail": pin.rail}
    return {name: value for name, value in known.items() if value}
