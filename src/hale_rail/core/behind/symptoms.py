"""What a machine shows whose supply runs: each symptom with its first three observations.

Source: docs/formulas.md, “Behind the supply”.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.behind.evidence import Evidence
from hale_rail.core.behind.links import How, Observation, at_pin
from hale_rail.core.behind.pins import ChipRole, PinUse
from hale_rail.core.coded_words import Coded

_R, _P = ChipRole, PinUse


class Symptom(Coded):
    """What the machine shows."""

    DEAD = ("dead", "dead, though its supply runs")
    NO_PICTURE = ("no-picture", "no picture")
    NO_BEEP = ("no-beep", "no beep")
    GARBAGE = ("garbage", "garbage on the screen")
    HALTS = ("halts", "halts after minutes")
    MEMORY = ("memory-error", "a memory error is shown")
    KEYBOARD = ("keyboard-dead", "keyboard dead")
    DRIVE = ("drive-not-found", "drive not found")


SYMPTOMS = {symptom.code: symptom for symptom in Symptom}


class First(Struct, frozen=True):
    """One of the first three: a pin by role and use, or what is done where no pin stands for it."""

    text: str
    role: ChipRole | None = None
    use: PinUse | None = None
    how: How = How.SIGNAL


_RAIL = First("its rail at the processor", _R.PROCESSOR, _P.SUPPLY)
_CLOCK = First("the clock at the processor", _R.PROCESSOR, _P.CLOCK)
_RESET = First("reset at the processor", _R.PROCESSOR, _P.RESET)
_ADDRESS = First("an address line of the processor", _R.PROCESSOR, _P.ADDRESS)
_MEMORY_RAIL = First("every rail at a memory chip", _R.MEMORY, _P.SUPPLY)
_STROBE = First("refresh or strobe at a memory chip", _R.MEMORY, _P.STROBE)
_TEST = First("a memory test: written and read", how=How.MEMORY)
FIRST_THREE: dict[Symptom, tuple[First, First, First]] = {
    Symptom.DEAD: (_RAIL, _CLOCK, _RESET),
    Symptom.NO_PICTURE: (
        _RAIL, First("the video chip's clock", _R.VIDEO, _P.CLOCK),
        First("its sync output", _R.VIDEO, _P.STROBE),
    ),
    Symptom.NO_BEEP: (_RAIL, _RESET, _ADDRESS),
    Symptom.GARBAGE: (_MEMORY_RAIL, _STROBE, _TEST),
    Symptom.HALTS: (
        _RAIL, _CLOCK,
        First("a finger on the chips: one hotter than its neighbours", how=How.WORK),
    ),
    Symptom.MEMORY: (_TEST, _MEMORY_RAIL, _STROBE),
    Symptom.KEYBOARD: (
        First("the rail at the chip that reads the keyboard", _R.IO, _P.SUPPLY),
        First("its select, while a key is pressed", _R.IO, _P.ENABLE),
        First("its data line, while a key is pressed", _R.IO, _P.DATA),
    ),
    Symptom.DRIVE: (
        First("the drive's rails at its own plug, while it should spin", how=How.RAIL),
        First("the rail at the chip that drives it", _R.IO, _P.SUPPLY),
        First("its select", _R.IO, _P.ENABLE),
    ),
}  # fmt: skip
#: what people say, by symptom; roots of words, any of which is enough
_SAID = {
    Symptom.MEMORY: r"memory|parity|\bram\b",
    Symptom.KEYBOARD: r"keyboard|keys?\b|typing",
    Symptom.DRIVE: r"\bdrives?\b|\bdis[ck]s?\b|floppy",
    Symptom.GARBAGE: r"garbage|rubbish|random|characters|pattern",
    Symptom.HALTS: r"\bhalts?\b|\bhangs?\b|freez|crash|after .*minute|when warm",
    Symptom.NO_PICTURE: (
        r"no (picture|video|display|image)|(screen|picture|display) (\w+ )?(dark|blank|black|gone)"
        r"|(dark|blank|black) screen"
    ),
    Symptom.NO_BEEP: r"(no|without a?) ?(beep|sound)|silent",
    Symptom.DEAD: (
        r"(but|board|machine|computer) (is )?dead|nothing (comes|happens)|does not (start|boot)"
    ),
}


def symptom_said(text: str) -> Symptom | None:
    """The symptom of a person's own words, None where none of them is known."""
    clean = text.casefold()
    return next((symptom for symptom, words in _SAID.items() if re.search(words, clean)), None)


class FirstLook(Struct, frozen=True):
    """One of a symptom's first three as it stands here: what to observe, and whether it was."""

    observation: Observation
    is_done: bool


def first_looks(evidence: Evidence, symptom: Symptom) -> tuple[FirstLook, ...]:
    """A symptom's first three observations, at the chips of this sheet."""
    return tuple(_look(evidence, first) for first in FIRST_THREE[symptom])


def _look(evidence: Evidence, first: First) -> FirstLook:
    text = first.text[0].upper() + first.text[1:]
    if first.role is None or first.use is None:
        is_done = first.how is How.MEMORY and bool(evidence.memory)
        return FirstLook(Observation(f"{text}.", first.how), is_done)
    pins = evidence.pins((first.use,), first.role)
    if not pins:
        words = f"{text}: no {first.role.words} is on the sheet."
        return FirstLook(Observation(words, How.SHEET), False)
    own = [(chip, pin) for chip, pin in pins if chip.ref == pins[0][0].ref]
    left = next(((c, p) for c, p in own if not evidence.is_read(c, p)), None)
    chip, pin = left or own[0]
    return FirstLook(
        Observation(f"{text}: {at_pin(chip, pin)}.", How.SIGNAL, chip.ref, pin.name), left is None
    )


def asked_by(evidence: Evidence) -> Observation | None:
    """The first of the last symptom's own observations that is open and can be made here."""
    symptoms: Sequence[str] = evidence.symptoms
    known = [SYMPTOMS[code] for code in symptoms if code in SYMPTOMS]
    if not known:
        return None
    for look in first_looks(evidence, known[-1]):
        if not look.is_done and look.observation.how in (How.SIGNAL, How.MEMORY):
            return look.observation
    return None
