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
    topology = TOPOLOGIES.get(code)
    if topology is None:
        raise InputError(f"--topology is one of {', '.join(TOPOLOGIES)}, not “{code[:40]}”.")
    return (topology,)


def as_json(figures: HuntFigures) -> Json:
    """The figures in the command's keys."""
    return {
        "hunts": figures.hunts,
        "right_first": figures.right_first,
        "mean_tests": figures.mean_tests,
        "mean_minutes": figures.mean_minutes,
        "unsafe_steps": figures.unsafe_steps,
        "settled_wrong": figures.settled_wrong,
        "by_topology": {
            code: {"n": n, "right": ok} for code, (n, ok) in figures.by_topology.items()
        },
        "worst": [_hunt(o) for o in figures.worst],
        "by_fault": {code: {"n": n, "right": ok} for code, (n, ok) in figures.by_fault.items()},
    }


def repairs_json(repairs: Repairs) -> Json:
    """What came of repairs in the command's keys."""
    return {
        "repairs": repairs.count,
        "whole": repairs.mean(lambda r: r.is_whole),
        "right_first": repairs.mean(lambda r: r.first_right),
        "right_second": repairs.mean(lambda r: r.is_second_right),
        "replaced_in_vain": repairs.mean(lambda r: r.in_vain),
        "mean_tests": repairs.mean(lambda r: r.tests),
        "mean_minutes": repairs.mean(lambda r: r.minutes),
        "unsafe_steps": sum(r.unsafe for _, __, r in repairs.outcomes),
        "worst": [
            {"topology": topology.code, "seed": seed, "in_vain": r.in_vain, "whole": r.is_whole}
            for topology, seed, r in repairs.outcomes
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


def in_words(answer: Json) -> str:
    """The same as a few lines of text."""
    if "repairs" in answer:
        whole, vain = 100 * answer["whole"], answer["replaced_in_vain"]
        first, second = 100 * answer["right_first"], 100 * answer["right_second"]
        lines = [
            f"{answer['repairs']} units repaired to the end, whole: {whole:.1f} %",
            f"a true fault named first in {first:.1f} %, the second after it in {second:.1f} %",
            f"replaced in vain: {vain:.2f} each; {answer['mean_tests']:.1f} tests each",
            f"unsafe steps: {answer['unsafe_steps']}",
        ]
        return "\n".join(lines)
    spent = f"{answer['mean_tests']:.2f} tests and {answer['mean_minutes']:.1f} minutes each"
    lines = [
        f"{answer['hunts']} hunts, the true fault first in {100 * answer['right_first']:.1f} %",
        f"{spent}; unsafe steps: {answer['unsafe_steps']}",
    ]
    for code, came in answer["by_fault"].items():
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
    answer = measured(topology, seeds, pairs=pairs, to_the_end=to_the_end)
    return Answer(answer, in_words(answer))
