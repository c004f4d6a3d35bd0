"""What was read of a machine whose supply is right, as the chain and the chips take it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

from msgspec import Struct, field

from hale_rail.core.behind.acts import Exchange, Proven, Standing, proven
from hale_rail.core.behind.memory import MemoryRead, MemorySays, Table, memory_says
from hale_rail.core.behind.pins import MOVING, Chip, ChipRole, Pin, PinUse
from hale_rail.core.behind.rom import RomSays
from hale_rail.core.behind.signals import Does, Signal
from hale_rail.core.quantities import Unit, show

#: a pin by its chip's designator and its name
At = tuple[str, str]
GROUND = "GND"


class Supplied(Struct, frozen=True):
    """A supply pin as it was read: volts, whether they are right, and the figure in words."""

    volt: float
    is_right: bool
    words: str


class WorkLook(Struct, frozen=True):
    """What was found where somebody worked: `is_clean`, or what it is in words."""

    is_clean: bool
    words: str


class RomRead(Struct, frozen=True):
    """A ROM compared: the chip's designator, and what the comparison says."""

    ref: str
    says: RomSays


class Evidence(Struct, frozen=True, dict=True):
    """All that is known behind a supply.

    `signals`, `supplies` and `ohms` (to ground, or to a rail by its key) by pin; `work` None where
    nobody looked since the last work; `was_worked_on`: something was soldered or plugged; `hot`
    chips; `crystals` in hertz by designator; `failed_rails` keys of rails that read wrong at the
    connector in the machine; `replaced` chips that were fitted new since what was said of them;
    `is_act_last`: nothing was observed since the last act; `symptoms` of the machine by code.
    """

    chips: tuple[Chip, ...] = ()
    signals: Mapping[At, Signal] = field(default_factory=dict)
    supplies: Mapping[At, Supplied] = field(default_factory=dict)
    ohms: Mapping[tuple[str, str, str], float] = field(default_factory=dict)
    work: WorkLook | None = None
    was_worked_on: bool = False
    memory: tuple[MemoryRead, ...] = ()
    table: Table = field(default_factory=dict)
    roms: tuple[RomRead, ...] = ()
    acts: tuple[Exchange, ...] = ()
    hot: frozenset[str] = frozenset()
    crystals: Mapping[str, float | None] = field(default_factory=dict)
    failed_rails: tuple[str, ...] = ()
    replaced: frozenset[str] = frozenset()
    is_act_last: bool = True
    symptoms: tuple[str, ...] = ()

    @cached_property
    def proven(self) -> Proven:
        """What the acts prove."""
        return proven(self.acts)

    @cached_property
    def memory_says(self) -> MemorySays:
        """What the memory test says."""
        return memory_says(self.memory, self.table)

    def of_role(self, *roles: ChipRole) -> tuple[Chip, ...]:
        """The chips of some roles, in the sheet's order."""
        return tuple(chip for chip in self.chips if chip.role in roles)

    def does(self, chip: Chip, pin: Pin) -> Does | None:
        """What a pin is known to do, None where it is unread or a meter cannot tell.

        A meter shows the average of what moves. Of a clock, high for a third to two thirds of the
        time, it can tell that it stands; of a level that it is no level; of other lines, which may
        pulse for a moment only, nothing.
        """
        signal = self.signals.get((chip.ref, pin.name))
        if signal is None or not signal.is_meter:
            return signal.does if signal else None
        if pin.use is PinUse.CLOCK:
            return None if signal.may_move else signal.does
        if pin.use in MOVING:
            return None
        return None if signal.does is Does.MID else signal.does

    def is_cleared(self, ref: str) -> bool:
        """True for a part that the acts acquit, or of which only the contact is left."""
        return self.proven.of(ref) in (Standing.CLEARED, Standing.GOOD, Standing.CONTACT)

    def untold(self, chip: Chip, pin: Pin) -> str:
        """What is said of a reading that does not tell what its pin does; "" for any other."""
        signal = self.signals.get((chip.ref, pin.name))
        if signal is None or self.does(chip, pin) is not None or signal.volt is None:
            return ""
        return (
            f"{chip.ref} {pin.name}: {show(signal.volt, Unit.VOLT)} by a meter, which does not see "
            "whether it moves."
        )

    def is_read(self, chip: Chip, pin: Pin) -> bool:
        """True for a pin that was read."""
        return (chip.ref, pin.name) in (self.supplies if pin.is_supply else self.signals)

    def signal(self, chip: Chip, pin: Pin) -> Signal | None:
        """What was seen at a pin, or None."""
        return self.signals.get((chip.ref, pin.name))

    def pins(self, uses: Sequence[PinUse], *roles: ChipRole) -> list[tuple[Chip, Pin]]:
        """The pins of some uses at chips of some roles, in order."""
        return [
            (chip, pin) for chip in self.of_role(*roles) for pin in chip.pins if pin.use in uses
        ]
