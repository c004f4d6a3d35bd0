"""Taking readings: the guard, superseding, striking out, a second tab, and the meter kept."""

from __future__ import annotations

import pytest

from hale_rail.actions import readings
from hale_rail.actions.safety import power
from hale_rail.actions.workshop import workshop
from hale_rail.case.history import entries
from hale_rail.case.parts.parts import parts
from hale_rail.case.rows import SUPERSEDED
from hale_rail.case.safety.energy import energy
from hale_rail.case.workshop.workshop import meters
from hale_rail.core.parts.banks import Meter
from hale_rail.core.procedures import Accuracy
from hale_rail.core.safety.energy import Energy
from hale_rail.errors import ConflictError, GuardError, InputError, NotFoundError, RangeError
from hale_rail.stages.frame.next_step import next_step
from hale_rail.store.database import Store
from tests.conftest import Bench


def test_the_guard_stands_until_every_store_is_read(bench: Bench) -> None:
    with pytest.raises(GuardError):
        bench.read("F1", "ohms", "0.2")
    with pytest.raises(GuardError):
        bench.read("+5 V", "ground", "1k", "isolated")
    assert next_step(bench.file).stage.key == "safe"
    power.remove_power(bench.store, bench.number)
    bench.read("C1", "store", "310")
    with pytest.raises(GuardError):
        bench.read("F1", "ohms", "0.2")
    bench.read("C1", "store", "12")
    assert energy(bench.file).energy is Energy.DEAD
    with pytest.raises(GuardError, match="C1 holds 12"):  # dead, but no meter on it yet
        bench.read("F1", "ohms", "0.2")
    bench.read("C1", "store", "3")
    bench.read("F1", "ohms", "0.2")
    with pytest.raises(GuardError, match="C10 was not read"):  # the stores of its own line
        bench.read("D10", "ohms", "1M")
    bench.read("C11", "store", "0.2")  # one reading serves a bank
    bench.read("D10", "ohms", "1M")
    power.apply_power(bench.store, bench.number, "mains")
    with pytest.raises(GuardError):
        bench.read("S1", "ohms", "0.2")


def test_the_guard_passes_by_a_written_reason_that_is_kept(bench: Bench) -> None:
    with pytest.raises(InputError, match="sentence"):
        power.pass_guard(bench.store, bench.number, "ok")
    power.apply_power(bench.store, bench.number, "mains")
    with pytest.raises(InputError, match="Power is on"):
        power.pass_guard(bench.store, bench.number, "Not plugged in since the spring.")
    power.remove_power(bench.store, bench.number)
    bench.read("C1", "store", "310")
    with pytest.raises(InputError, match="read charged"):
        power.pass_guard(bench.store, bench.number, "Not plugged in since the spring.")
    bench.read("C1", "store", "20")
    with pytest.raises(GuardError):
        bench.read("F1", "ohms", "0.2")
    bench.read("C1", "store", "4")
    power.apply_power(bench.store, bench.number, "bench")
    power.remove_power(bench.store, bench.number)
    power.pass_guard(bench.store, bench.number, "Not plugged in since the spring.")
    bench.read("F1", "ohms", "0.2")
    kept = [(entry.kind, entry.text) for entry in entries(bench.file)]
    assert ("guard", "Not plugged in since the spring.") in kept


def test_striking_the_store_reading_out_brings_the_guard_back(bench: Bench) -> None:
    power.remove_power(bench.store, bench.number)
    reading = bench.read("C1", "store", "2")
    assert energy(bench.file).guard_open
    readings.strike(bench.store, bench.number, reading, "meter was on AC")
    assert not energy(bench.file).guard_open


def test_a_correction_supersedes_and_a_strike_brings_nothing_back(bench: Bench) -> None:
    bench.make_safe()
    first = bench.read("F1", "ohms", "OL")
    assert bench.state("F1") == "failed"
    second = bench.read("F1", "ohms", "0.2")
    assert bench.state("F1") == "good"
    assert bench.file.rows.aside == {first: SUPERSEDED}
    readings.strike(bench.store, bench.number, second, "wrong fuse")
    assert bench.state("F1") == "unseen"
    with pytest.raises(InputError, match="already"):
        readings.strike(bench.store, bench.number, second, "again")
    with pytest.raises(NotFoundError):
        readings.strike(bench.store, bench.number, 99_999, "")


def test_a_second_tab_is_told_and_overwrites_nothing(bench: Bench) -> None:
    bench.make_safe()
    point = bench.point("F1", "ohms")
    first = readings.save_reading(bench.store, bench.number, point, "0.2", None)
    with pytest.raises(ConflictError, match="was read already"):
        readings.save_reading(bench.store, bench.number, point, "OL", None)
    assert bench.state("F1") == "good"
    readings.save_reading(bench.store, bench.number, point, "OL", first.reading_id)
    assert bench.state("F1") == "failed"


@pytest.mark.parametrize(
    ("ref", "procedure", "text", "error"),
    [
        ("C1", "store", "900", RangeError),
        ("F1", "esr", "0.1", InputError),
        ("F1", "ohms", "fluff", InputError),
        ("J1", "esr", "1", InputError),
    ],
)
def test_nothing_is_saved_of_what_cannot_be(
    bench: Bench, ref: str, procedure: str, text: str, error: type[Exception]
) -> None:
    bench.make_safe()
    before = bench.file.case.revision
    with pytest.raises(error):
        bench.read(ref, procedure, text)
    assert bench.file.case.revision == before


def use(store: Store, *listed: Meter, name: str = "") -> None:
    """Make these the workshop's meters, and one of them the meter in use."""
    workshop.save_meters(store, listed)
    chosen = next((i for i, meter in meters(store).items() if meter.name == name), None)
    workshop.save_settings(
        store, touch_limit_v=60.0, school="proven", tolerance="strict", hours_a_day=4,
        core_c=45, meter_id=chosen,
    )  # fmt: skip


def test_a_reading_keeps_the_meter_it_was_taken_with(store: Store) -> None:
    """Its leads come off, its range counts; another meter chosen later judges nothing again."""
    bench = Bench(store, parts="C31 2200u 10V +12\nC32 4u7 50V +12\nC33 2200u 10V +12")
    bench.make_safe()
    bench.read("C31", "esr", "0.21", "lifted")  # C·V 22 000: general grade typical 0.106 Ω
    bench.read("C32", "esr", "4", "lifted")
    assert (bench.state("C31"), bench.state("C32")) == ("good", "good")
    probe = Meter(lead_ohm=0.060, esr_min_farad=10e-6, name="probe")
    use(store, probe, name="probe")
    assert (bench.state("C31"), bench.state("C32")) == ("good", "good")  # read with another
    bench.read("C33", "esr", "0.26", "lifted")  # 0.20 Ω without the leads
    bench.read("C32", "esr", "4", "lifted")  # below this meter's range it is not a reading
    assert (bench.state("C33"), bench.state("C32")) == ("good", "unproven")
    use(store, Meter(lead_ohm=0.0, name="probe"), name="probe")  # described again, under its name
    assert (bench.state("C33"), bench.state("C32")) == ("good", "unproven")
    use(store)
    assert (bench.state("C33"), bench.state("C32")) == ("good", "unproven")
    bench.read("C33", "esr", "0.26", "lifted")
    assert bench.state("C33") == "worn"


def test_a_reading_keeps_the_accuracy_of_its_day(store: Store) -> None:
    bench = Bench(store)
    bench.make_safe()
    use(store, Meter(cap_share=0.005, esr_share=0.02, esr_ohm=0.002, name="fine"), name="fine")
    for ref, procedure, text, accuracy in (
        ("C12", "esr", "0.1", Accuracy(0.02, 0, 0.002)),
        ("C12", "c", "1000u", Accuracy(0.005, 1)),
        ("F1", "ohms", "0.4", Accuracy(0.01, 2)),  # the LCR meter takes no ohms
        ("+5 V", "ground", "180", Accuracy(0.01, 2)),
    ):
        reading_id = bench.read(ref, procedure, text)
        assert bench.file.rows.readings[reading_id].accuracy == accuracy


def test_a_banks_reading_is_held_against_its_own_meter(store: Store) -> None:
    """What a coarse meter leaves possible stays possible under a fine one chosen later."""
    bench = Bench(store, parts="C21 1000u 16V +5 bank Z\nC22 1000u 16V +5 bank Z")
    bench.make_safe()
    use(store, Meter(cap_share=0.30, name="coarse"), name="coarse")
    bench.read("C21", "c", "1650u")  # one open at +20 % is 1200 µF: within a 30 % error
    bench.read("C21", "esr", "90m")
    assert bench.state("C21") == "unproven"
    before = parts(bench.file)[bench.id_of("C21")].judgement
    use(store, Meter(cap_share=0.001, name="fine"), name="fine")
    assert parts(bench.file)[bench.id_of("C21")].judgement == before
