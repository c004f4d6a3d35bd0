"""What a person says of positions for the recap, and what was done at the board, step by step."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.store.append_only import AppendedRow, AppendOnly, Strikes


class RecapNote(AppendedRow, frozen=True):
    """What was said of a part, or (None) of a board: fields by name."""

    part_id: int | None
    board: str
    body: Mapping[str, Any]


class ReworkStep(AppendedRow, frozen=True):
    """One thing done at a position, or (`part_id` None) to the whole board."""

    part_id: int | None
    step: str
    note: str = ""


RECAP_NOTES = AppendOnly(
    "recap_note", RecapNote, newest_by=lambda row: row.board if row.part_id is None else row.part_id
)
REWORK_STRIKES = Strikes("rework_strike", "step_id")
REWORK_STEPS = AppendOnly("rework_step", ReworkStep, strikes=REWORK_STRIKES)
