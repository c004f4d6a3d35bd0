"""The log: everything that was done, newest first."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.case.file import CaseFile
from hale_rail.case.history import entries
from hale_rail.stages.stage import Asked, Stage, StageState, Status
from hale_rail.store.log import Entry


@dataclass(frozen=True)
class LogLine:
    """An entry; `is_struck`: it is of a reading put aside; `can_strike`: of one that stands."""

    entry: Entry
    is_struck: bool
    can_strike: bool


@dataclass(frozen=True)
class LogPage:
    """The entries, newest first."""

    lines: tuple[LogLine, ...]


def state(_: CaseFile) -> StageState:
    """It stands beside the order of work."""
    return StageState(Status.OPEN, "")


def page(case: CaseFile, _: Asked) -> LogPage:
    """Every entry; standing readings can be struck out from here."""
    aside = case.rows.aside
    return LogPage(
        tuple(
            LogLine(
                entry,
                entry.reading_id in aside,
                entry.reading_id is not None and entry.reading_id not in aside,
            )
            for entry in reversed(entries(case))
        )
    )


STAGE = Stage(key="log", name="Log", state=state, page=page)
