"""The rework step by step: its order, what is refused, the new part judged, undo by strike."""

from __future__ import annotations

import threading
import time

import pytest
from msgspec.structs import replace

from hale_rail.actions.parts import decisions
from hale_rail.actions.recap import recap, rework, sourcing
from hale_rail.case import worker
from hale_rail.case.history import entries
from hale_rail.case.recap import plans
from hale_rail.case.recap.demands import needs_of
from hale_rail.case.recap.plans import case_plan
from hale_rail.case.recap.rework import Job, after_done, grounds_around, jobs, new_part_readings
from hale_rail.case.recap.sourcing import bad_sources, sources
from hale_rail.case.report.report import report
from hale_rail.core.parts.families import Family
from hale_rail.core.procedures import GROUND, Condition
from hale_rail.core.recap.needs import Build, Mount
from hale_rail.core.recap.offers import ORIGINS, Drawer
from hale_rail.core.recap.rework import After, ReworkAct, mark_differs, order_of
from hale_rail.errors import GuardError, InputError, NotFoundError
from hale_rail.stages.frame.next_step import next_step
from hale_rail.stages.recap import rework as stage
from hale_rail.stages.stage import PageQuery, Status
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.rework import REWORK_STEPS
from tests.conftest import Bench

PARTS = "C31 100u 25V +5 bank Z\nC32 100u 25V +5 bank Z\nC33 470u 16V +5\nC34 10u 16V tantalum +5"


def can(micro: float, volt: float, **more: object) -> Build:
    known = {"temp_c": 105.0, "mount": Mount.RADIAL, "height_mm": 12.0, "esr_ohm": 0.3} | more
    return Build(Family.ALUMINIUM, micro * 1e-6, volt, **known)  # type: ignore[arg-type]


@pytest.fixture
def work(store: Store) -> Bench:
    """A dead unit with four parts to replace and a drawer that has one for each."""
    made = Bench(store, parts=PARTS)
    made.make_safe()
    for ref in ("C31", "C32", "C33", "C34"):
        decisions.decide(store, made.number, made.id_of(ref), "replace", "wanted so")
    stock = [Drawer("K100", can(100, 25), 4), Drawer("K470", can(470, 16, height_mm=20.0), 4),
             Drawer("K10", can(10, 25, height_mm=30.0, esr_ohm=2.0), 4)]  # fmt: skip
    sourcing.save_drawers(store, stock)
    while case_plan(made.file).outcome.is_waiting:
        time.sleep(0.01)
    return made


def job(bench: Bench, ref: str) -> Job:
    return next(job for job in jobs(bench.file) if job.part.ref == ref)


def do(bench: Bench, ref: str, *acts: str) -> None:
    for act in acts:
        rework.step(bench.store, bench.number, bench.id_of(ref), act)


def test_low_parts_come_before_tall_and_a_bank_stays_together(work: Bench) -> None:
    assert [j.part.ref for j in jobs(work.file)] == ["C31", "C32", "C33", "C34"]
    assert [j.new.sku if j.new else "" for j in jobs(work.file)] == ["K100", "K100", "K470", "K10"]


def test_the_acts_go_in_order_and_fitting_replaces_the_part(work: Bench) -> None:
    for act in ("cleared", "polarity", "measured", "fitted", "looked", "sideways"):
        with pytest.raises(InputError):
            do(work, "C33", act)
    do(work, "C33", "out", "cleared", "polarity")
    assert stage.state(work.file).note == "C33 is out"
    assert next_step(work.file).text == "Rework: C33: measured"
    work.read("C33", "new-esr", "0.28")
    work.read("C33", "new-c", "455u")
    do(work, "C33", "measured", "fitted")
    facts = job(work, "C33").facts
    assert facts.is_fitted
    assert "K470" in facts.decision.reason  # type: ignore[union-attr]
    assert job(work, "C33").next is ReworkAct.LOOKED
    do(work, "C33", "looked")
    assert job(work, "C33").next is None
    with pytest.raises(InputError, match="already"):
        do(work, "C33", "out")


def test_one_position_at_a_time_unless_it_is_of_the_same_bank(work: Bench) -> None:
    do(work, "C31", "out")
    do(work, "C32", "out")
    with pytest.raises(InputError, match="C31 is out"):
        do(work, "C33", "out")


def test_a_new_part_that_reads_badly_is_not_fitted_until_a_better_one_is_read(work: Bench) -> None:
    do(work, "C33", "out", "cleared", "polarity")
    read = work.read("C33", "new-esr", "2.5")
    meaning = stage.new_meaning(work.file, work.file.rows.readings[read])
    assert (meaning.word, "take another" in meaning.text) == ("failed", True)
    do(work, "C33", "measured")
    with pytest.raises(InputError, match="take another"):
        do(work, "C33", "fitted")
    work.read("C33", "new-esr", "0.3")
    do(work, "C33", "fitted")
    assert work.state("C33") == "replaced"


def test_a_change_of_family_wants_a_second_look(work: Bench) -> None:
    assert job(work, "C34").new.build.family is Family.ALUMINIUM  # type: ignore[union-attr]
    do(work, "C34", "out", "cleared", "polarity")
    with pytest.raises(InputError, match="second look"):
        do(work, "C34", "measured")
    do(work, "C34", "second-look", "measured", "fitted")
    assert (
        "tantalum comes out, aluminium goes in"
        in stage.page(work.file, PageQuery(by=str(work.id_of("C34")))).here.second_look
    )  # type: ignore[union-attr]
    for old, new, differs in (
        (Family.TANTALUM, Family.ALUMINIUM, True), (Family.ALUMINIUM, Family.ALUMINIUM, False),
        (Family.FILM, Family.CERAMIC, False), (Family.FILM, Family.TANTALUM, True),
    ):  # fmt: skip
        assert mark_differs(old, new) is differs


def test_the_order_has_the_second_look_only_where_it_is_due() -> None:
    assert [a.code for a in order_of(needs_second_look=False)] == [
        "out", "cleared", "polarity", "measured", "fitted", "looked",
    ]  # fmt: skip
    assert [a.code for a in order_of(needs_second_look=True)][2:4] == ["polarity", "second-look"]
    plain = order_of(needs_second_look=False, has_polarity=False)
    assert [a.code for a in plain] == ["out", "cleared", "measured", "fitted", "looked"]


def test_steps_are_taken_back_by_strike_the_last_first(work: Bench) -> None:
    do(work, "C33", "out", "cleared", "polarity", "measured", "fitted")
    steps = {s.step: s.id for s in work.file.rows.active(REWORK_STEPS)}
    with pytest.raises(InputError, match="last step"):
        rework.strike(work.store, work.number, steps["out"])
    rework.strike(work.store, work.number, steps["fitted"])
    assert not job(work, "C33").is_fitted
    assert job(work, "C33").next is ReworkAct.FITTED
    with pytest.raises(NotFoundError):
        rework.strike(work.store, work.number, steps["fitted"])
    assert [s.step for s in work.file.rows.all(REWORK_STEPS)][-1] == "fitted"
    do(work, "C33", "fitted")
    assert job(work, "C33").is_fitted


def test_a_position_left_out_on_purpose_stays_open(work: Bench) -> None:
    decisions.decide(work.store, work.number, work.id_of("C34"), "left-out", "no part at hand")
    with pytest.raises(InputError, match="left out on purpose"):
        do(work, "C34", "out")
    for ref in ("C31", "C32", "C33"):
        do(work, ref, "out", "cleared", "polarity", "measured", "fitted", "looked")
    page = stage.page(work.file, PageQuery())
    assert page.is_all_in
    assert stage.state(work.file).status is Status.DONE


def test_afterwards_clippings_the_wash_and_every_rail_to_ground_again(work: Bench) -> None:
    rail = work.file.sheet.rails[0].key
    work.read(rail, "ground", "150", "attached")
    for ref in ("C31", "C32", "C33", "C34"):
        second = ("second-look",) if job(work, ref).needs_second_look else ()
        do(work, ref, "out", "cleared", "polarity", *second, "measured", "fitted", "looked")
    assert stage.next_step(work.file).text == "Board: not yet looked for clippings and bridges"  # type: ignore[union-attr]
    for what in ("clippings", "washed"):
        rework.after(work.store, work.number, what)
    with pytest.raises(InputError):
        rework.after(work.store, work.number, "polished")
    assert set(after_done(work.file)) == set(After)
    then = stage.next_step(work.file)
    assert then and then.point and "rail to ground again" in then.text
    assert (then.stage_key, then.point.procedure) == ("shorts", GROUND)
    work.read(rail, GROUND.code, "148", "attached")
    row = next(r for r in grounds_around(work.file)
               if (r.rail, r.side) == (rail, Condition.ATTACHED))  # fmt: skip
    assert (row.before, row.after) == ("150\u00a0Ω", "148\u00a0Ω")


def test_the_guard_stands_before_every_step(store: Store) -> None:
    bench = Bench(store, parts=PARTS)
    decisions.decide(store, bench.number, bench.id_of("C33"), "replace", "wanted so")
    with pytest.raises(GuardError):
        do(bench, "C33", "out")
    with pytest.raises(NotFoundError):
        do(bench, "C10", "out")


def test_what_is_said_of_a_board_and_a_position_is_checked(work: Bench) -> None:
    for said in ({"method": "pull"}, {"tantalum": "wood"}):
        with pytest.raises(InputError):
            recap.say_of_board(work.store, work.number, "", said)
    with pytest.raises(NotFoundError):
        recap.say_of_board(work.store, work.number, "P99", {"method": "cut"})
    recap.say_of_board(work.store, work.number, "", {"method": "cut", "plane": "yes"})
    here = stage.page(work.file, PageQuery()).here
    assert here is not None
    assert (here.method_key, here.has_plane) == ("cut", True)
    assert "330" in here.heat
    for name, text in (("pitch_mm", "five"), ("temp_c", "-3"), ("mount", "glued"),
                       ("old_height_mm", "tall"), ("esr_max_ohm", "4k7u")):  # fmt: skip
        with pytest.raises(InputError) as refused:
            recap.save_demand(work.store, work.number, work.id_of("C33"), {name: text})
        assert refused.value.field == name
    with pytest.raises(InputError):
        recap.save_demand(work.store, work.number, work.id_of("C33"), {"role": "juggler"})


def test_the_report_tells_what_the_new_part_read_in_the_hand(work: Bench) -> None:
    do(work, "C33", "out", "cleared", "polarity")
    work.read("C33", "new-esr", "0.28")
    do(work, "C33", "measured", "fitted", "looked")
    replaced = next(s for s in report(work.file).sections if s.title == "Replaced")
    ref, _, read, why = replaced.rows[0]
    assert ref == "C33"
    assert (
        read == "before: not read; the new part in the hand: new ESR 0.28\u00a0Ω; after: not read"
    )
    assert "470\u00a0µF 16\u00a0V aluminium, K470" in why


ROLES = [
    ("linear", "C7 2200u 35V +12", "raw-filter", False),  # placed below, before the regulator
    ("flyback", "C77 470u 16V +5", "output-filter", False),
    ("flyback", "C78 220u 400V main", "bulk", False),
    ("flyback", "C79 100n 63V film +5", "coupling", True),
    ("flyback", "C80 10u 16V tantalum +5", "decoupling", False),
    ("flyback", "C81 X2 100n 275 paper main", "suppressor-x", False),
]


@pytest.mark.parametrize(("topology", "line", "role", "is_assumed"), ROLES)
def test_a_role_that_the_sheet_lacks_follows_from_the_station(
    store: Store, topology: str, line: str, role: str, is_assumed: bool
) -> None:
    bench = Bench(store, f"template:{topology}", parts=line)
    part = bench.part(line.split()[0])
    if topology == "linear":
        part = replace(part, order=bench.part("U2").order - 1)
    needs = needs_of(bench.file, part)
    assert needs is not None
    assert (needs.role.code, needs.is_role_assumed) == (role, is_assumed)


def test_taking_a_part_out_waits_for_the_plan_that_names_the_new_one(
    work: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The new part is noted when the old one comes out, so that no later plan changes it."""
    hold = threading.Event()

    def slow(inputs: object, progress: worker.Progress) -> object:
        hold.wait(10)
        return plans.compute(inputs, progress)

    monkeypatch.setattr(plans, "PLAN", worker.Analysis("plan", 99, slow, plans.OrderPlans))
    monkeypatch.setattr(rework, "_PATIENCE_S", 0.05)
    with pytest.raises(InputError, match="still being computed"):
        do(work, "C33", "out")
    assert job(work, "C33").done == {}
    hold.set()
    monkeypatch.setattr(rework, "_PATIENCE_S", 10.0)
    do(work, "C33", "out")
    sourcing.save_drawers(work.store, [])
    assert job(work, "C33").new.sku == "K470"  # type: ignore[union-attr]


def test_a_new_part_that_reads_bad_is_laid_aside_by_a_press_and_named(work: Bench) -> None:
    c33 = work.id_of("C33")
    do(work, "C33", "out", "cleared", "polarity")
    for refused in (InputError, NotFoundError):
        with pytest.raises(refused):
            rework.take_another(work.store, work.number, c33 if refused is InputError else 9999)
    work.read("C33", "new-esr", "0.28")
    with pytest.raises(InputError, match="where the new one reads bad"):
        rework.take_another(work.store, work.number, c33)
    work.read("C33", "new-esr", "28")
    do(work, "C33", "measured")
    with pytest.raises(InputError, match="take another"):
        do(work, "C33", "fitted")
    rework.take_another(work.store, work.number, c33)
    said = [entry.text for entry in entries(work.file)]
    told = next(text for text in said if "another is taken" in text)
    assert "a drawer" in told and "reads failed: new ESR 28" in told
    here = job(work, "C33")
    assert (here.next, new_part_readings(work.file, here)) == (ReworkAct.MEASURED, {})
    work.read("C33", "new-esr", "0.27")
    do(work, "C33", "measured", "fitted", "looked")
    assert job(work, "C33").is_fitted
    with pytest.raises(InputError):
        rework.take_another(work.store, work.number, c33)
    (line,) = bad_sources(work.store)
    assert (line.source[:8], line.fitted) == ("a drawer", 1)
    (bad,) = line.bad
    assert (bad.ref, bad.sku, bad.why) == ("C33", "K470", "failed: new ESR 28\u00a0Ω")


@pytest.mark.parametrize(("origin", "told"), [("salvaged", ", salvaged"), ("new", "")])
def test_a_salvaged_part_is_called_so_where_it_is_told(work: Bench, origin: str, told: str) -> None:
    drawers = [replace(d, origin=ORIGINS[origin]) for d in sources(work.store).stock]
    sourcing.save_drawers(work.store, drawers)
    do(work, "C33", "out", "cleared", "polarity", "measured", "fitted")
    decision = work.file.rows.newest(PART_DECISIONS)[work.id_of("C33")]
    assert decision.reason.endswith(f"K470{told}")
    assert "new part not measured" in " ".join(entry.text for entry in entries(work.file))
