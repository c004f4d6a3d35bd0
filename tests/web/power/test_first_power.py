"""First power from the page: the plan, each step by the tray, what stops it, and how it goes on."""

from __future__ import annotations

import re
import time

import pytest

from hale_rail.actions import readings
from hale_rail.actions.power import first_power as actions
from hale_rail.actions.workshop.workshop import save_ready_loads
from hale_rail.case.file import open_case
from hale_rail.case.power.first_power import alarm, current, loads_of, walked
from hale_rail.case.safety.energy import energy
from hale_rail.core.power.plan import Limiter, expected_draw, input_watts, limit, steps, wanted_amps
from hale_rail.core.power.ready_loads import LOAD_KINDS, ReadyLoad
from hale_rail.core.procedures import VOLTS, Condition, Point
from hale_rail.core.safety.energy import Energy
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.targets import rail_target
from hale_rail.errors import ConflictError, InputError
from hale_rail.stages.frame.next_step import next_step
from hale_rail.stages.power import first_power
from hale_rail.store import sheets
from hale_rail.store.database import Store
from larkmoor import units
from tests.conftest import Bench, Client

SOUND = {"+5 V": "5.02", "+12 V": "12.1", "−12 V": "-11.9", "−5 V": "-5.01"}


@pytest.fixture
def bench(demo: Store) -> Bench:
    """A Loomwright that nothing was done to."""
    found = next(p for p in sheets.patterns(demo.read()) if "WL-80" in p.name)
    return Bench(demo, f"pattern:{found.id}")


def read(bench: Bench, load: Condition = Condition.DUMMY, **other: str) -> None:
    for rail in bench.file.sheet.rails:
        text = other.get(rail.key) or SOUND[rail.key]
        readings.save_reading(
            bench.store, bench.number, Point(rail_target(rail.key), VOLTS, load), text,
            check_seen=False,
        )  # fmt: skip


def walk(bench: Bench, key: str, load: Condition = Condition.DUMMY) -> None:
    actions.begin(bench.store, bench.number, key, reason="read elsewhere")
    read(bench, load)
    actions.finish(bench.store, bench.number, key)


def test_the_smallest_configuration_comes_first() -> None:
    found = steps(units.loomwright())
    assert [(s.key, s.load.code, s.is_limited) for s in found] == [
        ("limited", "dummy", True), ("alone", "dummy", False), ("board-1", "machine", False),
        ("board-2", "machine", False),
    ]  # fmt: skip
    assert found[2].boards == ("Main board",)  # it takes the most rails
    assert found[3].boards == ("Main board", "Disk")


def test_the_lamp_is_of_the_supplys_input_power_up_to_twice_it() -> None:
    sheet = units.loomwright()
    watts = input_watts(sheet)
    # 5 V × 8 A + 12 V × 2.5 A + 12 V × 0.3 A + 5 V × 0.2 A = 74.6 W given, at 70 %
    assert watts == pytest.approx(74.6 / 0.7)
    found = limit(sheet, Limiter.LAMP, 230.0, None, watts)
    assert found.lamp_w == 150
    assert watts <= found.lamp_w <= 2 * watts
    assert found.hot_ohm == pytest.approx(230**2 / 150)
    assert found.cold_ohm == pytest.approx(found.hot_ohm / 10)


@pytest.mark.parametrize(("make", "limiter", "draw", "amps", "refused"), [
    (units.shed_terminal, Limiter.BENCH, 0.6, 0.72, ""),
    (units.shed_terminal, Limiter.LAMP, None, None, "fed with DC"),
    (units.draftmaster, Limiter.VARIAC, None, None, ""),
    (units.loomwright, Limiter.VARIAC, None, None, "draws more, not less"),
    (units.shed_terminal, Limiter.VARIAC, None, None, "Linear supplies"),
])  # fmt: skip
def test_what_limits_which_unit(make, limiter, draw, amps, refused) -> None:
    found = limit(make(), limiter, 230.0, draw, 100.0)
    assert found.bench_a == (pytest.approx(amps) if amps else None)
    assert refused in found.refused if refused else not found.refused


def test_a_machine_fed_with_dc_draws_what_its_linear_rails_give_and_the_converters_power() -> None:
    found = expected_draw(units.shed_terminal(), 9.0)
    assert found == pytest.approx(1.2 + (12 * 0.1 + 5 * 0.05) / (0.7 * 9))
    assert expected_draw(units.shed_terminal(), None) is None


def test_a_dummy_is_the_sheets_minimum_or_a_share_of_full_load() -> None:
    rails = {rail.key: rail for rail in units.loomwright().rails}
    assert wanted_amps(rails["+5 V"], 0.15) == 0.8
    assert wanted_amps(rails["−12 V"], 0.15) == pytest.approx(0.045)


def test_every_step_is_walked_and_the_energy_follows(bench: Bench) -> None:
    actions.begin(bench.store, bench.number, "limited", reason="read elsewhere")
    assert energy(bench.file).energy is Energy.LIVE
    with pytest.raises(InputError, match="Not read"):
        actions.finish(bench.store, bench.number, "limited")
    read(bench)
    actions.finish(bench.store, bench.number, "limited")
    assert energy(bench.file).energy is Energy.WAITING
    walk(bench, "alone")
    for step in steps(bench.file.sheet)[2:]:
        walk(bench, step.key, Condition.MACHINE)
    assert current(bench.file) is None
    assert {w.state for w in walked(bench.file)} == {"done"}
    assert first_power.state(bench.file).note.startswith("4 of 4")


def test_each_steps_readings_stay_with_it(bench: Bench) -> None:
    walk(bench, "limited")
    actions.begin(bench.store, bench.number, "alone", reason="read elsewhere")
    read(bench, **{"+5 V": "4.97"})
    first, second = walked(bench.file)[:2]
    assert next(one.reading.typed for one in first.read) == "5.02"
    assert next(one.reading.typed for one in second.read) == "4.97"


def test_steps_come_in_their_order(bench: Bench) -> None:
    with pytest.raises(ConflictError):
        actions.begin(bench.store, bench.number, "alone", reason="read elsewhere")
    actions.begin(bench.store, bench.number, "limited", reason="read elsewhere")
    with pytest.raises(ConflictError):
        actions.begin(bench.store, bench.number, "limited", reason="read elsewhere")


@pytest.mark.parametrize(("rail", "text", "code"), [
    ("+5 V", "5.6", "over-voltage"), ("+12 V", "15.3", "over-voltage"),
    ("−5 V", "-0.1", "minus5-missing"), ("−5 V", "-5.0..-0.4", "minus5-missing"),
])  # fmt: skip
def test_a_stop_condition_takes_the_whole_middle(
    bench: Bench, client_of, rail: str, text: str, code: str
) -> None:
    client = client_of(bench.store)
    actions.begin(bench.store, bench.number, "limited", reason="read elsewhere")
    read(bench, **{rail: text})
    found = alarm(bench.file)
    assert found is not None
    assert found.code == code
    assert next_step(bench.file).text.startswith("Power off at once")
    page = client.text(f"/cases/{bench.number}/first-power")
    assert "Pull the plug" in page
    assert "Plug out, step done" not in page
    with pytest.raises(InputError, match="Stop it"):
        actions.finish(bench.store, bench.number, "limited")
    client.post(f"/cases/{bench.number}/do/power-stop", view="first-power", step="limited",
                stop=code)  # fmt: skip
    assert energy(bench.file).energy is Energy.WAITING
    page = client.text(f"/cases/{bench.number}/first-power")
    assert "Stopped: Supply alone" in page
    assert text.split("..")[0].lstrip("-") in page
    again = {"view": "first-power", "step": "limited"}
    for found in ("", "5.03", "12.1 V"):  # a reading in the wrong field is no reason
        refused = client.post(f"/cases/{bench.number}/do/power-clear", **again, found=found)
        assert "Say what was found" in refused.get_data(as_text=True)
    client.post(f"/cases/{bench.number}/do/power-clear", **again, found="feedback resistor open")
    assert current(bench.file).state == "next"
    assert "feedback resistor open" in client.text(f"/cases/{bench.number}/log")
    walk(bench, "limited")


def test_a_mistyped_reading_is_struck_and_the_step_goes_on(bench: Bench) -> None:
    actions.begin(bench.store, bench.number, "limited", reason="read elsewhere")
    read(bench, **{"+5 V": "50.2"})
    assert alarm(bench.file) is not None
    wrong = next(r for r in bench.file.rows.readings.values() if r.typed == "50.2")
    readings.strike(bench.store, bench.number, wrong.id)
    assert alarm(bench.file) is None


@pytest.mark.parametrize("stop", ["lamp-bright", "smell", "smoke", "noise"])
def test_what_is_seen_or_smelt_stops_it_too(bench: Bench, client_of, stop: str) -> None:
    client = client_of(bench.store)
    actions.begin(bench.store, bench.number, "limited", reason="read elsewhere")
    page = client.text(f"/cases/{bench.number}/first-power")
    assert f'value="{stop}"' in page
    with pytest.raises(InputError, match="not a stop condition"):
        actions.stop(bench.store, bench.number, "limited", "over-voltage")
    actions.stop(bench.store, bench.number, "limited", stop)
    assert current(bench.file).state == "stopped"
    assert energy(bench.file).energy is Energy.WAITING


def test_failed_parts_stop_it_by_name(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-031/first-power")
    assert "C20, C21, C22 are failed and not replaced" in page
    assert "power on" not in page
    with pytest.raises(InputError, match="C20, C21, C22"):
        actions.begin(demo, "LW-031", "limited", reason="read elsewhere")


def test_a_shorted_rail_stops_it_by_name(client: Client) -> None:
    assert "+12 V: to ground a short" in client.text("/cases/LW-022/first-power")


def test_the_plan_is_chosen_and_what_cannot_be_is_said(client: Client, demo: Store) -> None:
    plan = {"view": "first-power", "limiter": "variac"}
    client.post("/cases/LW-014/do/power-plan", **plan)
    assert "draws more, not less" in client.text("/cases/LW-014/first-power")
    with pytest.raises(InputError):
        actions.begin(demo, "LW-014", "limited", reason="read elsewhere")
    for name, text, says in (
        ("limiter", "prayer", "Choose what limits"), ("draw_a", "9 V", "is a voltage"),
        ("share", "lots", "per cent"), ("share", "900", "10 to 20"),
        ("load_lamp_w", "-3", "lies between"), ("load_lamp_v", "0", "above 0"),
    ):  # fmt: skip
        page = client.post("/cases/LW-014/do/power-plan", **(plan | {name: text}))
        assert page.status_code == 422
        assert says in page.get_data(as_text=True)
        assert text in page.get_data(as_text=True) or name == "limiter"
    lamps = {"limiter": "lamp", "load_lamp_v": "12", "load_lamp_w": "21", "share": "20"}
    client.post("/cases/LW-014/do/power-plan", **(plan | lamps))
    while loads_of(open_case(demo, "LW-014")).is_waiting:
        time.sleep(0.02)
    page = client.text("/cases/LW-014/first-power")
    assert re.search(r"<b>1[78].A</b> cold", page)  # 12 V 21 W: 17.5 A
    assert "it may not start" in page


def test_the_dummies_come_from_the_workshops_box(demo: Store, client: Client) -> None:
    case = open_case(demo, "LW-014")
    while (found := loads_of(case)).is_waiting:
        time.sleep(0.02)
    by_rail = {load.wanted.rail_v: load for load in found.result.loads}
    assert by_rail[5.0].wanted.amps == 0.8
    assert by_rail[5.0].amps == pytest.approx(0.8, rel=0.05)
    assert all(p.dissipates_w <= p.watts / 2 for load in by_rail.values() for p in load.parts)
    page = client.text("/cases/LW-014/first-power")
    assert re.search(r"hookup.*?supply", page, re.S)


@pytest.fixture
def client_of():
    from hale_rail.web import create_app

    return lambda store: Client(create_app(store).test_client())


def test_a_ready_made_load_stands_on_the_page_with_what_a_cold_lamp_draws(
    demo: Store, client: Client
) -> None:
    """12 V at 500 mA: the bench's drive; a lamp of the same draws 5 A while it is cold."""
    page = "/cases/LW-031/first-power"

    def shown() -> str:
        while loads_of(open_case(demo, "LW-031")).is_waiting:
            time.sleep(0.02)
        return " ".join(client.text(page).replace("\u00a0", " ").split())

    assert "old drive 6 W" in shown() and "ready-made" in shown()
    save_ready_loads(demo, [ReadyLoad("small lamp", LOAD_KINDS["lamp"], 12.0, 0.5)])
    assert "small lamp 6 W <small>(6 W)</small> <b>5 A</b> cold:" in shown()


def test_a_linear_supply_starts_with_the_lamp_as_well(store: Store) -> None:
    bench = Bench(store, "template:linear")
    assert bench.file.sheet.topology is Topology.LINEAR
    assert first_power.page(bench.file, first_power.PageQuery()).limit.limiter is Limiter.LAMP
