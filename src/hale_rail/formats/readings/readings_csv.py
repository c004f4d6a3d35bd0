"""Reads and writes READINGS.csv: what was read, seen, done and said of a case, in time order.

`target,procedure,condition,value` and optionally `pair,taken_at,meter,accuracy,amps`. A row is read
as far as that needs no unit; what it means at one, `hale_rail.actions.imports` finds.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.procedures import CONDITIONS, Accuracy, Condition
from hale_rail.core.quantities import Unit, read, tidy
from hale_rail.core.targets import Pair, Place
from hale_rail.formats.tables.fields import Fields, RowProblem, read_table, table_text

COLUMNS = (
    "target", "procedure", "condition", "value", "pair", "taken_at", "meter", "accuracy", "amps",
)  # fmt: skip
NEEDED = ("target", "procedure", "condition", "value")
#: rows that are not readings of a meter
LOOK, POWER, TEST, REPLACED = "look", "power", "test", "replaced"
EVENT, SYMPTOM = "event", "symptom"
#: the value of a power row that takes it away
OFF = "off"
_PLACES = {place.value: place for place in Place if place is not Place.NONE}
_ACCURACY = re.compile(r"([0-9]+(?:[.,][0-9]+)?)\s*%(?:\s*\+\s*(.+))?")
_MOST_SHARE = 0.5


class ReadingRow(Struct, frozen=True):
    """One row: its line in the file (header = 1), what is read and how, and the value as typed.

    `accuracy` as written, since its unit is the procedure's; `at` None where no time is given.
    """

    line: int
    target: str
    procedure: str
    condition: Condition
    place: Place
    value: str
    pair: Pair | None
    at: str | None
    accuracy: str = ""
    ampere: float | None = None


def read_readings(text: str) -> tuple[list[ReadingRow], list[RowProblem]]:
    """Every row that can be understood, and those that cannot.

    Raises InputError when the header lacks a needed column.
    """
    rows, wrong = read_table(text, NEEDED, _row)
    return rows, [RowProblem(line, why) for line, why in wrong]


def _row(line: int, fields: Fields) -> ReadingRow:
    procedure = fields["procedure"].lower()
    if not procedure:
        raise InputError("no procedure")
    if not fields["value"] and procedure != REPLACED:
        raise InputError("no value")
    condition, place = read_condition(fields["condition"])
    return ReadingRow(
        line,
        fields["target"],
        procedure,
        condition,
        place,
        fields["value"],
        read_pair(fields.get("pair", "")),
        read_moment(fields.get("taken_at", "")),
        fields.get("accuracy", ""),
        _ampere(fields.get("amps", "")),
    )


def read_condition(text: str) -> tuple[Condition, Place]:
    """A condition, and the place behind its `@`; raises InputError."""
    word, at, where = text.strip().lower().partition("@")
    if word not in CONDITIONS:
        known = ", ".join(code for code in CONDITIONS if code)
        raise InputError(f"condition “{word}” is not one of {known}")
    if at and where not in _PLACES:
        raise InputError(f"place “{where}” is not one of {', '.join(_PLACES)}")
    return CONDITIONS[word], _PLACES.get(where, Place.NONE)


def read_pair(text: str) -> Pair | None:
    """Two pins such as `B>E`, None for nothing; raises InputError."""
    if not text:
        return None
    plus, arrow, minus = text.partition(">")
    if not arrow or not plus.strip() or not minus.strip():
        raise InputError(f"pair “{text}” is not two pins, plus and minus, such as B>E")
    return Pair(_pin(plus), _pin(minus))


def _pin(text: str) -> str:
    """A pin's name; words and dashes of any kind as the sheet has them."""
    return tidy(text).upper()


def read_moment(text: str) -> str | None:
    """A moment as the store keeps it; one without a zone is taken as UTC."""
    if not text:
        return None
    try:
        moment = datetime.fromisoformat(text)
    except ValueError as error:
        raise InputError(
            f"taken_at “{text[:40]}” is not a time, such as 2026-03-02T10:00"
        ) from error
    at = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
    return at.astimezone(UTC).isoformat(timespec="microseconds")


def _ampere(text: str) -> float | None:
    if not text:
        return None
    ampere = read(text, Unit.AMPERE, allow_words=False).value
    if ampere <= 0:
        raise InputError("amps must be above 0 A")
    return ampere


def read_accuracy(text: str, unit: Unit) -> Accuracy:
    """`3%+1` (per cent and digits) or `5%+10m` (per cent and a quantity); raises InputError."""
    match = _ACCURACY.fullmatch(tidy(text))
    if not match:
        raise InputError(f"accuracy “{text}” is not understood: write 3%+1 or 5%+10m")
    share = float(match[1].replace(",", ".")) / 100
    if share > _MOST_SHARE:
        raise InputError(f"accuracy “{text}”: a meter is better than that")
    rest = match[2] or ""
    if re.fullmatch(r"[0-9]{1,3}(?:\.[0-9]+)?", rest):
        return Accuracy(share, float(rest))
    if not rest:
        return Accuracy(share)
    return Accuracy(share, 0.0, read(rest, unit, allow_words=False).value)


def write_accuracy(accuracy: Accuracy) -> str:
    """An accuracy as `read_accuracy` reads it."""
    share = f"{100 * accuracy.share:.12g}%"
    if accuracy.fixed:
        return f"{share}+{1e3 * accuracy.fixed:.12g}m"
    return f"{share}+{accuracy.digits:g}" if accuracy.digits else share


def write_readings(rows: Iterable[Sequence[str]]) -> str:
    """Rows of the columns' cells as CSV."""
    return table_text(COLUMNS, rows)
