"""A case's rows: what is of which part and rail, what stands, after any order of changes."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hale_rail.actions import readings
from hale_rail.actions.safety import power
from hale_rail.case.file import forget
from hale_rail.case.rails.rails import rail_patterns, rails
from hale_rail.case.rows import Rows
from hale_rail.case.shorts.grounds import grounds
from hale_rail.core.procedures import (
    CONDITIONS,
    GROUND,
    VOLTS,
    Condition,
    Point,
    ReadingSource,
    Understood,
)
from hale_rail.core.targets import Place, Target, TargetKind, rail_target
from hale_rail.store import cases, log
from hale_rail.store import readings as reading_rows
from hale_rail.store.readings import NewReading
from tests.conftest import Bench, opened
from tests.sizes import examples

#: points of parts and rails, of procedures that correct and of one that does not
POINTS = {
    "+5": ("+5 V", "volts", "dummy"),
    "+12": ("+12 V", "volts", "dummy"),
    "+5 to ground": ("+5 V", "ground", "attached"),
    "F1": ("F1", "ohms", "in-circuit"),
    "C1 held": ("C1", "store", ""),
}
READ = st.tuples(st.just("read"), st.sampled_from(sorted(POINTS)))
STRIKE = st.tuples(st.just("strike"), st.integers(0, 8))


def plain(rows: Rows) -> dict[str, object]:
    """What rows say, so that two ways to the same state can be held to each other."""
    return {
        "readings": sorted(rows.readings),
        "aside": dict(rows.aside),
        "standing": {key: r.id for key, r in rows.standing.items()},
        "of_part": {i: [r.id for r in own] for i, own in rows.of_part.items() if own},
        "of_rail": {key: [r.id for r in own] for key, own in rows.of_rail.items() if own},
        "ever": {whose: [r.id for r in own] for whose, own in rows.ever.items()},
        "procedures": rows.procedures,
        "read_until": (rows.last_log, rows.last_reading, rows.last_strike),
    }


@given(steps=st.lists(st.one_of(READ, STRIKE), max_size=12))
@settings(max_examples=examples(25, 8), deadline=None)
def test_rows_read_on_are_the_rows_read_anew(
    empty_master: Path, tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[str, str | int]]
) -> None:
    """After each step the state read on equals the state read from nothing, and a plain model.

    The model: what was not struck and not superseded stands; a reading that corrects supersedes the
    one that stood at its point; the newest that stands speaks for the point.
    """
    with closing(opened(empty_master, tmp_path_factory.mktemp("rows") / "data")) as store:
        bench = Bench(store, "template:linear")
        bench.make_safe()
        power.pass_guard(store, bench.number, "so that a store's reading may be struck out too")
        kept = {i: r.key for i, r in bench.file.rows.readings.items()}
        aside = set(bench.file.rows.aside)
        for step, what in steps:
            if step == "read":
                ref, procedure, condition = POINTS[str(what)]
                power.remove_power(store, bench.number)
                power.pass_guard(store, bench.number, "so that every reading may be taken")
                point = bench.point(ref, procedure, condition)
                stood = [i for i, key in kept.items() if key == point.key and i not in aside]
                added = bench.read(ref, procedure, "0.5", condition)
                kept[added] = point.key
                aside |= set(stood[-1:]) if point.procedure.corrects else set()
            else:
                standing = sorted(set(kept) - aside)
                if standing:
                    struck = standing[int(what) % len(standing)]
                    readings.strike(store, bench.number, struck)
                    aside.add(struck)
        on = plain(bench.file.rows)
        forget()
        assert plain(bench.file.rows) == on
        assert on["readings"] == sorted(kept)
        assert set(bench.file.rows.aside) == aside
        newest = {key: i for i, key in sorted(kept.items()) if i not in aside}
        assert on["standing"] == newest


def test_what_is_read_along_a_rails_line_is_judged_at_its_place(bench: Bench) -> None:
    """The far end may sag: its ohms judge no side of the rail, its volts the rail only with it."""
    bench.make_safe()
    for procedure, condition, text in ((GROUND, "attached", "0.2"), (VOLTS, "machine", "4.1")):
        point = Point(rail_target("+5 V", Place.FAR), procedure, CONDITIONS[condition])
        readings.save_reading(bench.store, bench.number, point, text)
    assert len(bench.file.rows.of_rail["+5 V"]) == 2
    assert not any(side.is_low for side in grounds(bench.file)[0].sides.values())
    volts = rails(bench.file)[0]
    assert [place for _, place in volts.by_place] == [Place.FAR]
    assert volts.by_load[Condition.MACHINE][1].verdict.value == "fail"
    bench.read("+5 V", "volts", "5.01", "machine")
    volts = rails(bench.file)[0]
    assert volts.by_load[Condition.MACHINE][1].verdict.value == "pass"
    assert not volts.is_right  # it is low at the board
    assert [p.code for p in rail_patterns(bench.file)] == ["harness-drop"]


def test_a_reading_of_no_part_and_no_rail_is_kept_beside_them(bench: Bench) -> None:
    rows = bench.file.rows
    pad = Target(TargetKind.PAD, plus="7")
    with bench.store.write() as connection:
        log_id = log.append(connection, rows.case.id, "2026-01-01T00:00:00+00:00", "reading", "7")
        reading_rows.insert(
            connection, rows.case.id, rows.case.sheet_id, log_id,
            NewReading(
                Point(pad, VOLTS, Condition.MACHINE), "1", Understood(1.0, 1.0, 0.1, "1 V"),
                VOLTS.accuracy, None, ReadingSource.TYPED, "2026-01-01T00:00:00+00:00", None,
            ),
        )  # fmt: skip
        cases.touch(connection, rows.case.id, "2026-01-01T00:00:00+00:00")
    rows = bench.file.rows
    assert [r.target for r in rows.readings.values()] == [pad]
    assert (rows.ever, rows.of_part, rows.of_rail) == ({}, {}, {})
