"""In which data bits two dumps differ, and the one fault of lines that accounts for all of it.

Source: docs/formulas.md, “Behind the supply”: a line that is stuck, joined or exchanged reads
another place, or another bit, of what is held; each such way is tried.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from functools import partial
from itertools import combinations

from msgspec import Struct, field

from hale_rail.core.arrays import Indices, np

BYTE = 8
#: places on which a way is tried before it is tried on all: of those that differ, and of any; and
#: how many of the first are tried before those
_SAMPLE, _FIRST = 1024, 32
#: with fewer values read where it differs, another place would read the same by chance
_FEWEST_VALUES = 4


class BitDiffers(Struct, frozen=True):
    """In how many bytes a data bit differs, and what the first dump reads there: 1, 0, or None
    where it reads both."""

    differing: int
    reads: int | None


class LineDiffers(Struct, frozen=True):
    """What an address line is: `how` in words, `stuck` 0, 1 or None, the differing bytes that it
    accounts for, and the data bit that differs `beside` it, if one does."""

    how: str
    stuck: int | None
    explains: int
    beside: Mapping[int, BitDiffers] = field(default_factory=dict)


def by_bit(read: np.ndarray, good: np.ndarray) -> dict[int, BitDiffers]:
    """The bits in which two dumps of one size differ."""
    found = {}
    for bit in range(BYTE):
        apart = ((read ^ good) >> bit & 1).astype(bool)
        count = int(np.count_nonzero(apart))
        if count:
            ones = int(np.count_nonzero(read[apart] >> bit & 1))
            reads = 1 if ones == count else 0 if ones == 0 else None
            found[bit] = BitDiffers(count, reads)
    return found


def bits_crossed(read: np.ndarray, good: np.ndarray, bits: Mapping[int, BitDiffers]) -> str:
    """The one fault of two data lines that accounts for all that differs, in words, "" for none:
    exchanged, joined (both read alike), or all eight inverted."""
    if len(bits) == BYTE and bool(((read ^ good) == 0xFF).all()):
        return "Every bit is the other way round: read through something that inverts."
    for one, other in combinations(range(BYTE), 2):
        if not bits.keys() <= {one, other}:
            continue
        now = read >> one & 1, read >> other & 1
        then = good >> one & 1, good >> other & 1
        if bool((now[0] == then[1]).all() and (now[1] == then[0]).all()):
            return f"Bits {one} and {other} are exchanged: two lines crossed."
        if bool((now[0] == now[1]).all() and (then[0] != then[1]).any()):
            return f"Bits {one} and {other} always read alike: outputs {one} and {other} joined."
    return ""


#: a way in which addresses go wrong: the lines, what place is read instead of each, in words, level
_Way = tuple[str, Callable[[Indices], Indices], str, int | None]


def by_line(
    read: np.ndarray, good: np.ndarray, bits: Mapping[int, BitDiffers]
) -> dict[str, LineDiffers]:
    """The one address fault that accounts for what differs: a line stuck, two joined or exchanged.

    One bit that reads one way may be left over, of a second fault; else nothing is said, and
    nothing where one bit alone differs anyway, or where hardly any values were read.
    """
    size, apart = len(read), np.flatnonzero(read != good)
    if len(bits) < 2 or len(np.unique(read[apart])) < _FEWEST_VALUES:
        return {}
    rng = np.random.default_rng(0)
    sample = np.concatenate([
        rng.choice(apart, min(len(apart), _SAMPLE), replace=False),
        rng.choice(size, min(size, _SAMPLE), replace=False),
    ])  # fmt: skip
    for names, place, how, stuck in _ways((size - 1).bit_length()):
        tried = (sample[:_FIRST], sample)
        if any(_is_left(read, good, places, place) is None for places in tried):
            continue
        beside = _is_left(read, good, np.arange(size), place)
        if beside is not None:
            rest = sum(bit.differing for bit in beside.values())
            told = LineDiffers(how, stuck, len(apart) - rest, beside)
            return dict.fromkeys(names.split("+"), told)
    return {}


def _is_left(
    read: np.ndarray, good: np.ndarray, places: Indices, place: Callable[[Indices], Indices]
) -> dict[int, BitDiffers] | None:
    """The bit that still differs when another place of the good one was read at each; None where
    more than one is left, or both ways of it."""
    seen = place(places)
    if int(seen.max()) >= len(good):
        return None
    bits = by_bit(read[places], good[seen])
    if len(bits) > 1 or any(bit.reads is None for bit in bits.values()):
        return None
    return bits


def _ways(count: int) -> Iterator[_Way]:
    for n in range(count):
        yield f"A{n}", partial(_cleared, n), f"halves alike: A{n} stuck low", 0
        yield f"A{n}", partial(_set, n), f"halves alike: A{n} stuck high", 1
    for one, other in combinations(range(count), 2):
        names = f"A{one}+A{other}"
        yield names, partial(_pair, one, other, _exchanged), f"A{one} and A{other} exchanged", None
        joined = f"A{one} and A{other} joined: both"
        yield names, partial(_pair, one, other, _both_low), f"{joined} low where one is", None
        yield names, partial(_pair, one, other, _both_high), f"{joined} high where one is", None


def _cleared(line: int, places: Indices) -> Indices:
    return places & ~(1 << line)


def _set(line: int, places: Indices) -> Indices:
    return places | 1 << line


_Levels = Callable[[Indices, Indices], tuple[Indices, Indices]]


def _pair(one: int, other: int, levels: _Levels, places: Indices) -> Indices:
    """The places with two lines at other levels than they were driven to."""
    first, second = levels(places >> one & 1, places >> other & 1)
    return places & ~(1 << one | 1 << other) | first << one | second << other


def _exchanged(first: Indices, second: Indices) -> tuple[Indices, Indices]:
    return second, first


def _both_low(first: Indices, second: Indices) -> tuple[Indices, Indices]:
    return first & second, first & second


def _both_high(first: Indices, second: Indices) -> tuple[Indices, Indices]:
    return first | second, first | second
