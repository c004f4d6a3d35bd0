"""Reads the parts table of `hale-rail triage`; a bad row is named with its line, the rest are read.

Columns (header required, any order, extra ones ignored): `id,ref,family,value,voltage,bank,lifted,
cap,esr,leak,ohms,visual,year,tolerance,grade,fresh_esr,fresh_cap,class`. Empty = not known.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.parts.capacitors import VISUAL_CODES, Capacitor, Readings
from hale_rail.core.parts.families import Grade
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.procedures import (
    CAPACITANCE,
    ESR,
    LEAKAGE,
    OHMS,
    Condition,
    Procedure,
    Subject,
)
from hale_rail.core.quantities import Unit
from hale_rail.formats.tables.fields import Fields, RowProblem, read_table, tolerance, yes_no
from hale_rail.formats.units.part_fields import (
    quantity,
    read_class,
    read_family,
    read_grade,
    read_rated,
    read_value,
)

_NEEDED = ("id", "family", "value")


class TriageRow(Struct, frozen=True):
    """One usable row: its line in the file (header = 1), names, the part and its readings."""

    line: int
    id: str
    ref: str
    bank: str
    lifted: bool
    cap: Capacitor
    readings: Readings


def read_triage(text: str) -> tuple[list[TriageRow], list[RowProblem]]:
    """Read the table; raises InputError when there is no usable header."""
    seen: dict[str, int] = {}

    def parse(line: int, fields: Fields) -> TriageRow:
        row = _row(line, fields)
        if row.id in seen:
            raise InputError(f"id {row.id} is in line {seen[row.id]} already")
        seen[row.id] = line
        return row

    rows, wrong = read_table(text, _NEEDED, parse)
    return rows, [RowProblem(*w) for w in wrong]


def _row(line: int, fields: Fields) -> TriageRow:
    part_id = fields["id"]
    if not part_id:
        raise InputError("no id")
    lifted = yes_no(fields, "lifted")
    cap = _capacitor(fields)
    return TriageRow(
        line, part_id, fields.get("ref", ""), fields.get("bank", ""), lifted, cap,
        _readings(fields, cap, lifted),
    )  # fmt: skip


def _capacitor(fields: Mapping[str, str]) -> Capacitor:
    read_class(fields.get("class", ""))
    family = read_family(fields.get("family", ""))
    value = fields["value"]
    farad = read_value(value, family)
    volt = read_rated(fields.get("voltage", ""), value)
    marked = fields.get("tolerance", "")
    return Capacitor(
        family, farad, volt, tolerance(marked) if marked else None,
        read_grade(fields.get("grade", "")) or Grade.GENERAL, _year(fields),
        quantity(fields, "fresh_cap", Unit.FARAD) or None,
        quantity(fields, "fresh_esr", Unit.OHM) or None,
    )  # fmt: skip


def _readings(fields: Mapping[str, str], cap: Capacitor, lifted: bool) -> Readings:
    condition = Condition.LIFTED if lifted else Condition.IN_CIRCUIT
    subject = Subject(fields["id"], marked_farad=cap.farad)

    def measured(name: str, procedure: Procedure) -> MeasuredValue | None:
        text = fields.get(name, "")
        if not text:
            return None
        try:
            meant = procedure.understand(text, condition, subject)
        except InputError as error:
            raise InputError(f"{name}: {error}") from error
        return MeasuredValue(meant.value, lifted, meant.digit, procedure.accuracy)

    codes = tuple(c.strip().lower() for c in fields.get("visual", "").split(";") if c.strip())
    unknown = [code for code in codes if code not in VISUAL_CODES]
    if unknown:
        raise InputError(f"visual code “{unknown[0]}” is not one of {', '.join(VISUAL_CODES)}")
    return Readings(
        measured("cap", CAPACITANCE),
        measured("esr", ESR),
        measured("leak", LEAKAGE),
        measured("ohms", OHMS),
        codes,
    )


def _year(fields: Mapping[str, str]) -> int | None:
    text = fields.get("year", "")
    if not text:
        return None
    if not re.fullmatch(r"(19|20)[0-9]{2}", text):
        raise InputError(f"year “{text[:20]}” is not a year")
    return int(text)
