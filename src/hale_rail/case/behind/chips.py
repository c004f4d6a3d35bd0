"""The facets of chips: those of the sheet with their pins, memory's table, crystals."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.name_lookup import part_names
from hale_rail.core.behind.memory import Table
from hale_rail.core.behind.pins import CHIP_ROLES, Chip, ChipRole, Pin, named_pin, template
from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import chips as kinds
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import PIN_OHMS, SIGNAL
from hale_rail.core.supply.sheet import TRUNK, Sheet, logic_rail
from hale_rail.formats.readings.machine_lists import read_layout
from hale_rail.store.machine_notes import MACHINE_NOTES

USUAL_BITS = 8


@facet
def chips(case: CaseFile) -> tuple[Chip, ...]:
    """The chips of the sheet, those by which the hunt goes first, else in the sheet's order."""
    own = [part for part in case.sheet.parts if part.kind is kinds.CHIP]
    names = part_names(case.sheet) if own else {}
    found = [_with_read(case, chip_of(case.sheet, part, names[part.id])) for part in own]
    roles = list(ChipRole)
    return tuple(
        sorted(found, key=lambda chip: roles.index(chip.role) if chip.role else len(roles))
    )


def _with_read(case: CaseFile, chip: Chip) -> Chip:
    """A chip with the pins that were read though nothing lists them."""
    known = {pin.name.casefold() for pin in chip.pins}
    more = {
        reading.target.plus: pin
        for reading in case.rows.of_part.get(chip.id, ())
        if reading.procedure in (SIGNAL, PIN_OHMS)
        and reading.target.plus.casefold() not in known
        and (pin := named_pin(reading.target.plus))
    }
    return replace(chip, pins=(*chip.pins, *more.values())) if more else chip


def chip_of(sheet: Sheet, part: Part, name: str) -> Chip:
    """A part as the hunt sees it: with the pins of its own, else those of its role."""
    marking = part.chip
    role = CHIP_ROLES.get(part.role)
    rails = rails_of(sheet, part)
    pins = marking.pins if marking and marking.pins else ()
    active = marking.active if marking else ""
    known = [rail.key for rail in sheet.rails]
    pins = tuple(pin for pin in pins if not pin.rail or pin.rail in known)
    return Chip(
        part.id, name, role, pins or template(role, rails, active), part.bank,
        marking.bits if marking else (), part.board,
    )  # fmt: skip


def rails_of(sheet: Sheet, part: Part) -> tuple[str, ...]:
    """The rails that a chip takes: as marked, else that of its line, else the logic's."""
    known = [rail.key for rail in sheet.rails]
    marked = [key for key in (part.chip.rails if part.chip else ()) if key in known]
    if marked:
        return tuple(marked)
    if part.line != TRUNK and part.line in known:
        return (part.line,)
    logic = logic_rail(sheet.rails)
    return (logic.key,) if logic else ()


@facet
def chip_by_id(case: CaseFile) -> Mapping[int, Chip]:
    """The chips by their part's id."""
    return {chip.id: chip for chip in chips(case)}


def pin_at(case: CaseFile, part_id: int | None, name: str) -> Pin | None:
    """A chip's pin by its name, None where there is none."""
    chip = chip_by_id(case).get(part_id or 0)
    return chip.pin(name) if chip else None


@facet
def layout_text(case: CaseFile) -> str:
    """The table of memory's chips as it was pasted, "" for none."""
    note = case.rows.newest(MACHINE_NOTES).get(("layout", ""))
    return str((note.body or {}).get("table", "")) if note else ""


@facet
def memory_table(case: CaseFile) -> Table:
    """Bank and bit to chip: by the sheet's memory chips, and by the pasted table before them."""
    table: dict[tuple[str, int], str] = {}
    for chip in chips(case):
        if chip.role is ChipRole.MEMORY:
            table |= {(chip.bank.casefold(), bit): chip.ref for bit in chip.bits}
    try:
        pasted = read_layout(layout_text(case)) if layout_text(case) else {}
    except InputError:
        pasted = {}
    return {**table, **pasted}


@facet
def word_bits(case: CaseFile) -> int:
    """The bits of a memory's word: what its table needs, eight at least."""
    return max(USUAL_BITS, 1 + max((bit for _, bit in memory_table(case)), default=0))


@facet
def banks(case: CaseFile) -> tuple[str, ...]:
    """The banks of memory, in the order of the sheet; one without a name where none is listed."""
    return tuple(dict.fromkeys(bank for bank, _ in memory_table(case))) or ("",)


@facet
def crystals(case: CaseFile) -> Mapping[str, float | None]:
    """The crystals of the sheet with their hertz, None where those are not known."""
    return {part.ref: part.value for part in case.sheet.parts if part.kind is kinds.CRYSTAL}
