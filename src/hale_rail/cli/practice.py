"""Measure the diagnosis against simulated units."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import click

from hale_rail.actions.practice.benchmark_figures import (
    HuntFigures,
    HuntOutcome,
    Repairs,
    measure,
    measure_repairs,
)
from hale_rail.cli._command import Answer, json_command
from hale_rail.core.supply.sheet import TOPOLOGIES, Topology
from hale_rail.errors import InputError

Json = dict[str, Any]
_SEEDS = re.compile(r"\s*(\d{1,9})\s*(?:-\s*(\d{1,9}))?\s*")
_MOST_SEEDS = 5000


def seeds_of(text: str) -> range:
    """`1-200`, or one seed; raises InputError."""
    match = _SEEDS.fullmatch(text)
    if match is None:
        raise InputError(f"--seeds “{text[:40]}”: write 1-200, or one number.")
    first, last = int(match[1]), int(match[2] or match[1])
    if last < first:
        raise InputError(f"--seeds {text}: the first is above the last.")
    if last - first >= _MOST_SEEDS:
        raise InputError(f"--seeds {text}: at most {_MOST_SEEDS} at once.")
    return range(first, last + 1)


def measured(topology: str, seeds: str, *, pairs: bool = False, to_the_end: bool = False) -> Json:
    """The command's JSON contract; raises InputError.

    Units with two faults are always repaired to the end: the second is named after the first.
    """
    if pairs or to_the_end:
        return repairs_json(measure_repairs(_topologies(topology), seeds_of(seeds), pairs=pairs))
    return as_json(measure(_topologies(topology), seeds_of(seeds)))


def _topologies(code: str) -> Sequence[Topology]:
    if not code:
        return tuple(Topology)
    found = TOPOLOGIES.get(code)
    if found is None:
        raise InputError(f"--topology is one of {', '.join(TOPOLOGIES)}, not “{code[:40]}”.")
    return (found,)


def as_json(found: HuntFigures) -> Json:
    """The figures in the command's keys."""
    return {
        "hunts": found.hunts,
        "right_first": found.right_first,
        "mean_tests": found.mean_tests,
        "mean_minutes": found.mean_minutes,
        "unsafe_steps": found.unsafe_steps,
        "settled_wrong": found.settled_wrong,
        "by_topology": {code: {"n": n, "right": ok} for code, (n, ok) in found.by_topology.items()},
        "worst": [_hunt(o) for o in found.worst],
        "by_fault": {code: {"n": n, "right": ok} for code, (n, ok) in found.by_fault.items()},
    }


def repairs_json(found: Repairs) -> Json:
    """What came of repairs in the command's keys."""
    return {
        "repairs": found.count,
        "whole": found.mean(lambda r: r.is_whole),
        "right_first": found.mean(lambda r: r.first_right),
        "right_second": found.mean(lambda r: r.is_second_right),
        "replaced_in_vain": found.mean(lambda r: r.in_vain),
        "mean_tests": found.mean(lambda r: r.tests),
        "mean_minutes": found.mean(lambda r: r.minutes),
        "unsafe_steps": sum(r.unsafe for _, __, r in found.outcomes),
        "worst": [
            {"topology": topology.code, "seed": seed, "in_vain": r.in_vain, "whole": r.is_whole}
            for topology, seed, r in found.outcomes
            if r.in_vain or not r.is_whole
        ],
    }


def _hunt(outcome: HuntOutcome) -> Json:
    hunt = outcome.hunt
    return {
        "seed": outcome.seed,
        "topology": outcome.topology.code,
        "fault": hunt.fault.code,
        "ranked": hunt.rank,
        "leader": hunt.leader.id,
        "tests": [step.test.id for step in hunt.path],
    }


def in_words(found: Json) -> str:
    """The same as a few lines of text."""
    if "repairs" in found:
        whole, vain = 100 * found["whole"], found["replaced_in_vain"]
        first, second = 100 * found["right_first"], 100 * found["right_second"]
        lines = [
            f"{found['repairs']} units repaired to the end, whole: {whole:.1f} %",
            f"a true fault named first in {first:.1f} %, the second after it in {second:.1f} %",
            f"replaced in vain: {vain:.2f} each; {found['mean_tests']:.1f} tests each",
            f"unsafe steps: {found['unsafe_steps']}",
        ]
        return "\n".join(lines)
    spent = f"{found['mean_tests']:.2f} tests and {found['mean_minutes']:.1f} minutes each"
    lines = [
        f"{found['hunts']} hunts, the true fault first in {100 * found['right_first']:.1f} %",
        f"{spent}; unsafe steps: {found['unsafe_steps']}",
    ]
    for code, came in found["by_fault"].items():
        lines.append(f"{code:24} {came['right']} of {came['n']}")
    return "\n".join(lines)


@json_command
@click.option("--auto", is_flag=True, help="The engine plays itself.")
@click.option("--topology", default="", metavar="T", help="One topology, else all in turn.")
@click.option("--seeds", default="1-200", metavar="1-200", help="A drawn fault a seed.")
@click.option("--pairs", is_flag=True, help="Two faults a unit, repaired one after the other.")
@click.option("--repair", "to_the_end", is_flag=True, help="Go on until the unit is whole.")
def command(auto: bool, topology: str, seeds: str, pairs: bool, to_the_end: bool) -> Answer:
    """Measure the diagnosis: it hunts drawn faults of simulated units by itself.

    A person practises on the page: `hale-rail serve`, Practice.
    """
    if not auto:
        raise click.UsageError("say --auto; a person practises on the page, Practice.")
    found = measured(topology, seeds, pairs=pairs, to_the_end=to_the_end)
    return Answer(found, in_words(found))
