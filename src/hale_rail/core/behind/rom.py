"""A ROM's dump against another or a checksum: equal, or how it differs by bit and address line.

Source: docs/formulas.md, “Behind the supply”. A stuck output shows as a data bit that has one value
wherever the bytes differ; an address line that does not reach the chip as halves alike.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hale_rail.core.arrays import np
from hale_rail.core.behind.checksums import matches
from hale_rail.core.behind.rom_bits import (
    BYTE,
    BitDiffers,
    LineDiffers,
    bits_crossed,
    by_bit,
    by_line,
)
from hale_rail.core.errors import InputError

MOST_BYTES = 4 << 20
#: so many differing bytes make it worth saying that they lie in one half
_FEWEST_OF_HALF = 16
#: fewer differing bytes say nothing of an output
_FEW = 4
#: more bits than these are no single output
_FEW_BITS = 2


class RomSays(Struct, frozen=True):
    """A dump compared: `size` of the first in bytes, bytes that differ (None: against a checksum),
    by data bit and by address line, and in words.

    `is_second`: the fault that accounts for it is in the dump that it was held against.
    """

    equal: bool
    size: int
    differing: int | None
    bits: Mapping[int, BitDiffers]
    address_lines: Mapping[str, LineDiffers]
    text: str
    is_second: bool = False

    @property
    def is_bad(self) -> bool:
        """True where the dump itself is not what it should be."""
        return not self.equal and not self.is_second


def against_sum(data: bytes, checksum: str) -> RomSays:
    """A dump against a checksum: a sum, a CRC-32 or a SHA-1; raises InputError for what is none."""
    _check(data)
    matched, shown = matches(data, checksum)
    text = f"Equal by its {matched}." if matched else f"Not equal: {shown}."
    alone = alone_says(data)
    return RomSays(bool(matched), len(data), None, {}, alone.address_lines,
                   f"{text} {alone.text}".strip())  # fmt: skip


def _check(data: bytes) -> None:
    if not data:
        raise InputError("The dump is empty.")
    if len(data) > MOST_BYTES:
        raise InputError(f"The dump has {len(data)} bytes: at most {MOST_BYTES >> 20} MB.")


class AloneSays(Struct, frozen=True):
    """What a dump says by itself: blank, mirrored, bits that never change, in words."""

    is_blank: bool
    mirrored_at: int | None
    still_bits: Mapping[int, int]
    address_lines: Mapping[str, LineDiffers]
    text: str


def alone_says(data: bytes) -> AloneSays:
    """What a dump says without another one; raises InputError for none."""
    _check(data)
    values = set(data)
    if len(values) == 1:
        return _of_one_value(data[0], len(data))
    lines = _alike_lines(data)
    mirror = _mirror(len(data), lines)
    still = _still_bits(data)
    told = []
    if mirror is not None:
        top = mirror.bit_length() - 1
        told.append(
            f"Mirrored: the first {mirror} bytes, {len(data) // mirror} times. A{top} makes no "
            "difference: it is stuck, or the chip is smaller."
        )
    other = [line for line in lines if mirror is None or (1 << line) < mirror]
    told += [f"Halves alike: A{line} makes no difference." for line in other]
    told += [f"Bit {bit} always reads {value}." for bit, value in still.items()]
    found = {f"A{line}": LineDiffers("halves alike", None, 0) for line in lines}
    return AloneSays(False, mirror, still, found, " ".join(told))


def _of_one_value(value: int, size: int) -> AloneSays:
    if value == 0xFF:
        text = f"Blank: all {size} bytes read FF, as an erased chip does, and an empty socket."
    elif value == 0:
        text = f"All {size} bytes read 00: nothing answers, or a chip that lost everything."
    else:
        text = f"All {size} bytes read {value:02X}: nothing answers."
    return AloneSays(True, None, {}, {}, text)


def _alike_lines(data: bytes) -> list[int]:
    """The address lines that make no difference, of a dump whose size they divide."""
    array = np.frombuffer(data, dtype=np.uint8)
    lines = []
    line = 0
    while 2 << line <= len(data):
        step = 1 << line
        if len(data) % (2 * step) == 0:
            pairs = array.reshape(-1, 2, step)
            if bool((pairs[:, 0] == pairs[:, 1]).all()):
                lines.append(line)
        line += 1
    return lines


def _mirror(size: int, lines: list[int]) -> int | None:
    """The bytes that stand there again and again: the upper lines make no difference."""
    real = size
    while real > 1 and real % 2 == 0 and (real // 2).bit_length() - 1 in lines and _is_power(real):
        real //= 2
    return real if real < size else None


def _is_power(size: int) -> bool:
    return size & (size - 1) == 0


def _still_bits(data: bytes) -> dict[int, int]:
    array = np.frombuffer(data, dtype=np.uint8)
    ones, any_one = int(np.bitwise_and.reduce(array)), int(np.bitwise_or.reduce(array))
    return {
        bit: ones >> bit & 1 for bit in range(BYTE) if (ones >> bit & 1) or not any_one >> bit & 1
    }


def compare(one: bytes, other: bytes) -> RomSays:
    """A dump, as it was read, against what it should be; raises InputError for an empty one."""
    _check(one)
    _check(other)
    if one == other:
        alone = alone_says(one)
        text = f"Equal: {len(one)} bytes. {alone.text if alone.is_blank else ''}"
        return RomSays(True, len(one), 0, {}, {}, text.strip())
    if len(one) != len(other):
        return _of_sizes(one, other)
    return _differs(one, other)


def _of_sizes(one: bytes, other: bytes) -> RomSays:
    small, large = sorted((one, other), key=len)
    times, rest = divmod(len(large), len(small))
    first = np.frombuffer(one[: len(small)], dtype=np.uint8)
    second = np.frombuffer(other[: len(small)], dtype=np.uint8)
    differing = int(np.count_nonzero(first != second)) + len(large) - len(small)
    sizes = f"{len(one)} bytes against {len(other)}"
    if not rest and large == small * times:
        text = (
            f"The same content, {sizes}: it stands {times} times in the larger one. The chip was "
            "read as a larger one, or its upper address lines are not used."
        )
        lines = {
            f"A{line}": LineDiffers("mirrored", None, 0)
            for line in range(len(small).bit_length() - 1, len(large).bit_length() - 1)
        }
        return RomSays(False, len(one), differing, {}, lines, text)
    same = "the first bytes agree" if large.startswith(small) else "they differ in common bytes too"
    return RomSays(False, len(one), differing, {}, {}, f"Other sizes: {sizes}; {same}.")


class _Dump(Struct, frozen=True):
    """A dump with its bytes as an array, and what it says alone."""

    array: np.ndarray
    alone: AloneSays


class _Fault(Struct, frozen=True):
    """The one fault of a dump that accounts for what differs: its address lines, in words."""

    lines: Mapping[str, LineDiffers]
    text: str


def _differs(one: bytes, other: bytes) -> RomSays:
    read, good = (
        _Dump(np.frombuffer(data, dtype=np.uint8), alone_says(data)) for data in (one, other)
    )
    apart = read.array != good.array
    bits = by_bit(read.array, good.array)
    fault = _fault_in(read, good, bits)
    second = None if fault else _fault_in(good, read, by_bit(good.array, read.array))
    if fault:
        told = [fault.text]
    elif second:  # no good one is sure to be good
        told = [f"The second dump, not the first: {second.text}"]
    else:
        told = _by_bits(read, good, apart, bits)
    differing = int(np.count_nonzero(apart))
    lines = next((found.lines for found in (fault, second) if found), {})
    text = " ".join([f"{differing} of {len(one)} bytes differ.", *told])
    return RomSays(False, len(one), differing, bits, lines, text, is_second=bool(second))


def _fault_in(read: _Dump, good: _Dump, bits: Mapping[int, BitDiffers]) -> _Fault | None:
    """The one fault in a dump that accounts for what differs, None where there is none."""
    if read.alone.is_blank:
        return _Fault({}, read.alone.text)
    lines = by_line(read.array, good.array, bits)
    if lines:
        return _Fault(lines, _line_words(lines))
    if _is_stuck(read.alone.still_bits, bits):
        return None
    crossed = bits_crossed(read.array, good.array, bits)
    return _Fault({}, crossed) if crossed else None


def _is_stuck(still: Mapping[int, int], bits: Mapping[int, BitDiffers]) -> bool:
    return any(bit in still and still[bit] == found.reads for bit, found in bits.items())


def _by_bits(
    read: _Dump, good: _Dump, apart: np.ndarray, bits: Mapping[int, BitDiffers]
) -> list[str]:
    """What is said bit by bit, where no one fault accounts for it all."""
    told = _bit_words(bits, read.alone.still_bits)
    if _is_stuck(read.alone.still_bits, bits):
        return told
    if len(bits) <= _FEW_BITS:
        told += [
            f"In the second dump bit {bit} reads {1 - found.reads} everywhere: if that is the bad "
            f"one, its output {bit} is stuck."
            for bit, found in bits.items()
            if found.reads is not None and good.alone.still_bits.get(bit) == 1 - found.reads
        ]
    return told + _where(apart, int(np.count_nonzero(apart)))


def _line_words(lines: Mapping[str, LineDiffers]) -> str:
    line = next(iter(lines.values()))
    left = ""
    for bit, found in line.beside.items():
        left = f" Beside it bit {bit} reads {found.reads} in {found.differing}: output {bit}."
    return f"{line.how[0].upper()}{line.how[1:]}: that accounts for {line.explains} of them.{left}"


def _bit_words(bits: Mapping[int, BitDiffers], still: Mapping[int, int]) -> list[str]:
    ways = {found.reads for found in bits.values()}
    if len(bits) > _FEW_BITS:
        names = ", ".join(map(str, bits))
        if ways == {1}:
            return [
                f"Bits {names} differ, and read 1 wherever they do: cells that faded to erased."
            ]
        if all(found.differing < _FEW for found in bits.values()):
            return [f"Bits {names} differ, in few bytes: cells, or slips. Read it again."]
        return [f"Bits {names} differ: no single output. Another version, or another chip."]
    told = []
    for bit, found in bits.items():
        if found.differing < _FEW:
            told.append(f"Bit {bit} differs there: a cell, or a slip of reading. Read it again.")
        elif found.reads is None:
            told.append(f"Bit {bit} differs both ways: its cells, or its line to a neighbour.")
        elif still.get(bit) == found.reads:
            told.append(
                f"Bit {bit} reads {found.reads} wherever it differs, and everywhere else: output "
                f"{bit}, stuck."
            )
        else:
            told.append(
                f"Bit {bit} reads {found.reads} wherever it differs, but {1 - found.reads} "
                f"elsewhere too: cells of output {bit}, not a stuck one. Read it again."
            )
    return told


def _where(apart: np.ndarray, differing: int) -> list[str]:
    """The half in which all that differs lies, where so many would not lie there by chance."""
    if differing < _FEWEST_OF_HALF:
        first = ", ".join(f"{place:X}" for place in np.flatnonzero(apart)[:4])
        more = " and more" if differing > 4 else ""
        return [f"At address {first}{more}."]
    places = np.flatnonzero(apart)
    always, ever = int(np.bitwise_and.reduce(places)), int(np.bitwise_or.reduce(places))
    told = [
        f"All of it lies where A{line} is {'high' if always >> line & 1 else 'low'}."
        for line in range((len(apart) - 1).bit_length())
        if always >> line & 1 or not ever >> line & 1
    ]
    return told[-1:]
