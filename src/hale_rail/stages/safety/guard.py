"""The guard: what is before cold work while the unit is not verified dead."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.safety.energy import energy
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.procedures import STORE
from hale_rail.core.safety.energy import Energy


class GuardPage(Struct, frozen=True):
    """The store to read next (None: the sheet names none), where, and what it read.

    `asks_plug`: no removal of power is logged yet; `standing_id`: the reading standing there;
    `choices`: where volts can be read, by the point's key, while no store is known; `takes_reason`:
    a written reason would pass.
    """

    energy: Energy
    limit_volt: float
    store: Part | None
    point_key: str
    standing_id: int | None
    last_volt: float | None
    asks_plug: bool
    choices: tuple[tuple[str, Part], ...]
    takes_reason: bool


def guard_page(case: CaseFile) -> GuardPage:
    """What the guard asks for now."""
    state = energy(case)
    waiting = state.next_store
    part = case.sheet.part(waiting.store) if waiting else None
    key = part.point(STORE).key if part else ""
    standing = case.rows.standing.get(key)
    choices = () if part else _choices(case)
    return GuardPage(
        state.energy,
        state.limit_volt,
        part,
        key,
        standing.id if standing else None,
        waiting.volt if waiting else None,
        not state.is_off,
        choices,
        state.takes_reason,
    )


def _choices(case: CaseFile) -> tuple[tuple[str, Part], ...]:
    """Every part across which volts can be read, in power order."""
    return tuple(
        (part.point(STORE).key, part)
        for part in case.sheet.in_power_order
        if Ask(STORE) in part.all_asks
    )
