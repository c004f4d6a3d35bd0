"""What a procedure behind the supply must know of its target, and what is expected there."""

from __future__ import annotations

from hale_rail.case.behind.chips import banks, chip_by_id, memory_table, pin_at, word_bits
from hale_rail.case.behind.evidence import base_typed
from hale_rail.case.behind.hunt import end_names
from hale_rail.case.file import CaseFile
from hale_rail.core.behind.evidence import GROUND
from hale_rail.core.behind.pins import LEVELS, Pin, PinUse
from hale_rail.core.procedures import ACT, BEHIND, MEMORY_TEST, PIN_OHMS, ROM, WORK, Point, Subject
from hale_rail.core.procedures.behind import (
    ACT_NAME,
    ROM_NAME,
    WORK_TARGET,
    bank_of,
    behind_words,
)
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import band
from hale_rail.core.targets import TargetKind


def is_behind(point: Point) -> bool:
    """True for what is read behind the supply."""
    return point.target.kind is TargetKind.PIN and point.procedure in BEHIND


def is_known_behind(case: CaseFile, point: Point) -> bool:
    """True where the case has what is to be read."""
    target = point.target
    if point.procedure is WORK:
        return target == WORK_TARGET
    if point.procedure is MEMORY_TEST:
        bank = bank_of(target)
        return bank is not None and (bank.casefold() in banks(case) or bank == "")
    if target.part_id is None:
        return False
    if point.procedure is ACT:
        return target.plus == ACT_NAME and case.sheet.part(target.part_id) is not None
    chip = chip_by_id(case).get(target.part_id)
    if chip is None:
        return False
    if point.procedure is ROM:
        return target.plus == ROM_NAME
    pin = chip.pin(target.plus)
    if point.procedure is PIN_OHMS:
        return pin is not None and target.minus in end_names(case, chip)
    return pin is not None and not target.minus


def behind_subject(case: CaseFile, point: Point, limit_v: float) -> Subject:
    """The subject of such a point."""
    target = point.target
    part = case.sheet.part(target.part_id)
    chip = chip_by_id(case).get(target.part_id or 0)
    name = chip.ref if chip else part.ref if part else behind_words(target)
    if point.procedure is MEMORY_TEST:
        base = base_typed(case)
        return Subject(name, limit_v=limit_v, way=bank_of(target) or "", bits=word_bits(case),
                       refs=tuple(dict.fromkeys(memory_table(case).values())),
                       base=base.value if base else "")  # fmt: skip
    pin = pin_at(case, target.part_id, target.plus)
    if pin is None:
        return Subject(name, limit_v=limit_v)
    if point.procedure is PIN_OHMS:
        to = "ground" if target.minus == GROUND else target.minus
        return Subject(f"{name} {pin.name} to {to}", limit_v=limit_v, part_words=pin.use.words)
    rail = case.sheet.rail(pin.rail)
    return Subject(f"{name} {pin.name}", limit_v=limit_v, part_words=expected(case, pin),
                   nominal_v=rail.nominal_v if pin.is_supply and rail else None)  # fmt: skip


def expected(case: CaseFile, pin: Pin) -> str:
    """What a pin shows in a machine that runs."""
    rail = case.sheet.rail(pin.rail)
    if pin.is_supply and rail:
        low, high = (show(volt, Unit.VOLT, 4) for volt in band(rail, case.tolerance))
        return f"{rail.key}: {low} to {high}"
    if pin.use is PinUse.RESET:
        way = {"high": "high, then low", "low": "low, then high"}.get(pin.active)
        return way or "one level at first, then the other"
    if pin.use is PinUse.POWER_GOOD:
        return "high"
    if pin.use in LEVELS:
        return f"{pin.runs}, or pulsing" if pin.runs else "the level that is off"
    return "pulsing"


def behind_name(case: CaseFile, point: Point) -> str:
    """The target of such a point as one says it."""
    return behind_subject(case, point, 0.0).name
