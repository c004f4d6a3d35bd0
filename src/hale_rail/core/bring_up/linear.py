"""Linear regulators: heat, and what a switching module in their place would save.

Source: docs/formulas.md, “Linear regulators”. P = (Vin − Vout)·I; a module of efficiency η draws
Iin = Vout·I/(η·Vin).
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, show

USUAL_EFFICIENCY = 0.85
#: volts below which a common regulator drops out, and case temperatures that are hot and too hot
DROPOUT_V, HOT_C, TOO_HOT_C = 2.0, 70.0, 100.0


class Linear(Struct, frozen=True):
    """A regulator at work: heat in W, what a module would draw and turn into heat, A saved."""

    heat_w: float
    module_a: float
    module_heat_w: float
    saved_a: float
    saved_w: float
    notes: tuple[str, ...]


def linear(
    v_in: float,
    v_out: float,
    amps: float,
    efficiency: float = USUAL_EFFICIENCY,
    case_c: float | None = None,
) -> Linear:
    """The heat of a regulator and what a switching module saves; magnitudes, so that a negative
    regulator is given as it is. Raises InputError for what cannot be."""
    high, low = abs(v_in), abs(v_out)
    if v_in * v_out <= 0 or not high > low:
        raise InputError("The input is above the output, and of its sign.", field="v_in")
    if not amps > 0:
        raise InputError("A current above 0.", field="amps")
    if not 0.3 <= efficiency <= 1:
        raise InputError("An efficiency from 30 to 100 per cent.", field="efficiency")
    heat = (high - low) * amps
    module_a = low * amps / (efficiency * high)
    module_heat = low * amps * (1 / efficiency - 1)
    return Linear(
        heat,
        module_a,
        module_heat,
        amps - module_a,
        (amps - module_a) * high,
        tuple(_notes(high - low, heat, amps - module_a, case_c)),
    )


def _notes(across_v: float, heat_w: float, saved_a: float, case_c: float | None) -> list[str]:
    notes = []
    if across_v < DROPOUT_V:
        notes.append(
            f"Only {show(across_v, Unit.VOLT, 2)} across it: most linear regulators want "
            f"{show(DROPOUT_V, Unit.VOLT)}; it drops out at the bottom of the ripple."
        )
    if case_c is not None and case_c >= TOO_HOT_C:
        notes.append(
            f"{case_c:.0f} °C at its case is too hot: heat sink, paste, screw, or less load."
        )
    elif case_c is not None and case_c >= HOT_C:
        notes.append(f"{case_c:.0f} °C at its case is hot: capacitors beside it age twice as fast "
                     "every 10 °C.")  # fmt: skip
    if saved_a <= 0:
        notes.append("A switching module would save nothing here.")
    elif heat_w < 1:
        notes.append("It is cool enough to be left as it is.")
    return notes
