"""Name the chips of a memory test's bad bits."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, naming, read_with
from hale_rail.core.behind.memory import MemorySays, Table, memory_says
from hale_rail.core.behind.memory_text import USUAL_BITS, base_of, read_memory
from hale_rail.core.behind.words import Base
from hale_rail.formats.readings.machine_lists import read_layout

_BASES = {base.value: base for base in Base}


def memory_json(says: MemorySays) -> dict[str, Any]:
    """What a test says as the command's JSON contract has it."""
    return {
        "bits": list(says.bits),
        "chips": [{"ref": chip.ref, "why": chip.why} for chip in says.chips],
        "common": list(says.common),
        "next": says.next,
        "covers": says.covers,
    }


def width_of(table: Table, bits: int | None = None) -> int:
    """The bits of a word: as given, else what the table needs, eight at least."""
    return bits or max(USUAL_BITS, 1 + max((bit for _, bit in table), default=0))


def tested(table: Table, words: Sequence[str], bits: int | None, base: str) -> MemorySays:
    """What words of a test say; raises InputError naming the word."""
    meant = _BASES.get(base) or base_of(words)
    readings = []
    for word in words:
        with naming(word):
            readings.append(_read(word, width_of(table, bits), table, meant))
    return memory_says(readings, table)


def _read(word: str, bits: int, table: Table, base: Base | None) -> Any:
    """`FF:EF`, and with the bank before it `1:FF:EF`."""
    bank, colon, rest = word.partition(":")
    if colon and ":" in rest:
        return read_memory(rest, bits=bits, bank=bank, refs=table.values(), base=base)
    return read_memory(word, bits=bits, refs=table.values(), base=base)


def in_words(says: MemorySays) -> str:
    """The same for a person."""
    lines = [f"{chip.ref}: {chip.why}." for chip in says.chips] or ["No chip is named."]
    lines += [*says.common, says.covers, f"Next: {says.next}"]
    return "\n".join(filter(None, lines))


@json_command
@click.argument("table", type=FILE)
@click.argument("words", metavar="WRITTEN:READ...", nargs=-1, required=True)
@click.option("--bits", type=click.IntRange(1, 64), metavar="8", help="Bits of a word.")
@click.option("--base", type=click.Choice(sorted(_BASES)), default=None,
              help="The base of bare words.")  # fmt: skip
def command(table: Path, words: tuple[str, ...], bits: int | None, base: str | None) -> Answer:
    """Name the chips of bad bits: TABLE.csv with bank,bit,ref, and words as written and read.

    A word is FF:EF, with its bank 1:FF:EF, a mask of bad bits alone, or the chip that the test
    names. Bare figures that would be other bits in hexadecimal and decimal are asked back.
    """
    says = tested(read_with(table, read_layout), words, bits, base or "")
    return Answer(memory_json(says), in_words(says))
