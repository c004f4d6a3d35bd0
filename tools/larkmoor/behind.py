"""The demo behind the supply: the terminal's board as listed, a hunt that ended, one under way."""

from __future__ import annotations

import random
from collections.abc import Sequence

from hale_rail.actions.behind import apart, notes, roms
from hale_rail.actions.bring_up import machine
from hale_rail.actions.intake import sheets
from hale_rail.actions.parts import decisions, looks
from hale_rail.case.behind.chips import chips
from hale_rail.case.behind.hunt import WORK_POINT, act_point, memory_point, signal_point
from hale_rail.case.file import open_case
from hale_rail.core.behind.evidence import GROUND
from hale_rail.core.behind.pins import Chip
from hale_rail.core.procedures import BATTERY, PIN_OHMS, Point
from hale_rail.core.procedures.behind import pin_of
from larkmoor.hand import Hand
from larkmoor.placed import Drawn, photo

#: the terminal's board as one would paste it
BOARD = """U4 processor 40 +5 active low
U2 clock
U3 reset generator active low
U6 rom 24
M1..M8 memory bank 0 bits 0-7 +5 +12 -5
M9..M16 memory bank 1 bits 0-7 +5 +12 -5
U7 buffer
U8 video
U9 i/o
X1 8.000 MHz
XU4 socket 40
BT1 3V6
"""
#: width and height of the board, and where its chips stand on it, in mm
SIZE_MM = (210.0, 118.0)
_PLACES = {
    "U4": (52.0, 18.0), "U2": (112.0, 18.0), "U3": (138.0, 18.0), "U6": (172.0, 18.0),
    "U7": (26.0, 100.0), "U8": (84.0, 100.0), "U9": (146.0, 100.0),
    **{f"M{1 + 8 * bank + bit}": (20.0 + 24.0 * bit, 44.0 + 27.0 * bank)
       for bank in (0, 1) for bit in range(8)},
}  # fmt: skip
_RAILS = (("U4", "VCC", "4.97"), ("M1", "V+5", "4.96"), ("M1", "V+12", "12.02"),
          ("M1", "V-5", "-5.03"), ("M9", "V+5", "4.96"), ("M9", "V+12", "12.01"),
          ("M9", "V-5", "-5.02"))  # fmt: skip
_RUNS = (("U4", "CLK", "p 4.000M"), ("U4", "RESET", "lh"), ("U4", "READY", "h"),
         ("U4", "INT", "h"), ("U4", "HOLD", "h"))  # fmt: skip


def listed(hand: Hand) -> None:
    """The board's chips come onto the sheet, and are looked at."""
    sheets.add_parts(hand.store, hand.number, BOARD, hand.moment(4))
    looks.rest_sound(hand.store, hand.number, hand.moment(2))
    hand.read(hand.part("BT1").point(BATTERY), "3.58")


def _chip(hand: Hand, ref: str) -> Chip:
    return next(chip for chip in chips(open_case(hand.store, hand.number)) if chip.ref == ref)


def _signals(hand: Hand, *read: tuple[str, str, str]) -> None:
    for ref, pin, text in read:
        hand.read(signal_point(_chip(hand, ref), pin), text)


def _memory(hand: Hand, bank: str, *texts: str) -> None:
    for text in texts:
        hand.read(memory_point(bank), text)


def _rom(hand: Hand, ref: str, seed: int) -> None:
    """A dump that is what it should be."""
    data, part = random.Random(seed).randbytes(2048), hand.part(ref).id
    for name, is_good in (("as-read.bin", False), ("archive.bin", True)):
        roms.keep_dump(hand.store, hand.number, part, data, f"{ref}-{name}", is_good=is_good,
                       at=hand.moment(3))  # fmt: skip


def brought_up(hand: Hand) -> None:
    """The finished terminal: the chain walked to a memory chip, proven by an exchange, replaced."""
    listed(hand)
    hand.read(WORK_POINT, "clean")
    notes.say_symptom(hand.store, hand.number, "memory-error", hand.moment(1))
    _memory(hand, "1", "FF EF", "55 45")
    _signals(hand, *_RAILS, *_RUNS)
    _signals(hand, ("U4", "A0", "p"), ("U6", "CS", "p"), ("U4", "D0", "p"), ("U6", "A0", "p"),
             ("U6", "D0", "p"), ("M1", "RAS", "p"), ("M1", "CAS", "p"), ("M9", "RAS", "p"),
             ("M9", "CAS", "p"))  # fmt: skip
    _rom(hand, "U6", 9)
    why = "bit 4 of bank 1 reads low"
    hand.read(act_point(hand.part("M13").id), f"exchanged M12 moved since {why}")
    decisions.decide(hand.store, hand.number, hand.part("M13").id, "fitted",
                     "one of the same, proven in LW-003", hand.moment(6))  # fmt: skip
    for bank in ("0", "1"):
        _memory(hand, bank, "FF FF", "00 00")
    hand.read(WORK_POINT, "clean")
    notes.say_symptom(hand.store, hand.number, "memory-error", hand.moment(1))
    hand.note("M13 replaced: MEM OK in both banks.")
    body = {"v_in": 9.0, "v_out": 5.0, "amps": 0.9, "efficiency": 0.85, "case_c": 74.0}
    machine.reckon_regulator(hand.store, hand.number, "U1", body, hand.moment(1))


def _drawn(hand: Hand) -> Drawn:
    parts = {ref: hand.part(ref) for ref in _PLACES}
    return Drawn("Terminal board", SIZE_MM, "green", _PLACES, parts)


def taken_apart(hand: Hand, lines: Sequence[str]) -> None:
    """What came off, line by line."""
    for line in lines:
        apart.take_off(hand.store, hand.number, line, at=hand.moment(1))


def under_way(hand: Hand) -> None:
    """A terminal that runs, dead: proven up to wait, a data line stuck, a spare untested."""
    listed(hand)
    drawn = _drawn(hand)
    hand.corners(hand.board(drawn, photo(drawn)), _corners(drawn))
    hand.place(drawn)
    taken_apart(hand, (
        "four screws M3 x 8, under the feet",
        "hidden clip at the rear, press with a card",
        "earth wire, lid to base, left hinge",
        "keyboard ribbon, red edge to the left",
        "shield over the video corner, two tabs",
        "battery BT1, corner by U9",
    ))  # fmt: skip
    apart.say_battery(
        hand.store, hand.number, "6", is_clean=True, ate="two traces at U9", at=hand.moment(4)
    )
    notes.say_symptom(hand.store, hand.number, "dead", hand.moment(1))
    hand.power("bench")
    _signals(hand, *_RAILS, *_RUNS)
    hand.read(act_point(hand.part("U4").id), "substituted CPU-1 from stock stayed")
    _signals(hand, ("U4", "A0", "p"), ("U6", "CS", "p"), ("U4", "D0", "l"))
    hand.make_dead(C1="0.4")
    to_ground = Point(pin_of(hand.part("U4").id, "D0", GROUND), PIN_OHMS)
    hand.read(to_ground, "4k1")
    looks.look(hand.store, hand.number, hand.part("U7").id, ["hot"], hand.moment(1))
    hand.note("D0 stays low, no short to ground. U7 is hotter than its neighbours.")


def _corners(drawn: Drawn) -> list[tuple[float, float]]:
    """The corners of a photo taken straight from above, in its pixels."""
    wide, tall = (side * 10 for side in drawn.size)
    return [(0.0, 0.0), (wide, 0.0), (wide, tall), (0.0, tall)]
