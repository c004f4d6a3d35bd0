"""Reads and writes a stock of power resistors: `ohms,watts,kind,max_volts`, wirewound or film."""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read
from hale_rail.core.safety.bleeding import Resistor
from hale_rail.formats.fields import Fields, in_file, read_list

COLUMNS = ("ohms", "watts", "kind", "max_volts")
#: the columns as one says them
HEADINGS = ("Ω", "W", "kind", "most V")


def read_stock(text: str, named: Callable[[int], str] = in_file) -> list[Resistor]:
    """Every resistor of the list; raises InputError with the line that cannot be used."""
    return read_list(text, "Stock", COLUMNS, _resistor, named)


def cells(resistor: Resistor) -> tuple[str, ...]:
    """A resistor as a row of the list."""
    return (
        f"{resistor.ohm:.12g}",
        f"{resistor.watt:.12g}",
        resistor.kind,
        f"{resistor.max_volt:.12g}",
    )


def _resistor(_: int, fields: Fields) -> Resistor:
    ohm = read(fields["ohms"], Unit.OHM, allow_words=False).value
    watt = read(fields["watts"], Unit.WATT, allow_words=False).value
    volt = read(fields["max_volts"], Unit.VOLT, allow_words=False).value
    kind = fields["kind"].lower()
    if kind not in ("wirewound", "film"):
        raise InputError(f"kind is wirewound or film, not “{fields['kind']}”")
    if not (ohm > 0 and watt > 0 and volt > 0):
        raise InputError("ohms, watts and max_volts must be above 0")
    return Resistor(ohm, watt, kind, volt)
