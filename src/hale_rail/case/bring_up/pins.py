"""What is known of a pin of the harness, of a chip, of two ends of a list, and of earth."""

from __future__ import annotations

from hale_rail.case.bring_up.bring_up import chip_pins
from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import pin_facts
from hale_rail.case.file import CaseFile
from hale_rail.core.intake.drawings import JOINED_OHM
from hale_rail.core.procedures import EARTH, Point, Subject
from hale_rail.core.procedures.bring_up import EARTH_TARGET, machine_words
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import band
from hale_rail.core.targets import TargetKind
from hale_rail.store.readings import Reading

#: ohms that earth may read above the lead's own
EARTH_OHM = 0.1


def is_earth_good(reading: Reading) -> bool:
    """True where earth reads no more than it may, the meter's error taken off."""
    return reading.value - reading.error <= EARTH_OHM


def is_pin(point: Point) -> bool:
    """True for a pin of the harness or a chip, two ends of a list, or earth."""
    return point.target.kind is TargetKind.PIN


def is_known_pin(case: CaseFile, point: Point) -> bool:
    """True where the case has what is to be read."""
    if point.target == EARTH_TARGET:
        return point.procedure is EARTH
    return _expected(case, point) is not None


def pin_subject(case: CaseFile, point: Point, limit_v: float) -> Subject:
    """The subject of such a point."""
    words = _expected(case, point) or ""
    if point.procedure is EARTH:
        words = f"below {show(EARTH_OHM, Unit.OHM)} and the lead's own"
    pin = pin_facts(case).get(point.key)
    return Subject(
        machine_words(point.target),
        limit_v=limit_v,
        part_words=words,
        is_ac=pin is not None and pin.pin.is_ac,
    )


def _expected(case: CaseFile, point: Point) -> str | None:
    """What is expected at a pin, None where the case has none."""
    pin = pin_facts(case).get(point.key)
    if pin:
        return pin.words
    chip = next((c for c in chip_pins(case) if c.point.key == point.key), None)
    if chip:
        low, high = (show(volt, Unit.VOLT, 4) for volt in band(chip.rail, case.tolerance))
        return f"{chip.rail.key}: {low} to {high}"
    for one in lists(case):
        for pair in one.pairs:
            if pair.point.key == point.key:
                joined = f"connected, at most {show(JOINED_OHM, Unit.OHM)}"
                return joined if pair.pair.is_joined else "not connected"
    return None
