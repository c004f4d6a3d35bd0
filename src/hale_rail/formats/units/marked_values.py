"""Reads the value that is marked on a capacitor, three-figure codes among them."""

from __future__ import annotations

from hale_rail.core.errors import QuantityError
from hale_rail.core.parts.families import Family
from hale_rail.core.quantities import Unit, read, read_code, show_exact, tidy

#: families on which a bare three-figure number is a code
CODED = (Family.CERAMIC, Family.FILM, Family.TANTALUM, Family.SUPPRESSION_FILM,
         Family.SUPPRESSION_PAPER)  # fmt: skip
#: below this no tantalum part is made, so a code that says so is another number
_LEAST_TANTALUM_F = 1e-9


def marked_farad(text: str, family: Family | None) -> tuple[float, str]:
    """Farads as marked, and what was assumed, "" where nothing was.

    A bare three-figure number is a code on a ceramic, film or tantalum part, µF on an electrolytic;
    raises QuantityError where the family does not say which, or the text is not understood.
    """
    coded = read_code(text)
    if coded is None or family is Family.POLYMER or (family is not None and family.is_wet):
        measured = read(text, Unit.FARAD, allow_words=False)
        return measured.value, measured.hint
    plain = tidy(text)
    is_told = family in CODED and not (family is Family.TANTALUM and coded < _LEAST_TANTALUM_F)
    if not is_told:
        raise QuantityError(
            f"“{plain}”: {plain} µF, or the code for {show_exact(coded, Unit.FARAD)}? Write "
            f"{plain}u, or {_plainly(coded)}."
        )
    return coded, f"code {plain}"


def _plainly(farad: float) -> str:
    return show_exact(farad, Unit.FARAD).replace("\u00a0", "").replace("µF", "u").rstrip("F")
