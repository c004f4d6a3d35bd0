"""What was read behind the supply as rows of READINGS.csv, and the point of such a row."""

from __future__ import annotations

from hale_rail.case.behind.chips import chip_by_id
from hale_rail.case.behind.subjects import is_known_behind
from hale_rail.case.file import CaseFile
from hale_rail.case.name_lookup import name_of, part_named, rail_named
from hale_rail.core.behind.evidence import GROUND
from hale_rail.core.behind.pins import bank_said
from hale_rail.core.procedures import (
    ACT,
    BEHIND,
    MEMORY_TEST,
    OHMS,
    PIN_OHMS,
    ROM,
    SIGNAL,
    WORK,
    Point,
    Procedure,
)
from hale_rail.core.procedures.behind import (
    ACT_NAME,
    ROM_NAME,
    WORK_TARGET,
    bank_of,
    bank_target,
    pin_of,
)
from hale_rail.errors import InputError
from hale_rail.formats.readings.readings_csv import ReadingRow
from hale_rail.store.readings import Reading

#: target, procedure and pair of a row
Cells = tuple[str, str, str]


def cells_of(case: CaseFile, point: Point) -> Cells | None:
    """How a point behind the supply stands in a file; None for any other point."""
    procedure, target = point.procedure, point.target
    if procedure not in BEHIND:
        return None
    if procedure is MEMORY_TEST:
        return bank_of(target) or "", procedure.code, ""
    part = case.sheet.part(target.part_id)
    name = name_of(case, part) if part else ""
    if procedure is SIGNAL:
        return f"{name}.{target.plus}", procedure.code, ""
    if procedure is PIN_OHMS:
        return f"{name}.{target.plus}", OHMS.code, f"{target.plus}>{target.minus}"
    return name, procedure.code, ""


def is_there(case: CaseFile, reading: Reading) -> bool:
    """True where the sheet still has what was read behind the supply."""
    return reading.procedure in BEHIND and is_known_behind(case, reading.point)


_WHOLE: dict[str, tuple[Procedure, str]] = {
    ACT.code: (ACT, ACT_NAME),
    ROM.code: (ROM, ROM_NAME),
}


def point_of_row(case: CaseFile, row: ReadingRow) -> Point | None:
    """The point of a row behind the supply, None for any other row; raises InputError."""
    if row.procedure == WORK.code:
        return Point(WORK_TARGET, WORK)
    if row.procedure == MEMORY_TEST.code:
        return _known(case, Point(bank_target(bank_said(row.target)), MEMORY_TEST), row.target)
    if row.procedure in _WHOLE:
        procedure, name = _WHOLE[row.procedure]
        part = part_named(case, row.target)
        return _known(case, Point(pin_of(part.id, name), procedure), row.target)
    if row.procedure == SIGNAL.code:
        part_id, pin = _pin(case, row)
        return Point(pin_of(part_id, pin), SIGNAL)
    if row.procedure in (OHMS.code, PIN_OHMS.code) and _is_pin(case, row.target):
        part_id, pin = _pin(case, row)
        return _known(case, Point(pin_of(part_id, pin, _end(case, row)), PIN_OHMS), row.target)
    return None


def _known(case: CaseFile, point: Point, name: str) -> Point:
    if not is_known_behind(case, point):
        raise InputError(f"“{name[:40]}” has no {point.procedure.label} on this unit")
    return point


def _is_pin(case: CaseFile, target: str) -> bool:
    """True for `U20.D3` of a chip of this unit."""
    name, dot, _ = target.partition(".")
    try:
        return bool(dot) and part_named(case, name).id in chip_by_id(case)
    except InputError:
        return False


def _pin(case: CaseFile, row: ReadingRow) -> tuple[int, str]:
    name, dot, pin_name = row.target.partition(".")
    if not dot:
        raise InputError(f"“{row.target[:40]}”: name the chip and its pin, such as U20.CLK")
    part = part_named(case, name)
    chip = chip_by_id(case).get(part.id)
    pin = chip.pin(pin_name.strip()) if chip else None
    if chip is None or pin is None:
        known = ", ".join(pin.name for pin in chip.pins) if chip else "it is no chip"
        raise InputError(f"{part.ref} has no pin “{pin_name[:20]}”: {known}")
    return part.id, pin.name


def _end(case: CaseFile, row: ReadingRow) -> str:
    """What the ohms of a row go to: ground where its pair does not name a rail."""
    to = row.pair.minus if row.pair else GROUND
    rail = rail_named(case.sheet, to)
    return rail.key if rail else GROUND
