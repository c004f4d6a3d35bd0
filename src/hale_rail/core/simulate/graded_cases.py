"""Graded cases of practice, each harder than the one before; the last behind the supply."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.random_units import (
    Difficulty,
    DrawnUnit,
    board_sheet,
    draw,
    practice_sheet,
)
from hale_rail.core.supply.sheet import Topology


class Graded(Struct, frozen=True):
    """A graded case: what its owner tells, and the unit with its fault."""

    place: int
    title: str
    told: str
    topology: Topology
    year: int
    fault: str
    seed: int
    has_board: bool = False

    def drawn(self) -> DrawnUnit:
        """The unit, its fault and its seed."""
        make = board_sheet if self.has_board else practice_sheet
        sheet = make(self.topology, self.year)
        return DrawnUnit(sheet, find_fault(sheet, self.fault), self.seed)


_L, _F, _H, _D = Topology.LINEAR, Topology.FLYBACK, Topology.HALF_BRIDGE, Topology.DC_FED
_ROWS: tuple[tuple[str, str, Topology, int, str, int], ...] = (
    ("The quiet reading lamp", "Switched on one evening and stayed dark.", _L, 1978, "open:F1", 21),
    ("A dead beginning", "Stood in a loft for years; does nothing now.", _F, 1984, "open:RT1", 22),
    ("Bars across the picture", "Hum bars that roll, worse when warm.", _L, 1979, "dry:C1", 23),
    ("One of three is gone", "Plays, but the sound is missing.", _F, 1985, "open:D12", 24),
    ("Black glass", "A bang, and the fuse is black. A new one did the same.", _F, 1986,
     "short:Q1", 25),
    ("It needs a second try", "Starts when it likes to.", _F, 1987, "dry:C2", 26),
    ("The rail that would not rise", "+12 V is missing; its regulator gets warm.", _L, 1980,
     "short:C12", 27),
    ("Tick, tick", "Ticks once a second and shows nothing.", _H, 1986, "short:D12", 28),
    ("Fine at the supply", "Resets when the drive starts.", _H, 1988, "worn:P1", 29),
    ("The brick and the box", "Dead with its own brick, dead with another.", _D, 1983,
     "short:C1", 30),
    ("Everything is a little low", "All rails low, nothing hot.", _F, 1989, "drift:feedback", 31),
    ("Only when it is warm", "Half an hour, then a crash; cold it runs.", _H, 1987,
     "joint:T1", 32),
)  # fmt: skip
#: behind the supply: its rails are right, and the machine is dead or forgets
_BEHIND: tuple[tuple[str, str, Topology, int, str, int], ...] = (
    ("No pulse", "The fan turns, the lamp is lit. Nothing else.", _F, 1984, "dead:U21", 33),
    ("One bit of eight", "Starts, then prints a memory error and stops.", _L, 1979, "dead:M6", 34),
    ("Both banks agree", "Garbage on the screen, the same wherever one looks.", _H, 1986,
     "stuck:U24", 35),
    ("It only needs a push", "Dead until somebody leans on the board.", _D, 1983,
     "open-socket:U20", 36),
)  # fmt: skip
GRADED = tuple(
    Graded(n, *row, has_board=row in _BEHIND) for n, row in enumerate((*_ROWS, *_BEHIND), start=1)
)


def graded(place: int) -> Graded:
    """The graded case of a place, from 1; raises InputError."""
    graded = next((g for g in GRADED if g.place == place), None)
    if graded is None:
        raise InputError(f"There are {len(GRADED)} graded cases, and no {place}.")
    return graded


def drawn_of(place: int | None, topology: str, difficulty: str, seed: int) -> DrawnUnit:
    """The unit of a practice as it was chosen: a graded one, else as drawn; raises InputError."""
    if place is not None:
        return graded(place).drawn()
    meant = next((t for t in Topology if t.code == topology), None)
    hard = next((d for d in Difficulty if d.value == difficulty), None)
    if meant is None:
        raise InputError("Choose a topology.", field="topology")
    return draw(meant, seed, hard)
