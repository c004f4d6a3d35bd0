"""Each chip as it stands after all that was observed: bad, suspected, cleared, right, unread."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.behind.acts import Standing
from hale_rail.core.behind.evidence import Evidence
from hale_rail.core.behind.pins import LEVELS, Chip, Pin, PinUse
from hale_rail.core.behind.signals import Does
from hale_rail.core.coded_words import Coded


class ChipState(Coded):
    """Where a chip stands."""

    BAD = ("bad", "bad")
    SUSPECTED = ("suspected", "suspected")
    CONTACT = ("contact", "a contact")
    REPLACED = ("replaced", "replaced")
    CLEARED = ("cleared", "not this one")
    RIGHT = ("right", "reads right")
    PART = ("part", "read in part")
    UNREAD = ("unread", "unread")


class ChipFacts(Struct, frozen=True):
    """A chip, where it stands, and why in sentences, the most telling first."""

    chip: Chip
    state: ChipState
    why: tuple[str, ...] = ()


def chip_facts(evidence: Evidence) -> tuple[ChipFacts, ...]:
    """Every chip of the sheet as it stands."""
    return tuple(_facts(evidence, chip) for chip in evidence.chips)


_BY_ACT = {
    Standing.BAD: ChipState.BAD,
    Standing.LIKELY: ChipState.SUSPECTED,
    Standing.CONTACT: ChipState.CONTACT,
    Standing.CLEARED: ChipState.CLEARED,
    Standing.GOOD: ChipState.CLEARED,
}


def _facts(evidence: Evidence, chip: Chip) -> ChipFacts:
    acts = tuple(
        f"{act.words}. {saying.says}"
        for act, saying in evidence.proven.acts
        if any(ref.casefold() == chip.ref.casefold() for ref, _ in saying.standing)
    )
    against = _against(evidence, chip)
    standing = evidence.proven.of(chip.ref)
    if chip.ref in evidence.replaced and not against:
        return ChipFacts(chip, ChipState.REPLACED, acts)
    if standing and chip.ref not in evidence.replaced:
        return ChipFacts(chip, _BY_ACT[standing], (*acts, *against))
    if against:
        return ChipFacts(chip, ChipState.SUSPECTED, (*against, *acts))
    read = [pin for pin in chip.pins if evidence.is_read(chip, pin)]
    if not read:
        return ChipFacts(chip, ChipState.UNREAD, acts)
    state = ChipState.RIGHT if len(read) == len(chip.pins) else ChipState.PART
    return ChipFacts(chip, state, acts)


def _against(evidence: Evidence, chip: Chip) -> list[str]:
    """What speaks against a chip, each in a sentence."""
    told = [f"{c.ref}: {c.why}." for c in evidence.memory_says.chips if c.ref == chip.ref]
    told += [r.says.text for r in evidence.roms if r.ref == chip.ref and r.says.is_bad]
    for pin in chip.pins:
        supplied = evidence.supplies.get((chip.ref, pin.name))
        if supplied and not supplied.is_right:
            told.append(f"{pin.name} has no right {pin.rail}: {supplied.words}.")
        text = _wrong_at(evidence, chip, pin)
        if text:
            told.append(text)
    if chip.ref in evidence.hot:
        told.append("It runs hot.")
    return told


def _wrong_at(evidence: Evidence, chip: Chip, pin: Pin) -> str:
    """What a pin's reading says against its chip, "" for nothing."""
    does = evidence.does(chip, pin)
    if does is None or pin.is_supply or does is Does.PULSING:
        return ""
    if pin.use in LEVELS:
        is_wrong = (
            does.ends != pin.runs if pin.runs and does.ends else does in (Does.MID, Does.DEAD)
        )
        return f"{pin.name} is {does.words}." if is_wrong else ""
    if pin.use is PinUse.POWER_GOOD:
        return f"{pin.name} is {does.words}." if does is not Does.HIGH else ""
    if pin.use in (PinUse.DATA_IN, PinUse.OUTPUT, PinUse.ENABLE) and does.is_steady:
        return ""
    return f"{pin.name} is {does.words}." if does.is_still else ""
