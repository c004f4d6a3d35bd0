"""Reads and writes what a chip, a crystal or a battery is in the words of notes.

`U20 processor 40`, `U5..U12 memory bank 0 bits 0-7 +5 +12 -5`, `U3 reset generator`, `reset high`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

from msgspec.structs import replace

from hale_rail.core.behind.pins import CHIP_ROLES, ChipRole
from hale_rail.core.errors import InputError
from hale_rail.core.parts.markings import ChipMarking
from hale_rail.core.parts.part import Part

MOST_BIT = 63
_PACKAGE = (4, 200)
#: words that say a chip's role, whatever else its line says
ROLE_WORDS = {
    "processor": ChipRole.PROCESSOR, "cpu": ChipRole.PROCESSOR, "mpu": ChipRole.PROCESSOR,
    "microprocessor": ChipRole.PROCESSOR,
    "memory": ChipRole.MEMORY, "ram": ChipRole.MEMORY, "dram": ChipRole.MEMORY,
    "sram": ChipRole.MEMORY,
    "rom": ChipRole.ROM, "eprom": ChipRole.ROM, "prom": ChipRole.ROM,
    "buffer": ChipRole.BUFFER, "transceiver": ChipRole.BUFFER, "latch": ChipRole.BUFFER,
    "clock": ChipRole.CLOCK, "oscillator": ChipRole.CLOCK,
    "reset": ChipRole.RESET, "supervisor": ChipRole.RESET,
    "video": ChipRole.VIDEO, "crtc": ChipRole.VIDEO,
    "io": ChipRole.IO, "i/o": ChipRole.IO, "uart": ChipRole.IO, "pio": ChipRole.IO,
    "logic": ChipRole.LOGIC, "gate": ChipRole.LOGIC,
}  # fmt: skip
_LEVELS = ("high", "low")
_BITS = re.compile(r"([0-9]{1,2})(?:(?:-|–|\.\.|to)([0-9]{1,2}))?")


def takes_chip(kind_code: str, ref: str) -> bool:
    """True for a designator that may be a chip's where a word says so."""
    return kind_code in ("regulator", "chip", "controller") and not ref.upper().startswith("VR")


def role_word(words: Sequence[str]) -> str:
    """The first word that says a role, "" where none does; `reset high` says a level."""
    for place, word in enumerate(words):
        if word.lower() not in ROLE_WORDS:
            continue
        after = words[place + 1].lower() if place + 1 < len(words) else ""
        if word.lower() == "reset" and after in _LEVELS:
            continue
        return word
    return ""


class ChipWords:
    """Collects what the words of a chip's line say, one after the other."""

    def __init__(self, role: str) -> None:
        self.role = ROLE_WORDS.get(role.lower())
        self._role_word = role.lower()
        self.known: dict[str, Any] = {}
        self.rails: list[str] = []

    def left(self, words: Sequence[str], rail_of: Callable[[str], str]) -> list[str]:
        """The words that say nothing of a chip; `rail_of` gives a word's rail, "" for none.

        Rails are collected, since a chip may take several.
        """
        rest: list[str] = []
        place = 0
        while place < len(words):
            word = words[place]
            used = self.take(word, words[place + 1] if place + 1 < len(words) else "")
            rail = "" if used else rail_of(word)
            if rail:
                self.rails.append(rail)
            elif not used:
                rest.append(word)
            place += used or 1
        return rest

    def take(self, word: str, after: str) -> int:
        """How many words were used: this one, and what it needs behind it; 0 for a stranger."""
        lower, then = word.lower(), after.lower()
        if lower in ("reset", "active") and then in _LEVELS:
            self.known["active"] = then
            return 2
        if lower in ("bit", "bits") and _BITS.fullmatch(then):
            self.known["bits"] = tuple(sorted({*self.known.get("bits", ()), *bits_of(then)}))
            return 2
        if lower == self._role_word or lower in ("generator", "rails", "rail"):
            return 1
        if lower.isascii() and lower.isdecimal() and _PACKAGE[0] <= int(lower) <= _PACKAGE[1]:
            self.known.setdefault("package", int(lower))
            return 1 if self.known["package"] == int(lower) else 0
        return 0


def bits_of(text: str) -> tuple[int, ...]:
    """`3`, `0-7` or `0, 4`; raises InputError for what cannot be."""
    bits: set[int] = set()
    for piece in text.split(","):
        match = _BITS.fullmatch(piece.strip())
        if not match:
            raise InputError(f"“{text[:20]}” is no bit: write 3, 0-7 or 0, 4.")
        first, last = int(match[1]), int(match[2] or match[1])
        if last < first or last > MOST_BIT:
            raise InputError(f"Bits {text}: from 0 to {MOST_BIT}, the lower one first.")
        bits |= set(range(first, last + 1))
    return tuple(sorted(bits))


def bits_text(bits: Sequence[int]) -> str:
    """Bits as `bits_of` reads them: a run as `0-7`, others apart by a comma."""
    if len(bits) > 1 and bits[-1] - bits[0] == len(bits) - 1:
        return f"{bits[0]}-{bits[-1]}"
    return ", ".join(map(str, bits))


def dealt(parts: Sequence[Part]) -> list[Part]:
    """The bits of a line that names several chips, dealt out in order, as many to each.

    Raises InputError where they do not go round.
    """
    marking = parts[0].marking
    if not isinstance(marking, ChipMarking) or len(parts) == 1 or not marking.bits:
        return list(parts)
    bits, share = marking.bits, len(marking.bits) // len(parts)
    if not share or len(bits) % len(parts):
        raise InputError(f"{len(bits)} bits cannot be dealt out to {len(parts)} chips.")
    return [
        replace(part, marking=replace(marking, bits=bits[place * share : (place + 1) * share]))
        for place, part in enumerate(parts)
    ]


def write_chip(part: Part, line: str) -> list[str]:
    """A chip's words, as they are read back: role, package, bits, level, `line`, further rails;
    of another part its line alone."""
    marking = part.marking
    if not isinstance(marking, ChipMarking):
        return [line]
    words = [part.role, str(marking.package) if marking.package else ""]
    words += _bit_words(marking.bits)
    if marking.active:
        words += ["active", marking.active]
    words.append(line)
    words += [key.replace(" V", "") for key in marking.rails if key != part.line]
    return [word for word in words if word]


def _bit_words(bits: Sequence[int]) -> list[str]:
    """`bits 0-7` for a run of several, `bit 0 bit 4` for what is no run."""
    pieces = bits_text(bits).split(", ") if bits else []
    return [word for piece in pieces for word in ("bits" if "-" in piece else "bit", piece)]


def say_chip(part: Part) -> list[str]:
    """What the preview says of a chip beside its line: pins, level, bits."""
    marking = part.marking
    if not isinstance(marking, ChipMarking):
        return []
    words = [f"{marking.package} pins" if marking.package else ""]
    return [*words, f"active {marking.active}" if marking.active else "", *_bit_words(marking.bits)]


def role_of(part: Part) -> ChipRole | None:
    """The role of a chip, None where it has none."""
    return CHIP_ROLES.get(part.role)
