"""The board behind a simulated supply: what its chips' pins do, what its memory reads back.

One fault of a chip: an output stuck low by a shorted driver, a dead chip, two neighbouring pins
bridged, a contact of its socket open. Who does what follows from who runs: a processor needs its
rail, a clock, reset let go; a memory its chips and the data bus. Source: docs/formulas.md, “The
simulated unit”.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from functools import cached_property

from hale_rail.core.behind.pins import CHIP_ROLES, ChipRole, Pin, PinUse, named_pin, template
from hale_rail.core.errors import InputError
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.faults import SimulatedFault
from hale_rail.core.simulate.meters import ohms_text, significant, volts_text
from hale_rail.core.supply.sheet import TRUNK, Sheet, logic_rail

#: how a chip can fail here
BOARD_MODES = (FaultMode.STUCK, FaultMode.DEAD, FaultMode.BRIDGE, FaultMode.OPEN_SOCKET)
LOW, HIGH, MID, PULSING, DEAD = "l", "h", "m", "p", "d"
#: volts of a rail below which nothing on it runs, as a share
_RUNS_SHARE = 0.9
#: ohms of a line: a shorted output, a bridge, a sound input
_DRIVER_OHM, _BRIDGE_OHM, _INPUT_OHM = (6.0, 14.0), (0.15, 0.4), (2.5e3, 9e3)
_USUAL_HZ = 4e6
_WORD = 8
_BY_ROLE = {
    ChipRole.PROCESSOR: PinUse.DATA,
    ChipRole.ROM: PinUse.DATA,
    ChipRole.IO: PinUse.DATA,
    ChipRole.BUFFER: PinUse.DATA_OUT,
    ChipRole.MEMORY: PinUse.DATA_OUT,
    ChipRole.CLOCK: PinUse.CLOCK,
    ChipRole.RESET: PinUse.RESET,
    ChipRole.VIDEO: PinUse.STROBE,
    ChipRole.LOGIC: PinUse.OUTPUT,
}
#: chips on the processor's own bus: with one of them at fault no program runs
_ON_BUS = (ChipRole.PROCESSOR, ChipRole.ROM, ChipRole.IO)


class LogicBoard:
    """The chips of a sheet with a fault of one of them (None, or of a supply's part: all sound)."""

    def __init__(self, sheet: Sheet, fault: SimulatedFault | None, seed: int) -> None:
        self.sheet, self.seed, self.given = sheet, seed, fault
        self.chips = [part for part in sheet.parts if part.kind.model == "chip"]
        known = {part.ref for part in self.chips}
        self.fault = fault if fault and fault.where in known else None

    def role(self, part: Part) -> ChipRole:
        """What a chip does; one of which that is not known is logic."""
        return CHIP_ROLES.get(part.role, ChipRole.LOGIC)

    def pins(self, part: Part) -> tuple[Pin, ...]:
        """The pins of a chip, as its sheet has them."""
        chip = part.chip
        if chip and chip.pins:
            return chip.pins
        logic = logic_rail(self.sheet.rails)
        own = (part.line,) if part.line != TRUNK else (logic.key,) if logic else ()
        rails = chip.rails if chip and chip.rails else own
        return template(self.role(part), rails, chip.active if chip else "")

    def pin(self, part: Part, name: str) -> Pin:
        """A pin by its name; raises InputError."""
        known = next((p for p in self.pins(part) if p.name.upper() == name.strip().upper()), None)
        known = known or named_pin(name)
        if known is None:
            raise InputError(f"{part.ref} has no pin “{name[:20]}”")
        return known

    def has(self, *modes: FaultMode, role: ChipRole | None = None) -> bool:
        """True where the fault is one of these modes, at a chip of a role."""
        if self.fault is None or self.fault.how not in modes:
            return False
        return role is None or self.role(self._faulty) is role

    @cached_property
    def _faulty(self) -> Part:
        where = self.fault.where if self.fault else ""
        return next(part for part in self.chips if part.ref == where)

    def is_faulty(self, part: Part) -> bool:
        """True for the chip that the fault is in."""
        return self.fault is not None and part.ref == self.fault.where

    def signal(self, part: Part, pin: Pin, rails: Mapping[str, float], rng: random.Random) -> str:
        """What a pin does under power, as a person types it; `rails` in volts by key."""
        if pin.is_supply:
            return volts_text(rails.get(pin.rail, 0.0) * rng.uniform(0.998, 1.0))
        if not self._is_fed(rails):
            return LOW
        if self._is_open_here(part, pin):
            return DEAD
        return self._does(part, pin)

    def _is_fed(self, rails: Mapping[str, float]) -> bool:
        logic = logic_rail(self.sheet.rails)
        volt = rails.get(logic.key, 0.0) if logic else 0.0
        return logic is not None and volt >= _RUNS_SHARE * logic.nominal_v

    def _is_open_here(self, part: Part, pin: Pin) -> bool:
        """True where this contact of the socket is the open one."""
        if not (self.is_faulty(part) and self.has(FaultMode.OPEN_SOCKET)):
            return False
        use = PinUse.CLOCK if self.role(part) is ChipRole.PROCESSOR else _BY_ROLE[self.role(part)]
        first = next((p for p in self.pins(part) if p.use is use), None)
        return first is not None and first.name == pin.name

    def _does(self, part: Part, pin: Pin) -> str:
        if pin.use is PinUse.CLOCK:
            return self._clock(part)
        if pin.use in (PinUse.RESET, PinUse.POWER_GOOD):
            return self._reset(pin)
        if pin.use in (PinUse.READY, PinUse.INTERRUPT, PinUse.HOLD):
            return self._level(pin)
        if not self._runs:
            return HIGH if pin.use in (PinUse.ENABLE, PinUse.STROBE) else LOW
        return self._moving(part, pin)

    @cached_property
    def _has_clock(self) -> bool:
        return not self.has(*BOARD_MODES, role=ChipRole.CLOCK)

    @cached_property
    def _is_let_go(self) -> bool:
        return not self.has(*BOARD_MODES, role=ChipRole.RESET)

    @cached_property
    def _runs(self) -> bool:
        """True where the processor runs: clocked, let go, and itself neither dead nor cut off."""
        is_cut = self.has(FaultMode.DEAD, FaultMode.OPEN_SOCKET, role=ChipRole.PROCESSOR)
        return self._has_clock and self._is_let_go and not is_cut

    def _clock(self, part: Part) -> str:
        if self._has_clock:
            hertz = next((p.value for p in self.sheet.parts if p.kind.code == "crystal"), None)
            shown = (hertz or _USUAL_HZ) / 1e6
            return f"{PULSING} {shown:.4g}M"
        is_cut = self.has(FaultMode.OPEN_SOCKET) and self.is_faulty(part)
        return DEAD if is_cut else LOW

    def _reset(self, pin: Pin) -> str:
        if pin.use is PinUse.POWER_GOOD:
            return HIGH
        is_low = pin.active != "high"
        if self._is_let_go:
            return "lh" if is_low else "hl"
        return LOW if is_low else HIGH

    def _level(self, pin: Pin) -> str:
        return HIGH if pin.runs != "low" else LOW

    def _moving(self, part: Part, pin: Pin) -> str:
        """A line that moves while the processor runs, unless the fault holds it."""
        if self.is_faulty(part) and self.has(FaultMode.DEAD):
            return self._of_dead(pin)
        if pin.use in (PinUse.DATA, PinUse.DATA_OUT) and self._holds_bus(part, pin):
            return MID if self.has(FaultMode.BRIDGE) else LOW
        is_own = self.is_faulty(part) and pin.use is _BY_ROLE[self.role(part)]
        if is_own and self.has(FaultMode.STUCK, FaultMode.BRIDGE):
            return LOW
        return PULSING

    @staticmethod
    def _of_dead(pin: Pin) -> str:
        if pin.use in (PinUse.DATA, PinUse.DATA_OUT):
            return MID
        return LOW if pin.use in (PinUse.OUTPUT, PinUse.STROBE) else PULSING

    def _holds_bus(self, part: Part, pin: Pin) -> bool:
        """True where the fault holds this line of the data bus: line 0, with a bridge 1 too."""
        if not self.has(FaultMode.STUCK, FaultMode.BRIDGE):
            return False
        faulty = self.role(self._faulty)
        if self.role(part) is ChipRole.MEMORY:
            return self.is_faulty(part)
        line = "".join(filter(str.isdigit, pin.name)) or "0"
        lines = ("0", "1") if self.has(FaultMode.BRIDGE) else ("0",)
        return faulty in _ON_BUS and self.role(part) in _ON_BUS and line in lines

    def ohms(self, part: Part, pin: Pin, to: str, rng: random.Random) -> str:
        """Ohms of a line to ground or to a rail, power off."""
        if self._is_low(part, pin) and to.upper() == "GND":
            bounds = _BRIDGE_OHM if self.has(FaultMode.BRIDGE) else _DRIVER_OHM
            return ohms_text(significant(rng.uniform(*bounds), 2))
        return ohms_text(significant(rng.uniform(*_INPUT_OHM), 3))

    def _is_low(self, part: Part, pin: Pin) -> bool:
        """True where the fault joins this line to ground."""
        if self.has(FaultMode.STUCK):
            own = self.is_faulty(part) and pin.use is _BY_ROLE[self.role(part)]
            return own or (pin.use in (PinUse.DATA, PinUse.DATA_OUT) and self._holds_bus(part, pin))
        is_alone = (
            self.role(self._faulty) not in (*_ON_BUS, ChipRole.MEMORY) if self.fault else False
        )
        own = self.is_faulty(part) and pin.use is _BY_ROLE[self.role(part)]
        return self.has(FaultMode.BRIDGE) and is_alone and own

    def check_bank(self, bank: str) -> None:
        """Raise InputError for a bank that no memory chip is in."""
        banks = dict.fromkeys(p.bank for p in self.chips if self.role(p) is ChipRole.MEMORY)
        if bank.casefold() not in map(str.casefold, banks):
            known = ", ".join(banks) or "no memory"
            raise InputError(f"“{bank[:20]}” is no bank of this unit; it has {known}")

    def memory(self, bank: str, written: int, rails: Mapping[str, float]) -> int:
        """The word that memory reads back, `rails` in volts by key; raises InputError on a machine
        that does not run. A bank that lacks a rail holds nothing: all its bits read high."""
        on_bus = self.fault is not None and self.role(self._faulty) in _ON_BUS
        is_idle = self.has(FaultMode.DEAD, FaultMode.OPEN_SOCKET, role=ChipRole.IO)
        if not self._runs or not self._is_fed(rails) or (on_bus and not is_idle):
            raise InputError("the machine does not run: no memory test can be read")
        if not self._is_bank_fed(bank, rails):
            return (1 << _WORD) - 1
        if self.has(*BOARD_MODES, role=ChipRole.MEMORY):
            return self._of_chip(bank, written)
        if self.has(*BOARD_MODES, role=ChipRole.BUFFER):
            return self._of_buffer(written)
        return written

    def _is_bank_fed(self, bank: str, rails: Mapping[str, float]) -> bool:
        taken = {
            pin.rail
            for part in self.chips
            if self.role(part) is ChipRole.MEMORY and part.bank.casefold() == bank.casefold()
            for pin in self.pins(part)
            if pin.is_supply
        }
        return all(
            abs(rails.get(rail.key, 0.0)) >= _RUNS_SHARE * abs(rail.nominal_v)
            for rail in self.sheet.rails
            if rail.key in taken
        )

    def _of_chip(self, bank: str, written: int) -> int:
        faulty = self._faulty
        bits = faulty.chip.bits if faulty.chip else ()
        if faulty.bank.casefold() != bank.casefold() or not bits:
            return written
        if self.has(FaultMode.BRIDGE):
            return _joined(written, bits[0], (bits[0] + 1) % _WORD)
        mask = sum(1 << bit for bit in bits)
        return written & ~mask if self.has(FaultMode.STUCK) else written | mask

    def _of_buffer(self, written: int) -> int:
        """Memory's data buffer: its fault is in every bank alike."""
        if self.has(FaultMode.STUCK):
            return written & ~1
        if self.has(FaultMode.BRIDGE):
            return _joined(written, 0, 1)
        return (1 << _WORD) - 1 if self.has(FaultMode.DEAD) else written | 1


def _joined(word: int, one: int, other: int) -> int:
    """A word whose two bits are one line: low where either is."""
    both = (word >> one & 1) & (word >> other & 1)
    rest = word & ~(1 << one | 1 << other)
    return rest | both << one | both << other
