"""Costly analyses: computed once, in the background, kept under the hash of their inputs."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import Any, NoReturn

import pytest

from hale_rail.case.worker import Analysis, AnalysisState, Progress, ask
from hale_rail.errors import FullError, InputError
from hale_rail.store.database import Store


class Sum:
    """An analysis that counts how often it is computed, and waits where it is told to."""

    def __init__(self) -> None:
        self.count = 0
        self.go = threading.Event()
        self.go.set()
        self.half = threading.Event()

    def __call__(self, inputs: Any, progress: Progress) -> dict[str, float]:
        self.count += 1
        progress(0.5)
        self.half.set()
        assert self.go.wait(10)
        return {"sum": sum(inputs["ohm"])}


def settled(store: Store, analysis: Analysis, inputs: object) -> AnalysisState:
    for _ in range(200):
        found = ask(store, analysis, inputs)
        if not found.is_waiting:
            return found
    raise AssertionError("never settled")


def test_the_same_question_is_computed_once_even_after_a_restart(tmp_path: Path) -> None:
    """Nor does the order of names matter; another input or version is another question."""
    total = Sum()
    analysis = Analysis("sum", 1, total)
    for _ in range(2):
        store = Store(tmp_path / "data")
        assert settled(store, analysis, {"ohm": [1.5, 2], "of": "+5 V"}).result == {"sum": 3.5}
        assert settled(store, analysis, {"of": "+5 V", "ohm": [1.5, 2]}).result == {"sum": 3.5}
        store.close()
    assert total.count == 1
    store = Store(tmp_path / "data")
    assert settled(store, analysis, {"ohm": [1.5, 2], "of": "+12 V"}).result == {"sum": 3.5}
    settled(store, Analysis("sum", 2, total), {"ohm": [1.5, 2], "of": "+5 V"})
    assert total.count == 3
    store.close()


def test_while_it_runs_it_says_how_far_it_is_and_is_begun_once(store: Store) -> None:
    """The store can be written meanwhile: nothing is locked by a computation."""
    total = Sum()
    total.go.clear()
    analysis = Analysis("slow", 1, total)
    assert ask(store, analysis, {"ohm": [1]}).is_waiting
    assert total.half.wait(10)
    waiting = ask(store, analysis, {"ohm": [1]})
    assert (waiting.is_waiting, waiting.share) == (True, 0.5)
    with store.write() as connection:
        connection.execute("INSERT INTO setting VALUES ('hours_a_day', '3')")
    total.go.set()
    assert settled(store, analysis, {"ohm": [1]}) == AnalysisState({"sum": 1}, 1.0)
    assert total.count == 1


@pytest.mark.parametrize(
    ("error", "says"),
    [(InputError("No rail has a short."), "No rail has a short."), (ZeroDivisionError(), "log")],
)
def test_what_fails_is_told_and_not_tried_at_every_look(
    store: Store, error: Exception, says: str
) -> None:
    tries = []

    def fail(_: Any, __: Progress) -> None:
        tries.append(1)
        raise error

    analysis = Analysis("failing", 1, fail)
    for _ in range(3):
        assert says in settled(store, analysis, {}).problem
    assert len(tries) == 1


def test_what_json_cannot_say_is_no_input() -> None:
    with pytest.raises(ValueError, match="JSON"):
        Analysis("sum", 1, Sum()).key({"ohm": [float("nan")]})


def test_what_cannot_be_kept_is_told_all_the_same(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(_: Store) -> NoReturn:
        raise FullError("The disk is full.")

    monkeypatch.setattr(Store, "jot", refuse)
    found = settled(store, Analysis("sum", 1, Sum()), {"ohm": [1.5, 2]})
    assert (found.result, found.problem) == ({"sum": 3.5}, "")


def test_meanwhile_the_last_result_about_the_same_thing_is_shown(store: Store) -> None:
    gate = threading.Event()

    def compute(inputs: object, _: object) -> object:
        if inputs == [2]:
            gate.wait(5)
        return inputs

    slow = Analysis("slow", 1, compute)
    assert ask(store, slow, [1], 5.0, about="C1").result == [1]
    state = ask(store, slow, [2], 0.0, about="C1")
    assert (state.is_waiting, state.result, state.shown) == (True, None, [1])
    assert ask(store, slow, [2], 0.0, about="C2").shown is None
    gate.set()
    assert ask(store, slow, [2], 5.0, about="C1").shown == [2]
