"""Reads units with their ages, and writes the lifetimes that were fitted."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import asdict

from hale_rail.core.errors import InputError
from hale_rail.core.ledger.lifetimes import Bounded, LifetimeFit
from hale_rail.core.quantities import plain_number
from hale_rail.formats.tables.fields import Fields, read_table, yes_no

_LONGEST, _OLDEST = 80, 1000.0
#: the group of a table that has none
ALL = "all"


class UnitRow(Struct, frozen=True):
    """A unit or part: its age in years, whether it failed, and its group."""

    years: float
    failed: bool
    group: str


def read_units(text: str) -> tuple[list[UnitRow], list[tuple[int, str]]]:
    """The rows that can be used, and (line, why) of those that cannot; raises InputError for a
    heading without its columns."""
    return read_table(text, ("years", "failed"), lambda _, fields: _row(fields))


def _row(fields: Fields) -> UnitRow:
    if not fields["years"]:
        raise InputError("no years")
    try:
        years = plain_number(fields["years"])
    except InputError as error:
        raise InputError(f"years “{fields['years'][:20]}” is not a number") from error
    if not 0 < years <= _OLDEST:
        raise InputError(f"years must be above 0 and at most {_OLDEST:g}, not {years:g}")
    if not fields["failed"]:
        raise InputError("failed is yes or no, not empty")
    group = fields.get("group", "") or ALL
    if len(group) > _LONGEST:
        raise InputError(f"group has more than {_LONGEST} characters")
    return UnitRow(years, yes_no(fields, "failed"), group)


def groups(rows: Iterable[UnitRow]) -> dict[str, list[UnitRow]]:
    """Rows by group, in the order in which the groups first stand."""
    unit_rows: dict[str, list[UnitRow]] = {}
    for row in rows:
        unit_rows.setdefault(row.group, []).append(row)
    return unit_rows


def lifetimes_json(
    fits: Mapping[str, LifetimeFit], problems: Iterable[tuple[int, str]]
) -> dict[str, Any]:
    """The lifetimes as the command prints them."""
    return {
        "groups": [
            {
                "group": group,
                "n": found.n,
                "failures": found.failures,
                "shape": _bounded(found.shape),
                "scale_years": _bounded(found.scale_years),
                "b10_years": _bounded(found.b10_years),
                "small": found.small,
                "text": found.text,
            }
            for group, found in fits.items()
        ],
        "problems": [{"line": line, "text": text} for line, text in problems],
    }


def _bounded(bounded: Bounded | None) -> dict[str, float | None] | None:
    return asdict(bounded) if bounded else None
