"""Finds a part or a rail by the name that a file or a person gives it."""

from __future__ import annotations

import re

from hale_rail.case.file import CaseFile
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import MEMORY_TEST, PIN_OHMS, SIGNAL, Point
from hale_rail.core.procedures.behind import bank_of
from hale_rail.core.supply.sheet import Rail, Sheet
from hale_rail.errors import InputError
from hale_rail.formats.units.part_words import find_rail

#: the n-th of several parts that a drawing gives one designator
_NTH = re.compile(r"(.+)#([1-9][0-9]{0,3})")


def part_named(case: CaseFile, name: str) -> Part:
    """The part of a designator, `C40#2` for the second of that name; raises InputError."""
    match = _NTH.fullmatch(name.strip())
    ref = (match[1] if match else name).strip().upper()
    parts = [p for p in case.sheet.in_power_order if p.ref.upper() == ref]
    if not parts:
        raise InputError(f"there is no part or rail “{name[:40]}” on this unit")
    place = int(match[2]) if match else 1
    if place > len(parts):
        raise InputError(f"{ref} is on this unit {len(parts)} times, not {place}")
    if match is None and len(parts) > 1:
        raise InputError(f"{ref} is on this unit {len(parts)} times: write {ref}#1, {ref}#2")
    return parts[place - 1]


def name_of(case: CaseFile, part: Part) -> str:
    """A part's name that `part_named` finds it by."""
    alike = [p for p in case.sheet.in_power_order if p.ref.upper() == part.ref.upper()]
    return part.ref if len(alike) == 1 else f"{part.ref}#{alike.index(part) + 1}"


def part_names(sheet: Sheet) -> dict[int, str]:
    """Every part's name that `part_named` finds it by, by the part's id."""
    alike: dict[str, list[Part]] = {}
    for part in sheet.in_power_order:
        alike.setdefault(part.ref.upper(), []).append(part)
    return {
        part.id: part.ref if len(parts) == 1 else f"{part.ref}#{nth}"
        for parts in alike.values()
        for nth, part in enumerate(parts, 1)
    }


def target_name(case: CaseFile, point: Point) -> str:
    """The name of what a point is read at: a part's, with its pin `U20.CLK`, else its rail's."""
    part = case.sheet.part(point.part_id)
    if point.procedure in (SIGNAL, PIN_OHMS) and part:
        return f"{name_of(case, part)}.{point.target.plus}"
    bank = bank_of(point.target) if point.procedure is MEMORY_TEST else None
    if bank is not None:
        return bank
    return name_of(case, part) if part else point.target.rail


def rail_named(sheet: Sheet, name: str) -> Rail | None:
    """The rail of a key, however its sign and spaces are written; None where there is none."""
    return find_rail(sheet.rails, name)
