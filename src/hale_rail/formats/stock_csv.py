"""Reads a stock of power resistors: `ohms,watts,kind,max_volts`, kind wirewound or film."""

from __future__ import annotations

import csv
import io

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read
from hale_rail.core.safety.bleeding import Resistor

COLUMNS = ("ohms", "watts", "kind", "max_volts")


def read_stock(text: str) -> list[Resistor]:
    """Every resistor of the list; raises InputError with the line that cannot be used."""
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")))
    reader.fieldnames = [(name or "").strip().lower() for name in reader.fieldnames or []]
    missing = [name for name in COLUMNS if name not in reader.fieldnames]
    if missing:
        raise InputError(f"The stock's header lacks {', '.join(missing)}.")
    stock = []
    for row in reader:
        fields = {name: (row.get(name) or "").strip() for name in COLUMNS}
        if any(fields.values()):
            try:
                stock.append(_resistor(fields))
            except InputError as error:
                raise InputError(f"Stock, line {reader.line_num}: {error}") from error
    return stock


def _resistor(fields: dict[str, str]) -> Resistor:
    ohm = read(fields["ohms"], Unit.OHM, allow_words=False).value
    watt = read(fields["watts"], Unit.WATT, allow_words=False).value
    volt = read(fields["max_volts"], Unit.VOLT, allow_words=False).value
    kind = fields["kind"].lower()
    if kind not in ("wirewound", "film"):
        raise InputError(f"kind is wirewound or film, not “{fields['kind']}”")
    if not (ohm > 0 and watt > 0 and volt > 0):
        raise InputError("ohms, watts and max_volts must be above 0")
    return Resistor(ohm, watt, kind, volt)
