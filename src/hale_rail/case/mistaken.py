"""Numbers that look like another reading than the one that is asked for: they are asked back.

A plain number that this point does not expect, and another procedure at the part or another rail
does, has often been read with the meter set for that; so has one with a prefix of farads where ohms
or volts are asked for. With its unit it is taken as written.
"""

from __future__ import annotations

import math
import re

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.parts import parts
from hale_rail.core.errors import QuantityError
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import CAPACITANCE, DIODE, ESR, OHMS, VOLTS, Point, Understood
from hale_rail.core.quantities import Unit, tidy

_PLAIN = re.compile(r"[0-9]*[.,]?[0-9]+")
#: a figure whose prefix is that of farads: no meter shows a part's microohms
_FARADS = re.compile(r"[0-9]*[.,]?[0-9]+ ?[uµμnp]", re.IGNORECASE)
#: shares of its marked value within which a capacitance is what one expects, and may be meant
_ABOUT, _FAR = 0.25, (0.4, 2.5)
#: multiples of a new part's ESR within which a figure may be one
_ESR_SPAN = (0.1, 6.0)
#: volts of a silicon junction, which as ohms would be a short
_DROP_V = (0.45, 0.8)
#: how far from its nominal volts a rail may be and still be itself; and be taken for another
_OWN_RAIL, _OTHER_RAIL = 0.25, 0.10


def ask_back(case: CaseFile, point: Point, text: str, meant: Understood) -> None:
    """Raise QuantityError for a plain number that is another procedure's, or another rail's."""
    part = case.sheet.part(point.part_id)
    typed = tidy(text)
    if part and point.procedure.unit in (Unit.OHM, Unit.VOLT) and _FARADS.fullmatch(typed):
        other = ", or choose C" if part.capacitor else ""
        raise QuantityError(
            f"{typed}: farads, where {point.procedure.label} is asked for? Write "
            f"{typed}{point.procedure.unit.symbol}{other}."
        )
    if not _PLAIN.fullmatch(typed) or not math.isfinite(meant.value):
        return
    if part and point.procedure in (ESR, CAPACITANCE):
        _of_capacitor(case, part, point, typed, meant.value)
    elif part and point.procedure is OHMS and any(ask.procedure is DIODE for ask in part.all_asks):
        if _DROP_V[0] <= meant.value <= _DROP_V[1]:
            raise QuantityError(
                f"{typed}: ohms, which would be a short, or the volts of a junction? Write "
                f"{typed}Ω, or choose the drop."
            )
    elif point.procedure is VOLTS:
        _of_rail(case, point, typed, meant.value)


def _of_capacitor(case: CaseFile, part: Part, point: Point, typed: str, value: float) -> None:
    judged = parts(case)[part.id].judgement
    farad = judged.expected_farad or part.value
    esr, good = judged.expected_esr_ohm, judged.good_esr_ohm
    if not farad or not esr or not good:
        return
    if point.procedure is ESR and value > good and abs(value * 1e-6 / farad - 1) <= _ABOUT:
        raise QuantityError(f"{typed}: an ESR, or its µF? Write {typed}Ω, or choose C.")
    is_esr = _ESR_SPAN[0] * esr <= value * 1e6 <= _ESR_SPAN[1] * esr
    is_far = not _FAR[0] <= value / farad <= _FAR[1]
    if point.procedure is CAPACITANCE and is_far and is_esr:
        raise QuantityError(f"{typed}: µF, or its ESR in ohms? Write {typed}u, or choose ESR.")


def _of_rail(case: CaseFile, point: Point, typed: str, value: float) -> None:
    own = case.sheet.rail(point.target.rail)
    if own is None or own.is_ac or abs(value / own.nominal_v - 1) <= _OWN_RAIL:
        return
    for other in case.sheet.rails:
        is_like = abs(value / other.nominal_v - 1) <= _OTHER_RAIL
        if other.key != own.key and is_like:
            first = "pull the plug, then " if abs(value) > abs(own.nominal_v) else ""
            raise QuantityError(
                f"{typed} on {own.key}: that is what {other.key} reads. If {own.key} really shows "
                f"it, {first}write {typed}V."
            )
