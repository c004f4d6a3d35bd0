"""What a reading behind the supply means, for the tray."""

from __future__ import annotations

from hale_rail.case.behind.chips import chip_by_id
from hale_rail.case.behind.evidence import evidence, memory_reads
from hale_rail.case.file import CaseFile
from hale_rail.core.behind.acts import Standing
from hale_rail.core.behind.memory import memory_says
from hale_rail.core.behind.pin_says import pin_says
from hale_rail.core.behind.stuck import SHORT_OHM
from hale_rail.core.procedures.behind import SOUND_OHM, is_clean
from hale_rail.stages.stage import Meaning
from hale_rail.store.readings import Reading

_SHAPES = {True: "good", False: "failed", None: "unproven"}


def of_signal(case: CaseFile, reading: Reading) -> Meaning:
    """What a pin's reading points to, and what it does not."""
    chip = chip_by_id(case).get(reading.target.part_id or 0)
    pin = chip.pin(reading.target.plus) if chip else None
    says = pin_says(evidence(case), chip, pin) if chip and pin else None
    if says is None:
        return Meaning.noted()
    return Meaning(_SHAPES[says.is_right], says.word, f"{says.says} {says.but}".strip())


def of_ohms(_: CaseFile, reading: Reading) -> Meaning:
    """Ohms of a line to ground or to a rail, power off."""
    if reading.value < SHORT_OHM:
        text = "A short on the line: unplug the chips on it, one at a time. No chip is proven yet."
        return Meaning("failed", "short", text)
    if reading.value < SOUND_OHM:
        text = "Low for an input: compare with the lines beside it."
        return Meaning("unproven", "low", text)
    return Meaning("good", "no short", "No short this way. What drives the line is not said.")


def of_memory(case: CaseFile, reading: Reading) -> Meaning:
    """What one place of a memory test says; what all say together is on the page."""
    own = dict(memory_reads(case)).get(str(reading.id))
    if own is None:
        return Meaning.noted()
    says = memory_says([own], evidence(case).table)
    if own.is_right:
        return Meaning("good", "as written", says.covers)
    chips = ", ".join(chip.ref for chip in says.chips)
    bits = ", ".join(map(str, says.bits))
    word = f"bit {bits}" if len(says.bits) == 1 else f"bits {bits}"
    named = f"{chips}. " if chips else "No chip of the table. "
    return Meaning("failed", word, named + " ".join(says.common))


_OF_STANDING = {
    Standing.BAD: "failed",
    Standing.LIKELY: "worn",
    Standing.CONTACT: "worn",
    Standing.CLEARED: "replaced",
    Standing.GOOD: "good",
}


def of_act(case: CaseFile, reading: Reading) -> Meaning:
    """What an exchange proves, and what it does not."""
    for act, says in evidence(case).proven.acts:
        if act.key == str(reading.id):
            shape = next((_OF_STANDING[one] for _, one in says.standing), "unproven")
            text = " ".join(filter(None, (says.says, says.but, says.next)))
            return Meaning(shape, act.result.words, text)
    return Meaning.noted()


def of_work(_: CaseFile, reading: Reading) -> Meaning:
    """A look at own work."""
    if is_clean(reading.typed):
        return Meaning("good", "clean", "The work is not the cause, as far as the eye tells.")
    return Meaning("failed", "found", "Clear it, and look again: it comes before all else.")


def of_rom(_: CaseFile, reading: Reading) -> Meaning:
    """What a person's own reader said of a ROM."""
    is_equal = reading.value == 0
    shape = "good" if is_equal else "failed"
    text = "It holds what it should." if is_equal else "It does not hold what it should."
    return Meaning(shape, "equal" if is_equal else "differs", text)
