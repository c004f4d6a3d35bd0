"""Reads ASK.csv: what is to be read of a simulated unit, in the columns of READINGS.csv."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.simulate.questions import WAVEFORM
from hale_rail.core.targets import Pair
from hale_rail.formats.readings.readings_csv import read_condition, read_moment, read_pair
from hale_rail.formats.tables.fields import Fields, RowProblem, read_table

_NEEDED = ("target", "procedure")


class AskRow(Struct, frozen=True):
    """One row: its line (header = 1), what is asked, and `value` where something is done.

    `condition` and `place` as codes; `file` what a waveform is written to; `at` ISO 8601 or None.
    """

    line: int
    target: str
    procedure: str
    condition: str
    place: str
    value: str
    pair: Pair | None
    file: str
    at: str | None
    amps: str


def read_asks(text: str) -> tuple[list[AskRow], list[RowProblem]]:
    """Every row that can be understood, and those that cannot; raises InputError."""
    rows, wrong = read_table(text, _NEEDED, _row)
    return rows, [RowProblem(line, why) for line, why in wrong]


def _row(line: int, fields: Fields) -> AskRow:
    procedure = fields["procedure"].lower()
    if not procedure:
        raise InputError("no procedure")
    condition, place = read_condition(fields.get("condition", ""))
    is_wave = procedure == WAVEFORM
    pair = fields.get("pair", "")
    return AskRow(
        line,
        fields["target"],
        procedure,
        condition.code,
        place.value,
        fields.get("value", ""),
        None if is_wave else read_pair(pair),
        pair if is_wave else "",
        read_moment(fields.get("taken_at", "")),
        fields.get("amps", ""),
    )
