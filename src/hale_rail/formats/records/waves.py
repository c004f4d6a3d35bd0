"""Reads a wave record from its file: the CSV dialects of oscilloscopes, and WAV."""

from __future__ import annotations

import codecs
import os
import re
import struct
import tempfile
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NoReturn

from msgspec.structs import replace

from hale_rail.core.arrays import np
from hale_rail.core.errors import InputError
from hale_rail.core.ripple.wave import Samples, Wave
from hale_rail.formats.records.wave_cells import needs_rewriting, rewritten
from hale_rail.formats.records.wave_layout import (
    Corrections,
    Layout,
    find_layout,
    number,
    split,
    under_any,
)

#: no oscilloscope saves a longer record
MOST_BYTES = 1024 * 1024 * 1024
FEWEST = 8
#: volts and seconds that a record of a supply can have
_MOST_V, _LEAST_STEP_S, _MOST_STEP_S, _MOST_START_S = 1e5, 1e-13, 1e5, 1e11
#: samples of an oscilloscope lie closer together than this, in seconds
_ODD_STEP_S = 5e-3
_HEAD_BYTES, _HEAD_LINES = 256 * 1024, 1500
_CHUNK = 8 * 1024 * 1024
#: steps of time above so many usual ones are a hole in the record
_HOLE = 20.0
_NO_CORRECTIONS = Corrections()
#: what the reader of WAV raises over a file that is broken
_NO_WAV = (ValueError, EOFError, UnboundLocalError, TypeError, struct.error, ZeroDivisionError)


def read_wave(path: Path, given: Corrections = _NO_CORRECTIONS) -> Wave:
    """The record of a file, told by its content; raises InputError with the line that is wrong."""
    try:
        with path.open("rb") as file:
            start = file.read(_HEAD_BYTES)
        if path.stat().st_size > MOST_BYTES:
            raise InputError(f"it is larger than {MOST_BYTES >> 20} MB.")
        if start[:4] in (b"RIFF", b"RIFX") and start[8:12] == b"WAVE":
            return _possible(_read_wav(path, given))
        delimiter = needs_rewriting(_lines(start)[:_HEAD_LINES])
        if delimiter:
            with rewritten(path, _encoding(start), delimiter) as plain:
                return _possible(_read_text(plain, given))
        return _possible(_read_text(path, given))
    except (OSError, MemoryError) as error:
        raise InputError(f"it cannot be read: {error}") from error


def _read_text(path: Path, given: Corrections) -> Wave:
    with path.open("rb") as file:
        layout = layout_of(file.read(_HEAD_BYTES), given)
    wave = _read_csv(path, layout, given.channel)
    if layout.time_column is not None and not layout.is_index:
        _ask_of_time(wave, layout)
    says = layout.says_volt_units[given.channel - 1]
    return replace(wave, says_unit=says)


def _ask_of_time(wave: Wave, layout: Layout) -> None:
    """Raise InputError for steps of time that are odd for an oscilloscope, of an unsaid unit."""
    if layout.says_time_unit or wave.dt_s < _ODD_STEP_S:
        return
    raise InputError(
        f"its samples would be {wave.dt_s:.3g} s apart, and no unit of time stands in its heading. "
        "Are they milliseconds or microseconds? Say so: --time-unit ms."
    )


def _possible(wave: Wave) -> Wave:
    """The record; raises InputError for volts and steps of time that no bench has."""
    high = float(np.abs(wave.volt).max())
    if not high <= _MOST_V:
        at = int(np.abs(wave.volt).argmax())
        raise InputError(f"sample {at + 1} is {high:.3g} V: at most {_MOST_V:g} V can be meant.")
    if not _LEAST_STEP_S <= wave.dt_s <= _MOST_STEP_S:
        raise InputError(
            f"its samples are {wave.dt_s:.3g} s apart: {_LEAST_STEP_S:g} to {_MOST_STEP_S:g} s can "
            "be meant."
        )
    if not abs(wave.start_s) <= _MOST_START_S:
        raise InputError(f"it begins at {wave.start_s:.3g} s: that is not a time.")
    return wave


def layout_of(start: bytes, given: Corrections = _NO_CORRECTIONS) -> Layout:
    """The layout of a CSV record whose first bytes these are; raises InputError."""
    if b"\x00" in start[:1024] and not start.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        raise InputError("there are no rows of numbers in it: that is not a wave record.")
    lines = _lines(start)
    if not lines:
        raise InputError("it is empty.")
    return find_layout(lines[:_HEAD_LINES], given, _encoding(start))


def _lines(start: bytes) -> list[str]:
    """The whole lines of a file's first bytes."""
    lines = start.decode(_encoding(start), errors="replace").lstrip("\ufeff").splitlines()
    return lines[:-1] if len(start) >= _HEAD_BYTES else lines


def _encoding(start: bytes) -> str:
    if start.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16"
    try:
        start[: _HEAD_BYTES - 8].decode("utf-8")
    except UnicodeDecodeError:
        return "latin-1"
    return "utf-8-sig" if start.startswith(codecs.BOM_UTF8) else "utf-8"


def _read_csv(path: Path, layout: Layout, channel: int) -> Wave:
    if not 1 <= channel <= len(layout.volt_columns):
        raise InputError(f"there is no channel {channel}: it has {len(layout.volt_columns)}.")
    volts_at = layout.volt_columns[channel - 1]
    has_time = layout.time_column is not None
    columns = [layout.time_column, volts_at] if has_time else [volts_at]
    table = _table(path, layout, [c for c in columns if c is not None])
    if len(table) < FEWEST:
        how_many = "one row" if len(table) == 1 else f"{len(table)} rows"
        raise InputError(f"there is only {how_many} of numbers: a record needs {FEWEST} and more.")
    rows = _Rows(path, layout)
    volt: Samples = np.ascontiguousarray(table[:, -1])
    if not np.isfinite(volt).all():
        rows.refuse(int(np.flatnonzero(~np.isfinite(volt))[0]), "volts that are not numbers")
    scale = layout.volt_scales[channel - 1]
    if scale != 1.0:
        volt *= scale
    words = layout.words(channel)
    if not has_time:
        return Wave(volt, layout.interval_s or 1.0, 0.0, words)
    time: Samples = np.ascontiguousarray(table[:, 0])
    del table
    _check_time(time, rows)
    if layout.is_index:
        return Wave(volt, layout.interval_s or 1.0, 0.0, words)
    return _timed(time * layout.time_scale, volt, words, rows)


def _check_time(time: Samples, rows: _Rows) -> None:
    if not np.isfinite(time).all():
        rows.refuse(int(np.flatnonzero(~np.isfinite(time))[0]), "a time that is not a number")
    steps = np.diff(time)
    back = np.flatnonzero(steps < 0)
    if len(back):
        at = int(back[0]) + 1
        usual = float(np.median(np.abs(steps)))
        if time[at] <= time[0] + 2 * usual:
            rows.refuse(at, "time starts over, as in a second record: one record a file")
        rows.refuse(at, "time goes back")
    still = int(np.count_nonzero(steps == 0))
    if still and (still == len(steps) or still < 0.02 * len(steps)):
        rows.refuse(int(np.flatnonzero(steps == 0)[0]) + 1, "time stands still")


def _timed(time: Samples, volt: Samples, words: str, rows: _Rows) -> Wave:
    """The record at even steps; resampled where its own are uneven, refused where one is a hole."""
    count = len(time)
    place = np.arange(count) - (count - 1) / 2
    dt = float(place @ time) / float(place @ place)  # the slope: rounded times average out
    middle = float(time.mean())
    steps = np.diff(time)
    widest = float(steps.max())
    usual = dt if widest < _HOLE / 2 * dt else float(np.median(steps[steps > 0]))
    if widest > _HOLE * max(usual, dt / 2):
        rows.refuse(int(steps.argmax()) + 1, "a hole in time before it")
    place *= dt
    place += middle - time
    if max(float(place.max()), -float(place.min())) <= 1.5 * max(dt, usual):
        return Wave(volt, dt, middle - dt * (count - 1) / 2, words)
    note = "The steps of time are uneven: laid on even ones, between neighbours."
    even = np.linspace(time[0], time[-1], count)
    return Wave(
        np.interp(even, time, volt), float(even[1] - even[0]), float(time[0]), words, (note,)
    )


class _Rows:
    """Finds the line of a row, where something is wrong with it."""

    def __init__(self, path: Path, layout: Layout) -> None:
        self._path, self._layout = path, layout

    def _lines(self) -> Iterator[tuple[int, str]]:
        encoding = self._layout.encoding
        with self._path.open(encoding=encoding, errors="replace", newline=None) as file:
            for place, line in enumerate(file, 1):
                if place >= self._layout.first_line and line.strip():
                    yield place, line

    def refuse(self, row: int, what: str) -> NoReturn:
        """Raise InputError for a row, counted from 0."""
        for index, (place, line) in enumerate(self._lines()):
            if index == row:
                raise InputError(f"line {place}: {what} (“{line.strip()[:40]}”).")
        raise InputError(f"row {row + 1}: {what}.")

    def refuse_unread(self, columns: list[int], text: str) -> NoReturn:
        """Raise InputError for the first line that is not a row of numbers.

        `text`: what the reader complained of, which often names the row; lines well before it are
        passed over.
        """
        told = re.search(r"at row (\d+)", text)
        first = int(told[1]) - 2 if told else 0
        for index, (place, line) in enumerate(self._lines()):
            if index < first:
                continue
            fields = split(line, self._layout.delimiter)
            if len(fields) > max(columns) and all(
                number(fields[c], self._layout.decimal) for c in columns
            ):
                continue
            shown = line.strip()[:40]
            if len(fields) > max(columns) and all(under_any(fields[c]) for c in columns):
                raise InputError(f"line {place}: the decimal mark changes (“{shown}”).")
            if any(under_any(field) for field in fields):
                raise InputError(f"line {place}: “{shown}” is not a row like those before it.")
            raise InputError(
                f"line {place}: text between the numbers (“{shown}”). If a second record begins "
                "there, put it into a file of its own."
            )
        raise InputError("its numbers cannot be read.")


def _table(path: Path, layout: Layout, columns: list[int]) -> Samples:
    """The columns' numbers, shape (rows, columns)."""
    with _plain(path, layout) as (plain, encoding):
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")  # numpy warns of a file without rows; we refuse it
                table: Samples = np.loadtxt(
                    plain,
                    delimiter=layout.delimiter if layout.delimiter.strip(" ") else None,
                    skiprows=layout.first_line - 1,
                    usecols=columns,
                    ndmin=2,
                    comments=None,
                    encoding=encoding,
                    quotechar='"',
                )
        except (ValueError, IndexError) as error:
            _Rows(path, layout).refuse_unread(columns, str(error))
        return table


@contextmanager
def _plain(path: Path, layout: Layout) -> Iterator[tuple[Path, str]]:
    """The file with decimal points in one byte a letter: itself, or a copy that lives as long."""
    if layout.decimal == "." and layout.encoding != "utf-16":
        yield path, layout.encoding
        return
    handle, name = tempfile.mkstemp(prefix="wave-")
    copy = Path(name)
    try:
        # a decimal comma where commas stand for nothing else; points among them are refused
        with os.fdopen(handle, "w", encoding="utf-8") as out:
            _copy(path, layout, out.write)
        yield copy, "utf-8"
    finally:
        copy.unlink()


def _copy(path: Path, layout: Layout, write: object) -> None:
    table = {ord("."): "!", ord(","): "."} if layout.decimal == "," else {}
    with path.open(encoding=layout.encoding, errors="replace") as file:
        while chunk := file.read(_CHUNK):
            write(chunk.translate(table) if table else chunk)  # type: ignore[operator]


def _read_wav(path: Path, given: Corrections) -> Wave:
    """A sound card's record; ±1 stands for the full scale's volts, 1 V where none is given."""
    from scipy.io import wavfile

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # unknown chunks are skipped
            rate, data = wavfile.read(path)
        table = data.reshape(len(data), -1) if len(data) else np.zeros((0, 1))
    except _NO_WAV as error:
        raise InputError(
            "it is not a WAV that can be read: cut off, or not what it says."
        ) from error
    if not 1 <= given.channel <= table.shape[1]:
        raise InputError(f"there is no channel {given.channel}: it has {table.shape[1]}.")
    if len(table) < FEWEST or rate <= 0:
        raise InputError(f"there are only {len(table)} samples in it.")
    kind = table.dtype
    if kind.kind == "f":
        full, middle = 1.0, 0.0
    else:
        middle = 128.0 if kind.kind == "u" else 0.0
        full = 128.0 if kind.kind == "u" else float(np.iinfo(kind).max) + 1
    volt = (table[:, given.channel - 1].astype(np.float64) - middle) / full
    if not np.isfinite(volt).all():
        at = int(np.flatnonzero(~np.isfinite(volt))[0])
        raise InputError(f"sample {at + 1} is not a number.")
    volt *= given.full_scale_v or 1.0
    words = f"WAV: {rate} samples a second, channel {given.channel} of {table.shape[1]}"
    notes = (
        () if given.full_scale_v else ("No scale is given: ±1 of the sound card is taken as ±1 V.",)
    )
    return Wave(volt, 1 / rate, 0.0, words, notes)
