"""Writes docs/practice.md: what the engine reaches against simulated units, as it was measured."""

from __future__ import annotations

import json
from pathlib import Path

from hale_rail.actions.hunting import hunt
from hale_rail.core.simulate.drawn import practice_sheet
from hale_rail.core.simulate.faults import faults
from hale_rail.core.supply.sheet import Topology

HERE = Path(__file__).parent
FIGURES = HERE.parent / "src" / "hale_rail" / "knowledge" / "figures.json"
_HEAD = """# The engine against simulated units

`hale-rail practice --auto --seeds 1-200` draws a unit, a fault that its owner would notice, and a
seed; the diagnosis knows the symptom and asks, the unit answers. Right: the true fault's hypothesis
is first when the engine says settled, or after ten tests. Unsafe: a test under power before rails
to ground, bulk and switch were read cold and found good. `make figures` measures anew; a test
compares a sample with what stands here. This file is written from the figures.

"""
_HARD = """
## What remains hard
- A cracked joint that the eye does not see: nothing cold shows it, and heat comes after ten tests.
- A board that draws too much, or a least load that is missing: only power on dummies tells, and six
  cold gates stand before it.
- Shorted turns beside a dead control: the ring test is dear, so cheaper tests come first.
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


def main() -> None:
    """Write the page."""
    found = json.loads(FIGURES.read_text(encoding="utf-8"))
    right, tests = 100 * found["right_first"], found["mean_tests"]
    lines = [
        f"**{found['hunts']} hunts: right first {right:.1f} %** (aim 95 %),",
        f"{tests:.1f} tests (aim 6.5 at most) and {found['mean_minutes']:.0f} minutes on average,",
        f"**{found['unsafe_steps']} unsafe steps** (aim none).",
        "",
        "| fault | hunts | right first |",
        "|---|---|---|",
    ]
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
