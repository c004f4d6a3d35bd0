"""The facet of ROMs: dumps that were kept, what they should be, and how they compare."""

from __future__ import annotations

from functools import partial

from msgspec import Struct

from hale_rail.case.behind.chips import chip_by_id
from hale_rail.case.file import CaseFile, facet
from hale_rail.core.behind.evidence import RomRead
from hale_rail.core.behind.rom import RomSays, against_sum, compare
from hale_rail.core.errors import InputError
from hale_rail.core.procedures import ROM
from hale_rail.core.procedures.behind import ROM_BLANK, ROM_EQUAL
from hale_rail.formats.behind.dumps import read_dump
from hale_rail.store import documents
from hale_rail.store.documents import DUMP
from hale_rail.store.hunt_notes import HUNT_NOTES
from hale_rail.store.hunt_notes import ROM as ROM_NOTE


class KeptDump(Struct, frozen=True):
    """A dump that was kept: its note's key, of which chip, its file's name and hash, when.

    `is_good`: what the chip should hold; `checksum` stands for such a dump where there is none.
    """

    key: str
    part_id: int
    name: str
    sha256: str
    is_good: bool
    at: str
    checksum: str = ""


class RomFacts(Struct, frozen=True):
    """A ROM's dump as read, what it should be (either None), and how they compare."""

    part_id: int
    ref: str
    read: KeptDump | None
    good: KeptDump | None
    says: RomSays | None
    problem: str = ""


@facet
def kept_dumps(case: CaseFile) -> tuple[KeptDump, ...]:
    """Every dump and checksum of the case that stands, oldest first."""
    kept = []
    for (kind, key), note in case.rows.newest(HUNT_NOTES).items():
        body = note.body
        if kind != ROM_NOTE or body is None or case.sheet.part(note.part_id) is None:
            continue
        kept.append(
            KeptDump(key, note.part_id or 0, str(body.get("name", "")),
                     str(body.get("sha256", "")), bool(body.get("is_good")), note.at,
                     str(body.get("checksum", "")))
        )  # fmt: skip
    return tuple(kept)


@facet
def roms(case: CaseFile) -> tuple[RomFacts, ...]:
    """The ROMs of which something was kept, each with its newest dump and what it should be."""
    return tuple(
        _facts(case, part_id) for part_id in dict.fromkeys(d.part_id for d in kept_dumps(case))
    )


def _facts(case: CaseFile, part_id: int) -> RomFacts:
    own = [dump for dump in kept_dumps(case) if dump.part_id == part_id]
    read = next((d for d in reversed(own) if not d.is_good), None)
    good = next((d for d in reversed(own) if d.is_good), None)
    part = case.sheet.part(part_id)
    chip = chip_by_id(case).get(part_id)
    ref = chip.ref if chip else part.ref if part else ""
    if read is None or good is None:
        return RomFacts(part_id, ref, read, good, None)
    follows_from = (read.sha256, good.sha256, good.checksum)
    says, problem = case.keep(("rom", part_id), follows_from, partial(_compared, case, read, good))
    return RomFacts(part_id, ref, read, good, says, problem)


def _compared(case: CaseFile, read: KeptDump, good: KeptDump) -> tuple[RomSays | None, str]:
    try:
        dump = dump_of(case, read)
        if good.checksum:
            return against_sum(dump, good.checksum), ""
        return compare(dump, dump_of(case, good)), ""
    except InputError as error:
        return None, str(error)


def dump_of(case: CaseFile, kept: KeptDump) -> bytes:
    """The bytes of a kept dump; raises InputError for a file that is gone."""
    path = documents.path_of(case.store.folder, kept.sha256, DUMP)
    if not path.exists():
        raise InputError(f"The dump {kept.name} is missing from the data folder.")
    return read_dump(path.read_bytes())


@facet
def rom_reads(case: CaseFile) -> tuple[RomRead, ...]:
    """What is known of ROMs: by dumps, else by what a person's own reader said."""
    by_dump = {r.part_id: RomRead(r.ref, r.says) for r in roms(case) if r.says}
    told = {}
    for reading in case.rows.standing.values():
        chip = chip_by_id(case).get(reading.target.part_id or 0)
        if reading.procedure is ROM and chip and chip.id not in by_dump:
            word, _, rest = reading.typed.strip().partition(" ")
            text = f"By a reader of one's own: {word.lower()} {rest}".strip() + "."
            if word.lower() == ROM_BLANK:
                text = "Blank, by a reader of one's own."
            is_equal = word.lower() == ROM_EQUAL
            told[chip.id] = RomRead(chip.ref, RomSays(is_equal, 0, None, {}, {}, text))
    return (*by_dump.values(), *told.values())
