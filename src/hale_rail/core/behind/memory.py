"""What a memory test says: bad bits, the chips that they name, what several have in common, next.

Source: docs/formulas.md, “Behind the supply”. Written XOR read gives the bad bits; a bit and a bank
name the chip by the sheet's table. Several bits never hide a chip: what they share is told beside.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from hale_rail.core.errors import InputError

#: (bank in small letters, bit) -> designator
Table = Mapping[tuple[str, int], str]
#: so many bits a nibble, by which data buffers and wide chips are cut
_NIBBLE = 4


class MemoryRead(Struct, frozen=True):
    """One place of a memory test.

    `written` and `read` are data words, None where the test gave a `mask` of bad bits alone; `bank`
    "" where it is not known; `ref` the chip that the test itself names, or "".
    """

    bank: str
    bits: int
    written: int | None = None
    read: int | None = None
    mask: int = 0
    ref: str = ""

    @property
    def differ(self) -> int:
        """The bad bits as a mask."""
        if self.written is None or self.read is None:
            return self.mask
        return self.written ^ self.read

    @property
    def bad(self) -> tuple[int, ...]:
        """The bad bits, lowest first."""
        differ = self.differ
        return tuple(bit for bit in range(differ.bit_length()) if differ >> bit & 1)

    @property
    def stuck(self) -> dict[int, str]:
        """How each bad bit was read: `high` where low was written, or `low`; "" by a mask."""
        if self.read is None or self.written is None:
            return dict.fromkeys(self.bad, "")
        return {bit: "high" if self.read >> bit & 1 else "low" for bit in self.bad}

    @property
    def is_right(self) -> bool:
        """True where it read as written."""
        return not self.differ and not self.ref


class NamedChip(Struct, frozen=True):
    """A chip that the test names: its designator, and why in words; `places` (bank, bit) of it."""

    ref: str
    why: str
    places: tuple[tuple[str, int], ...] = ()


class MemorySays(Struct, frozen=True):
    """What memory readings say: bad bits, chips, what is common, what is next, what was tested.

    `is_bridged`: two bits always read alike, so that their lines are joined.
    """

    bits: tuple[int, ...]
    chips: tuple[NamedChip, ...]
    common: tuple[str, ...]
    next: str
    covers: str
    is_bridged: bool = False


def memory_says(readings: Sequence[MemoryRead], table: Table) -> MemorySays:
    """What readings of memory say by a table of its chips."""
    wrong = [reading for reading in readings if not reading.is_right]
    chips = _chips(wrong, table)
    told = {bit for chip in chips for _, bit in chip.places}
    bits = tuple(sorted({bit for reading in wrong for bit in reading.bad} | told))
    common = tuple(_common(readings, table, bits))
    joined = bool(_bridged(wrong, sorted({bit for reading in wrong for bit in reading.bad})))
    following = _joined(chips) if joined else _next(wrong, table, chips)
    return MemorySays(bits, chips, common, following, covers(readings), joined)


def _joined(chips: Sequence[NamedChip]) -> str:
    where = f" at {', '.join(chip.ref for chip in chips)}, then at the buffer" if chips else ""
    return (
        f"Power off: read ohms between the lines of these two bits{where}, before a chip is pulled."
    )


def _banks(reading: MemoryRead, table: Table, bit: int) -> list[str]:
    """The banks that a bit of a reading may be in."""
    if reading.bank:
        return [reading.bank.casefold()]
    return _banks_of(table, bit) or [""]


def _chips(wrong: Sequence[MemoryRead], table: Table) -> tuple[NamedChip, ...]:
    """The chips that are named, those named by the test itself and those most often wrong first."""
    counts: dict[str, dict[tuple[str, int], int]] = {}
    for reading in wrong:
        for bit in reading.bad:
            for bank in _banks(reading, table, bit):
                ref = table.get((bank, bit), "")
                if ref:
                    places = counts.setdefault(ref, {})
                    places[bank, bit] = places.get((bank, bit), 0) + 1
    told = [reading.ref for reading in wrong if reading.ref]
    order = sorted(counts, key=lambda ref: -max(counts[ref].values()))
    named = [
        NamedChip(ref, _why_named(ref, told, table), _places_of(ref, table))
        for ref in dict.fromkeys(told)
    ]
    named += [
        NamedChip(ref, _why(counts[ref], wrong, table), tuple(counts[ref]))
        for ref in order
        if ref not in told
    ]
    return tuple(named)


def _places_of(ref: str, table: Table) -> tuple[tuple[str, int], ...]:
    return tuple(place for place, other in table.items() if other == ref)


def _why_named(ref: str, told: Sequence[str], table: Table) -> str:
    places = ", ".join(_place(*place) for place in _places_of(ref, table))
    count = told.count(ref)
    often = f", {count} times" if count > 1 else ""
    return f"the test names it{often}" + (f" ({places})" if places else "")


def _place(bank: str, bit: int) -> str:
    return f"bit {bit} of bank {bank}" if bank else f"bit {bit}"


def _why(places: Mapping[tuple[str, int], int], wrong: Sequence[MemoryRead], table: Table) -> str:
    words = []
    for (bank, bit), count in places.items():
        own = [r for r in wrong if bit in r.bad and r.bank.casefold() in ("", bank)]
        ways = {reading.stuck[bit] for reading in own} - {""}
        how = f" reads {ways.pop()}" if len(ways) == 1 else " reads wrong both ways" if ways else ""
        is_sure = any(reading.bank for reading in own) or len(_banks_of(table, bit)) < 2
        often = f", {count} times" if count > 1 else ""
        unsure = "" if is_sure else "; the bank was not said"
        words.append(f"{_place(bank, bit)}{how or ' is bad'}{often}{unsure}")
    return ", ".join(words)


def _banks_of(table: Table, bit: int) -> list[str]:
    """The banks whose word has a bit."""
    return list(dict.fromkeys(bank for bank, of in table if of == bit))


def _common(readings: Sequence[MemoryRead], table: Table, bits: Sequence[int]) -> list[str]:
    """What several bad bits would have in common, the widest cause first."""
    wrong = [reading for reading in readings if not reading.is_right]
    told: list[str] = []
    if not bits:
        return told
    told += _whole_banks(readings)
    told += _same_in_banks(wrong, bits)
    told += _bridged(wrong, bits)
    told += _unsaid_banks(wrong, table)
    if len(bits) > 1 and not told:
        told += _several(wrong, table, bits)
    missing = [bit for bit in bits if table and not any(of == bit for _, of in table)]
    if missing:
        names = ", ".join(map(str, missing))
        told.append(f"Bit {names} stands in no row of the table.")
    return told


def _whole_banks(readings: Sequence[MemoryRead]) -> list[str]:
    """Banks in which every bit, or all but one, is wrong; and those that answer nothing."""
    by_bank: dict[str, list[MemoryRead]] = {}
    for reading in readings:
        by_bank.setdefault(reading.bank, []).append(reading)
    told = []
    for bank, own in by_bank.items():
        seen = {bit for reading in own for bit in reading.bad}
        if len(seen) >= max(own[0].bits - 1, 2):
            name = f"Bank {bank}" if bank else "The word"
            text = f"{name}: all its bits are bad: its select, its strobes or refresh, a rail of it"
            told.append(f"{text}, or the buffer, before that many chips at once.")
        words = {(r.written, r.read) for r in own if r.read is not None}
        values = {read for _, read in words}
        is_blank = len(words) > 1 and len(values) == 1
        if is_blank and len(seen) > _NIBBLE:
            value = values.pop()
            told.append(f"It reads {value:X} whatever was written: nothing answers there.")
    return told


def _same_in_banks(wrong: Sequence[MemoryRead], bits: Sequence[int]) -> list[str]:
    told = []
    for bit in bits:
        banks = {r.bank.casefold() for r in wrong if r.bank and bit in r.bad}
        is_all = any(len(r.bad) >= max(r.bits - 1, 2) for r in wrong if bit in r.bad)
        if len(banks) > 1 and not is_all:
            told.append(
                f"Bit {bit} is bad in {len(banks)} banks: the buffer or the line of data bit "
                f"{bit}, or a chip in each of them."
            )
    return told


def _unsaid_banks(wrong: Sequence[MemoryRead], table: Table) -> list[str]:
    """Bits that stand in several banks while no bank was said."""
    masks: dict[int, int] = {}
    for bit in {bit for r in wrong if not r.bank for bit in r.bad}:
        count = len(_banks_of(table, bit))
        if count > 1:
            masks[count] = masks.get(count, 0) | 1 << bit
    return [_in_banks(count, mask) for count, mask in sorted(masks.items())]


def _in_banks(count: int, mask: int) -> str:
    bits, is_one = _bit_list(mask), not mask & (mask - 1)
    lines = f"the line of data bit {bits}" if is_one else "their data lines"
    return (
        f"{f'Bit {bits} stands' if is_one else f'Bits {bits} stand'} in {count} banks, and which "
        f"was read is not said: bad in all, it is the buffer or {lines}, or a chip in each."
    )


def _bridged(wrong: Sequence[MemoryRead], bits: Sequence[int]) -> list[str]:
    """Two bits that always read alike, though they were written apart: their lines are joined."""
    known = [(r.written, r.read) for r in wrong if r.written is not None and r.read is not None]
    told: list[str] = []
    if len(bits) > _NIBBLE:
        return told
    for one in bits:
        for other in (bit for bit in bits if bit > one):
            apart = [(w, r) for w, r in known if (w >> one ^ w >> other) & 1]
            alike = [r for _, r in apart if not (r >> one ^ r >> other) & 1]
            if len(apart) > 1 and len(alike) == len(apart):
                told.append(
                    f"Bits {one} and {other} always read alike, though written apart: a bridge "
                    "between their lines."
                )
    return told


def _several(wrong: Sequence[MemoryRead], table: Table, bits: Sequence[int]) -> list[str]:
    refs = {table.get((bank, bit), "") for r in wrong for bit in r.bad
            for bank in _banks(r, table, bit)}  # fmt: skip
    if len(refs) == 1 and refs != {""}:
        return [f"All of these bits are in {refs.pop()}."]
    nibbles = {bit // _NIBBLE for bit in bits}
    names = ", ".join(map(str, bits))
    half = f" (bits {_NIBBLE * min(nibbles)} to {_NIBBLE * min(nibbles) + _NIBBLE - 1} share one)"
    shares = half if len(nibbles) == 1 else ""
    have = f"Bits {names} have in common: the data buffer{shares}"
    return [f"{have}, the bank's select, its strobes and refresh, a rail of its chips."]


def _next(wrong: Sequence[MemoryRead], table: Table, chips: Sequence[NamedChip]) -> str:
    if not wrong:
        return "Write the opposite pattern where bits saw one only, then a test of every address."
    across = _across_banks(wrong, table) or _which_bank(wrong, table, chips)
    if across:
        return across
    if len({bit for reading in wrong for bit in reading.bad}) > 1 and len(chips) != 1:
        return (
            "Read the bank's select and strobes, then every rail at one of its chips, before a "
            "chip is pulled."
        )
    if not chips:
        return "Name the chips: a table of bank, bit and designator."
    return _exchange(chips[0], table)


def _across_banks(wrong: Sequence[MemoryRead], table: Table) -> str:
    """The test that tells a buffer from two chips: a pair exchanged across banks."""
    for bit in sorted({bit for reading in wrong for bit in reading.bad}):
        banks = list(dict.fromkeys(r.bank.casefold() for r in wrong if r.bank and bit in r.bad))
        is_all = any(len(r.bad) >= max(r.bits - 1, 2) for r in wrong if bit in r.bad)
        if len(banks) < 2 or is_all:
            continue
        one, other = banks[:2]
        here = table.get((one, bit))
        there = next(
            ((of, ref) for (bank, of), ref in table.items()
             if bank == other and of != bit and not _is_bad(wrong, bank, of)), None)  # fmt: skip
        if here and there:
            return (
                f"Exchange a pair across the banks: {here} (bank {one}, bit {bit}) with {there[1]} "
                f"(bank {other}, bit {there[0]}). If bit {bit} of bank {one} is right then and bit "
                f"{there[0]} of bank {other} wrong, it is the chips; if bit {bit} stays wrong in "
                "both banks, it is the buffer or the line."
            )
        return (
            f"Exchange a chip of bit {bit} with one of another bit across the banks: if the error "
            "moves, it is the chips; if it stays, the buffer or the line."
        )
    return ""


def _which_bank(wrong: Sequence[MemoryRead], table: Table, chips: Sequence[NamedChip]) -> str:
    """The question of which bank it was, where that decides between chips; "" where it does not."""
    unsaid = {bit for r in wrong if not r.bank for bit in r.bad}
    if len(unsaid) != 1 or len(chips) < 2:
        return ""
    bit = unsaid.pop()
    places = [f"{table[bank, bit]} in bank {bank}" for bank in _banks_of(table, bit)]
    return (
        f"Say in which bank it was: bit {bit} is {' or '.join(places)}. Bad in all of them, it may "
        "be the buffer: exchange a pair across the banks."
    )


def _is_bad(wrong: Sequence[MemoryRead], bank: str, bit: int) -> bool:
    return any(bit in r.bad and r.bank.casefold() in ("", bank) for r in wrong)


def _exchange(chip: NamedChip, table: Table) -> str:
    """The exchange that proves one chip, with a chip of another bit; else with a good one."""
    bank, bit = chip.places[0] if chip.places else ("", -1)
    if len(chip.places) > 1:
        return (
            f"Put a chip that is known good in place of {chip.ref}: gone, it is {chip.ref} or its "
            "contact; still there, its lines."
        )
    partner = next(
        ((of, ref) for (other, of), ref in sorted(table.items())
         if (other, of) != (bank, bit) and other == bank and ref != chip.ref), None)  # fmt: skip
    if partner is None:
        return (
            f"Put a chip that is known good in place of {chip.ref}: gone, it is {chip.ref} or its "
            "contact; still there, its line or its socket."
        )
    return (
        f"Exchange {chip.ref} with {partner[1]} (bit {partner[0]}) and test again: the error moves "
        f"to bit {partner[0]} if {chip.ref} is bad, and stays at bit {bit} if its line or socket "
        "is."
    )


def lacks(readings: Sequence[MemoryRead]) -> tuple[str, ...]:
    """What the words that were written leave untested in their bits, in words."""
    known = [r.written for r in readings if r.written is not None]
    if not known:
        return ()
    full = (1 << max(r.bits for r in readings)) - 1
    high, low = 0, 0
    for written in known:
        high |= written
        low |= ~written & full
    never = (("high", full & ~high), ("low", full & ~low))
    return tuple(f"{_bits_were(bits)} never written {way}" for way, bits in never if bits)


def covers(readings: Sequence[MemoryRead]) -> str:
    """What the words that were written test, and what they do not; "" for none."""
    known = [r for r in readings if r.written is not None]
    if not known:
        return ""
    left = "".join(f"; {text}" for text in lacks(readings))
    count = "1 word tests" if len(known) == 1 else f"{len(known)} words test"
    return (
        f"{count} the data path and those cells{left}. Addresses, refresh and the other cells are "
        "not tested by it."
    )


def _bit_list(mask: int) -> str:
    bits = [bit for bit in range(mask.bit_length()) if mask >> bit & 1]
    if len(bits) > 2 and bits == list(range(bits[0], bits[-1] + 1)):
        return f"{bits[0]} to {bits[-1]}"
    return ", ".join(map(str, bits))


def _bits_were(mask: int) -> str:
    return f"bits {_bit_list(mask)} were" if mask & (mask - 1) else f"bit {_bit_list(mask)} was"


def layout_of(rows: Iterable[tuple[str, int, str]]) -> dict[tuple[str, int], str]:
    """A table of (bank, bit) to chip; raises InputError for a place that is listed twice."""
    layout: dict[tuple[str, int], str] = {}
    for bank, bit, ref in rows:
        key = (bank.casefold(), bit)
        if key in layout:
            raise InputError(f"bank {bank}, bit {bit} is listed twice")
        layout[key] = ref
    return layout
