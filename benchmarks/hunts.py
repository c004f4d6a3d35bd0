"""A closed loop: the diagnosis hunts faults that `bench_physics` put into units, one by one.

Prints how often the true fault came out first, in how many tests and minutes, and how often an
order was given that must not be: a test under power before every rail to ground, the bulk, the
switch, the bridge and the rectifiers were read cold, or while one of them was bad. Exits 1 when
fewer than 95 in 100 are right, or one order is violated.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
from collections import Counter
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from bench_physics import Fault, Player, faults, unit
from hale_rail import clock
from hale_rail.actions.cases import open_with
from hale_rail.actions.imports import import_readings
from hale_rail.case.asks import asks
from hale_rail.case.diagnosis import Answer, diagnosis
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.named import name_of
from hale_rail.case.tested_parts import has_parts, tokens
from hale_rail.core.diagnosis.knowledge import Hypothesis
from hale_rail.core.procedures import Point
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.formats.readings_csv import ReadingRow, read_readings
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store

MOST_TESTS, WANTED = 14, 0.95
_GATES = ("attached", "isolated", "bulk-ohm", "switch", "bridge", "rectifiers")


@dataclass(frozen=True)
class Hunt:
    """One hunt: the fault, what came out, and the path."""

    topology: str
    fault: Fault
    symptom: str
    leader: str
    is_right: bool
    is_settled: bool
    tests: tuple[str, ...]
    minutes: float
    violations: int


def main() -> int:
    """Hunt every fault of every topology, with so many seeds."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=2, help="Seeds a fault.")
    parser.add_argument("--show", action="store_true", help="Print every hunt that went wrong.")
    wanted = parser.parse_args()
    done = [
        hunt(unit(topology), fault, seed)
        for topology in Topology
        for fault in faults(unit(topology))
        for seed in range(wanted.seeds)
    ]
    return report(done, show=wanted.show)


def hunt(sheet: Sheet, fault: Fault, seed: int) -> Hunt:
    """One fault, from its symptom until it is settled or nothing is left to ask."""
    player = Player(sheet, fault, seed)
    with tempfile.TemporaryDirectory() as folder, closing(Store(Path(folder))) as store:
        fields = Fields("Unit", player.symptom, "", "proven", "strict", None)
        open_with(store, "H", fields, sheet, clock.now(), (player.symptom,))
        path: list[str] = []
        minutes, violations = 0.0, 0
        while len(path) < MOST_TESTS:
            case = open_case(store, "H")
            found = diagnosis(case)
            best = found.diagnosis.next
            if best is None:
                break
            answered = {a.test.id: a for a in found.answers}
            violations += best.test.is_live and not _may_power(case, answered)
            rows = [_row(case, player, point) for point in asks(case, best.test)]
            if not rows:
                said = player.say(best.test.id, list(best.test.results))
                rows = [f'{best.test.id},test,,"{said}",']
            import_readings(store, "H", _parsed(rows))
            path.append(best.test.id)
            minutes += best.test.minutes
        case = open_case(store, "H")
        said = diagnosis(case).diagnosis
        leader = said.chances[0][0]
        is_right = stands_for(case, leader, fault)
    return Hunt(
        sheet.topology.code, fault, player.symptom, leader.id, is_right, said.is_settled,
        tuple(path), minutes, violations,
    )  # fmt: skip


def _row(case: CaseFile, player: Player, point: Point) -> str:
    part = case.sheet.part(point.part_id)
    target, pair = point.target, point.target.pair
    ask = {
        "target": name_of(case, part) if part else target.rail,
        "procedure": point.procedure.code,
        "condition": point.condition.code,
        "pair": pair.code if pair else "",
    }
    if target.place.value:
        ask["condition"] += f"@{target.place.value}"
    cells = (ask["target"], ask["procedure"], ask["condition"], player.read(ask), ask["pair"])
    return ",".join(cells)


def _parsed(rows: list[str]) -> list[ReadingRow]:
    found, problems = read_readings("\n".join(["target,procedure,condition,value,pair", *rows]))
    if problems:
        raise SystemExit(f"The player wrote what cannot be read: {problems[0]} {rows}")
    return found


def _may_power(case: CaseFile, answered: dict[str, Answer]) -> bool:
    """True when every gate that this unit has was read, and is good."""
    gates = [t for t in diagnosis(case).knowledge.tests if t.id in _GATES and has_parts(case, t)]
    return all(t.id in answered and answered[t.id].result == t.sound for t in gates)


def stands_for(case: CaseFile, hypothesis: Hypothesis, fault: Fault) -> bool:
    """True for the hypothesis that the fault belongs to, by kind or role of its part."""
    part = next((p for p in case.sheet.parts if p.ref == fault.where), None)
    words = tokens(case, part) if part else (fault.where,)
    words = ("transformer",) if fault.how == "turns" else words
    return any(f"{fault.how}:{word}" in hypothesis.faults for word in words)


def report(done: list[Hunt], *, show: bool) -> int:
    """Print the figures; 1 when they fall short."""
    right = sum(h.is_right for h in done)
    violations = sum(h.violations for h in done)
    share = right / len(done)
    mean = sum(len(h.tests) for h in done) / len(done)
    minutes = sum(h.minutes for h in done) / len(done)
    settled = sum(h.is_settled for h in done)
    wrongly = sum(h.is_settled and not h.is_right for h in done)
    print(f"{len(done)} hunts: true fault first in {right} ({100 * share:.1f} %)")
    print(f"settled {settled}, of these wrongly {wrongly}")
    print(f"mean {mean:.1f} tests, {minutes:.0f} min; order violations {violations}")
    by_topology = Counter(h.topology for h in done)
    for topology, count in by_topology.items():
        ok = sum(h.is_right for h in done if h.topology == topology)
        print(f"  {topology:12} {ok} of {count}")
    for h in done:
        if show and not h.is_right:
            print(f"{h.topology} {h.fault.code} as {h.symptom}: {h.leader} by {' '.join(h.tests)}")
    return int(share < WANTED or violations > 0)


if __name__ == "__main__":
    sys.exit(main())
