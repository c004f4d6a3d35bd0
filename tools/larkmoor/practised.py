"""Practice in the demo: three cases that are over, one of them badly, and one under way."""

from __future__ import annotations

from hale_rail.actions.parts import decisions
from hale_rail.actions.practice import practice
from hale_rail.actions.safety import power
from hale_rail.case.diagnosis.diagnosis import asks, diagnosis, whole_test
from hale_rail.case.file import open_case
from hale_rail.core.diagnosis.bench import OF_LOOKS
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.procedures import STORE
from hale_rail.store.database import Store
from hale_rail.store.practice import Practised

_MOST_TESTS = 8


def fill(store: Store) -> None:
    """Take up graded cases as a technician would who does not always listen."""
    _hunt(store, _begun(store, 2), "inrush-open", detours=("bank-esr",))
    rash = _begun(store, 5)
    fuse = next(p for p in open_case(store, rash).sheet.parts if p.ref == "F1")
    decisions.decide(store, rash, fuse.id, DecisionKind.FITTED.code, "2 A, from the drawer")
    power.apply_power(store, rash, "mains")
    power.remove_power(store, rash)
    _bled(store, rash)
    _hunt(store, rash, "bulk-short", detours=("bank-esr", "start"), most=2)
    _hunt(store, _begun(store, 3), "bulk-dry", detours=("winding", "path"))
    under_way = _begun(store, 8)
    for test in ("vents", "attached", "rectifiers"):
        _take(store, under_way, test)


def _begun(store: Store, place: int) -> str:
    """A graded case, made safe."""
    number = practice.start(store, Practised(place, "", "", 0))
    power.remove_power(store, number)
    _bled(store, number)
    return number


def _bled(store: Store, number: str) -> None:
    practice.bleed(store, number)
    for bank in open_case(store, number).sheet.store_banks:
        practice.touch(store, number, bank[0].point(STORE))


def _hunt(
    store: Store, number: str, named: str, detours: tuple[str, ...], most: int = _MOST_TESTS
) -> None:
    """Some tests that nobody asked for, then what the diagnosis proposes; then a name."""
    for test in detours:
        _take(store, number, test)
    for _ in range(most):
        said = diagnosis(open_case(store, number)).diagnosis
        if said.next is None or said.next.test.is_live:
            break
        _take(store, number, said.next.test.id)
    practice.end(store, number, named)


def _take(store: Store, number: str, test_id: str) -> None:
    """Everything that a test asks: points to touch, parts to look at, or the hand's own."""
    case = open_case(store, number)
    taken = whole_test(case, test_id)
    if taken is None:
        return
    for point in asks(case, taken):
        practice.touch(store, number, point)
    if taken.test.reads == OF_LOOKS:
        for part in taken.parts:
            practice.look_at(store, number, part.id)
    elif not taken.test.reads:
        practice.by_hand(store, number, test_id)
