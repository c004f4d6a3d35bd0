"""Judge a table of capacitors."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import click
from msgspec import Struct

from hale_rail.cli._command import FILE, Answer, json_command, read_with
from hale_rail.clock import this_year
from hale_rail.core.parts.bank_verdicts import judge_bank, judge_member
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.capacitor_verdicts import judge
from hale_rail.core.parts.capacitors import Readings
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import CAPACITANCE, ESR, LEAKAGE, OHMS, Procedure
from hale_rail.formats.readings.triage_csv import TriageRow, read_triage
from hale_rail.formats.tables.fields import RowProblem


class Triage(Struct, frozen=True):
    """The judged rows in file order, and the rows that could not be read."""

    parts: tuple[tuple[TriageRow, Judgement], ...]
    problems: tuple[RowProblem, ...]

    def to_json(self) -> dict[str, object]:
        """The command's JSON contract."""
        return {
            "parts": [_part(row, judgement) for row, judgement in self.parts],
            "problems": [{"line": p.line, "text": p.text} for p in self.problems],
        }


def triage(text: str, this_year: int) -> Triage:
    """Judge every row; raises InputError when the table has no usable header."""
    rows, problems = read_triage(text)
    banks = {row.bank: _TriageBank([r for r in rows if r.bank == row.bank and not r.lifted])
             for row in rows if row.bank and not row.lifted}  # fmt: skip
    judged = tuple((row, _judge(row, banks.get(row.bank), this_year)) for row in rows)
    problems += [problem for bank in banks.values() for problem in bank.problems]
    return Triage(judged, tuple(sorted(problems, key=lambda problem: problem.line)))


def _judge(row: TriageRow, bank: _TriageBank | None, this_year: int) -> Judgement:
    if row.lifted or bank is None or bank.judgement is None:
        return judge(row.cap, row.readings, this_year)
    return judge_member(bank.judgement, row.cap, row.readings.visual, this_year)


class _TriageBank:
    """Rows that share a bank: what is on any of them was read across all of them."""

    def __init__(self, mates: Sequence[TriageRow]) -> None:
        self.mates = mates
        self.problems: list[RowProblem] = []
        self.judgement: Judgement | None = None
        if len(mates) > 1:
            caps = [(mate.ref or mate.id, mate.cap) for mate in mates]
            readings = Readings(
                farad=self._one("cap", CAPACITANCE, lambda r: r.farad, lowest=True),
                esr=self._one("esr", ESR, lambda r: r.esr),
                leak=self._one("leak", LEAKAGE, lambda r: r.leak),
                ohm=self._one("ohms", OHMS, lambda r: r.ohm, lowest=True),
            )
            self.judgement = judge_bank(caps, readings, Meter()).judgement

    def _one(
        self,
        name: str,
        procedure: Procedure,
        of: Callable[[Readings], MeasuredValue | None],
        *,
        lowest: bool = False,
    ) -> MeasuredValue | None:
        """The bank's one reading; of two that disagree the worse, and a problem that names them."""
        read = [(row, reading) for row in self.mates if (reading := of(row.readings))]
        if not read:
            return None
        read.sort(key=lambda item: item[1].value, reverse=not lowest)
        (row, worst), (other, best) = read[0], read[-1]
        if abs(worst.value - best.value) > worst.error(procedure) + best.error(procedure):
            text = f"bank {row.bank}: two {name} readings disagree, line {row.line} and line "
            text += f"{other.line}; they are one bank's, the worse counts"
            self.problems.append(RowProblem(max(row.line, other.line), text))
        return worst


def _part(row: TriageRow, judgement: Judgement) -> dict[str, object]:
    return {
        "id": row.id,
        "ref": row.ref,
        "verdict": judgement.verdict.value,
        "action": judgement.action.value,
        "reasons": [{"code": r.code, "text": r.sentence} for r in judgement.reasons],
        "expected": {
            "esr_ohm": judgement.expected_esr_ohm,
            "cap_f": judgement.expected_farad,
        },
    }


@json_command
@click.argument("parts", type=FILE)
def command(parts: Path) -> Answer:
    """Judge the capacitors of PARTS, a CSV table.

    Columns (header required, any order): id, ref, family, value, voltage, bank, lifted, cap, esr,
    leak, ohms, visual, year, tolerance, grade, fresh_esr, fresh_cap, class. An empty field is not
    known. Exits 2 when no row could be read.
    """
    current_triage = read_with(parts, lambda text: triage(text, this_year()))
    problems = [f"{parts}:{problem.line}: {problem.text}" for problem in current_triage.problems]
    if not current_triage.parts and not problems:
        problems = [f"{parts}: there is no row below the header."]
    return Answer(
        current_triage.to_json(),
        in_words(current_triage),
        problems,
        0 if current_triage.parts else 2,
    )


def in_words(triage: Triage) -> str:
    """The same, a line a row."""
    lines = []
    for row, judgement in triage.parts:
        name = " ".join(dict.fromkeys(word for word in (row.id, row.ref) if word))
        verdict, action = judgement.verdict.value, judgement.action.value
        why = judgement.reasons[0].sentence if judgement.reasons else ""
        lines.append(f"{name:12} {verdict:9} {action:8} {why}")
    return "\n".join(lines)
