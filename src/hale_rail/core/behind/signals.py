"""What a pin does, by a logic probe, an oscilloscope or a meter, as it is typed.

Source: docs/formulas.md, “Behind the supply”: TTL levels, at most 0.8 V low, at least 2.0 V high.
A meter shows the average of what moves, so that its volts prove no movement and no standstill
between the levels.
"""

from __future__ import annotations

import re

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError, QuantityError, RangeError
from hale_rail.core.quantities import Unit, has_odd_figure, read, show, tidy

LOW_V, HIGH_V = 0.8, 2.0
#: volts of a logic pin beyond which it is joined to something else, or its chip is dead
_BELOW_V, _ABOVE_V = -0.6, 5.6
#: a meter's volts that a square wave of a logic chip averages to
AVERAGE_V = (1.0, 3.8)
_MOST_V = 60.0


class Does(Coded):
    """What a pin does."""

    LOW = ("low", "steady low")
    HIGH = ("high", "steady high")
    MID = ("mid", "mid-level")
    PULSING = ("pulsing", "pulsing")
    DEAD = ("dead", "dead")
    NOISY = ("noisy", "noisy")
    RISES = ("low-high", "low, then high")
    FALLS = ("high-low", "high, then low")

    @property
    def is_steady(self) -> bool:
        """True for a level that does not change."""
        return self in (Does.LOW, Does.HIGH)

    @property
    def is_still(self) -> bool:
        """True where nothing moves."""
        return self in (Does.LOW, Does.HIGH, Does.MID, Does.DEAD)

    @property
    def ends(self) -> str:
        """The level on which it stays: `low`, `high` or ""."""
        return {Does.LOW: "low", Does.FALLS: "low", Does.HIGH: "high", Does.RISES: "high"}.get(
            self, ""
        )


#: the letters that the tray takes, and what people write instead
LETTERS = {"l": Does.LOW, "h": Does.HIGH, "m": Does.MID, "p": Does.PULSING, "d": Does.DEAD,
           "n": Does.NOISY, "lh": Does.RISES, "hl": Does.FALLS}  # fmt: skip
_WORDS = {
    **LETTERS,
    **{does.code: does for does in Does},
    **{does.words: does for does in Does},
    "lo": Does.LOW, "hi": Does.HIGH, "stuck low": Does.LOW, "stuck high": Does.HIGH,
    "midlevel": Does.MID, "mid level": Does.MID, "half": Does.MID, "tristate": Does.MID,
    "tri-state": Does.MID, "float": Does.MID, "floating": Does.MID,
    "pulse": Does.PULSING, "pulses": Does.PULSING, "toggling": Does.PULSING,
    "toggles": Does.PULSING, "active": Does.PULSING, "running": Does.PULSING, "runs": Does.PULSING,
    "nothing": Does.DEAD, "none": Does.DEAD, "no light": Does.DEAD, "flat": Does.DEAD,
    "noise": Does.NOISY, "hash": Does.NOISY,
    "low then high": Does.RISES, "high then low": Does.FALLS,
}  # fmt: skip
_ASKED = {"1": "1 V, or high? Write 1V or h.", "0": "0 V, or low? Write 0V or l."}
_HERTZ = re.compile(r"(?:(?P<word>[A-Za-z][A-Za-z -]*?)\s*,?\s*(?:at\s+)?)?(?P<figure>[0-9].*)")


class Signal(Struct, frozen=True):
    """What was seen at a pin: what it does, and the volts or the hertz where there were any.

    `does` is None for a meter's volts at a supply pin, whose level says nothing. `is_meter`: by a
    meter's volts, which average what moves.
    """

    does: Does | None
    volt: float | None = None
    hertz: float | None = None
    is_meter: bool = False

    @property
    def words(self) -> str:
        """As one says it: `pulsing, 4.77 MHz`, `2.1 V: mid-level`."""
        if self.volt is not None:
            shown = show(self.volt, Unit.VOLT)
            return f"{shown}: {self.does.words}" if self.does else shown
        told = self.does.words if self.does else ""
        return f"{told}, {show(self.hertz, Unit.HERTZ, 4)}" if self.hertz else told

    @property
    def may_move(self) -> bool:
        """True for a meter's volts that a moving pin averages to as well."""
        low, high = AVERAGE_V
        return self.is_meter and self.volt is not None and low <= self.volt <= high


def read_signal(text: str, *, is_supply: bool = False) -> Signal:
    """What was typed at a pin: a letter, a word, volts, or a frequency; raises InputError.

    `is_supply`: a pin that takes a rail, where volts are wanted.
    """
    if has_odd_figure(text):
        raise QuantityError(f"“{text[:20]}” has a figure that is raised or circled.")
    clean = tidy(text).lower()
    does = _WORDS.get(clean)
    if is_supply:
        if does is not None:
            raise QuantityError(f"{does.words} is no figure: read the pin's volts, like 4.98.")
        return Signal(None, _volts(text))
    if does is not None:
        return Signal(does)
    if clean in _ASKED:
        raise QuantityError(f"“{clean}”: {_ASKED[clean]}")
    return _pulsing(text, clean) or _by_volts(text)


def _pulsing(text: str, clean: str) -> Signal | None:
    """`p 4.77M`, `4.77 MHz`, `pulsing at 60 Hz`: a frequency is of what pulses."""
    match = _HERTZ.fullmatch(tidy(text))
    word = (match["word"] or "").strip().lower() if match else ""
    if match is None or (not word and not clean.endswith("hz")):
        return None
    does = _WORDS.get(word, Does.PULSING if not word else None)
    if does is None:
        raise QuantityError(f"“{word[:20]}” is not what a pin does: {_known()}.")
    if does is not Does.PULSING:
        raise QuantityError(f"{does.words} has no frequency. Write p {match['figure'][:20]}.")
    hertz = read(match["figure"], Unit.HERTZ, allow_words=False).value
    if hertz <= 0:
        raise RangeError("A frequency is above 0 Hz.")
    return Signal(does, None, hertz)


def _volts(text: str) -> float:
    volt = read(text, Unit.VOLT, allow_words=False).value
    if abs(volt) > _MOST_V:
        raise RangeError(f"{show(volt, Unit.VOLT)} at a chip? Check the range and the leads.")
    return volt


def _by_volts(text: str) -> Signal:
    try:
        volt = _volts(text)
    except RangeError:
        raise
    except InputError as error:
        raise QuantityError(f"“{text.strip()[:20]}”: write volts, or {_known()}.") from error
    return Signal(level_of(volt), volt, is_meter=True)


def level_of(volt: float) -> Does:
    """The level of a pin's volts by TTL."""
    if volt <= LOW_V:
        return Does.LOW
    return Does.HIGH if volt >= HIGH_V else Does.MID


def beyond(volt: float) -> str:
    """What is said of volts that no logic pin has, "" within what one has."""
    if volt > _ABOVE_V:
        return f"{show(volt, Unit.VOLT)} is above the logic rail: the pin is joined to another."
    if volt < _BELOW_V:
        return f"{show(volt, Unit.VOLT)} is below ground: the pin is joined to a rail below it."
    return ""


def _known() -> str:
    letters = ((letter, does.words) for letter, does in LETTERS.items())
    return ", ".join(f"{letter} {words}" for letter, words in letters)
