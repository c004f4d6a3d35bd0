"""Judges a table of capacitors: `hale-rail triage`."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.core.parts.bank_verdicts import judge_bank, judge_member
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.capacitors import judge
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.formats.triage_csv import Problem, TriageRow, read_triage


@dataclass(frozen=True)
class Triage:
    """The judged rows in file order, and the rows that could not be read."""

    parts: tuple[tuple[TriageRow, Judgement], ...]
    problems: tuple[Problem, ...]

    def to_json(self) -> dict[str, object]:
        """The command's JSON contract."""
        return {
            "parts": [_part(row, judgement) for row, judgement in self.parts],
            "problems": [{"line": p.line, "text": p.text} for p in self.problems],
        }


def triage(text: str, this_year: int) -> Triage:
    """Judge every row; raises InputError when the table has no usable header."""
    rows, problems = read_triage(text)
    meter = Meter()
    judged = tuple((row, _judge(row, rows, meter, this_year)) for row in rows)
    return Triage(judged, tuple(problems))


def _judge(row: TriageRow, rows: list[TriageRow], meter: Meter, this_year: int) -> Judgement:
    if not row.bank or row.lifted:
        return judge(row.cap, row.readings, this_year)
    mates = [r for r in rows if r.bank == row.bank and not r.lifted]
    if len(mates) == 1:
        return judge(row.cap, row.readings, this_year)
    speaker = next((r for r in mates if r.readings.is_measured), row)
    caps = [(mate.ref or mate.id, mate.cap) for mate in mates]
    bank = judge_bank(caps, speaker.readings, meter).judgement
    return judge_member(bank, row.cap, row.readings.visual, this_year)


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
