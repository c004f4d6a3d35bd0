"""What goes into the store comes out of it: sheets of every kind, readings of any target."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.case.file import forget, open_case
from hale_rail.case.rows import read_rows
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds import KINDS
from hale_rail.core.parts.markings import Winding
from hale_rail.core.procedures import OHMS, Accuracy, Condition, Point, ReadingSource, Understood
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part
from hale_rail.core.targets import Place, Target, TargetKind, rail_target
from hale_rail.store import cases, log, sheets
from hale_rail.store import readings as reading_rows
from hale_rail.store.database import Store
from hale_rail.store.readings import NewReading
from tests.conftest import Bench, opened
from tests.sizes import examples

KNOWN: dict[str, Any] = {
    "value": 4.7e-6, "volt": 25.0, "tolerance": (0.1, 0.5), "family": Family.TANTALUM,
    "safety_class": "X2", "grade": Grade.LOW, "material": "germanium",
    "bleeder_for": "C1", "rails": ("+5 V",), "windings": (Winding("main", 1.4),),
}  # fmt: skip
PLACE = {"role": "bulk", "bank": "A", "board": "P1", "year": 1984, "note": "warm"}


def without_ids(sheet: Sheet) -> Sheet:
    return replace(
        sheet,
        parts=tuple(replace(p, id=0, uid="") for p in sheet.parts),
        rails=tuple(replace(r, uid="") for r in sheet.rails),
    )


@pytest.mark.parametrize("is_primary", [True, False, None])
def test_a_sheet_of_every_kind_of_part_comes_back_as_it_was(
    store: Store, is_primary: bool | None
) -> None:
    """All that a unit's file can hold: of each kind what it can carry, and nothing at all."""
    parts = []
    for kind in KINDS:
        for known in (KNOWN | PLACE, {}):
            number = len(parts) + 1
            more = {"is_primary": is_primary, **known}
            parts.append(make_part(number, f"P{number}", kind.code, "main", number, **more))
    rails = (
        Rail("+5 V", 5.0, Regulation.MAIN, 0.6, 5.0, None, 50.0, 150.0, 12.0, "", "VR1", "+12 V"),
        Rail("−12 V", -12.0, Regulation.RAW, tolerance=(0.1, 0.2)),
    )
    sheet = Sheet("All of it", Topology.FLYBACK, rails, tuple(parts), 230.0, 50.0, 1986)
    with store.write() as connection:
        sheet_id = sheets.insert(connection, sheet, "2026-01-01T00:00:00+00:00")
    back = sheets.load(store.read(), sheet_id)
    assert without_ids(back) == without_ids(sheet)
    assert len({p.uid for p in back.parts} | {r.uid for r in back.rails}) == len(parts) + 2


TARGETS = [
    rail_target("+5 V", Place.FAR),
    Target(TargetKind.PAD, plus="7"),
    Target(TargetKind.CONNECTION, plus="7", minus="12"),
    Target(TargetKind.ITEM, plus="card 2"),
    Target(TargetKind.CHANNEL, plus="A"),
]


def test_a_reading_of_any_target_comes_back_with_all_its_numbers(bench: Bench) -> None:
    """Pads, connections, items and channels have their place without a change of the reading."""
    case = bench.file.case
    pin = Target(TargetKind.PIN, bench.id_of("BR1"), plus="~1")
    meant = Understood(0.4, 0.5, 0.1, "", {"amps": 1.5})
    for target in [*TARGETS, pin, TARGETS[1]]:
        new = NewReading(
            Point(target, OHMS, Condition.NONE), "0.4", meant,
            Accuracy(0.01, 2, 0.3), None, ReadingSource.IMPORTED, "2026-01-01T00:00:00+00:00", None,
        )  # fmt: skip
        with bench.store.write() as connection:
            log_id = log.append(connection, case.id, "2026-01-01T00:00:00+00:00", "reading", "x")
            reading_rows.insert(connection, case.id, case.sheet_id, log_id, new)
    back = reading_rows.of_case(bench.store.read(), case.id)
    assert [r.target for r in back] == [*TARGETS, pin, TARGETS[1]]
    last = back[-1]
    assert (last.value, last.high, last.digit, last.figures) == (0.4, 0.5, 0.1, {"amps": 1.5})
    assert (last.accuracy, last.source) == (Accuracy(0.01, 2, 0.3), ReadingSource.IMPORTED)
    count = bench.store.read().execute("SELECT count(*) FROM target").fetchone()[0]
    assert count == len(TARGETS) + 1


STEPS = st.lists(
    st.one_of(
        st.tuples(st.just("F1"), st.just("ohms"), st.sampled_from(["0.2", "OL"])),
        st.tuples(st.just("C12"), st.just("esr"), st.sampled_from(["0.1", "8"])),
        st.tuples(st.just("C1"), st.just("store"), st.sampled_from(["1", "2"])),
        st.tuples(st.just("+5 V"), st.just("ground"), st.sampled_from(["12", "180"])),
        st.tuples(st.just("strike"), st.integers(0, 9), st.just("")),
        st.tuples(st.just("look"), st.sampled_from(["C12", "F1"]), st.sampled_from(["none", ""])),
    ),
    max_size=12,
)


@settings(max_examples=examples(25, 8), deadline=None)
@given(steps=STEPS)
def test_rows_read_bit_by_bit_are_those_read_at_once(
    empty_master: Path, tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[str, Any, str]]
) -> None:
    from hale_rail.actions import readings

    store = opened(empty_master, tmp_path_factory.mktemp("rows") / "data")
    bench = Bench(store)
    bench.make_safe()
    for name, what, text in steps:
        if name == "strike":
            standing = [i for i in bench.file.rows.readings if i not in bench.file.rows.aside]
            if standing:
                readings.strike(store, bench.number, standing[what % len(standing)])
            bench.make_safe()
        elif name == "look":
            bench.look(what, *text.split())
        else:
            bench.read(name, what, text)
        open_case(store, bench.number)
    grown = bench.file.rows
    case = cases.by_number(store.read(), bench.number)
    anew = read_rows(store.read(), case)
    # how they were read differs, not what they hold
    assert replace(anew, but_readings=0) == replace(grown, but_readings=0)
    forget()
    store.close()
