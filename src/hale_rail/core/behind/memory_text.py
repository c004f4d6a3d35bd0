"""Reads one line of a memory test: `FF EF`, `bank 1 FF:EF`, `10` or `mask 10`, `U12`, `pass`."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable

from hale_rail.core.behind.memory import MemoryRead
from hale_rail.core.behind.words import MOST_BITS, Base, numbers, read_written
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import has_odd_figure, tidy

USUAL_BITS = 8
_MASK = re.compile(r"(?:mask|xor)\s*[:=]?\s*(\S.*)", re.IGNORECASE)
_BIT = re.compile(r"bits?\s+([0-9]{1,2}(?:\s*[,&]?\s*[0-9]{1,2})*)", re.IGNORECASE)
_BANK = re.compile(r"bank\s+(\S{1,12})\s+(.*)", re.IGNORECASE)
_BASE = re.compile(r"(.*\S)\s+(hex|decimal|dec)", re.IGNORECASE)
_LEAD = re.compile(r"\b(?:wrote|written|write|read|reads|exp(?:ected)?|got|act(?:ual)?)\b[:=]?",
                   re.IGNORECASE)  # fmt: skip
_REF = re.compile(r"(?:U|IC|M|Z|Q) ?[0-9]{1,4}[A-Za-z]?", re.IGNORECASE)
_GOOD = ("pass", "ok", "good", "passes", "passed", "no error")
_BASES = {"hex": Base.HEX, "decimal": Base.DECIMAL, "dec": Base.DECIMAL}


def read_memory(
    text: str, *, bits: int = USUAL_BITS, bank: str = "", refs: Collection[str] = (),
    base: Base | None = None,
) -> MemoryRead:  # fmt: skip
    """One place of a memory test as it is typed; raises InputError.

    `bits` the width of a word, `refs` the designators that a test may name, `base` the base that a
    person chose for bare words.
    """
    if not 1 <= bits <= MOST_BITS:
        raise InputError(f"A word has 1 to {MOST_BITS} bits.")
    clean = "" if has_odd_figure(text) else tidy(text)
    if not clean:
        raise InputError(f"“{text.strip()[:20]}” is not a data word: write FF:EF, or mask 10.")
    in_bank = _BANK.fullmatch(clean)
    if in_bank:
        bank, clean = in_bank[1], in_bank[2]
    said = _BASE.fullmatch(clean)
    if said:
        base, clean = _BASES[said[2].lower()], said[1]
    if clean.lower() in _GOOD:
        return MemoryRead(bank, bits)
    by_bits = _of_bits(clean, bits, bank, base)
    if by_bits:
        return by_bits
    named = _named(clean, refs)
    if named:
        return MemoryRead(bank, bits, ref=named)
    return _of_words(clean, bits, bank, base)


def base_of(texts: Iterable[str]) -> Base | None:
    """The base that words of one test show by a sign or a letter; None where none does, or two do.

    A test prints all its words in one base.
    """
    found = {base for text in texts for base in _marked_bases(text)}
    return found.pop() if len(found) == 1 else None


def _marked_bases(text: str) -> set[Base]:
    said = _BASE.fullmatch(tidy(text))
    if said:
        return {_BASES[said[2].lower()]}
    in_bank = _BANK.fullmatch(tidy(text))
    bases = set()
    for word in _split(in_bank[2] if in_bank else tidy(text)):
        try:
            written = read_written(word)
        except InputError:
            continue
        bases |= set(written.values) if written.is_marked else set()
    return bases


def _split(clean: str) -> list[str]:
    return [word for word in re.split(r"[:;/]|->|\s+", _LEAD.sub(" ", clean).strip()) if word]


def _named(clean: str, refs: Collection[str]) -> str:
    """The chip that the test names; one that could be a data word as well is asked back."""
    wanted = clean.replace(" ", "").upper()
    known = next((ref for ref in refs if ref.upper() == wanted), "")
    if known and re.fullmatch(r"[0-9A-F]+", wanted):
        raise InputError(
            f"“{clean}”: the chip {known}, or a data word? Write 0x{wanted} for a word."
        )
    is_name = bool(_REF.fullmatch(clean))
    if known or (is_name and not refs):
        return known or wanted
    if is_name:
        raise InputError(f"{wanted} stands in no row of the table.")
    return ""


def _of_bits(clean: str, bits: int, bank: str, base: Base | None) -> MemoryRead | None:
    """`mask 10` or `bit 4`: bad bits without the words."""
    bit = _BIT.fullmatch(clean)
    mask = _MASK.fullmatch(clean)
    if bit:
        listed = [int(figures) for figures in re.findall(r"[0-9]+", bit[1])]
        if max(listed) >= bits:
            raise InputError(f"There is no bit {max(listed)}: the word has {bits}.")
        return MemoryRead(bank, bits, mask=sum(1 << one for one in set(listed)))
    if mask:
        return MemoryRead(bank, bits, mask=numbers([read_written(mask[1])], bits, base)[0])
    return None


def _of_words(clean: str, bits: int, bank: str, base: Base | None) -> MemoryRead:
    words = _split(clean)
    if len(words) == 1:
        return MemoryRead(bank, bits, mask=numbers([read_written(words[0])], bits, base)[0])
    if len(words) != 2:
        raise InputError(f"“{clean[:30]}”: two words, written and read, like FF:EF.")
    written, read = numbers([read_written(word) for word in words], bits, base)
    return MemoryRead(bank, bits, written, read)
