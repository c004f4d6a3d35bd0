"""Looks, power, decisions, board marks, notes: what each writes, and what it refuses."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from hale_rail.actions.diagnosis import diagnosis
from hale_rail.actions.parts import decisions, looks
from hale_rail.actions.safety import power
from hale_rail.case.history import entries
from hale_rail.case.safety.energy import energy
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.polarity import BoardMark
from hale_rail.errors import HaleRailError, InputError, NotFoundError
from hale_rail.store.board_marks import BOARD_MARKS
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.looks import LOOKS
from tests.conftest import Bench

Action = Callable[[Bench], object]


def see(codes: list[str], ref: str = "C1") -> Action:
    return lambda b: looks.look(b.store, b.number, b.id_of(ref), codes)


def decide(kind: str, why: str = "") -> Action:
    return lambda b: decisions.decide(b.store, b.number, b.id_of("C1"), kind, why)


def decide_of_none(b: Bench) -> None:
    decisions.decide(b.store, b.number, -1, "fitted")


def apply(source: str) -> Action:
    return lambda b: power.apply_power(b.store, b.number, source)


def mark(code: str, proof: str) -> Action:
    return lambda b: decisions.mark_board(b.store, b.number, "", code, proof)


def log_of(bench: Bench) -> list[tuple[str, str]]:
    return [(entry.kind, entry.text) for entry in entries(bench.file)]


@pytest.mark.parametrize(
    ("action", "kind", "text"),
    [
        (see(["bulge"]), "look", "C1: bulged"),
        (
            see([" Leak", "bulge", "leak"]),
            "look",
            "C1: leaking, bulged",
        ),
        (see([]), "look", "C1: look taken back"),
        (apply("bench"), "power", "Power applied: bench supply"),
        (lambda b: power.remove_power(b.store, b.number), "power", "Plug out, power removed"),
        (
            lambda b: power.pass_guard(b.store, b.number, "  It lay  unplugged for a year. "),
            "guard",
            "It lay unplugged for a year.",
        ),
        (
            decide("fitted", "new, 105 °C"),
            "decision",
            "C1 replaced: new, 105 °C",
        ),
        (
            decide("undone"),
            "decision",
            "C1 back to as it was",
        ),
        (
            mark("half-negative", "c1"),
            "board-mark",
            "supply: filled half at the negative pad, proven on C1",
        ),
        (lambda b: decisions.note(b.store, b.number, " Screw missing "), "note", "Screw missing"),
    ],
)
def test_what_is_done_stands_in_the_log_in_its_own_words(
    bench: Bench, action: Action, kind: str, text: str
) -> None:
    before, revision = len(log_of(bench)), bench.file.case.revision
    action(bench)
    assert log_of(bench)[before:] == [(kind, text)]
    assert bench.file.case.revision == revision + 1


@pytest.mark.parametrize(
    ("action", "error", "says"),
    [
        (lambda b: looks.look(b.store, b.number, 10**6, ["bulge"]), NotFoundError, "no such part"),
        (
            see(["bulge"], "F1"),
            InputError,
            "Choose what you see at F1: looks sound",
        ),
        (
            see(["none", "bulge"]),
            InputError,
            "looks sound, or it does not",
        ),
        (apply("sun"), InputError, "mains, bench supply"),
        (lambda b: power.pass_guard(b.store, b.number, "it is ok"), InputError, "in a sentence"),
        (
            decide("burnt"),
            InputError,
            "A part is replaced, keep",
        ),
        (
            decide("keep", " "),
            InputError,
            "Write why",
        ),
        (decide_of_none, NotFoundError, "no such part"),
        (
            mark("stripe", "C1"),
            InputError,
            "what the board prints",
        ),
        (
            mark("plus-sign", "C999"),
            InputError,
            "known to be original",
        ),
        (lambda b: decisions.note(b.store, b.number, " \n"), InputError, "Nothing written"),
        (
            lambda b: diagnosis.say(b.store, b.number, "symptom", "no-such", "yes"),
            InputError,
            "not a symptom, result or belief",
        ),
        (lambda b: decisions.note(b.store, "none-such", "x"), NotFoundError, "no case none-such"),
    ],
)
def test_what_cannot_be_done_writes_nothing(
    bench: Bench, action: Action, error: type[HaleRailError], says: str
) -> None:
    before, revision = log_of(bench), bench.file.case.revision
    with pytest.raises(error, match=says):
        action(bench)
    assert log_of(bench) == before
    assert bench.file.case.revision == revision


def test_the_newest_look_decision_and_mark_of_each_counts(bench: Bench) -> None:
    c1 = bench.id_of("C1")
    for codes in (["bulge"], ["none"]):
        looks.look(bench.store, bench.number, c1, codes)
    for kind, why in (("keep", "measured well"), ("left-out", "no part at hand")):
        decisions.decide(bench.store, bench.number, c1, kind, why)
    for mark in ("plus-sign", "none"):
        decisions.mark_board(bench.store, bench.number, "", mark, "C1")
    rows = bench.file.rows
    assert rows.newest(LOOKS)[c1].codes == ("none",)
    assert (rows.newest(PART_DECISIONS)[c1].kind, rows.newest(PART_DECISIONS)[c1].reason) == (
        DecisionKind.LEFT_OUT,
        "no part at hand",
    )
    assert rows.newest(BOARD_MARKS)[""].mark is BoardMark.NONE


@pytest.mark.parametrize(
    ("events", "code"),
    [
        ("", "unknown"),
        ("r", "waiting"),
        ("rs", "dead"),
        ("s", "unknown"),
        ("sr", "waiting"),
        ("rsa", "live"),
        ("rsar", "waiting"),
        ("rsars", "dead"),
        ("ra", "live"),
        ("rS", "charged"),
        ("rSs", "dead"),
        ("rsS", "charged"),
    ],
)
def test_the_energy_state_after_any_order_of_events(bench: Bench, events: str, code: str) -> None:
    """r plug out, a power applied, s every store read low, S every store read high."""
    for event in events:
        if event == "r":
            power.remove_power(bench.store, bench.number)
        elif event == "a":
            power.apply_power(bench.store, bench.number, "mains")
        else:
            for part in bench.file.sheet.stores:
                is_high = event == "S" and part.ref == "C1"
                bench.read(part.ref, "store", "150" if is_high else "0.4")
    assert energy(bench.file).energy.code == code


def test_the_plug_is_logged_once_however_often_it_is_said(bench: Bench) -> None:
    """Unknown or live it is news; waiting or dead it is not."""
    for _ in range(3):
        power.remove_power_if_on(bench.store, bench.number)
    assert [kind for kind, _ in log_of(bench)].count("power") == 1
    power.apply_power(bench.store, bench.number, "injected")
    power.remove_power_if_on(bench.store, bench.number)
    assert [kind for kind, _ in log_of(bench)].count("power") == 3
