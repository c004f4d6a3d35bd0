"""What is said behind the supply beside readings: appended, the newest of a kind and key counts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.store.append_only import AppendedRow, AppendOnly

ROM, SYMPTOM, APART = "rom", "symptom", "apart"


class HuntNote(AppendedRow, frozen=True):
    """A note by kind and key; `body` its fields, None where it was taken back.

    `part_id` the ROM that a dump is of, `photo_id` the photo of what came off.
    """

    kind: str
    key: str
    body: Mapping[str, Any] | None
    part_id: int | None = None
    photo_id: int | None = None


HUNT_NOTES = AppendOnly(
    "hunt_note",
    HuntNote,
    newest_by=lambda row: (row.kind, row.key),
    is_taken_back=lambda row: row.body is None,
)
