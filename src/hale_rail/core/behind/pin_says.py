"""What one pin's reading points to, and what it does not: an answer a reading, for the tray.

Source: docs/formulas.md, “Behind the supply”.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.behind.evidence import Evidence
from hale_rail.core.behind.pins import LEVELS, Chip, Pin, PinUse
from hale_rail.core.behind.signals import Does, beyond


class PinSays(Struct, frozen=True):
    """Whether a pin is right (None: it does not tell), in a word, what it points to, what not."""

    is_right: bool | None
    word: str
    says: str
    but: str = ""


def pin_says(evidence: Evidence, chip: Chip, pin: Pin) -> PinSays | None:
    """What a pin's reading says; None where it is unread."""
    if pin.is_supply:
        return _supply(evidence, chip, pin)
    signal = evidence.signal(chip, pin)
    if signal is None:
        return None
    far = beyond(signal.volt) if signal.volt is not None else ""
    if far:
        return PinSays(False, "beyond its rail", far, "No chip is proven by it.")
    does = evidence.does(chip, pin)
    if does is None:
        text = f"{evidence.untold(chip, pin)} A probe or a scope does."
        return PinSays(None, "not told", text)
    return _told(chip, pin, does)


def _supply(evidence: Evidence, chip: Chip, pin: Pin) -> PinSays | None:
    supplied = evidence.supplies.get((chip.ref, pin.name))
    if supplied is None:
        return None
    if supplied.is_right:
        return PinSays(True, "right", f"{pin.rail} is right at {chip.ref}.",
                       "Other chips' pins are not proven.")  # fmt: skip
    return PinSays(
        False,
        "wrong",
        f"{pin.rail} is wrong at {chip.ref}: the way from the connector, or the rail itself.",
        f"{chip.ref} is not to blame for it yet.",
    )


def _told(chip: Chip, pin: Pin, does: Does) -> PinSays:
    if does is Does.NOISY:
        text = "Noise on it: ground, a decoupler, or a driver that comes and goes."
        return PinSays(None, "noisy", text, "No level is proven.")
    if pin.use is PinUse.CLOCK:
        return _clock(does)
    if pin.use is PinUse.RESET:
        return _reset(chip, pin, does)
    if pin.use in LEVELS:
        return _level(chip, pin, does)
    if pin.use is PinUse.POWER_GOOD:
        return _power_good(does)
    return _moving(chip, pin, does)


def _clock(does: Does) -> PinSays:
    if does is Does.PULSING:
        return PinSays(True, "runs", "The clock runs here.", "Its frequency counts too.")
    return PinSays(
        False, "no clock", "The crystal, the chip that makes it, or that chip's rail.",
        "The processor is not to blame for it.",
    )  # fmt: skip


def _reset(chip: Chip, pin: Pin, does: Does) -> PinSays:
    if does is Does.PULSING:
        return PinSays(False, "again and again", "What makes reset, or power good that drops.",
                       f"{chip.ref} is not to blame for it.")  # fmt: skip
    if does in (Does.MID, Does.DEAD):
        return PinSays(False, "not driven", "The reset generator, or the way from it.")
    if not pin.active:
        return PinSays(None, "open", f"Which level resets {chip.ref} is not said yet.")
    if does.ends == pin.active:
        return PinSays(
            False, "stays", "The generator, power good, or its capacitor, a part of the supply.",
            f"Nothing is said of {chip.ref}.",
        )  # fmt: skip
    if does.is_steady:
        return PinSays(None, "let go", "Reset is let go now.", "That it was held is not read.")
    return PinSays(True, "right", "Reset is held, then let go.")


def _level(chip: Chip, pin: Pin, does: Does) -> PinSays:
    if does is Does.PULSING:
        return PinSays(True, "comes and goes", f"{chip.ref} may run.")
    if does in (Does.MID, Does.DEAD):
        return PinSays(False, "not driven", "An open input or pull-up, or two outputs that fight.")
    if not pin.runs:
        return PinSays(None, "open", "Which level is on is not said yet.")
    if does.ends == pin.runs:
        return PinSays(True, "off", f"{chip.ref} may run, by this pin.")
    return PinSays(False, "on", f"What drives {pin.name} keeps {chip.ref} from running.",
                   f"{chip.ref} is not to blame for it.")  # fmt: skip


def _power_good(does: Does) -> PinSays:
    if does in (Does.HIGH, Does.RISES):
        return PinSays(True, "good", "Power good reaches the reset generator.")
    return PinSays(False, "not good", "The supply says that power is not good, or the line is cut.",
                   "The reset generator is not to blame for it.")  # fmt: skip


def _moving(chip: Chip, pin: Pin, does: Does) -> PinSays:
    if does is Does.PULSING:
        return PinSays(True, "moves", "It moves.", "What moves over it is not proven.")
    if does is Does.MID:
        return PinSays(False, "mid-level", "Two outputs fight, or nothing drives it.",
                       "Which of the two is not said.")  # fmt: skip
    if does is Does.DEAD:
        return PinSays(False, "dead", "Nothing drives it, or the contact is open.",
                       f"{chip.ref} is not proven bad.")  # fmt: skip
    if pin.use is PinUse.ENABLE and does is Does.HIGH:
        return PinSays(None, "not selected", f"{chip.ref} is not asked: what selects it.",
                       f"Nothing is said of {chip.ref} itself.")  # fmt: skip
    return PinSays(
        False, "stands still",
        f"{chip.ref}, the chip beside it on the line, or a short; what runs it comes first.",
        "Which of them is not said: ohms to ground and to the rail, power off.",
    )  # fmt: skip
