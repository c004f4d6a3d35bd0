"""The board behind the supply: what a memory test says, and what a swap proves.

Source: docs/formulas.md, “Bring-up”. Written XOR read gives the bad data bits; a bit and a bank
name the chip by the sheet's table.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import has_odd_figure, tidy

_HEX = re.compile(r"(?:0x|\$|&h)?([0-9a-f]{1,16})h?", re.IGNORECASE)
_BINARY = re.compile(r"(?:0b|%)([01]{1,64})", re.IGNORECASE)
_MOST_BITS = 64


class Sign(Coded):
    """What a board shows in order when it comes up."""

    CLOCK = ("clock", "clock runs")
    RESET_LOW = ("reset-low", "reset low at first")
    RESET_HIGH = ("reset-high", "reset high after that")
    MESSAGE = ("message", "first message")


SIGNS = {sign.code: sign for sign in Sign}
#: what to look at next where a sign is missing
WHY_NOT = {
    Sign.CLOCK: "Crystal, its load capacitors, the oscillator's own supply pin.",
    Sign.RESET_LOW: "Reset never held: the reset capacitor is open, or power good is always high.",
    Sign.RESET_HIGH: "Reset stays low: power good low, its resistor, or the reset chip.",
    Sign.MESSAGE: "Rails, clock and reset are right: memory, then its multiplexers, then the ROM.",
}


class MemoryRead(Struct, frozen=True):
    """One place of a memory test: bank, what was written and what was read, and how wide."""

    bank: str
    written: int
    read: int
    bits: int

    @property
    def bad(self) -> tuple[int, ...]:
        """The data bits that differ, lowest first."""
        return bad_bits(self.written, self.read)

    @property
    def stuck(self) -> Mapping[int, str]:
        """How each bad bit differs: read `high` where `low` was written, or `low`."""
        return {bit: "high" if self.read >> bit & 1 else "low" for bit in self.bad}


def bad_bits(written: int, read: int) -> tuple[int, ...]:
    """The bits in which what was read is not what was written, lowest first."""
    differ = written ^ read
    return tuple(bit for bit in range(differ.bit_length()) if differ >> bit & 1)


def read_word(text: str, bits: int = _MOST_BITS) -> int:
    """A data word as monitors print it: `A5`, `$A5`, `0xA5`, `A5h`, `0b1010`; raises InputError."""
    clean = "" if has_odd_figure(text) else tidy(text)
    binary, hexadecimal = _BINARY.fullmatch(clean), _HEX.fullmatch(clean)
    if binary:
        value = int(binary[1], 2)
    elif hexadecimal:
        value = int(hexadecimal[1], 16)
    else:
        raise InputError(f"“{text[:20]}” is not a data word: write A5, 0xA5 or 0b10100101.")
    if value >> bits:
        raise InputError(f"“{text[:20]}” has more than {bits} bits.")
    return value


class BadChip(Struct, frozen=True):
    """A chip that the test names: bank, bit, its designator ("" where the table has none), and in
    how many of the readings it was wrong."""

    bank: str
    bit: int
    ref: str
    count: int


def bad_chips(
    readings: Sequence[MemoryRead], layout: Mapping[tuple[str, int], str]
) -> list[BadChip]:
    """The chips that memory readings name by a table of (bank, bit), the most often wrong first."""
    counts: dict[tuple[str, int], int] = {}
    for reading in readings:
        for bit in reading.bad:
            counts[reading.bank, bit] = counts.get((reading.bank, bit), 0) + 1
    chips = [
        BadChip(bank, bit, layout.get((bank.casefold(), bit), ""), count)
        for (bank, bit), count in counts.items()
    ]
    return sorted(chips, key=lambda chip: (-chip.count, chip.bank, chip.bit))


def common_cause(readings: Sequence[MemoryRead]) -> str:
    """What many bad bits at once mean, in a sentence; "" where single chips are meant."""
    wrong = [reading for reading in readings if reading.bad]
    if not wrong:
        return ""
    if all(len(reading.bad) >= max(reading.bits - 1, 2) for reading in wrong):
        return "All bits are wrong: the bank's select, supply or refresh, not that many chips."
    banks = {reading.bank for reading in wrong}
    bits = {bit for reading in wrong for bit in reading.bad}
    if len(bits) == 1 and len(banks) > 1:
        return f"Bit {min(bits)} is wrong in every bank: its data buffer before any chip."
    return ""


class Moved(Coded):
    """What became of a fault after two things were swapped."""

    MOVED = ("moved", "the fault moved with it")
    STAYED = ("stayed", "the fault stayed")
    GONE = ("gone", "the fault is gone")


MOVES = {moved.code: moved for moved in Moved}


def swap_says(moved: Moved, one: str, other: str) -> str:
    """What a swap of `one`, which is suspected, with `other` proves, in a sentence."""
    return {
        Moved.MOVED: f"The fault went along with {one}: {one} is bad.",
        Moved.STAYED: f"The fault stayed: neither {one} nor {other}, but what drives its place.",
        Moved.GONE: "Nothing is proven: a contact was made better by the swap. Swap back and look.",
    }[moved]


def layout_of(rows: Iterable[tuple[str, int, str]]) -> dict[tuple[str, int], str]:
    """A table of (bank, bit) to chip; raises InputError for a place that is listed twice."""
    layout: dict[tuple[str, int], str] = {}
    for bank, bit, ref in rows:
        key = (bank.casefold(), bit)
        if key in layout:
            raise InputError(f"bank {bank}, bit {bit} is listed twice")
        layout[key] = ref
    return layout
