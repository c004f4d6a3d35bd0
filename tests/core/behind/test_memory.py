"""Bad bits and the chips they name, against brute force; words that mean two numbers are asked."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.core.behind.memory import MemoryRead, memory_says
from hale_rail.core.behind.memory_text import base_of, read_memory
from hale_rail.core.errors import InputError
from tests.sizes import examples

TABLE = {(bank, bit): f"U{5 + 8 * int(bank) + bit}" for bank in "01" for bit in range(8)}
WIDE = {("0", bit): f"IC{1 + bit // 4}" for bit in range(8)}


@settings(max_examples=examples(200))
@given(st.lists(st.tuples(st.sampled_from("01"), st.integers(0, 255), st.integers(0, 255)),
                min_size=1, max_size=6))  # fmt: skip
def test_chips_are_those_whose_bit_was_once_wrong(rows: list[tuple[str, int, int]]) -> None:
    readings = [MemoryRead(bank, 8, written, read) for bank, written, read in rows]
    wrong = {(bank, bit) for bank, written, read in rows for bit in range(8)
             if (written >> bit & 1) != (read >> bit & 1)}  # fmt: skip
    says = memory_says(readings, TABLE)
    assert {chip.ref for chip in says.chips} == {TABLE[place] for place in wrong}
    assert set(says.bits) == {bit for _, bit in wrong}
    assert says.next


@settings(max_examples=examples(100))
@given(st.integers(0, 255), st.integers(0, 255))
def test_a_word_is_the_same_in_every_spelling(written: int, read: int) -> None:
    spellings = (
        f"0x{written:X}:0x{read:X}", f"${written:x} ${read:x}", f"&H{written:X}:&H{read:X}",
        f"{written:X}h {read:X}h", f"{written}.:{read}.", f"0b{written:b} 0b{read:b}",
        f"wrote 0x{written:X} read 0x{read:X}", f"{written:X}:{read:X} hex",
        f"{written} {read} dec",
    )  # fmt: skip
    bad = {read_memory(text).bad for text in spellings}
    assert bad == {tuple(bit for bit in range(8) if (written ^ read) >> bit & 1)}


#: text -> its bad bits, or words of what is asked back
WORDS: dict[str, tuple[int, ...] | str] = {
    "FF:EF": (4,),
    "16:37": "hex or decimal",
    "16:17": (0,),
    "128:0": (7,),
    "80:00": "hex or decimal",
    "00:08": (3,),
    "255:239": (4,),
    "10100101:10100111": (1,),
    "1,128": "one number with a comma",
    "1,A0": "two words",
    "mask 08": (3,),
    "08": (3,),
    "mask 16": "hex or decimal",
    "bit 3": (3,),
    "bits 3, 5": (3, 5),
    "bit 9": "no bit 9",
    "FF:1FF": "“1FF” has more than 8 bits",
    "FFF:0": "“FFF” has more than 8 bits",
    "128:FF": "“128” and “FF” are in no one base",
    "pass": (),
    "FF:EF:00": "two words",
    "G7:00": "not a data word",
    "": "not a data word",
    "①:0": "not a data word",
}


@pytest.mark.parametrize("text", WORDS)
def test_a_word_is_read_or_asked_back_and_never_guessed(text: str) -> None:
    meant = WORDS[text]
    if isinstance(meant, tuple):
        assert read_memory(text).bad == meant
    else:
        with pytest.raises(InputError, match=meant):
            read_memory(text)


def test_one_test_prints_in_one_base() -> None:
    words = ("55:45", "AA:BA")
    assert {read_memory(text, base=base_of(words)).bad for text in words} == {(4,)}
    assert base_of(("55:45", "16:17")) is None


def test_the_chip_that_the_test_names_is_taken_and_another_asked_back() -> None:
    refs = (*TABLE.values(), "A5")
    named = memory_says([read_memory("U12", refs=refs)], TABLE)
    assert [chip.ref for chip in named.chips] == ["U12"]
    assert named.bits == (7,)
    for text, words in (("U99", "no row of the table"), ("A5", "or a data word")):
        with pytest.raises(InputError, match=words):
            read_memory(text, refs=refs)


#: words (with their bank), what is common to the bits, what comes next
COMMON = {
    "all bits of a bank": (("bank 0 FF 00",), "all its bits are bad", "select and strobes"),
    "one value whatever was written": (
        ("bank 0 0xAA 0xFF", "bank 0 0x55 0xFF"), "reads FF whatever", "select and strobes"),
    "two bits that follow one another": (
        ("bank 0 0x08 0x18", "bank 0 0x10 0x18"), "Bits 3 and 4 always read alike", "ohms between"),
    "two bits of one nibble": (("bank 0 FF FC",), "bits 0 to 3 share one", "select and strobes"),
    "the same bit in both banks": (
        ("bank 0 FF F7", "bank 1 FF F7"), "the buffer or the line of data bit 3",
        "across the banks: U8 (bank 0, bit 3) with U13 (bank 1, bit 0)"),
    "a bank that was not said": (("FF F7",), "", "Say in which bank"),
}  # fmt: skip


@pytest.mark.parametrize("case", COMMON.values(), ids=COMMON.keys())
def test_what_bits_have_in_common_never_hides_their_chips(
    case: tuple[tuple[str, ...], str, str],
) -> None:
    texts, common, then = case
    says = memory_says([read_memory(text) for text in texts], TABLE)
    assert common in " ".join(says.common)
    assert then in says.next
    assert {place for chip in says.chips for _, place in chip.places} == set(says.bits)


def test_bits_of_one_wide_chip_are_that_chip() -> None:
    says = memory_says([read_memory("FF F9")], WIDE)
    assert [chip.ref for chip in says.chips] == ["IC1"]
    assert says.common == ("All of these bits are in IC1.",)
