"""What the board behind a simulated supply is asked: pins, memory, ROMs, exchanges, own work."""

from __future__ import annotations

import random
import re
from collections.abc import Callable

from msgspec import Struct

from hale_rail.core.behind.pins import bank_said
from hale_rail.core.errors import InputError
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.logic_board import LogicBoard
from hale_rail.core.simulate.meters import OVERLOAD
from hale_rail.core.simulate.outcome import AppliedLoad
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.unit import OFF, SimulatedUnit

_USUAL_WORD = 0xAA
_HEX = re.compile(r"(?:0x|\$)?([0-9a-f]{1,2})h?", re.IGNORECASE)
#: an exchange where nothing else is said: a spare that the bench knows to be good
_USUAL_ACT = "substituted proven in the bench machine"


class BoardBench(Struct):
    """A simulated unit, and the board behind it with the fault that it still has."""

    unit: SimulatedUnit
    board: LogicBoard


def is_pin(question: SimulatedQuestion) -> bool:
    """True for ohms of a chip's pin."""
    return question.procedure in ("ohms", "pin-ohms") and "." in question.target


def check(bench: BoardBench, question: SimulatedQuestion) -> None:
    """Refuse a target that there is not; raises InputError."""
    if question.procedure == "signal" or is_pin(question):
        part, pin = _place(bench, question)
        bench.board.pin(part, pin)
    elif question.procedure == "memory":
        bench.board.check_bank(bank_said(question.target))
    elif question.procedure in ("rom", "swap"):
        bench.unit.part(question.target)


def _place(bench: BoardBench, question: SimulatedQuestion) -> tuple[Part, str]:
    """The chip and the pin's name of `U20.CLK`; raises InputError."""
    name, dot, pin = question.target.partition(".")
    if not dot:
        raise InputError(f"“{question.target[:40]}”: name the chip and its pin, such as U20.CLK")
    part = bench.unit.part(name)
    if part not in bench.board.chips:
        raise InputError(f"{part.ref} is no chip of this unit")
    return part, pin


def _signal(bench: BoardBench, question: SimulatedQuestion, rng: random.Random) -> str:
    """What a pin does."""
    part, name = _place(bench, question)
    return bench.board.signal(part, bench.board.pin(part, name), _rails(bench), rng)


def _rails(bench: BoardBench) -> dict[str, float]:
    """Volts of the rails as the machine draws from them, by key."""
    outcome = bench.unit.switch(bench.unit.power, AppliedLoad.MACHINE)
    return {key: state.low_v for key, state in outcome.rails.items()} if outcome else {}


def _pin_ohms(bench: BoardBench, question: SimulatedQuestion, rng: random.Random) -> str:
    """Ohms of a pin's line to ground, or to the rail that the pair names second."""
    if bench.unit.power != OFF:
        return OVERLOAD
    part, name = _place(bench, question)
    to = question.pair[1] if question.pair else "GND"
    return bench.board.ohms(part, bench.board.pin(part, name), to, rng)


def _memory(bench: BoardBench, question: SimulatedQuestion, _: random.Random) -> str:
    """A word written, as the value says (0xAA where it says nothing), and what was read back."""
    written = _USUAL_WORD
    if question.value.strip():
        match = _HEX.fullmatch(question.value.strip())
        if not match:
            raise InputError(f"“{question.value[:20]}” is no word to write: such as 0x55")
        written = int(match[1], 16)
    read = bench.board.memory(bank_said(question.target), written, _rails(bench))
    return f"0x{written:02X} 0x{read:02X}"


def _rom(bench: BoardBench, question: SimulatedQuestion, _: random.Random) -> str:
    """What a reader says of a ROM, out of its socket."""
    part = bench.unit.part(question.target)
    is_bad = bench.board.is_faulty(part) and bench.board.has(FaultMode.STUCK, FaultMode.DEAD)
    return "differs" if is_bad else "equal"


def _work(bench: BoardBench, _: SimulatedQuestion, __: random.Random) -> str:
    """A bridge is seen where one looks for it."""
    fault = bench.board.fault
    return f"bridge at {fault.where}" if fault and bench.board.has(FaultMode.BRIDGE) else "clean"


def _swap(bench: BoardBench, question: SimulatedQuestion, _: random.Random) -> str:
    """What becomes of the fault: the value says what is done, a good spare where it is empty."""
    part = bench.unit.part(question.target)
    words = question.value.strip() or _USUAL_ACT
    act = words.split()[0].lower()
    is_it = bench.board.is_faulty(part)
    in_chip = is_it and bench.board.has(FaultMode.STUCK, FaultMode.DEAD)
    if act == "exchanged":
        return f"{words} {'moved' if in_chip else 'stayed'}"
    if act == "removed":
        return f"{words} {'gone' if is_it and bench.board.has(FaultMode.STUCK) else 'stayed'}"
    return f"{words} {'gone' if in_chip else 'stayed'}"


Asking = Callable[[BoardBench, SimulatedQuestion, random.Random], str]
BOARD_PROCEDURES: dict[str, Asking] = {
    "signal": _signal,
    "pin-ohms": _pin_ohms,
    "memory": _memory,
    "rom": _rom,
    "work": _work,
    "swap": _swap,
}


def ask_board(bench: BoardBench, question: SimulatedQuestion, rng: random.Random) -> str:
    """What the board answers; raises InputError for what cannot be asked."""
    asking = _pin_ohms if is_pin(question) else BOARD_PROCEDURES[question.procedure]
    return asking(bench, question, rng)
