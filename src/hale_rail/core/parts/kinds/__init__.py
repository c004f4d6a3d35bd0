"""Every kind of part, listed once. A new kind is a module here and a line in `KINDS`."""

from __future__ import annotations

from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import (
    battery,
    board,
    bridge,
    capacitor,
    chips,
    choke,
    coils,
    connector,
    controller,
    diode,
    fuse,
    inlet,
    line_filter,
    mosfet,
    optocoupler,
    regulator,
    resistor,
    schottky,
    scr,
    switch,
    thermistor,
    transformer,
    transistor,
    trimmer,
    tube,
    varistor,
    zener,
)
from hale_rail.core.parts.part import PartKind

KINDS: tuple[PartKind, ...] = (
    inlet.KIND,
    fuse.KIND,
    switch.KIND,
    line_filter.KIND,
    thermistor.KIND,
    varistor.KIND,
    bridge.KIND,
    diode.KIND,
    schottky.KIND,
    zener.KIND,
    transistor.KIND,
    mosfet.KIND,
    scr.KIND,
    optocoupler.KIND,
    controller.KIND,
    regulator.KIND,
    resistor.KIND,
    choke.KIND,
    transformer.KIND,
    capacitor.KIND,
    connector.KIND,
    board.KIND,
    tube.KIND,
    chips.CHIP,
    chips.SOCKET,
    chips.CRYSTAL,
    battery.KIND,
    trimmer.KIND,
    coils.RELAY,
    coils.LAMP,
    coils.LEAD,
    coils.COIL,
)


def by_code(code: str) -> PartKind:
    """The kind of a code; raises InputError for a word that is not one."""
    part_kind = next((kind for kind in KINDS if kind.code == code), None)
    if part_kind is None:
        raise InputError(f"“{code}” is not a kind of part: {', '.join(k.code for k in KINDS)}.")
    return part_kind


def by_letters(letters: str) -> PartKind | None:
    """The kind whose designators begin with these letters, or None."""
    return next((kind for kind in KINDS if letters.upper() in kind.letters), None)
