"""The log: everything that was done, newest first, a page at a time."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.stages.stage import PageQuery, Stage, StageState, Status
from hale_rail.store import cases, log
from hale_rail.store.database import Store
from hale_rail.store.log import LogEntry

PAGE = 60
#: of what arrived meanwhile, this many are told one by one
NEWS = 3
_MOST_DIGITS = 15


class LogLine(Struct, frozen=True):
    """An entry; `is_struck`: it is of a reading put aside; `can_strike`: of one that stands."""

    entry: LogEntry
    is_struck: bool
    can_strike: bool


class LogPage(Struct, frozen=True):
    """Some entries, newest first, of how many; `older`: what asks for those before them, "" for
    none; `is_first`: nothing newer was left out; `has_benches`: some say which bench made them."""

    lines: tuple[LogLine, ...]
    total: int
    older: str
    is_first: bool
    has_benches: bool


def state(_: CaseFile) -> StageState:
    """It stands beside the order of work."""
    return StageState(Status.OPEN, "")


def page(case: CaseFile, query: PageQuery) -> LogPage:
    """The newest entries, or those before one; standing readings can be struck out from here."""
    before = int(query.by) if query.by.isdecimal() and len(query.by) <= _MOST_DIGITS else 0
    aside, connection = case.rows.aside, case.store.read()
    entries = log.page_of(connection, case.case.id, PAGE + 1, before)
    shown = entries[:PAGE]
    return LogPage(
        tuple(
            LogLine(
                entry,
                entry.reading_id in aside,
                entry.reading_id is not None and entry.reading_id not in aside,
            )
            for entry in shown
        ),
        log.count(connection, case.case.id),
        str(shown[-1].id) if len(entries) > PAGE else "",
        not before,
        any(entry.bench for entry in shown),
    )


def newest(store: Store, number: str) -> int:
    """The id of a case's newest entry, 0 where there is none or no such case."""
    return log.newest(store.read(), number)


def news(store: Store, number: str, after: int) -> tuple[list[LogEntry], int]:
    """The last entries after one, oldest first, and how many there are; raises NotFoundError."""
    connection = store.read()
    if log.newest(connection, number) == after:
        return [], 0
    case_id = cases.by_number(connection, number).id
    return log.after(connection, case_id, after, NEWS), log.count(connection, case_id, after)


STAGE = Stage(key="log", name="Log", templates="frame/log", state=state, page=page)
