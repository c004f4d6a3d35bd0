"""Every table to which a case's rows are only added, in the order in which a bundle has them."""

from __future__ import annotations

from typing import Any

from hale_rail.store.append_only import AppendOnly
from hale_rail.store.bad_parts import BAD_PARTS
from hale_rail.store.board_marks import BOARD_MARKS
from hale_rail.store.board_views import BOARD_VIEWS, PHOTO_MARKS
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.hunt_notes import HUNT_NOTES
from hale_rail.store.looks import LOOKS
from hale_rail.store.machine_notes import MACHINE_NOTES
from hale_rail.store.photos import PHOTOS
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.power_steps import POWER_CHOICES, POWER_GOODS, POWER_STEPS
from hale_rail.store.practice import PRACTICE, PRACTICE_ACTS
from hale_rail.store.readings import READING_STRIKES
from hale_rail.store.reports import ISSUED_REPORTS
from hale_rail.store.rework import RECAP_NOTES, REWORK_STEPS, REWORK_STRIKES
from hale_rail.store.soaks import SOAK_ROWS, SOAK_STRIKES
from hale_rail.store.statements import STATEMENTS
from hale_rail.store.waits import CASE_WAITS
from hale_rail.store.waves import WAVE_RECORDS, WAVE_SETTINGS

APPENDED: tuple[AppendOnly[Any], ...] = (
    READING_STRIKES,
    LOOKS,
    POWER_EVENTS,
    PART_DECISIONS,
    STATEMENTS,
    BOARD_MARKS,
    PHOTOS,
    WAVE_RECORDS,
    WAVE_SETTINGS,
    ISSUED_REPORTS,
    RECAP_NOTES,
    REWORK_STEPS,
    REWORK_STRIKES,
    BAD_PARTS,
    POWER_STEPS,
    POWER_CHOICES,
    POWER_GOODS,
    MACHINE_NOTES,
    SOAK_ROWS,
    SOAK_STRIKES,
    PRACTICE,
    PRACTICE_ACTS,
    CASE_WAITS,
    BOARD_VIEWS,
    PHOTO_MARKS,
    HUNT_NOTES,
)
