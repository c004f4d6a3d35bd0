"""Reads and writes the workshop's ready-made loads: `load,kind,volts,amps`, optionally `qty`."""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.errors import InputError
from hale_rail.core.power.ready_loads import LOAD_KINDS, ReadyLoad
from hale_rail.core.quantities import Unit, read
from hale_rail.formats.tables.fields import Fields, in_file, read_list
from hale_rail.formats.workshop.stock_csv import read_qty

NEEDED = ("load", "kind", "volts", "amps")
COLUMNS = (*NEEDED, "qty")
#: the columns in words
HEADINGS = ("load", "kind", "V", "A", "how many")
_LONGEST = 40


def read_loads(text: str, named: Callable[[int], str] = in_file) -> list[ReadyLoad]:
    """Every load of the list; raises InputError with the line that cannot be used."""
    return read_list(text, "Loads", NEEDED, _load, named)


def cells(load: ReadyLoad) -> tuple[str, ...]:
    """A load as a row of the list."""
    return (load.name, load.kind.code, f"{load.volt:.12g}", f"{load.ampere:.12g}", str(load.qty))


def _load(_: int, fields: Fields) -> ReadyLoad:
    name = fields["load"]
    if not name or len(name) > _LONGEST:
        raise InputError(f"name the load, in at most {_LONGEST} characters")
    kind = LOAD_KINDS.get(fields["kind"].lower())
    if kind is None:
        raise InputError(f"kind is {', '.join(LOAD_KINDS)}, not “{fields['kind'][:20]}”")
    volt = read(fields["volts"], Unit.VOLT, allow_words=False).value
    ampere = read(fields["amps"], Unit.AMPERE, allow_words=False).value
    if not (volt > 0 and ampere > 0):
        raise InputError("volts and amps must be above 0")
    return ReadyLoad(name, kind, volt, ampere, read_qty(fields.get("qty", "")))
