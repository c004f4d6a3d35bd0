"""The guard: what stands before cold work while the unit is not verified dead."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.case.energy import energy
from hale_rail.case.file import CaseFile
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import STORE
from hale_rail.core.safety.energy import Energy


@dataclass(frozen=True)
class GuardPage:
    """The store to read next (None: the sheet has none left to read), where, and what it read.

    `asks_plug`: no removal of power is logged yet; `standing_id`: the reading standing there.
    """

    energy: Energy
    limit_volt: float
    store: Part | None
    point_key: str
    standing_id: int | None
    last_volt: float | None
    asks_plug: bool


def guard_page(case: CaseFile) -> GuardPage:
    """What the guard asks for now."""
    found = energy(case)
    waiting = found.next_store
    part = case.sheet.part(waiting.store) if waiting else None
    key = part.point(STORE).key if part else ""
    standing = case.rows.standing.get(key)
    return GuardPage(
        found.energy,
        found.limit_volt,
        part,
        key,
        standing.id if standing else None,
        waiting.volt if waiting else None,
        found.energy is not Energy.WAITING,
    )
