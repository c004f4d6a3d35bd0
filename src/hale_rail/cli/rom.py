"""Compare a ROM's dump with another, or with a checksum."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, naming
from hale_rail.core.behind.rom import RomSays, against_sum, compare
from hale_rail.errors import InputError
from hale_rail.formats.behind.dumps import read_dump_file


def rom_json(says: RomSays) -> dict[str, Any]:
    """A comparison as the command's JSON contract has it."""
    return {
        "equal": says.equal,
        "size": says.size,
        "differing": says.differing,
        "bits": {
            str(bit): {"differing": found.differing, "reads": found.reads}
            for bit, found in says.bits.items()
        },
        "address_lines": {
            name: {"stuck": line.stuck, "explains": line.explains, "how": line.how}
            for name, line in says.address_lines.items()
        },
        "text": says.text,
    }


def compared(one: Path, other: Path | None, checksum: str) -> RomSays:
    """A dump against another one or a checksum; raises InputError for neither, or both."""
    if (other is None) == (not checksum):
        raise InputError("Give a second dump, or a checksum with --sum: one of the two.")
    dump = read_dump_file(one)
    if other is None:
        with naming("--sum"):
            return against_sum(dump, checksum)
    return compare(dump, read_dump_file(other))


@json_command
@click.argument("one", metavar="A", type=FILE)
@click.argument("other", metavar="[B]", type=FILE, required=False)
@click.option("--sum", "checksum", default="", metavar="SUM",
              help="A sum, CRC-32 or SHA-1 instead of B: 1A2B, crc32 89ABCDEF.")  # fmt: skip
def command(one: Path, other: Path | None, checksum: str) -> Answer:
    """Compare A, a dump as it was read, with B, what it should be, by data bit and address line.

    Each is binary, Intel HEX or Motorola S-records. Exits 0 whether they are equal or not.
    """
    says = compared(one, other, checksum)
    return Answer(rom_json(says), says.text)
