"""Where to look next of a unit of 64 parts: everything from nothing, and one reading more.

From nothing means its model, the views of all tests, 60 readings weighed and the tests ranked. The
limits are ratios to sorting 200 000 numbers in the same run, some 50 ms. Exits with 1 where one is
over.
"""

from __future__ import annotations

import random
import sys
import time
from collections.abc import Callable

from msgspec.structs import replace

from hale_rail.core.diagnosis.bench import has_subject, parts_of
from hale_rail.core.diagnosis.case_state import BenchTestState, Known
from hale_rail.core.diagnosis.engine import diagnose
from hale_rail.core.diagnosis.facts import Fact, PartFact, ReadValue, SymptomFact
from hale_rail.core.diagnosis.faults import faults
from hale_rail.core.diagnosis.inference import weigh
from hale_rail.core.diagnosis.model import UnitModel
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.core.supply.templates import template
from hale_rail.formats.knowledge import knowledge_for

PARTS, READINGS, RUNS = 64, 60, 9
#: times the reference: everything from nothing, one reading more
MOST_WHOLE, MOST_READING = 3.0, 0.2


def sheet() -> Sheet:
    """A half-bridge unit whose filters were multiplied until it has enough parts."""
    found = template(Topology.HALF_BRIDGE)
    filters = [p for p in found.parts if p.role == "output-filter"]
    more = []
    for n in range(PARTS - len(found.parts)):
        like = filters[n % len(filters)]
        more.append(replace(like, id=1000 + n, ref=f"C{100 + n}", bank=""))
    return Sheet(found.name, found.topology, found.rails, (*found.parts, *more), year=1985)


def model(unit: Sheet) -> UnitModel:
    knowledge = knowledge_for(unit.topology)
    return UnitModel(
        knowledge, unit, faults(knowledge, unit, {p.id: p.ref for p in unit.parts}, {}, {})
    )


def facts(unit: Sheet) -> list[Fact]:
    rng = random.Random(1)
    found: list[Fact] = [SymptomFact(1, "ripple", "ripple")]
    for n in range(READINGS):
        part = unit.capacitors[n % len(unit.capacitors)]
        kind, value = ("esr", rng.uniform(0.02, 2)) if n % 2 else ("ohms", rng.uniform(50, 1e5))
        figure = ReadValue(kind, value, value)
        found.append(PartFact(2 + n, part.id, figure, n % 3 == 0, f"{part.ref} {value}"))
    return found


def said(known: UnitModel, taken: list[Fact]) -> None:
    stands = tuple(
        BenchTestState(test, parts_of(known.unit, test))
        for test in known.knowledge.tests
        if has_subject(known.unit, test)
    )
    found = weigh(known, taken, ["ripple"], 10**6)
    diagnose(found, Known(stands, lambda _: False, (), lambda _: False, is_asked=True))


def best(of: Callable[[], None]) -> float:
    """The shortest of several runs, in seconds."""
    found = []
    for _ in range(RUNS):
        began = time.perf_counter()
        of()
        found.append(time.perf_counter() - began)
    return min(found)


def main() -> int:
    unit = sheet()
    taken = facts(unit)
    rng = random.Random(2)
    numbers = [rng.random() for _ in range(200_000)]
    reference = best(lambda: sorted(numbers) and None)
    whole = best(lambda: said(model(unit), taken))
    kept = model(unit)
    said(kept, taken)
    count = iter(range(10**6))

    def one_more() -> None:
        figure = ReadValue("esr", 0.3 + 1e-6 * next(count), 0.3)
        more = PartFact(999, unit.capacitors[3].id, figure, False, "one more")
        weigh(kept, [*taken, more], ["ripple"], 10**6)

    reading = best(one_more)
    print(f"{len(unit.parts)} parts, {len(kept.faults)} faults, {len(kept.space.first)} hypotheses")
    print(f"sorting 200 000 numbers {1e3 * reference:.0f} ms")
    is_right = True
    for name, taken_s, most in (
        ("all of it from nothing", whole, MOST_WHOLE),
        ("one reading more", reading, MOST_READING),
    ):
        ratio = taken_s / reference
        is_right &= ratio <= most
        word = "ok  " if ratio <= most else "OVER"
        print(f"{word} {ratio:.2f} of {most} × sorting: {name}, {1e3 * taken_s:.1f} ms")
    return 0 if is_right else 1


if __name__ == "__main__":
    sys.exit(main())
