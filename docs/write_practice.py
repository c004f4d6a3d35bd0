"""Writes docs/practice.md: what the engine reaches against simulated units, as it was measured."""

from __future__ import annotations

import json
from pathlib import Path

from hale_rail.actions.practice.diagnosis_benchmark import hunt
from hale_rail.core.simulate.faults import faults
from hale_rail.core.simulate.random_units import practice_sheet
from hale_rail.core.supply.sheet import Topology

HERE = Path(__file__).parent
FIGURES = HERE.parent / "src" / "hale_rail" / "knowledge" / "figures.json"
_HEAD = """# The engine against simulated units

`hale-rail practice --auto` draws a unit, a fault that its owner would notice, and a seed; the
diagnosis knows the symptom and asks, the unit answers. Right: the true fault's group is first
when the engine says settled, or when no test that is left tells much. Unsafe: a test under power
before rails to ground, bulk and switch were read cold and found good. `--repair` goes on: what
was settled on is replaced, the unit is powered in its machine, its owner is asked, until it is
whole; `--pairs` puts two faults into each. The seeds here were drawn for these figures: nothing
was tuned on them. The model and the simulator import nothing of each other, and a test holds it.
`make figures` measures again; a test compares a sample with what stands here. This file is written
from the figures.

"""
_REPAIRED = (
    "| units repaired to the end | whole | a true fault first | the second after it | in vain "
    "| tests | unsafe |"
)
_HARD = """
## What remains hard
- A cracked joint that the eye does not see: nothing cold shows it; a tap tells where, not which.
- A board that draws too much: no reading at the board proves it, only another in its place.
- A dead regulator or control reads like a sound one: only power, or another in its place, tells.
- One dried member of a bank: its owner notices nothing, so nobody hunts it; only lifting tells.
"""


#: the year and the seed of the units in which every fault is put once
YEAR, SEED = 1984, 1


def every_fault(topology: Topology) -> list[tuple[str, str, str]]:
    """Every fault of a topology hunted once: its code, its symptom, what came of it."""
    sheet = practice_sheet(topology, YEAR)
    found = []
    for fault in faults(sheet):
        came = hunt(sheet, fault, SEED)
        if came is None:
            found.append((fault.code, "nobody notices", "not hunted"))
            continue
        stood = {0: "no hypothesis stands for it", 1: "first"}.get(came.rank, f"place {came.rank}")
        found.append((fault.code, came.symptom, f"{stood}, {len(came.path)} tests"))
    return found


def _repairs(name: str, found: dict[str, float]) -> str:
    """A row of the table of repairs."""
    shares = [f"{100 * found[key]:.1f} %" for key in ("whole", "right_first", "right_second")]
    cells = [f"{found['repairs']} {name}", *shares, f"{found['replaced_in_vain']:.2f}"]
    return f"| {' | '.join(cells)} | {found['mean_tests']:.1f} | {found['unsafe_steps']} |"


def main() -> None:
    """Write the page."""
    found = json.loads(FIGURES.read_text(encoding="utf-8"))
    right, tests = 100 * found["right_first"], found["mean_tests"]
    pairs, repaired = found["pairs"], found["repair"]
    lines = [
        f"**{found['hunts']} hunts: right first {right:.1f} %** (aim 97 %), {tests:.1f} tests (aim",
        f"5.5 at most) and {found['mean_minutes']:.0f} minutes on average, settled wrongly",
        f"{found['settled_wrong']} times (aim none), **{found['unsafe_steps']} unsafe steps** (aim",
        "none).",
        "",
        _REPAIRED,
        "|---|---|---|---|---|---|---|",
        _repairs("with one fault", repaired),
        _repairs("with two (aim 90 % and 90 %, in vain 0.2)", pairs),
        "",
        "| topology | hunts | right first |",
        "|---|---|---|",
    ]
    lines += [f"| {code} | {f['n']} | {f['right']} |" for code, f in found["by_topology"].items()]
    lines += ["", "| fault | hunts | right first |", "|---|---|---|"]
    lines += [f"| {code} | {f['n']} | {f['right']} |" for code, f in found["by_fault"].items()]
    lines += [
        "",
        "## The worst hunts",
        "| topology | seed | fault | stood | tests |",
        "|---|---|---|---|---|",
    ]
    for w in found["worst"]:
        stood = w["ranked"] or "nowhere"
        cells = (w["topology"], w["seed"], w["fault"], stood, len(w["tests"]))
        lines.append("| " + " | ".join(map(str, cells)) + " |")
    for topology in Topology:
        lines += ["", f"## Every fault: {topology.words}", "| fault | symptom | outcome |"]
        lines += [
            "|---|---|---|",
            *("| " + " | ".join(row) + " |" for row in every_fault(topology)),
        ]
    text = _HEAD + "\n".join(lines) + "\n" + _HARD
    (HERE / "practice.md").write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
