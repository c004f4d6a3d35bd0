"""Reads resistors for dummy loads: the stock's columns, and `qty`; or the rails of an option."""

from __future__ import annotations

from hale_rail.core.errors import InputError
from hale_rail.core.power.arrangements import Piece
from hale_rail.core.power.dummies import Dummies, LoadPart, Wanted
from hale_rail.core.quantities import Unit, read
from hale_rail.core.safety.bleeding import PowerResistor
from hale_rail.formats.workshop.stock_csv import read_stock


def read_pieces(text: str) -> list[Piece]:
    """Every kind of resistor of a stock; raises InputError with the line that cannot be used."""
    return [piece_of(resistor) for resistor in read_stock(text)]


def piece_of(resistor: PowerResistor) -> Piece:
    """A power resistor at hand as dummy loads want it."""
    return Piece(resistor.ohm, resistor.watt, resistor.max_volt, resistor.qty)


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


def _part(part: LoadPart) -> dict[str, object]:
    return {
        "ohms": part.ohms,
        "watts": part.watts,
        "dissipates_w": part.dissipates_w,
        **({"load": part.name} if part.name else {}),
        **({"cold_a": part.cold_a} if part.cold_a else {}),
    }


def dummies_json(dummies: Dummies) -> dict[str, object]:
    """The loads as the command prints them."""
    return {
        "rails": [
            {
                "rail_v": load.wanted.rail_v,
                "wanted_a": load.wanted.amps,
                "amps": load.amps,
                "ohms": load.ohms,
                "arrangement": load.arrangement,
                "parts": [_part(part) for part in load.parts],
            }
            for load in dummies.loads
        ],
        "total_w": dummies.total_w,
        "unmet": [
            {"rail_v": wanted.rail_v, "wanted_a": wanted.amps, "reason": reason}
            for wanted, reason in dummies.unmet
        ],
    }
