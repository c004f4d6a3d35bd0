"""Say where to look next, from a unit's files and a symptom."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Any

import click

from hale_rail.case.diagnosis.diagnosis import asks, diagnosis
from hale_rail.case.file import CaseFile
from hale_rail.case.name_lookup import target_name
from hale_rail.cli._case_of_files import CaseOfFiles, case_of_files
from hale_rail.cli._command import FILE, Answer, json_command, problem_lines
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.diagnosis.information import Ranked
from hale_rail.core.diagnosis.wording import capital
from hale_rail.core.procedures import Point
from hale_rail.core.supply.sheet import TOPOLOGIES, Topology
from hale_rail.formats.knowledge import knowledge_for

Json = dict[str, Any]


def diagnosed(files: CaseOfFiles) -> Json:
    """The command's JSON contract."""
    case = files.file
    known = diagnosis(case)
    current_diagnosis = known.diagnosis
    return {
        "hypotheses": [
            {"id": g.id, "name": g.name, "probability": share}
            for g, share in current_diagnosis.chances
        ],
        "next": _next(case, current_diagnosis.next),
        "settled": current_diagnosis.is_settled,
        "sentence": " ".join(
            filter(
                None,
                (
                    current_diagnosis.sentence,
                    current_diagnosis.remedy,
                    _misfit(current_diagnosis.misfit),
                ),
            )
        ),
        "trial": current_diagnosis.trial
        and {
            **_fault(current_diagnosis.trial.fault),
            "minutes": current_diagnosis.trial.minutes,
            "exchange": current_diagnosis.trial.is_exchange,
            "also": [fault.ref for fault in current_diagnosis.trial.also],
        },
        "faults": [{**_fault(f), "probability": share} for f, share in current_diagnosis.faults],
        "pairs": [
            {"faults": [_fault(a), _fault(b)], "probability": share}
            for a, b, share in current_diagnosis.pairs
        ],
        "because": [{"text": b.text, "for": b.is_for} for b in current_diagnosis.because],
        "repaired": [f.ref for f in current_diagnosis.repaired],
        "stale": [
            {"target": target_name(case, r.point), "procedure": r.procedure.code}
            for r in known.stale
        ],
        "problems": [{"line": p.line, "text": p.text} for p in files.problems],
    }


def _misfit(words: str) -> str:
    return f"{capital(words)}: that hardly fits. If it is a slip, read it again." if words else ""


def _fault(fault: Fault) -> Json:
    return {"ref": fault.ref, "mode": fault.mode.code}


def _next(case: CaseFile, best: Ranked | None) -> Json | None:
    if best is None:
        return None
    test = best.test
    return {
        "test": test.id,
        "text": f"{test.name}. {test.how}",
        "danger": "live" if test.is_live else "cold",
        "minutes": best.minutes,
        "bits": best.bits,
        "asks": [_ask(case, point) for point in asks(case, best)],
    }


def _ask(case: CaseFile, point: Point) -> Json:
    place, pair = point.target.place.value, point.target.pair
    return {
        "target": target_name(case, point),
        "procedure": point.procedure.code,
        "condition": point.condition.code + (f"@{place}" if place else ""),
        "pair": pair.code if pair else "",
    }


def known(topologies: Iterable[Topology]) -> Json:
    """What the diagnosis knows of these topologies, in the command's JSON contract."""
    symptoms: dict[str, Json] = {}
    groups: dict[str, Json] = {}
    tests: dict[str, Json] = {}
    for topology in topologies:
        knowledge = knowledge_for(topology)
        for symptom in knowledge.symptoms:
            symptoms.setdefault(symptom.id, {"id": symptom.id, "text": symptom.name})
        for g in knowledge.groups:
            one = {"id": g.id, "name": g.name, "stage": g.stage, "faults": list(g.faults)}
            groups.setdefault(g.id, one)
        for test in knowledge.tests:
            danger = "live" if test.is_live else "cold"
            one = {"id": test.id, "text": test.name, "danger": danger}
            tests.setdefault(
                test.id, one | {"minutes": test.minutes, "results": list(test.results)}
            )
    return {
        "symptoms": list(symptoms.values()),
        "hypotheses": list(groups.values()),
        "tests": list(tests.values()),
    }


def in_words(answer: Json) -> str:
    """The same as a few lines of text."""
    lines = [answer["sentence"]]
    lines += [f"{'for' if b['for'] else 'against':8} {b['text']}" for b in answer["because"]]
    lines += [
        f"{100 * h['probability']:5.1f} %  {h['name']}"
        for h in answer["hypotheses"]
        if h["probability"] >= 0.01
    ]
    if answer["next"]:
        lines.append(f"next: {answer['next']['text']}")
    return "\n".join(lines)


def knowledge_in_words(answer: Json) -> str:
    """What is known, a line each."""
    lines = [f"symptom    {s['id']:18} {s['text']}" for s in answer["symptoms"]]
    lines += [f"hypothesis {h['id']:18} {h['name']}" for h in answer["hypotheses"]]
    lines += [f"test       {t['id']:18} {t['text']}" for t in answer["tests"]]
    return "\n".join(lines)


@json_command
@click.argument("unit", type=FILE, required=False)
@click.argument("readings", type=FILE, required=False)
@click.option("--symptom", "symptoms", multiple=True, metavar="CODE", help="What it does, by code.")
@click.option("--knowledge", is_flag=True, help="Print what the diagnosis knows.")
@click.option("--topology", type=click.Choice(["linear", "flyback", "half-bridge", "dc-fed"]),
              help="With --knowledge: of this topology alone.")  # fmt: skip
def command(
    unit: Path | None,
    readings: Path | None,
    symptoms: tuple[str, ...],
    knowledge: bool,
    topology: str | None,
) -> Answer:
    """Where to look next: chances of faults from UNIT.json, READINGS.csv and a symptom."""
    if knowledge:
        answer = known([TOPOLOGIES[topology]] if topology else list(Topology))
        return Answer(answer, knowledge_in_words(answer))
    if unit is None or readings is None or not symptoms:
        raise click.UsageError("UNIT.json, READINGS.csv and --symptom are needed, or --knowledge.")
    with case_of_files(unit, readings, symptoms=symptoms) as case:
        answer = diagnosed(case)
    return Answer(answer, in_words(answer), problem_lines(readings, answer["problems"]))
