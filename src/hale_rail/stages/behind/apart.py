"""Taken apart: a list written while it comes off, walked backwards when it goes together."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.behind.apart import TakenOff, apart, holding_power, off_still
from hale_rail.case.file import CaseFile
from hale_rail.case.words import counted
from hale_rail.core.behind.apart import Loose
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency


class ApartPage(Struct, frozen=True):
    """What came off, what is off still in the order of putting together, what holds power back."""

    all: tuple[TakenOff, ...]
    off: tuple[TakenOff, ...]
    holding: tuple[TakenOff, ...]
    kinds: tuple[Loose, ...]

    @property
    def next(self) -> TakenOff | None:
        """What goes back first."""
        return self.off[0] if self.off else None


def page(case: CaseFile, _: PageQuery) -> ApartPage:
    """The list as it is now."""
    return ApartPage(apart(case), off_still(case), holding_power(case), tuple(Loose))


def state(case: CaseFile) -> StageState:
    """Open while something is off."""
    if not apart(case):
        return StageState(Status.OPEN, "")
    left = len(off_still(case))
    return StageState(Status.OPEN if left else Status.DONE, f"{left} off" if left else "together")


def next_step(case: CaseFile) -> StageStep | None:
    """Earth wires and shields once everything else was begun to go back."""
    holding = holding_power(case)
    is_closing = len(off_still(case)) < len(apart(case))
    if holding and is_closing:
        text = (
            f"{counted(len(holding), 'earth wire or shield', 'earth wires or shields')} still off"
        )
        return StageStep(text, Urgency.WORK)
    return None


STAGE = Stage(
    key="apart",
    name="Taken apart",
    templates="behind/apart",
    state=state,
    page=page,
    next_step=next_step,
    begun=lambda case: bool(apart(case)),
    under="machine",
)
