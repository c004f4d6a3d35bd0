"""Read a simulated unit."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import click
from msgspec import Struct

from hale_rail.cli._command import FILE, Answer, json_command, problem_lines, read_with
from hale_rail.core.simulate.faults import faults, find_fault
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.questions import ROW_S, WAVEFORM, Bench
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Sheet
from hale_rail.errors import InputError
from hale_rail.formats.readings.asks_csv import AskRow, read_asks
from hale_rail.formats.readings.readings_csv import write_readings
from hale_rail.formats.records.wave_csv import wave_text
from hale_rail.formats.units.unit_json import read_unit

Json = dict[str, Any]
#: when a bench's clock starts that no row tells the time
_START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
_METER = "simulated"
_LIST = "list"


class SimulateOptions(Struct, frozen=True):
    """What the command was given."""

    unit: Path
    ask: Path | None
    fault: str
    seed: int
    truth: bool


def unit_of(path: Path) -> Sheet:
    """The sheet of a file; raises InputError naming it."""
    return read_with(path, read_unit)


def known_faults(path: Path) -> Json:
    """The faults that a unit can be given."""
    return {"faults": [{"code": f.code, "name": f.name} for f in faults(unit_of(path))]}


def simulated(options: SimulateOptions) -> Json:
    """The command's JSON contract; raises InputError for files that cannot be used."""
    sheet = unit_of(options.unit)
    fault = find_fault(sheet, options.fault) if options.fault else None
    unit = SimulatedUnit(sheet, fault, options.seed, is_unpowered=True)
    readings, problems = _answers(unit, options.ask)
    truth = None
    if options.truth:
        truth = {unit.name_of[key]: true.figures for key, true in unit.circuit.true.items()}
    return {"readings": readings, "truth": truth, "problems": problems}


def _answers(unit: SimulatedUnit, ask: Path | None) -> tuple[list[Json], list[Json]]:
    if ask is None:
        return [], []
    rows, wrong = read_with(ask, read_asks)
    problems = [{"line": p.line, "text": p.text} for p in wrong]
    readings: list[Json] = []
    hand = _Hand(Bench(unit), _start(rows), ask.parent)
    for row in rows:
        try:
            readings.append(hand.read(row))
        except InputError as error:
            problems.append({"line": row.line, "text": str(error)})
    return readings, sorted(problems, key=lambda p: p["line"])


def _start(rows: Sequence[AskRow]) -> datetime:
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

    def read(self, row: AskRow) -> Json:
        """One row of READINGS; raises InputError."""
        at_s = None
        if row.at:
            at_s = (datetime.fromisoformat(row.at) - self.start).total_seconds()
        pair = (row.pair.plus, row.pair.minus) if row.pair else None
        question = SimulatedQuestion(
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

    def _record(self, question: SimulatedQuestion, name: str) -> tuple[str, str]:
        """A record written to the file that the row names."""
        if not name:
            raise InputError("a waveform needs the file to write as its pair")
        self.bench.unit.rail(question.target)
        volt, step = self.bench.wave(question, self.bench.turn(question))
        path = self.folder / name if not Path(name).is_absolute() else Path(name)
        try:
            path.write_text(wave_text(volt, step), encoding="utf-8")
        except OSError as error:
            raise InputError(f"{path} cannot be written: {error.strerror}") from error
        return path.name, name


def as_csv(answer: Json) -> str:
    """The readings as READINGS.csv."""
    return write_readings(list(r.values()) for r in answer["readings"])


@json_command
@click.argument("unit", type=FILE)
@click.option("--fault", default="", metavar="CODE", help="Such as short:Q1; `list` names all.")
@click.option("--seed", default=0, metavar="N", help="The same seed gives the same readings.")
@click.option("--ask", type=FILE, help="ASK.csv, what is to be read.")
@click.option("--truth", is_flag=True, help="Add what each part truly is.")
def command(unit: Path, fault: str, seed: int, ask: Path | None, truth: bool) -> Answer:
    """Read a simulated unit: UNIT.json with a fault in it, asked what ASK.csv says.

    ASK has the columns of READINGS.csv, `value` for power and replaced alone. Prints READINGS.csv.
    """
    if fault == _LIST:
        known = known_faults(unit)
        return Answer(known, "\n".join(f"{f['code']:20} {f['name']}" for f in known["faults"]))
    answer = simulated(SimulateOptions(unit, ask, fault, seed, truth))
    return Answer(answer, as_csv(answer).rstrip(), problem_lines(ask or unit, answer["problems"]))
