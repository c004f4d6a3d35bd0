"""Judge a unit from its files."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

import click

from hale_rail.case.file import CaseFile
from hale_rail.case.name_lookup import name_of, target_name
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.rails.rails import RailVolts, rail_patterns, rails
from hale_rail.case.safety.energy import charge_words, energy
from hale_rail.case.shorts.grounds import SIDES, RailGround, grounds
from hale_rail.cli._case_of_files import CaseOfFiles, case_of_files
from hale_rail.cli._command import FILE, Answer, json_command, problem_lines
from hale_rail.core.parts.kinds.common import NOT_MEASURED
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import Point
from hale_rail.core.rails.judge import RailJudgement
from hale_rail.core.safety.energy import Energy, EnergyState
from hale_rail.core.shorts.ground import GroundVerdict
from hale_rail.core.targets import Place
from hale_rail.stages.frame.next_step import next_step

#: ground verdicts, the hardest first
_HARDEST = (
    GroundVerdict.SHORT,
    GroundVerdict.SUSPICIOUS,
    GroundVerdict.UNPROVEN,
    GroundVerdict.GOOD,
)
UNREAD = "unread"
Json = dict[str, Any]


def judged(files: CaseOfFiles) -> Json:
    """The command's JSON contract."""
    case = files.file
    step = next_step(case)
    return {
        "energy": _energy(case),
        "parts": [_part(case, facts) for facts in parts(case).values()],
        "rails": [
            _rail(volts, ground) for volts, ground in zip(rails(case), grounds(case), strict=True)
        ],
        "patterns": [
            {"code": p.code, "rails": list(p.rails), "text": p.text, "urgent": p.urgent}
            for p in rail_patterns(case)
        ],
        "next": {
            "text": step.text,
            "target": _target(case, step.point),
            "procedure": step.point.procedure.code if step.point else "",
        },
        "problems": [{"line": p.line, "text": p.text} for p in files.problems],
    }


def _target(case: CaseFile, point: Point | None) -> str:
    return target_name(case, point) if point else ""


def _energy(case: CaseFile) -> Json:
    energy_state = energy(case)
    stores = []
    for state in energy_state.stores:
        part = case.sheet.part(state.store)
        if part:
            stores.append({"ref": part.ref, "volts": state.volt})
    return {
        "state": _state(energy_state),
        "charged": charge_words(case) or None,
        "touch_safe": energy_state.touch_safe,
        "meter_safe": energy_state.meter_safe,
        "stores": stores,
    }


def _state(state: EnergyState) -> str:
    """The state by the contract's words: a charge is what was not verified, or is not known."""
    if state.energy is not Energy.CHARGED:
        return state.energy.code
    return (Energy.WAITING if state.is_off else Energy.UNKNOWN).code


def _part(case: CaseFile, facts: PartFacts) -> Json:
    is_unread = facts.state is PartState.UNSEEN or (
        facts.state is PartState.REPLACED and not facts.readings
    )
    judgement = facts.judgement
    reasons = [
        {"code": r.code, "text": r.sentence}
        for r in judgement.reasons
        if r.code != NOT_MEASURED.code
    ]
    return {
        "ref": name_of(case, facts.part),
        "verdict": UNREAD if is_unread else judgement.verdict.value,
        "action": judgement.action.value,
        "reasons": reasons,
    }


def _rail(volts: RailVolts, ground: RailGround) -> Json:
    own = {load: volts.by_place.get((load, Place.NONE)) for load in volts.by_load}
    spoken = {load: found or volts.worst_at(load) for load, found in own.items()}
    rail = {load.code: _volts(found[1]) for load, found in spoken.items() if found}
    rail |= {
        f"{load.code}@{place.value}": _volts(found[1])
        for (load, place), found in volts.by_place.items()
        if place is not Place.NONE
    }
    return {"key": volts.rail.key, "volts": rail, "ground": _ground(ground)}


def _volts(judgement: RailJudgement) -> Json:
    text = f"{judgement.text}. {judgement.advice}".strip()
    return {"verdict": judgement.verdict.value, "text": text}


def _ground(ground: RailGround) -> Json:
    attached, isolated = (ground.sides[side].judgement for side in SIDES)
    injected = [judged for _, judged in ground.injections.values()]
    hardest = min(injected, key=lambda j: _HARDEST.index(j.verdict), default=None)
    sentences = [j.text for j in (attached, isolated, hardest) if j]
    sentences += [text for text in (ground.side_text, ground.polarity_text) if text]
    return {
        "attached": attached.verdict.value if attached else None,
        "isolated": isolated.verdict.value if isolated else None,
        "injected": hardest.verdict.value if hardest else None,
        "text": " ".join(sentences),
    }


def in_words(answer: Mapping[str, Any]) -> str:
    """The same as a few lines of text."""
    energy_said = answer["energy"]
    touch, meter = _yes(energy_said["touch_safe"]), _yes(energy_said["meter_safe"])
    lines = [f"energy {energy_said['state']}; safe to touch {touch}, for a meter {meter}"]
    for part in answer["parts"]:
        if part["verdict"] != UNREAD:
            why = part["reasons"][0]["text"] if part["reasons"] else ""
            lines.append(f"{part['ref']:12} {part['verdict']:9} {part['action']:8} {why}")
    for rail in answer["rails"]:
        for load, one in rail["volts"].items():
            lines.append(f"{rail['key']:12} {one['verdict']:10} {load}: {one['text']}")
        if rail["ground"]["text"]:
            lines.append(f"{rail['key']:12} to ground: {rail['ground']['text']}")
    lines += [f"{'!' if p['urgent'] else '-'} {p['text']}" for p in answer["patterns"]]
    return "\n".join([*lines, f"next: {answer['next']['text']}"])


def _yes(is_so: bool) -> str:
    return "yes" if is_so else "no"


@json_command
@click.argument("unit", type=FILE)
@click.argument("readings", type=FILE)
@click.option("--school", type=click.Choice(["proven", "offenders", "blanket"]), default="proven",
              show_default=True, help="How much is replaced.")  # fmt: skip
@click.option("--tolerance", type=click.Choice(["strict", "lenient"]), default="strict",
              show_default=True, help="How far rails may be off.")  # fmt: skip
@click.option("--touch-limit", type=click.Choice(["60", "30"]), default="60", show_default=True,
              help="Volts that are safe to touch.")  # fmt: skip
def command(unit: Path, readings: Path, school: str, tolerance: str, touch_limit: str) -> Answer:
    """Judge a unit: UNIT.json its sheet, READINGS.csv what was read, in time order.

    Rows that cannot be used are named with their line; exits 2 when a file cannot be used at all.
    """
    limit = float(touch_limit)
    with case_of_files(
        unit, readings, school=school, tolerance=tolerance, touch_limit_v=limit
    ) as case:
        answer = judged(case)
    return Answer(answer, in_words(answer), problem_lines(readings, answer["problems"]))
