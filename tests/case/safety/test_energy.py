"""The energy of a case from its events and readings, and each store's clock."""

from __future__ import annotations

import pytest

from hale_rail.actions.safety import power
from hale_rail.actions.workshop.workshop import save_resistors
from hale_rail.case.safety.energy import energy, store_clocks
from hale_rail.core.safety.bleeding import PowerResistor
from hale_rail.core.safety.energy import Energy
from hale_rail.store.database import Store
from tests.conftest import Bench


def test_stores_count_down_each_by_its_own_clock(bench: Bench) -> None:
    save_resistors(
        bench.store, [PowerResistor(1e3, 50, "wirewound", 500), PowerResistor(100, 1, "film", 500)]
    )
    power.remove_power(bench.store, bench.number)
    for at, volt in ((0, "300"), (30, "200")):
        bench.read("C1", "store", volt, at=f"2026-01-01T00:00:{at:02d}.000000+00:00")
    clock = store_clocks(bench.file)[0]
    assert clock.tau_s == pytest.approx(30 / 0.405465, rel=1e-5)
    assert clock.wait_s == pytest.approx(clock.tau_s * 1.2039728, rel=1e-5)  # ln(200/60)
    assert clock.energy_j == pytest.approx(0.5 * 150e-6 * 200**2)
    assert clock.proposal is not None
    assert clock.proposal.resistor.ohm == 1e3
    assert not clock.is_meter_safe


def test_energy_follows_events_not_the_words_of_the_log(bench: Bench) -> None:
    """A note that reads like an event changes nothing; order is the log's, not the clock's."""
    from hale_rail.actions.parts.decisions import note

    note(bench.store, bench.number, "Plug out, power removed")
    assert energy(bench.file).energy is Energy.UNKNOWN
    power.remove_power(bench.store, bench.number, "2030-01-01T00:00:00.000000+00:00")
    bench.read("C1", "store", "2", at="2020-01-01T00:00:00.000000+00:00")
    assert energy(bench.file).energy is Energy.DEAD
    power.apply_power(bench.store, bench.number, "bench", "2019-01-01T00:00:00.000000+00:00")
    assert energy(bench.file).energy is Energy.LIVE


def test_a_bleeder_is_the_one_that_the_sheet_names(store: Store) -> None:
    bench = Bench(store, parts="R1 100k main bleeds C1\nR2 1k main")
    power.remove_power(store, bench.number)
    text = store_clocks(bench.file)[0].bleeder_text.replace("\u00a0", " ")
    assert text == "Bleeder R1, 100 kΩ: RC 15 s when it is sound."
    for at, volt in ((0, "300"), (15, "290")):
        bench.read("C1", "store", volt, at=f"2026-01-01T00:00:{at:02d}.000000+00:00")
    assert "the fitted bleeder is open" in store_clocks(bench.file)[0].bleeder_text
