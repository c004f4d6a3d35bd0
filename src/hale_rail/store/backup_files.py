"""The files in `backups/`: their names, which are good, which of them are kept.

A backup that is damaged, or holds far less than the newest good one, is named doubtful: it never
takes the place of a good one.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from shlex import quote

FOLDER = "backups"
DAYS_KEPT, WEEKS_KEPT = 10, 8
#: at most this many of one day
_OF_A_DAY = 10
DOUBT = (
    "The newest backup is doubtful: damaged, or far smaller than the one before. No older one was "
    "removed for it. See that this is the workshop you mean; `hale-rail check` says what is wrong."
)
_GOOD, _DOUBTFUL = "hale-rail", "doubtful"
_STAMP = "%Y%m%dT%H%M%S%f"


def new_name(folder: Path, *, is_doubtful: bool = False, at: datetime | None = None) -> Path:
    """Where a backup made now goes."""
    stamp = (at or datetime.now(UTC)).strftime(_STAMP)
    return folder / FOLDER / f"{_DOUBTFUL if is_doubtful else _GOOD}-{stamp}.db"


def moment(path: Path) -> datetime | None:
    """When a backup was made, by its name; None for a file of another name."""
    try:
        return datetime.strptime(path.stem.rpartition("-")[2], _STAMP).replace(tzinfo=UTC)
    except ValueError:
        return None


def good(folder: Path) -> list[Path]:
    """Good backups of a data folder, oldest first."""
    return _named(folder, _GOOD)


def newest_good(folder: Path) -> Path | None:
    """The newest good backup."""
    return next(reversed(good(folder)), None)


def newest(folder: Path) -> Path | None:
    """The newest backup, good or doubtful."""
    paths = [*_named(folder, _GOOD), *_named(folder, _DOUBTFUL)]
    return max(paths, key=lambda path: path.stem.rpartition("-")[2], default=None)


def moments(folder: Path) -> list[datetime]:
    """When each backup was made, good or doubtful."""
    moments = [moment(path) for path in (*_named(folder, _GOOD), *_named(folder, _DOUBTFUL))]
    return [at for at in moments if at]


def is_doubtful(path: Path) -> bool:
    """True for a backup that is damaged or holds far less than the one before it."""
    return path.name.startswith(_DOUBTFUL)


def _named(folder: Path, name: str) -> list[Path]:
    return sorted(path for path in (folder / FOLDER).glob(f"{name}-*.db") if moment(path))


def kept(moments: Sequence[datetime]) -> set[datetime]:
    """Which backups stay: the newest of ten days and of eight weeks, and those of the last day."""
    newest_first = sorted(moments, reverse=True)
    datetimes: set[datetime] = set()
    for many, period in ((DAYS_KEPT, _day), (WEEKS_KEPT, _week)):
        newest = {period(at): at for at in sorted(moments)}
        datetimes |= {newest[key] for key in sorted(newest)[-many:]}
    last_day = [at for at in newest_first if _day(at) == _day(newest_first[0])]
    return datetimes | set(last_day[:_OF_A_DAY])


def _day(at: datetime) -> tuple[int, ...]:
    return (at.year, at.month, at.day)


def _week(at: datetime) -> tuple[int, ...]:
    year, week, _ = at.isocalendar()
    return (year, week)


def rotate(folder: Path, *, is_doubtful: bool = False) -> None:
    """Delete what is not kept of the good backups, or of the doubtful ones."""
    named = {moment(path): path for path in _named(folder, _DOUBTFUL if is_doubtful else _GOOD)}
    stay = kept([at for at in named if at])
    for at, path in named.items():
        if at not in stay:
            path.unlink(missing_ok=True)


def remedy(folder: Path) -> str:
    """What helps where the database is damaged: the newest good backup, and how it is put back."""
    newest = newest_good(folder)
    if newest is None:
        return (
            f"There is no backup in {folder / FOLDER}. Copy the folder before anything else is "
            "done with it, or choose another with --data."
        )
    return (
        "Stop the server, copy the folder, then put the newest backup back: "
        f"hale-rail restore {quote(str(newest))} --data {quote(str(folder))}"
    )
