"""A case as it is looked at: read once, computed once, and never behind what was saved."""

from __future__ import annotations

import threading
from collections.abc import Callable

import pytest

from hale_rail.actions.intake import cases
from hale_rail.actions.parts import decisions, looks
from hale_rail.actions.safety import power
from hale_rail.actions.workshop import workshop
from hale_rail.case import file as case_file
from hale_rail.case.file import CaseFile, facet, forget, is_known, open_case
from hale_rail.case.parts.parts import parts
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import ESR
from hale_rail.errors import NotFoundError
from hale_rail.store.database import Store
from tests.conftest import Bench


def test_an_unchanged_case_is_the_same_file_and_a_changed_one_is_not(bench: Bench) -> None:
    first = bench.file
    assert bench.file is first
    decisions.note(bench.store, bench.number, "x")
    assert bench.file is not first
    assert bench.file.kept is first.kept


CHANGES: tuple[Callable[[Bench], object], ...] = (
    lambda b: b.read("C1", "store", "0.4"),
    lambda b: looks.look(b.store, b.number, b.id_of("C1"), ["bulge"]),
    lambda b: power.remove_power(b.store, b.number),
    lambda b: decisions.decide(b.store, b.number, b.id_of("C1"), "fitted"),
    lambda b: cases.edit(b.store, b.number, b.version, school="blanket"),
    lambda b: workshop.save_settings(
        b.store, touch_limit_v=30, school="proven", tolerance="strict", hours_a_day=4, core_c=45
    ),
)


@pytest.mark.parametrize("change", CHANGES)
def test_whatever_changes_is_seen_by_the_next_look(
    bench: Bench, change: Callable[[Bench], object]
) -> None:
    before = bench.file
    change(bench)
    now = bench.file
    assert now is not before
    forget()
    anew = bench.file
    assert (now.case, now.workshop) == (anew.case, anew.workshop)
    assert {i: f.state for i, f in parts(now).items()} == {
        i: f.state for i, f in parts(anew).items()
    }


def test_a_facet_is_computed_once_a_state_and_only_when_it_is_asked_for(bench: Bench) -> None:
    computed = []

    @facet
    def counted(case: CaseFile) -> int:
        computed.append(case.case.revision)
        return len(computed)

    assert computed == []
    assert [counted(bench.file) for _ in range(3)] == [1, 1, 1]
    decisions.note(bench.store, bench.number, "x")
    assert [counted(bench.file) for _ in range(2)] == [2, 2]
    assert len(set(computed)) == 2


def test_what_follows_from_the_same_is_kept_and_from_another_is_made_again(bench: Bench) -> None:
    made = []

    def make() -> int:
        made.append(1)
        return len(made)

    for given, expected in (("a", 1), ("a", 1), ("b", 2), ("b", 2), ("a", 3)):
        assert bench.file.keep("key", given, make) == expected
    assert bench.file.keep("other key", "a", make) == 4
    decisions.note(bench.store, bench.number, "x")
    assert bench.file.keep("key", "a", make) == 3


def test_cases_that_were_not_asked_for_lately_make_room(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(case_file, "_CACHED", 3)
    forget()
    for number in range(5):
        Bench(store, "template:dc-fed", number=f"N-{number}")
    known = [is_known(store, f"N-{number}") for number in range(5)]
    assert known == [False, False, True, True, True]
    assert open_case(store, "N-0").number == "N-0"


def test_a_case_that_is_not_there(store: Store) -> None:
    with pytest.raises(NotFoundError, match="no case T-404"):
        open_case(store, "T-404")
    assert not is_known(store, "T-404")


def test_two_who_look_and_one_who_writes_never_see_half_a_change(bench: Bench) -> None:
    """A reading and the look with it are seen in the order they were saved, by any thread."""
    bench.make_safe()
    c1, wrong, stop = bench.id_of("C1"), [], threading.Event()

    def watch() -> None:
        newest = 0
        while not stop.is_set():
            case = open_case(bench.store, bench.number)
            seen = case.case.revision
            facts = parts(case)[c1]
            was_read = any(r.procedure is ESR for r in facts.readings)
            if seen < newest or was_read != (facts.state is not PartState.UNSEEN):
                wrong.append((seen, newest))
            newest = seen
        bench.store.close()

    watchers = [threading.Thread(target=watch) for _ in range(2)]
    for watcher in watchers:
        watcher.start()
    for number in range(12):
        bench.read("C1", "esr", f"0.{number + 10}")
    stop.set()
    for watcher in watchers:
        watcher.join(10)
    assert wrong == []
