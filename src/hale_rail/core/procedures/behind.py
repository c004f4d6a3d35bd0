"""Procedures behind the supply: what a pin does, ohms of its line, memory, own work, acts, a ROM.

What is read is named by texts: a chip's pin by its part and name, ohms by the pin and what they go
to, a bank of memory `memory/0`, own work `work`, an act and a ROM by their part.
"""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.core.behind.acts import read_act
from hale_rail.core.behind.memory_text import read_memory
from hale_rail.core.behind.signals import LETTERS, Does, read_signal
from hale_rail.core.behind.words import Base
from hale_rail.core.errors import InputError, RangeError
from hale_rail.core.procedures.procedure import (
    COLD,
    OHMS_ACCURACY,
    VOLTS_ACCURACY,
    Condition,
    Need,
    Procedure,
    Subject,
    Understood,
    shown_ohms,
)
from hale_rail.core.quantities import Unit, show, tidy
from hale_rail.core.targets import Target, TargetKind

_PIN = frozenset({TargetKind.PIN})
MEMORY_GROUP, WORK_GROUP, ACT_NAME, ROM_NAME = "memory", "work", "act", "rom"
_MOST_WORK, _FEWEST_WORK = 60, 3
#: volts below which a figure is a slip of the suffix: `p4` is 0.4 pV where p, pulsing, was meant
_LEAST_V = 1e-6
#: what a person says of a ROM without a dump on this machine
ROM_EQUAL, ROM_DIFFERS, ROM_BLANK = "equal", "differs", "blank"


def pin_of(part_id: int, name: str, to: str = "") -> Target:
    """A chip's pin by its name; with `to` its line to ground or to a rail."""
    return Target(TargetKind.PIN, part_id, plus=name, minus=to)


def bank_target(bank: str) -> Target:
    """A bank of memory."""
    return Target(TargetKind.PIN, plus=f"{MEMORY_GROUP}/{bank}")


WORK_TARGET = Target(TargetKind.PIN, plus=WORK_GROUP)


def bank_of(target: Target) -> str | None:
    """The bank of a target, None for another target."""
    group, slash, bank = target.plus.partition("/")
    is_bank = target.part_id is None and group == MEMORY_GROUP and bool(slash)
    return bank if is_bank else None


def behind_words(target: Target) -> str:
    """What is read behind the supply where it is no chip's, as one says it; "" for another."""
    bank = bank_of(target)
    if bank is not None:
        return f"memory, bank {bank}" if bank else "memory"
    return "own work" if target == WORK_TARGET else ""


def _signal(text: str, _: Condition, subject: Subject) -> Understood:
    signal = read_signal(text, is_supply=subject.nominal_v is not None)
    if 0 < abs(signal.volt or 0.0) < _LEAST_V:
        raise RangeError(f"{signal.words} is less than a meter shows. Write 0, or 4.98.")
    figures = {"hertz": signal.hertz} if signal.hertz else {}
    if signal.does:
        figures["does"] = float(list(Does).index(signal.does))
    volt = signal.volt or 0.0
    return Understood(volt, volt, 0.0, signal.words, figures)


def _shown_signal(typed: str, figures: Mapping[str, float]) -> str:
    return read_signal(typed, is_supply="does" not in figures).words


def _expect_signal(_: Condition, subject: Subject) -> str:
    return subject.part_words


def _memory(text: str, _: Condition, subject: Subject) -> Understood:
    base = Base(subject.base) if subject.base else None
    read = read_memory(text, bits=subject.bits, bank=subject.way, refs=subject.refs, base=base)
    if read.ref:
        echo = f"the test names {read.ref}"
    elif read.is_right:
        echo = "no bit differs"
    else:
        ways = (
            f"bit {bit} reads {way}" if way else f"bit {bit}" for bit, way in read.stuck.items()
        )
        echo = ", ".join(ways)
    written, seen = read.written, read.read
    figures = {"bits": float(subject.bits), "mask": float(read.differ)}
    if written is not None and seen is not None:
        echo = f"wrote {written:02X}, read {seen:02X}: {echo}"
    return Understood(0.0, 0.0, 0.0, echo, figures)


def _expect_memory(_: Condition, __: Subject) -> str:
    return "what was written and read, like FF EF; a mask; the chip it names; or pass"


def _as_typed(typed: str, _: Mapping[str, float]) -> str:
    return typed


def _work(text: str, _: Condition, __: Subject) -> Understood:
    clean = tidy(text)
    if clean.lower() in _CLEAN:
        return Understood(0.0, 0.0, 0.0, "looked over: clean")
    if not _FEWEST_WORK <= len(clean) <= _MOST_WORK or clean.isdecimal():
        raise InputError("Write clean, or what was found: bridge U5 pin 3, clipping, socket XU8.")
    return Understood(1.0, 1.0, 0.0, f"found: {clean}")


_CLEAN = ("clean", "c", "nothing", "none", "ok")


def is_clean(typed: str) -> bool:
    """True for a look at own work that found nothing."""
    return tidy(typed).lower() in _CLEAN


def _expect_work(_: Condition, __: Subject) -> str:
    return "clean, or what was found: bridges, clippings, sockets, chips the wrong way round"


def _act(text: str, _: Condition, subject: Subject) -> Understood:
    return Understood(0.0, 0.0, 0.0, read_act(subject.name, text).words)


def _expect_act(_: Condition, __: Subject) -> str:
    return "exchanged U21 moved; substituted stock stayed; removed gone; put back; tried in …"


def _rom(text: str, _: Condition, __: Subject) -> Understood:
    word, _space, rest = tidy(text).partition(" ")
    if word.lower() not in (ROM_EQUAL, ROM_DIFFERS, ROM_BLANK):
        raise InputError("Write equal, differs or blank; a dump itself goes in by its file.")
    echo = f"{word.lower()} {rest}".strip()
    return Understood(float(word.lower() != ROM_EQUAL), float(word.lower() != ROM_EQUAL), 0.0, echo)


def _expect_rom(_: Condition, __: Subject) -> str:
    return "equal, differs or blank, by a reader of your own; or its dump, by the file"


def _expect_ohms(_: Condition, subject: Subject) -> str:
    return f"above {show(SOUND_OHM, Unit.OHM)}; {subject.part_words}".rstrip("; ")


#: ohms that a sound line shows at least, to ground and to the rail
SOUND_OHM = 100.0
_NO_METER = VOLTS_ACCURACY
SIGNAL = Procedure(
    "signal", "what it does", "signal", Unit.VOLT, _PIN, _signal, VOLTS_ACCURACY,
    needs=frozenset({Need.POWERED}), expect=_expect_signal, is_of_health=False,
    plain="V", shown=_shown_signal,
    letters=tuple((letter, does.code) for letter, does in LETTERS.items()),
)  # fmt: skip
PIN_OHMS = Procedure(
    "pin-ohms", "ohms of its line, power off", "ohms", Unit.OHM, _PIN, shown_ohms, OHMS_ACCURACY,
    needs=COLD, expect=_expect_ohms, is_of_health=False,
)  # fmt: skip
MEMORY_TEST = Procedure(
    "memory", "written and read", "memory", Unit.VOLT, _PIN, _memory, _NO_METER,
    needs=frozenset({Need.POWERED}), expect=_expect_memory, corrects=False, is_of_health=False,
    verb="Test", shown=_as_typed,
)  # fmt: skip
WORK = Procedure(
    "work", "for bridges, clippings, sockets", "work", Unit.VOLT, _PIN, _work, _NO_METER,
    expect=_expect_work, is_of_health=False, verb="Look at", shown=_as_typed,
)  # fmt: skip
ACT = Procedure(
    "swap", "by exchange", "exchange", Unit.VOLT, _PIN, _act, _NO_METER, expect=_expect_act,
    corrects=False, is_of_health=False, verb="Try", shown=_as_typed,
)  # fmt: skip
ROM = Procedure(
    "rom", "ROM", "ROM", Unit.VOLT, _PIN, _rom, _NO_METER, expect=_expect_rom,
    is_of_health=False, verb="Compare", shown=_as_typed,
)  # fmt: skip
BEHIND = (SIGNAL, PIN_OHMS, MEMORY_TEST, WORK, ACT, ROM)
