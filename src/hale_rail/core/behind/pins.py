"""Chips by their role, and the pins of each that matter, named by a template a role.

Source: docs/formulas.md, “Behind the supply”.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError

MOST_PINS = 24
LOW, HIGH = "low", "high"


class ChipRole(Coded):
    """What a chip does in its machine."""

    PROCESSOR = ("processor", "processor")
    MEMORY = ("memory", "memory")
    ROM = ("rom", "ROM")
    BUFFER = ("buffer", "buffer")
    CLOCK = ("clock", "clock generator")
    RESET = ("reset", "reset generator")
    VIDEO = ("video", "video")
    IO = ("io", "input and output")
    LOGIC = ("logic", "logic")


CHIP_ROLES = {role.code: role for role in ChipRole}


class PinUse(Coded):
    """What a pin is for; `words` as the pin is told."""

    SUPPLY = ("supply", "supply")
    CLOCK = ("clock", "clock")
    RESET = ("reset", "reset")
    READY = ("ready", "ready or wait")
    INTERRUPT = ("interrupt", "interrupt")
    HOLD = ("hold", "hold")
    ADDRESS = ("address", "an address line")
    ENABLE = ("select", "chip select")
    STROBE = ("strobe", "refresh or strobe")
    DATA = ("data", "a data line")
    DATA_IN = ("data-in", "data in")
    DATA_OUT = ("data-out", "data out")
    POWER_GOOD = ("power-good", "power good")
    OUTPUT = ("output", "output")


PIN_USES = {use.code: use for use in PinUse}
#: pins whose level is what counts, and that do something at one of the two levels
LEVELS = (PinUse.RESET, PinUse.READY, PinUse.INTERRUPT, PinUse.HOLD)
#: pins that move all the time while the machine runs
MOVING = (PinUse.CLOCK, PinUse.ADDRESS, PinUse.ENABLE, PinUse.STROBE, PinUse.DATA, PinUse.DATA_IN,
          PinUse.DATA_OUT, PinUse.OUTPUT)  # fmt: skip
_NAME = re.compile(r"[A-Za-z0-9/+*#_. -]{1,16}")


class Pin(Struct, frozen=True):
    """A pin that matters: its name, its use, the level at which that use is on, its rail.

    `active`: the level that resets, interrupts, holds, or lets run (`ready`); "" where not known.
    `rail`: the key of the rail that a supply pin is to have, "" for other pins.
    """

    name: str
    use: PinUse
    active: str = ""
    rail: str = ""

    @property
    def is_supply(self) -> bool:
        """True for a pin that takes a rail."""
        return self.use is PinUse.SUPPLY

    @property
    def idle(self) -> str:
        """The level at which its use is off, "" where that is not known."""
        return {LOW: HIGH, HIGH: LOW}.get(self.active, "")

    @property
    def runs(self) -> str:
        """The level at which it lets its chip run, "" where that is not known."""
        return self.active if self.use is PinUse.READY else self.idle


class Chip(Struct, frozen=True):
    """A chip as the hunt sees it: its part's id, designator, role and pins.

    `bank` and `bits` are a memory's place; `board` the designator of the board that it is on.
    """

    id: int
    ref: str
    role: ChipRole | None
    pins: tuple[Pin, ...] = ()
    bank: str = ""
    bits: tuple[int, ...] = ()
    board: str = ""

    def pin(self, name: str) -> Pin | None:
        """The pin of a name: one that is listed, else one whose name says its use; or None."""
        wanted = name.casefold()
        listed = next((pin for pin in self.pins if pin.name.casefold() == wanted), None)
        return listed or named_pin(name)

    def of_use(self, *uses: PinUse) -> tuple[Pin, ...]:
        """Its pins of some uses, in order."""
        return tuple(pin for pin in self.pins if pin.use in uses)


#: uses that a name says by itself, whatever the chip
_BY_NAME = (
    (re.compile(r"D[0-9]{1,2}|AD[0-9]{1,2}|Q[0-9]|O[0-9]"), PinUse.DATA),
    (re.compile(r"A[0-9]{1,2}"), PinUse.ADDRESS),
    (re.compile(r"(?:CLK|CLOCK|PHI[0-9]?|OSC|XTAL)"), PinUse.CLOCK),
    (re.compile(r"/?(?:RESET|RST|RES)"), PinUse.RESET),
    (re.compile(r"/?(?:READY|RDY|WAIT|DTACK)"), PinUse.READY),
    (re.compile(r"/?(?:INT|INTR|IRQ|NMI)"), PinUse.INTERRUPT),
    (re.compile(r"/?(?:HOLD|BUSRQ|BUSREQ|HALT)"), PinUse.HOLD),
    (re.compile(r"/?(?:RAS|CAS|WE|RD|WR|MREQ|IORQ|M1|RFSH|ALE|AS|SYNC)"), PinUse.STROBE),
    (re.compile(r"/?(?:CS[0-9]?|CE[0-9]?|OE|EN|SEL)"), PinUse.ENABLE),
    (re.compile(r"DIN|DI"), PinUse.DATA_IN),
    (re.compile(r"DOUT|DO"), PinUse.DATA_OUT),
)


def named_pin(name: str) -> Pin | None:
    """A pin that no sheet lists, by what its name says; None where it says nothing."""
    clean = name.strip().upper()
    use = next((use for pattern, use in _BY_NAME if pattern.fullmatch(clean)), None)
    if use is None:
        return None
    return Pin(clean, use, _level_said(clean, use))


def _level_said(name: str, use: PinUse) -> str:
    """The level that a pin's name says: at a bar low is on; "" where it says none."""
    if use is not PinUse.READY:
        return LOW if name.startswith("/") and use in LEVELS else ""
    if "WAIT" in name:  # on, it holds: with a bar it lets run while it is high
        return HIGH if name.startswith("/") else ""
    return LOW if name.startswith("/") or name == "DTACK" else HIGH


_P = PinUse
#: names and uses by role, in the order in which they are read, behind the supply pins
_TEMPLATES: dict[ChipRole, tuple[tuple[str, PinUse], ...]] = {
    ChipRole.PROCESSOR: (
        ("CLK", _P.CLOCK), ("RESET", _P.RESET), ("READY", _P.READY), ("INT", _P.INTERRUPT),
        ("HOLD", _P.HOLD), ("A0", _P.ADDRESS), ("D0", _P.DATA), ("SEL", _P.ENABLE),
    ),
    ChipRole.MEMORY: (("RAS", _P.STROBE), ("CAS", _P.STROBE), ("DIN", _P.DATA_IN),
                      ("DOUT", _P.DATA_OUT)),
    ChipRole.ROM: (("CS", _P.ENABLE), ("A0", _P.ADDRESS), ("D0", _P.DATA)),
    ChipRole.BUFFER: (("EN", _P.ENABLE), ("IN", _P.DATA_IN), ("OUT", _P.DATA_OUT)),
    ChipRole.CLOCK: (("OUT", _P.CLOCK),),
    ChipRole.RESET: (("PG", _P.POWER_GOOD), ("RESET", _P.RESET)),
    ChipRole.VIDEO: (("CLK", _P.CLOCK), ("SYNC", _P.STROBE), ("VIDEO", _P.OUTPUT)),
    ChipRole.IO: (("CLK", _P.CLOCK), ("CS", _P.ENABLE), ("D0", _P.DATA)),
    ChipRole.LOGIC: (("OUT", _P.OUTPUT),),
}  # fmt: skip


def template(role: ChipRole | None, rails: Sequence[str], active: str = "") -> tuple[Pin, ...]:
    """The pins of a role: a supply pin for each rail, then what the role has.

    `active`: the level at which the chip's control pins are on; ready is the level that lets run,
    which is high wherever a person does not say otherwise.
    """
    supplies = [Pin(_supply_name(key, len(rails)), PinUse.SUPPLY, rail=key) for key in rails]
    own = _TEMPLATES[role] if role else ()
    return (*supplies, *(Pin(name, use, _active(use, active)) for name, use in own))


def _supply_name(key: str, count: int) -> str:
    """`VCC` for a chip of one rail; of several each by its rail, `V+12`."""
    if count == 1:
        return "VCC"
    return "V" + key.replace("−", "-").replace(" V", "").replace(" ", "")


def _active(use: PinUse, active: str) -> str:
    if use is PinUse.READY:
        return HIGH
    return active if use in LEVELS else ""


def read_pins(text: str, rails: Sequence[str]) -> tuple[Pin, ...]:
    """Pins one a line or apart by `;`: `26 reset high`, `1 supply −5 V`, `14 data`.

    Raises InputError naming the line.
    """
    lines = [line.strip() for line in re.split(r"[\n;]", text) if line.strip()]
    if len(lines) > MOST_PINS:
        raise InputError(f"{len(lines)} pins: at most {MOST_PINS}, those that matter.")
    pins: list[Pin] = []
    for number, line in enumerate(lines, 1):
        try:
            pin = _read_pin(line, rails)
        except InputError as error:
            raise InputError(f"Line {number}: {error}") from error
        if any(pin.name.casefold() == other.name.casefold() for other in pins):
            raise InputError(f"Line {number}: {pin.name} is listed twice.")
        pins.append(pin)
    return tuple(pins)


def _read_pin(line: str, rails: Sequence[str]) -> Pin:
    words = line.split()
    place = next((n for n, word in enumerate(words) if word.lower() in PIN_USES), 0)
    if not place:
        known = ", ".join(PIN_USES)
        raise InputError(f"“{line[:30]}”: write the pin, then its use, one of {known}.")
    name, use, rest = " ".join(words[:place]), PIN_USES[words[place].lower()], words[place + 1 :]
    check_pin_name(name)
    if use is PinUse.SUPPLY:
        return Pin(name, use, rail=_rail(" ".join(rest), rails))
    if rest and (rest not in ([LOW], [HIGH]) or use not in LEVELS):
        raise InputError(f"“{' '.join(rest)[:30]}” behind {use.code}: low or high, at a level pin.")
    return Pin(name, use, rest[0] if rest else _active(use, ""))


def check_pin_name(name: str) -> None:
    """Raise InputError for a name that no pin can have here."""
    if not _NAME.fullmatch(name):
        raise InputError(f"“{name[:20]}” is not a pin's name: at most 16 letters and figures.")


def _rail(text: str, rails: Sequence[str]) -> str:
    wanted = _plain(text)
    known = next((key for key in rails if _plain(key) == wanted), None)
    if known is None:
        raise InputError(f"a supply pin needs its rail, one of {', '.join(rails)}.")
    return known


def _plain(key: str) -> str:
    return key.replace("−", "-").replace(" ", "").removesuffix("V").removesuffix("v")


def write_pins(pins: Iterable[Pin]) -> str:
    """Pins as `read_pins` reads them, one a line."""
    return "\n".join(
        " ".join(word for word in (pin.name, pin.use.code, pin.active or pin.rail) if word)
        for pin in pins
    )


def bank_said(text: str) -> str:
    """A bank's name as its parts have it: `bank 0` and `0` are one."""
    words = text.split()
    return " ".join(words[1:] if len(words) > 1 and words[0].casefold() == "bank" else words)
