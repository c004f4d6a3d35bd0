"""Reads resistors for dummy loads: the stock's columns, and `qty`; or the rails of an option."""

from __future__ import annotations

from collections.abc import Callable

from hale_rail.core.errors import InputError
from hale_rail.core.power.arrangements import Piece
from hale_rail.core.power.dummies import Dummies, Wanted
from hale_rail.core.quantities import Unit, read
from hale_rail.formats.fields import Fields, in_file, read_list

COLUMNS = ("ohms", "watts", "kind", "max_volts")
_MOST_QTY = 1000


def read_pieces(text: str, named: Callable[[int], str] = in_file) -> list[Piece]:
    """Every kind of resistor of a stock; raises InputError with the line that cannot be used."""
    return read_list(text, "Stock", COLUMNS[:2], _piece, named)


def _piece(_: int, fields: Fields) -> Piece:
    ohms = read(fields["ohms"], Unit.OHM, allow_words=False).value
    watts = read(fields["watts"], Unit.WATT, allow_words=False).value
    volts = fields.get("max_volts", "")
    max_volts = read(volts, Unit.VOLT, allow_words=False).value if volts else float("inf")
    if fields.get("kind", "wirewound").lower() not in ("wirewound", "film", ""):
        raise InputError(f"kind is wirewound or film, not “{fields['kind']}”")
    if not (ohms > 0 and watts > 0 and max_volts > 0):
        raise InputError("ohms, watts and max_volts must be above 0")
    return Piece(ohms, watts, max_volts, read_qty(fields.get("qty", "")))


def read_qty(text: str) -> int:
    """How many there are, 1 where nothing is said; raises InputError."""
    if not text.strip():
        return 1
    if not text.strip().isascii() or not text.strip().isdecimal() or int(text) > _MOST_QTY:
        raise InputError(f"qty is a whole number up to {_MOST_QTY}, not “{text[:20]}”")
    return int(text)


def read_rail(text: str) -> Wanted:
    """`5:1.5` or `-12V:200mA`: volts and wanted amperes; raises InputError."""
    volts, colon, amps = text.partition(":")
    if not colon:
        raise InputError(f"“{text[:20]}”: write volts:amperes, such as 5:1.5.")
    wanted = Wanted(
        read(volts, Unit.VOLT, allow_words=False).value,
        read(amps, Unit.AMPERE, allow_words=False).value,
    )
    if not wanted.rail_v or not wanted.amps > 0:
        raise InputError(f"“{text[:20]}”: volts other than 0, and a current above 0.")
    return wanted


def dummies_json(found: Dummies) -> dict[str, object]:
    """The loads as the command prints them."""
    return {
        "rails": [
            {
                "rail_v": load.wanted.rail_v,
                "wanted_a": load.wanted.amps,
                "amps": load.amps,
                "ohms": load.ohms,
                "arrangement": load.arrangement,
                "parts": [
                    {"ohms": p.ohms, "watts": p.watts, "dissipates_w": p.dissipates_w}
                    for p in load.parts
                ],
            }
            for load in found.loads
        ],
        "total_w": found.total_w,
        "unmet": [
            {"rail_v": wanted.rail_v, "wanted_a": wanted.amps, "reason": reason}
            for wanted, reason in found.unmet
        ],
    }
