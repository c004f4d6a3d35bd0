"""Reads and writes a stock of power resistors: `ohms,watts,kind,max_volts`, optionally `qty`."""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read
from hale_rail.core.safety.bleeding import PowerResistor
from hale_rail.formats.tables.fields import Fields, in_file, read_list

NEEDED = ("ohms", "watts")
COLUMNS = (*NEEDED, "kind", "max_volts", "qty")
_MOST_QTY = 1000
#: volts that a power resistor withstands at least, where its list does not say
USUAL_V = 200.0
#: the columns in words
HEADINGS = ("Ω", "W", "kind", "most V", "how many")


def read_stock(text: str, named: Callable[[int], str] = in_file) -> list[PowerResistor]:
    """Every resistor of the list; raises InputError with the line that cannot be used.

    One whose kind is not said is wirewound, as most power resistors are; one whose greatest volts
    are not said is taken to stand `USUAL_V`.
    """
    return read_list(text, "Stock", NEEDED, _resistor, named)


def cells(resistor: PowerResistor) -> tuple[str, ...]:
    """A resistor as a row of the list."""
    return (
        f"{resistor.ohm:.12g}",
        f"{resistor.watt:.12g}",
        resistor.kind,
        f"{resistor.max_volt:.12g}",
        str(resistor.qty),
    )


def _resistor(_: int, fields: Fields) -> PowerResistor:
    ohm = read(fields["ohms"], Unit.OHM, allow_words=False).value
    watt = read(fields["watts"], Unit.WATT, allow_words=False).value
    most = fields.get("max_volts", "")
    volt = read(most, Unit.VOLT, allow_words=False).value if most else USUAL_V
    kind = fields.get("kind", "").lower() or "wirewound"
    if kind not in ("wirewound", "film"):
        raise InputError(f"kind is wirewound or film, not “{fields['kind']}”")
    if not (ohm > 0 and watt > 0 and volt > 0):
        raise InputError("ohms, watts and max_volts must be above 0")
    return PowerResistor(ohm, watt, kind, volt, read_qty(fields.get("qty", "")))


def read_qty(text: str) -> int:
    """How many there are, 1 where nothing is said; raises InputError."""
    if not text.strip():
        return 1
    if not text.strip().isascii() or not text.strip().isdecimal() or int(text) > _MOST_QTY:
        raise InputError(f"qty is a whole number up to {_MOST_QTY}, not “{text[:20]}”")
    return int(text)
