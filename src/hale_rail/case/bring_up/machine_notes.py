"""The notes of the end of the work that stand, by kind."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.case.file import CaseFile
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote


def notes_of(case: CaseFile, kind: str) -> list[tuple[str, MachineNote, Mapping[str, Any]]]:
    """The notes of a kind that stand, in the order in which they were said."""
    return [
        (key, note, note.body)
        for (of_kind, key), note in case.rows.newest(MACHINE_NOTES).items()
        if of_kind == kind and note.body is not None
    ]
