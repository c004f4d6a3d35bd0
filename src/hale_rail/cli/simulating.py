"""Asks a simulated unit what a bench would read of it: `hale-rail simulate`."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from msgspec import Struct

from hale_rail.cli.output import tell_problems
from hale_rail.core.simulate.asking import ROW_S, WAVEFORM, Bench, Question
from hale_rail.core.simulate.faults import faults, find_fault
from hale_rail.core.simulate.unit import Unit
from hale_rail.core.supply.sheet import Sheet
from hale_rail.errors import InputError
from hale_rail.formats.asks_csv import Asked, read_asks
from hale_rail.formats.readings_csv import write_readings
from hale_rail.formats.texts import read_file
from hale_rail.formats.unit_json import read_unit
from hale_rail.formats.wave_csv import wave_text

Json = dict[str, Any]
#: when a bench's clock starts that no row tells the time
_START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
_METER = "simulated"


class Asking(Struct, frozen=True):
    """What the command was given."""

    unit: Path
    ask: Path | None
    fault: str
    seed: int
    truth: bool


def unit_of(path: Path) -> Sheet:
    """The sheet of a file; raises InputError naming it."""
    try:
        return read_unit(read_file(path))
    except InputError as error:
        raise InputError(f"{path}: {error}") from error


def known_faults(path: Path) -> Json:
    """The faults that a unit can be given."""
    return {"faults": [{"code": f.code, "name": f.name} for f in faults(unit_of(path))]}


def simulated(asked: Asking) -> Json:
    """The command's JSON contract; raises InputError for files that cannot be used."""
    sheet = unit_of(asked.unit)
    fault = find_fault(sheet, asked.fault) if asked.fault else None
    unit = Unit(sheet, fault, asked.seed, is_unpowered=True)
    readings, problems = _answers(unit, asked.ask)
    truth = None
    if asked.truth:
        truth = {unit.name_of[key]: true.figures for key, true in unit.circuit.true.items()}
    return {"readings": readings, "truth": truth, "problems": problems}


def _answers(unit: Unit, ask: Path | None) -> tuple[list[Json], list[Json]]:
    if ask is None:
        return [], []
    try:
        rows, wrong = read_asks(read_file(ask))
    except InputError as error:
        raise InputError(f"{ask}: {error}") from error
    problems = [{"line": p.line, "text": p.text} for p in wrong]
    readings: list[Json] = []
    hand = _Hand(Bench(unit), _start(rows), ask.parent)
    for row in rows:
        try:
            readings.append(hand.read(row))
        except InputError as error:
            problems.append({"line": row.line, "text": str(error)})
    return readings, sorted(problems, key=lambda p: p["line"])


def _start(rows: Sequence[Asked]) -> datetime:
    """When the bench's clock stands at none: a minute before the first row."""
    first = next((r for r in rows if r.at), None)
    if first is None or first.at is None:
        return _START
    before = rows.index(first) + 1
    return datetime.fromisoformat(first.at) - timedelta(seconds=ROW_S * before)


class _Hand:
    """Takes one ask after the other to the bench, and writes what it shows."""

    def __init__(self, bench: Bench, start: datetime, folder: Path) -> None:
        self.bench, self.start, self.folder = bench, start, folder

    def read(self, row: Asked) -> Json:
        """One row of READINGS; raises InputError."""
        at_s = None
        if row.at:
            at_s = (datetime.fromisoformat(row.at) - self.start).total_seconds()
        pair = (row.pair.plus, row.pair.minus) if row.pair else None
        question = Question(
            row.target, row.procedure, row.condition, row.place, pair, row.value, at_s
        )
        if row.procedure == WAVEFORM:
            value, name = self._record(question, row.file)
        else:
            value, name = self.bench.answer(question), row.pair.code if row.pair else ""
        return {
            "target": row.target,
            "procedure": row.procedure,
            "condition": row.condition + (f"@{row.place}" if row.place else ""),
            "value": value,
            "pair": name,
            "taken_at": (self.start + timedelta(seconds=self.bench.unit.at_s)).isoformat(),
            "meter": _METER,
            "accuracy": "",
            "amps": row.amps,
        }

    def _record(self, question: Question, name: str) -> tuple[str, str]:
        """A record written to the file that the row names."""
        if not name:
            raise InputError("a waveform wants the file to write as its pair")
        self.bench.unit.rail(question.target)
        volt, step = self.bench.wave(question, self.bench.turn(question))
        path = self.folder / name if not Path(name).is_absolute() else Path(name)
        try:
            path.write_text(wave_text(volt, step), encoding="utf-8")
        except OSError as error:
            raise InputError(f"{path} cannot be written: {error.strerror}") from error
        return path.name, name


def as_csv(found: Json) -> str:
    """The readings as READINGS.csv."""
    return write_readings(list(r.values()) for r in found["readings"])


def tell(path: Path, found: Json) -> None:
    """Rows that could not be answered, on stderr."""
    tell_problems(path, found["problems"])
