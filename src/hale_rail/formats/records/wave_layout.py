"""Finds how a wave record's table is laid out, from its first lines; a person can correct it."""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import pairwise

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, show_exact

#: delimiter and decimal mark of the dialects in use, the likelier first; "" one column alone
DIALECTS = (
    (",", "."),
    (";", ","),
    (";", "."),
    ("\t", "."),
    ("\t", ","),
    (" ", "."),
    (" ", ","),
    ("", ","),
    ("", "."),
)
_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?|[+-]?nan|[+-]?inf", re.IGNORECASE)
_PREFIX = {"": 1.0, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "k": 1e3, "M": 1e6,
           "G": 1e9}  # fmt: skip
#: a unit in brackets, behind `/`, `_`, `-`, a space or `in`, or by itself; written out too
_OF_UNIT = re.compile(
    r"(?:^|[(\[/_\s-]|\bin )\s*(nano|micro|milli|kilo|[nuµμmk]?)"
    r"(secs?|seconds?|s|volts?|v)\s*(?:[)\]]|$)",
    re.IGNORECASE,
)
_WRITTEN = {"nano": "n", "micro": "u", "milli": "m", "kilo": "k"}
_INTERVAL = re.compile(
    r"interval|increment|x ?incr|sampl\w* (?:period|time)|\bdelta ?t\b|^dt\b|^d?h ?resolution|step",
    re.IGNORECASE,
)
_RATE = re.compile(r"sampl\w*[ _-]?rate|sampl\w* freq|^fs\b", re.IGNORECASE)
_VALUE = re.compile(r"([+-]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][+-]?\d+)?)\s*([a-zA-Zµμ/]*)")
_TIME_NAME = re.compile(r"time|second|^t\b|^x\b|x-axis|zeit|temps", re.IGNORECASE)
_INDEX_NAME = re.compile(r"^(?:index|samples?|points?|n|no\.?|nr\.?|#|i)$", re.IGNORECASE)
_SHORTEST = 2


class Layout(Struct, frozen=True):
    """How a table is read.

    `first_line` of the numbers, counted from 1; columns counted from 0; `time_column` None: the
    step is `interval_s`; `is_index`: the time column counts samples; scales to seconds and volts.
    `says_time_unit`, `says_volt_units`: whether the headings, or a person, say the units.
    """

    delimiter: str
    decimal: str
    first_line: int
    time_column: int | None
    volt_columns: tuple[int, ...]
    names: tuple[str, ...]
    time_scale: float = 1.0
    volt_scales: tuple[float, ...] = ()
    interval_s: float | None = None
    is_index: bool = False
    encoding: str = "utf-8"
    says_time_unit: bool = True
    says_volt_units: tuple[bool, ...] = ()

    def words(self, channel: int) -> str:
        """The layout as one says it, for a channel counted from 1."""
        between = {
            ",": "commas", ";": "semicolons", "\t": "tabs", " ": "spaces", "": "one column",
        }[self.delimiter]  # fmt: skip
        mark = "decimal comma" if self.decimal == "," else "decimal point"
        if self.time_column is not None and not self.is_index:
            time = f"time in column {self.time_column + 1}, {_scale_words(self.time_scale, 's')}"
        else:
            time = f"no time, a sample every {show_exact(self.interval_s or 0, Unit.SECOND)}"
        scale = _scale_words(self.volt_scales[channel - 1], "V")
        return (
            f"CSV: {between}, {mark}, numbers from line {self.first_line}, {time}, channel "
            f"{channel} of {len(self.volt_columns)} ({self.names[channel - 1]}), {scale}"
        )


class Corrections(Struct, frozen=True):
    """What a person says of a record's layout where the guess is wrong; None leaves the guess.

    Columns and channel are counted from 1, `time_column` 0 says that there is none; `full_scale_v`
    is what a sound card's ±1 stands for.
    """

    delimiter: str | None = None
    decimal: str | None = None
    first_line: int | None = None
    time_column: int | None = None
    time_scale: float | None = None
    volt_scale: float | None = None
    interval_s: float | None = None
    channel: int = 1
    full_scale_v: float | None = None


def _scale_words(scale: float, unit: str) -> str:
    scale_words = {1.0: "", 1e-3: "m", 1e-6: "µ", 1e-9: "n", 1e3: "k"}.get(scale)
    return f"in {scale_words}{unit}" if scale_words is not None else f"× {scale:g} {unit}"


def split(line: str, delimiter: str) -> list[str]:
    """The fields of a line, bare of quotes and space; empty ones at its end are none."""
    if '"' in line and delimiter.strip():
        fields = next(csv.reader([line], delimiter=delimiter), [])
    else:
        fields = line.split(delimiter.strip(" ") or None) if delimiter else [line]
    result = [field.strip().strip('"').strip() for field in fields]
    while result and not result[-1]:
        result.pop()
    return result


def number(field: str, decimal: str) -> bool:
    """True for a field that is a number under a decimal mark."""
    if decimal == ",":
        if "." in field:
            return False
        field = field.replace(",", ".")
    return bool(_NUMBER.fullmatch(field))


def find_layout(lines: Sequence[str], given: Corrections, encoding: str = "utf-8") -> Layout:
    """The layout of a record whose first lines these are; raises InputError where there is none."""
    delimiter, decimal, columns = _dialect(lines, given)
    first = _first_line(lines, delimiter, decimal, columns, given)
    head = [split(line, delimiter) for line in lines[: first - 1]]
    if given.first_line is None:
        _check_head(head, lines, columns)
    rows = [
        fields
        for line in lines[first - 1 :]
        if _is_row(fields := split(line, delimiter), columns, decimal)
    ]
    layout = _stated_interval(head, rows, columns)
    names, units = _headings(head, columns)
    interval = given.interval_s or layout
    is_timed = "s" in [
        m[2].lower()[:1] for c in columns[:1] if (m := _OF_UNIT.search(units.get(c, "")))
    ]
    time, is_index = _time_column(rows, columns, names, decimal, interval, given, is_timed)
    volts = tuple(column for column in columns if column != time)
    if not volts:
        raise InputError("There is a column of time and none of volts.")
    if (time is None or is_index) and interval is None:
        raise InputError(
            "The record has no column of time and says no sample interval: give the interval."
        )
    scales = tuple(given.volt_scale or _scale(units.get(c, ""), "v") for c in volts)
    return Layout(
        delimiter,
        decimal,
        first,
        time,
        volts,
        tuple(names.get(c) or f"column {c + 1}" for c in volts),
        given.time_scale or (_scale(units.get(time, ""), "s") if time is not None else 1.0),
        scales,
        interval if time is None or is_index else None,
        is_index,
        encoding,
        bool(given.time_scale) or (time is not None and time in units),
        tuple(bool(given.volt_scale) or c in units for c in volts),
    )


def _is_row(fields: Sequence[str], columns: Sequence[int], decimal: str) -> bool:
    return len(fields) > columns[-1] and all(number(fields[c], decimal) for c in columns)


def _dialect(lines: Sequence[str], given: Corrections) -> tuple[str, str, tuple[int, ...]]:
    """Delimiter, decimal mark and columns of numbers of most lines."""
    best: tuple[int, int, tuple[str, str, tuple[int, ...]]] | None = None
    for delimiter, decimal in DIALECTS:
        if given.delimiter not in (None, delimiter) or given.decimal not in (None, decimal):
            continue
        dialect = _pattern(lines, delimiter, decimal)
        if dialect and (best is None or dialect[:2] > best[:2]):
            best = (*dialect[:2], (delimiter, decimal, dialect[2]))
    if best is None:
        raise InputError(_no_record(lines))
    delimiter, decimal, columns = best[2]
    if (delimiter, decimal) == (",", ".") and given.delimiter is None and len(columns) == 2:
        return _comma_within(lines, columns)
    return best[2]


def _pattern(
    lines: Sequence[str], delimiter: str, decimal: str
) -> tuple[int, int, tuple[int, ...]] | None:
    """How many lines have the commonest columns of numbers, how many columns, and which."""
    seen: Counter[tuple[int, ...]] = Counter()
    for line in lines:
        fields = split(line, delimiter)
        columns = tuple(i for i, field in enumerate(fields) if number(field, decimal))
        if columns and all(not fields[i] for i in range(len(fields)) if i not in columns):
            seen[columns] += 1
    if not seen:
        return None
    columns, count = seen.most_common(1)[0]
    return (count, len(columns), columns) if count >= _SHORTEST else None


def _comma_within(
    lines: Sequence[str], columns: tuple[int, ...]
) -> tuple[str, str, tuple[int, ...]]:
    """`1,234` a line: two columns, or one with decimal comma? Time goes up, whole volts do not."""
    rows = [f for line in lines if _is_row(f := split(line, ","), columns, ".")]
    is_whole = all(field.lstrip("+-").isdigit() for row in rows for field in row)
    firsts = [float(row[columns[0]]) for row in rows]
    goes_up = all(one < other for one, other in pairwise(firsts))
    return ("", ",", (0,)) if is_whole and not goes_up else (",", ".", columns)


def _no_record(lines: Sequence[str]) -> str:
    """Why these lines are not a record."""
    for place, line in enumerate(lines, 1):
        fields = re.split(r"[;\t]", line)
        marks = {mark for field in fields for mark in ",." if re.fullmatch(
            rf"\s*[+-]?\d+\{mark}\d+(?:[eE][+-]?\d+)?\s*", field)}  # fmt: skip
        if len(fields) > 1 and len(marks) > 1:
            return f"line {place}: “{line.strip()[:40]}” mixes decimal comma and decimal point."
    rows = sum(bool(re.match(r"\s*[+-]?[\d.,]+", line)) for line in lines)
    if rows == 1:
        return "there is one row of numbers: a record needs many."
    return "there are no rows of numbers in it: that is not a wave record."


def _first_line(
    lines: Sequence[str],
    delimiter: str,
    decimal: str,
    columns: tuple[int, ...],
    given: Corrections,
) -> int:
    if given.first_line is not None:
        if not 1 <= given.first_line <= len(lines):
            raise InputError(f"The numbers do not begin in line {given.first_line}.")
        return given.first_line
    for place, line in enumerate(lines, 1):
        if _is_row(split(line, delimiter), columns, decimal):
            return place
    raise InputError("there are no rows of numbers in it: that is not a wave record.")


def _headings(
    head: Sequence[Sequence[str]], columns: Sequence[int]
) -> tuple[dict[int, str], dict[int, str]]:
    """Names of the columns from the lines above the numbers, and their units."""
    names: dict[int, str] = {}
    units: dict[int, str] = {}
    for fields in reversed([fields for fields in head if fields]):
        if len(fields) <= columns[-1] or any(":" in f or "=" in f for f in fields):
            break
        for column in columns:
            text = fields[column]
            match = _OF_UNIT.search(text)
            if match:
                units.setdefault(column, text)
            if not match or match.start() > 0:
                names.setdefault(column, text)
        if len(names) == len(columns):
            break
    return names, units


def _check_head(
    head: Sequence[Sequence[str]], lines: Sequence[str], columns: Sequence[int]
) -> None:
    """Raise InputError for rows above the first that are numbers under another decimal mark."""
    for place, fields in enumerate(head, 1):
        bare = [field for field in re.split(r"[;\t]", lines[place - 1].strip()) if field.strip()]
        for row in (fields, bare):
            if len(row) >= max(2, len(columns)) and all(under_any(field) for field in row):
                raise InputError(
                    f"line {place}: “{lines[place - 1].strip()[:40]}” has another decimal mark "
                    "than the rows below."
                )


def under_any(field: str) -> bool:
    """True for a field that is a number with a decimal point or a decimal comma."""
    return number(field.strip(), ".") or number(field.strip(), ",")


def _scale(text: str, of: str) -> float:
    match = _OF_UNIT.search(text)
    if not match or not match[2].lower().startswith(of):
        return 1.0
    prefix = _WRITTEN.get(match[1].lower(), match[1])
    return _PREFIX[prefix if prefix in _PREFIX else prefix.lower()]


def _stated_interval(
    head: Sequence[Sequence[str]], rows: Sequence[Sequence[str]], columns: Sequence[int]
) -> float | None:
    """The sample interval in seconds that the lines above, or columns beside, speak of."""
    beside = [row[: columns[0]] for row in rows] if columns[0] >= 2 else []
    pairs = [(fields[0], " ".join(fields[1:])) for fields in [*head, *beside] if fields]
    pairs += [
        (name, value)
        for names, values in pairwise(head)
        for name, value in zip(names, values, strict=False)
    ]
    for name, rest in pairs:
        key, _, more = re.sub("=", ":", name).partition(":")
        for pattern, is_rate in ((_RATE, True), (_INTERVAL, False)):
            value = _value(more or rest, "" if is_rate else key) if pattern.search(key) else None
            if value:
                return 1 / value if is_rate else value
    return None


#: a prefix alone behind a number: of a rate `20M`, of an interval `50u`
_BARE = ("k", "M", "G", "n", "u", "µ", "μ")


def _value(text: str, key: str = "") -> float | None:
    """A number with its unit, `4.0 us`, `250 MSa/s` or `20M`, in SI.

    One without a unit has that of its `key`, `Sampling Interval [us]`.
    """
    match = _VALUE.search(text)
    if match is None:
        return None
    value = float(match[1].replace(",", "."))
    unit = match[2]
    if not unit:
        return value * _scale(key, "s") if value > 0 else None
    is_prefixed = len(unit) > 1 and unit[:1] in _PREFIX and unit[:2] != "Sa"
    prefix = unit[:1] if is_prefixed or unit in _BARE else ""
    return value * _PREFIX[prefix] if value > 0 else None


def _time_column(
    rows: Sequence[Sequence[str]],
    columns: Sequence[int],
    names: Mapping[int, str],
    decimal: str,
    interval: float | None,
    given: Corrections,
    is_timed: bool,
) -> tuple[int | None, bool]:
    """The column of time, and whether it merely counts; None where every column is volts."""
    if given.time_column is not None:
        if given.time_column and given.time_column - 1 not in columns:
            raise InputError(f"Column {given.time_column} has no numbers.")
        return (given.time_column - 1 if given.time_column else None), False
    if len(columns) == 1:
        return None, False
    first = columns[0]
    name = names.get(first, "")
    values = [float(row[first].replace(",", ".") if decimal == "," else row[first])
              for row in rows[:200]]  # fmt: skip
    steps = [other - one for one, other in pairwise(values)]
    counts = bool(steps) and all(step == 1 for step in steps)
    if _INDEX_NAME.search(name) or (counts and not is_timed):
        return first, True
    if _TIME_NAME.search(name) or interval is None:
        return first, False
    is_bare = not name and all(step > 0 for step in steps)
    return (first if is_bare else None), False
