"""The order of the bench: what the tray asks of a bank after a leg of it was lifted."""

from __future__ import annotations

import pytest

from hale_rail.case.walks import capacitor_points, done, next_undone
from hale_rail.core.parts.kinds.conductors import ASKED_BACK
from hale_rail.store.database import Store
from tests.conftest import Bench

BANK = "C31 470u 25V +5 bank Z\nC32 470u 25V +5 bank Z\nC33 470u 25V +5 bank Z"


def asked(bench: Bench) -> list[tuple[str, str, str]]:
    """What is still asked of the bank: designator, procedure, condition."""
    case = bench.file
    refs = {bench.id_of(ref): ref for ref in ("C31", "C32", "C33")}
    return [
        (refs[point.part_id], point.procedure.code, point.condition.code)
        for point in capacitor_points(case)
        if point.part_id in refs and point.key not in done(case)
    ]


@pytest.mark.parametrize("ref", ["C31", "C33"])
def test_a_bank_with_a_leg_lifted_is_another_bank(store: Store, ref: str) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    # 3 × 470 µF are 1410 µF: at −20 % each all may be sound, or one has lost more
    bench.read("C31", "c", "1180u")
    bench.read("C31", "esr", "0.08")
    first = asked(bench)
    assert first and {how for _, _, how in first} == {"lifted"}
    bench.read(ref, "c", "455u", "lifted")
    bench.read(ref, "esr", "0.12", "lifted")
    rest = asked(bench)
    assert [one[1:] for one in rest[:2]] == [("esr", "in-circuit"), ("c", "in-circuit")], rest
    assert ref not in {name for name, _, _ in rest}
    # read as it now is: two members, 730 of 940 µF
    bench.read(rest[0][0], "c", "730u")
    bench.read(rest[0][0], "esr", "0.11")
    after = asked(bench)
    assert all(how == "lifted" and name != ref for name, _, how in after), after
    case = bench.file
    assert next_undone(capacitor_points(case), done(case)) is not None


def test_an_open_switch_is_asked_again_and_then_believed(store: Store) -> None:
    bench = Bench(store)
    bench.make_safe()
    ref = next(p.ref for p in bench.file.sheet.parts if p.kind.code == "switch")
    point = bench.point(ref, "ohms", "in-circuit")
    bench.read(ref, "ohms", "OL")
    assert bench.codes(ref) == {ASKED_BACK}
    assert point.key not in done(bench.file)
    bench.read(ref, "ohms", "OL")
    assert bench.state(ref) == "failed"
    assert point.key in done(bench.file)
