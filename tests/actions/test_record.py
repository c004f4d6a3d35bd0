"""What a person does at the bench: the guard, superseding, striking out, banks with legs lifted."""

from __future__ import annotations

import pytest

from hale_rail.actions import casebook, record
from hale_rail.actions.next_step import next_step
from hale_rail.core.recap.demand import School
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.points import Point, Quantity, next_undone
from hale_rail.errors import ConflictError, GuardError, InputError, NotFoundError, RangeError
from hale_rail.store.database import Store
from hale_rail.web import create_app

from ..conftest import Bench

Q = Quantity


def test_the_guard_stands_until_every_store_is_read(bench: Bench) -> None:
    with pytest.raises(GuardError):
        bench.read("F1", Q.RESISTANCE, "0.2")
    with pytest.raises(GuardError):
        record.save_reading(
            bench.store, bench.number, Point(Q.GROUND, None, "+5 V", "isolated", "normal"), "1k"
        )
    assert next_step(bench.dossier).view == "safe"
    record.remove_power(bench.store, bench.number)
    bench.read("C1", Q.STORE, "310", "")
    with pytest.raises(GuardError):
        bench.read("F1", Q.RESISTANCE, "0.2")
    bench.read("C1", Q.STORE, "12", "")
    assert bench.dossier.energy.energy is Energy.DEAD
    bench.read("F1", Q.RESISTANCE, "0.2")
    record.apply_power(bench.store, bench.number, "mains")
    with pytest.raises(GuardError):
        bench.read("S1", Q.RESISTANCE, "0.2")


def test_the_guard_passes_by_a_written_reason_that_is_kept(bench: Bench) -> None:
    with pytest.raises(InputError, match="sentence"):
        record.pass_guard(bench.store, bench.number, "ok")
    record.pass_guard(bench.store, bench.number, "Not plugged in since the spring.")
    bench.read("F1", Q.RESISTANCE, "0.2")
    assert ("guard-passed", "Not plugged in since the spring.") in [
        (entry.kind, entry.text) for entry in bench.dossier.log
    ]


def test_striking_the_store_reading_out_brings_the_guard_back(bench: Bench) -> None:
    record.remove_power(bench.store, bench.number)
    reading = bench.read("C1", Q.STORE, "2", "")
    assert bench.dossier.energy.guard_open
    record.strike(bench.store, bench.number, reading, "meter was on AC")
    assert not bench.dossier.energy.guard_open


def test_a_correction_supersedes_and_a_strike_brings_nothing_back(bench: Bench) -> None:
    bench.make_safe()
    first = bench.read("F1", Q.RESISTANCE, "OL")
    assert bench.state("F1") == "failed"
    second = bench.read("F1", Q.RESISTANCE, "0.2")
    assert bench.state("F1") == "good"
    assert {r.id: r.struck for r in bench.dossier.readings if r.id in (first, second)} == {
        first: "superseded",
        second: "",
    }
    record.strike(bench.store, bench.number, second, "wrong fuse")
    assert bench.state("F1") == "unseen"
    with pytest.raises(InputError, match="already"):
        record.strike(bench.store, bench.number, second, "again")
    with pytest.raises(NotFoundError):
        record.strike(bench.store, bench.number, 99_999, "")


def test_a_second_tab_is_told_and_overwrites_nothing(bench: Bench) -> None:
    bench.make_safe()
    point = bench.point("F1", Q.RESISTANCE)
    first = record.save_reading(bench.store, bench.number, point, "0.2", None)
    with pytest.raises(ConflictError, match="Another tab"):
        record.save_reading(bench.store, bench.number, point, "OL", None)
    assert bench.state("F1") == "good"
    record.save_reading(bench.store, bench.number, point, "OL", first.reading_id)
    assert bench.state("F1") == "failed"


@pytest.mark.parametrize(
    ("ref", "quantity", "text", "error"),
    [
        ("C1", Q.STORE, "900", RangeError),
        ("F1", Q.ESR, "0.1", InputError),
        ("F1", Q.RESISTANCE, "fluff", InputError),
    ],
)
def test_nothing_is_saved_of_what_cannot_be(
    bench: Bench, ref: str, quantity: Quantity, text: str, error: type[Exception]
) -> None:
    bench.make_safe()
    before = bench.dossier.revision
    with pytest.raises(error):
        bench.read(ref, quantity, text, "" if quantity is Q.STORE else "in circuit")
    assert bench.dossier.revision == before


BANK = "C21 1000u 16V +5 bank Z\nC22 1000u 16V +5 bank Z\nC23 1000u 16V +5 bank Z"


def test_a_bank_is_judged_together_then_leg_by_leg(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", Q.ESR, "60m")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["unproven"] * 3
    lifts = [p for p in bench.dossier.capacitor_points if p.setting == "lifted"]
    assert {p.station_id for p in lifts} == {bench.id_of("C21")}
    # the lifted one is dead; the rest read together are whole
    bench.read("C21", Q.CAPACITANCE, "80u", "lifted")
    assert bench.state("C21") == "failed"
    bench.read("C22", Q.CAPACITANCE, "1980u")
    assert [bench.state(ref) for ref in ("C22", "C23")] == ["good", "good"]
    assert len(bench.dossier.facts[bench.id_of("C22")].mates) == 3
    bank = bench.dossier.facts[bench.id_of("C22")].bank
    assert bank is not None
    assert bank.judgement.expected_farad == pytest.approx(2e-3)


def test_a_bank_with_a_proven_loss_needs_no_more_probing(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", Q.CAPACITANCE, "1800u")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["failed"] * 3
    order = list(bench.dossier.capacitor_points)
    left = next_undone(order, bench.dossier.done)
    ids = {bench.id_of(ref) for ref in ("C21", "C22", "C23")}
    assert left is not None
    assert left.station_id not in ids


def test_changing_one_part_of_a_bank_leaves_the_others_as_they_were_found(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", Q.CAPACITANCE, "1800u")
    record.decide(store, bench.number, bench.id_of("C21"), "fitted", "1000 µF 16 V")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["replaced", "failed", "failed"]
    bench.read("C22", Q.CAPACITANCE, "2900u")  # across all three, the new one among them
    bench.read("C22", Q.ESR, "45m")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["replaced", "good", "good"]


def codes(bench: Bench, ref: str) -> set[str]:
    return {reason.code for reason in bench.dossier.facts[bench.id_of(ref)].judgement.reasons}


def test_a_reading_across_a_bank_is_no_members_own(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C21", Q.ESR, "60m")  # all three
    bench.read("C21", Q.CAPACITANCE, "990u", "lifted")
    assert codes(bench, "C21") == {"cap-good"}
    bench.read("C22", Q.CAPACITANCE, "1970u")  # the two that stayed; no ESR of theirs was read
    assert "bank-esr" not in codes(bench, "C22")
    assert bench.state("C22") == "good"
    bench.read("C22", Q.ESR, "0.9")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["good", "failed", "failed"]
    bench.read("C22", Q.CAPACITANCE, "1010u", "lifted")
    assert codes(bench, "C22") == {"cap-good"}
    bench.read("C23", Q.ESR, "0.2")  # the last one left stands alone on its node
    assert codes(bench, "C23") == {"esr-good"}


def test_a_look_is_each_members_own(store: Store) -> None:
    bench = Bench(store, parts=BANK)
    bench.make_safe()
    bench.read("C22", Q.LOOK, "bulge", "")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["unseen", "failed", "unseen"]
    bench.read("C21", Q.CAPACITANCE, "2950u")
    assert [bench.state(ref) for ref in ("C21", "C22", "C23")] == ["good", "failed", "good"]


def test_paper_that_reads_well_is_on_no_list_of_what_was_proven_bad(store: Store) -> None:
    bench = Bench(store, parts="C41 X2 100n 275 paper 1984\nC42 X2 100n 275 paper 1984")
    bench.make_safe()
    bench.read("C41", Q.CAPACITANCE, "99n", "lifted")
    bench.read("C42", Q.CAPACITANCE, "80n", "lifted")
    assert (bench.state("C41"), bench.state("C42")) == ("worn", "failed")

    def listed(school: School) -> list[str]:
        refs = [line.refs for line in bench.dossier.recap(school)]
        return [ref for line in refs for ref in line.split(", ") if ref in ("C41", "C42")]

    assert listed(School.PROVEN) == ["C42"]
    assert listed(School.OFFENDERS) == ["C41", "C42"]


def test_a_base_resistor_is_told_from_a_short(bench: Bench) -> None:
    bench.make_safe()
    q1 = bench.id_of("Q1")
    for pair, forward, back in (("B–E", "43m", "43m"), ("B–C", "0.61", "OL"), ("C–E", "OL", "OL")):
        for quantity, text in ((Q.FORWARD, forward), (Q.REVERSE, back)):
            point = Point(quantity, q1, "", "lifted", pair)
            record.save_reading(bench.store, bench.number, point, text, check_seen=False)
    assert bench.state("Q1") == "unproven"
    wanted = Point(Q.RESISTANCE, q1, "", "lifted", "B–E")
    assert wanted in bench.dossier.cold_points
    record.save_reading(bench.store, bench.number, wanted, "43", check_seen=False)
    assert bench.state("Q1") == "good"
    record.save_reading(bench.store, bench.number, wanted, "4", check_seen=False)
    assert bench.state("Q1") == "failed"


def test_a_fresh_part_speaks_for_all_of_its_kind(store: Store) -> None:
    bench = Bench(store, parts="C31 100u 25V +5\nC32 100u 25V +12\nC33 100u 16V +12")
    bench.make_safe()
    for ref in ("C31", "C32", "C33"):
        bench.read(ref, Q.ESR, "0.9")  # C·V 2500: general grade typical 0.66 Ω
        assert bench.state(ref) == "good"
    bench.read("C31", Q.FRESH_ESR, "0.25", "")
    assert [bench.state(ref) for ref in ("C31", "C32", "C33")] == ["failed", "failed", "good"]


def test_a_regulator_shorted_through_suspects_its_rail(store: Store) -> None:
    bench = Bench(store, "template:linear")
    bench.make_safe()
    bench.read("U1", Q.RESISTANCE, "0.2", "lifted")
    assert bench.state("U1") == "failed"
    with create_app(store).test_client() as client:
        page = client.get(f"/cases/{bench.number}?at={bench.id_of('U1')}~ohm~lifted~")
        text = page.get_data(as_text=True)
    assert "suspect all of these" in text
    assert text.index(">C11<") < text.index(">Main board</a>")


@pytest.mark.parametrize(("rail", "suspects"), [("+12", True), ("", False)])
def test_a_shorted_pass_transistor_suspects_its_rail(
    store: Store, rail: str, suspects: bool
) -> None:
    bench = Bench(store, "template:linear", parts=f"Q9 {rail}\nC99 10u 16V +12 tant")
    bench.make_safe()
    bench.read("Q9", Q.RESISTANCE, "short", "lifted")
    with create_app(store).test_client() as client:
        page = client.get(f"/cases/{bench.number}?at={bench.id_of('Q9')}~ohm~lifted~")
        text = page.get_data(as_text=True)
    assert ("suspect all of these" in text) is suspects
    assert not suspects or ">C99</a>" in text


def test_the_meter_in_use_takes_its_leads_off_and_keeps_its_range(store: Store) -> None:
    bench = Bench(store, parts="C31 2200u 10V +12\nC32 4u7 50V +12")
    bench.make_safe()
    bench.read("C31", Q.ESR, "0.21")  # C·V 22 000: general grade typical 0.106 Ω
    bench.read("C32", Q.ESR, "4")
    states = (bench.state("C31"), bench.state("C32"))
    meters = "name,lead_ohm,min_cap\nprobe,60m,10u"
    casebook.save_workshop(store, {"meters": meters, "meter": "probe"})
    assert (states, bench.state("C31"), bench.state("C32")) == (
        ("good", "good"),
        "good",
        "unproven",
    )
    bench.read("C31", Q.ESR, "0.26")  # 0.20 Ω without the leads
    assert bench.state("C31") == "good"
    casebook.save_workshop(store, {"meter": ""})
    assert bench.state("C31") == "worn"


def test_a_replaced_part_starts_afresh(bench: Bench) -> None:
    bench.make_safe()
    bench.read("C12", Q.ESR, "8")
    assert bench.state("C12") == "failed"
    record.decide(bench.store, bench.number, bench.id_of("C12"), "fitted", "1000 µF 25 V")
    assert bench.state("C12") == "replaced"
    bench.read("C12", Q.ESR, "9")
    assert bench.state("C12") == "failed"
    with pytest.raises(InputError):
        record.decide(bench.store, bench.number, bench.id_of("C12"), "eaten")


def test_a_decision_changes_the_list_at_once_and_needs_its_reason(bench: Bench) -> None:
    bench.make_safe()
    bench.read("C12", Q.ESR, "8")
    c12 = bench.id_of("C12")

    def listed() -> set[str]:
        lines = bench.dossier.recap(School.PROVEN)
        return {p.station.ref for line in lines for p in line.positions}

    assert listed() == {"C12"}
    with pytest.raises(InputError, match="why"):
        record.decide(bench.store, bench.number, c12, "keep", " ")
    record.decide(bench.store, bench.number, c12, "keep", "original, shown in a case")
    assert listed() == set()
    assert [p.station.ref for p in bench.dossier.kept] == ["C12"]
    record.decide(bench.store, bench.number, bench.id_of("C13"), "replace", "same age")
    assert listed() == {"C13"}
    record.decide(bench.store, bench.number, c12, "back to as it was")
    assert listed() == {"C12", "C13"}


def test_rails_prove_their_regulator_and_carry_the_band(store: Store) -> None:
    bench = Bench(store, "template:linear")
    record.apply_power(store, bench.number, "mains")
    point = Point(Q.RAIL, None, "+5 V", "dummy")
    record.save_reading(store, bench.number, point, "5.02", None)
    assert bench.state("U1") == "good"
    assert bench.dossier.reach.live["+5 V"] > 0
    assert bench.dossier.reach.live["+12 V"] == 0


def test_the_next_step_leads_through_the_case(bench: Bench) -> None:
    """Following it by nothing but sound readings ends at the report."""
    texts = {
        Q.RESISTANCE: "0.4", Q.FORWARD: "0.55", Q.REVERSE: "OL", Q.GROUND: "2k2",
        Q.ESR: "35m", Q.CAPACITANCE: "100n",
    }  # fmt: skip
    special = {"RT1": "10", "Q1": "1M", "BR1": "1M", "C1": "0.4", "C12": "80m", "C13": "0.2"}
    views = []
    bench.make_safe()
    assert next_step(bench.dossier).view == "look"
    bench.read("J1", Q.LOOK, "none", "")
    for _ in range(120):
        step = next_step(bench.dossier)
        if not views or views[-1] != step.view:
            views.append(step.view)
        if not step.point:
            break
        point = next(
            p
            for p in (
                *bench.dossier.cold_points,
                *bench.dossier.capacitor_points,
                *ground(bench),
            )
            if p.key == step.point
        )
        station = bench.dossier.sheet.station(point.station_id or 0)
        text = texts[point.quantity]
        if station and point.quantity in (Q.RESISTANCE, Q.ESR):
            text = special.get(station.ref, "1M" if station.ref.startswith("D") else text)
        if point.polarity == "C–E":
            text = "OL"
        if station and point.quantity is Q.CAPACITANCE:
            text = f"{station.value}e0" if point.setting == "lifted" else "4400u"
            text = "101n" if station.ref == "CX1" else text
        if station and station.kind.value == "Schottky" and point.quantity is Q.FORWARD:
            text = "0.2"
        record.save_reading(bench.store, bench.number, point, text, check_seen=False)
    assert views == ["map", "shorts", "capacitors", "rails"]
    assert {f.state for f in bench.dossier.facts.values() if f.station.ref.startswith("C")} == {
        "good"
    }


def ground(bench: Bench) -> list[Point]:
    from hale_rail.actions.probing import ground_points

    return ground_points(bench.dossier.sheet)
