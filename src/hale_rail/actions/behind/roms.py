"""Dumps of ROMs: kept with the case, as read or as they should be; checksums too."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.actions.change import Change, changing
from hale_rail.case.behind.chips import chip_by_id
from hale_rail.case.behind.roms import kept_dumps
from hale_rail.core.behind.checksums import read_checksum
from hale_rail.core.behind.rom import MOST_BYTES
from hale_rail.core.errors import at_field
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.behind.dumps import read_dump
from hale_rail.store import documents
from hale_rail.store.database import Store
from hale_rail.store.documents import DOCUMENTS, DUMP, Document
from hale_rail.store.hunt_notes import HUNT_NOTES, ROM, HuntNote

#: a dump as text of records is larger than its bytes
MAX_FILE = 3 * MOST_BYTES
_MOST_NAME = 60


def keep_dump(
    store: Store,
    number: str,
    part_id: int,
    data: bytes,
    name: str,
    *,
    is_good: bool,
    at: str | None = None,
) -> None:
    """Keep a dump of a chip, as it was read or (`is_good`) as it should be.

    What it is goes by its content. Raises InputError naming the field.
    """
    if len(data) > MAX_FILE:
        raise InputError(f"{name} is larger than {MAX_FILE >> 20} MB.", field="dump")
    with at_field("dump"):
        size = len(read_dump(data))
    sha256 = documents.put_file(store.folder, data, DUMP)
    with changing(store, number, at) as change:
        ref = _ref(change, part_id)
        what = "as it should be" if is_good else "as read"
        log_id = change.log("edited", f"Dump of {ref}, {what}: {name[:_MOST_NAME]}, {size} bytes")
        title = name[:_MOST_NAME] or "dump"
        change.append(DOCUMENTS, log_id, Document(change.case_id, title, ref, DUMP, sha256, None))
        _note(change, log_id, part_id, {"name": title, "sha256": sha256, "is_good": is_good})


def keep_checksum(
    store: Store, number: str, part_id: int, checksum: str, at: str | None = None
) -> None:
    """Keep the checksum that a chip's dump should have; raises InputError for what is none."""
    with at_field("checksum"):
        read_checksum(checksum)
    with changing(store, number, at) as change:
        ref, text = _ref(change, part_id), checksum.strip()
        log_id = change.log("edited", f"Checksum that {ref} should have: {text}")
        _note(change, log_id, part_id, {"checksum": text, "is_good": True})


def drop_dump(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Take a dump or a checksum off; its file stays with the case."""
    with changing(store, number, at) as change:
        kept = next((dump for dump in kept_dumps(change.file) if dump.key == key), None)
        if kept is None:
            raise NotFoundError("That dump is no longer there.")
        log_id = change.log("edited", f"Dump {kept.name or kept.checksum} taken off")
        change.append(HUNT_NOTES, log_id, HuntNote(ROM, key, None))


def _ref(change: Change, part_id: int) -> str:
    chip = chip_by_id(change.file).get(part_id)
    if chip is None:
        raise NotFoundError("There is no such chip on this unit.")
    return chip.ref


def _note(change: Change, log_id: int, part_id: int, body: Mapping[str, Any]) -> None:
    key = str(1 + len({note.key for note in change.file.rows.all(HUNT_NOTES) if note.kind == ROM}))
    change.append(HUNT_NOTES, log_id, HuntNote(ROM, key, body, part_id))
