"""Practice: a case whose unit is simulated, and its review; nothing of it reaches the ledger."""

from __future__ import annotations

import json
import random
from importlib import resources
from pathlib import Path

import pytest

from hale_rail.actions.instruments import capturing
from hale_rail.actions.parts import decisions
from hale_rail.actions.practice import practice
from hale_rail.actions.practice.benchmark_figures import measure
from hale_rail.actions.practice.diagnosis_benchmark import hunt
from hale_rail.actions.practice.repair_benchmark import repair
from hale_rail.actions.readings import Saved
from hale_rail.actions.report.closing import hand_back
from hale_rail.actions.safety import power
from hale_rail.case.file import open_case
from hale_rail.case.ledger import ledger
from hale_rail.case.practice.practice import practising
from hale_rail.case.practice.reviews import PracticeReview
from hale_rail.case.report.report import CaseOutcome
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import ESR, OHMS, STORE, VOLTS, Condition, Point, ReadingSource
from hale_rail.core.simulate.faults import faults
from hale_rail.core.simulate.graded_cases import GRADED, graded
from hale_rail.core.simulate.random_units import draw_pair, practice_sheet
from hale_rail.core.supply.sheet import Topology
from hale_rail.core.targets import rail_target
from hale_rail.errors import ConflictError, GuardError, InputError
from hale_rail.formats.codec import record_of
from hale_rail.formats.knowledge import figures, knowledge_for
from hale_rail.stages.frame.bench import suggest_number
from hale_rail.stages.practice import practice as shown
from hale_rail.store import cases
from hale_rail.store import ledger as kept
from hale_rail.store.cases import CasePlace
from hale_rail.store.database import Store
from hale_rail.store.looks import LOOKS
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.practice import PRACTICE_ACTS, Practised
from hale_rail.store.statements import STATEMENTS
from tests.sizes import IS_ALL

PRACTICE = Path(__file__).parents[3] / "docs" / "practice.md"


class Player:
    """One practice, with the points of its parts by designator."""

    def __init__(self, store: Store, unit: Practised) -> None:
        self.store = store
        self.number = practice.start(store, unit)

    def part(self, ref: str) -> Part:
        return next(p for p in open_case(self.store, self.number).sheet.parts if p.ref == ref)

    def point(self, ref: str, condition: Condition = Condition.IN_CIRCUIT) -> Point:
        part = self.part(ref)
        return part.point(OHMS, condition, part.kind.across)

    def make_safe(self) -> None:
        power.remove_power(self.store, self.number)
        practice.bleed(self.store, self.number)
        for bank in open_case(self.store, self.number).sheet.store_banks:
            practice.touch(self.store, self.number, bank[0].point(STORE))

    def touch(self, ref: str, condition: Condition = Condition.IN_CIRCUIT) -> Saved:
        return practice.touch(self.store, self.number, self.point(ref, condition))

    def end(self, named: str) -> PracticeReview:
        practice.end(self.store, self.number, named)
        body = open_case(self.store, self.number).rows.all(PRACTICE_ACTS)[-1].body
        return record_of(body, PracticeReview)


BLACK = Practised(5, "", "", 0)


def test_a_practice_is_read_point_by_point_and_reviewed(store: Store) -> None:
    player = Player(store, BLACK)
    player.make_safe()
    saved = player.touch("C1")
    reading = saved.file.rows.readings[saved.reading_id]
    assert reading.source is ReadingSource.SIMULATED
    assert 1.5 < reading.value < 3.0
    player.touch("Q1", Condition.LIFTED)
    practice.look_at(store, player.number, player.part("F1").id)
    assert open_case(store, player.number).rows.newest(LOOKS)[player.part("F1").id].codes == (
        "blackened",
    )
    found = practising(open_case(store, player.number))
    assert found is not None
    assert found.minutes == pytest.approx(2.0 + 4 * 0.4 + 0.5 + 6.5 + 0.2)
    review = player.end("switch-short")
    assert (review.fault, review.right, review.spent) == ("short:Q1", True, ())
    labels = [step.label for step in review.mine]
    assert labels[-3:] == ["C1 ohms", "Q1 ohms, lifted", "a look at the parts"]
    assert not any(step.unsafe for step in review.mine)
    told = {step.label: step.bits for step in review.mine}
    assert told["C1 ohms"] > 0.3 > told["volts held by the stores"]
    assert review.engine_right
    assert sum(step.minutes for step in review.engine) == review.engine_minutes


def test_power_before_the_cold_readings_is_unsafe_and_spends_the_new_fuse(store: Store) -> None:
    player = Player(store, BLACK)
    decisions.decide(store, player.number, player.part("F1").id, DecisionKind.FITTED.code, "2 A")
    power.apply_power(store, player.number, "mains")
    with pytest.raises((InputError, GuardError)):
        player.touch("C1")
    player.make_safe()
    assert open_case(store, player.number).rows.all(POWER_EVENTS)
    review = player.end("bulk-short")
    assert not review.right
    assert review.spent == ("F1",)
    assert [step.label for step in review.mine if step.unsafe] == ["power from mains"]


def test_volts_read_without_a_word_of_power_are_power(store: Store) -> None:
    """Reading a rail puts the plug in: it costs that, is unsafe, and takes the new fuse."""
    player = Player(store, BLACK)
    power.remove_power(store, player.number)
    decisions.decide(store, player.number, player.part("F1").id, DecisionKind.FITTED.code, "2 A")
    volts = Point(rail_target("+5 V"), VOLTS, Condition.DUMMY)
    practice.touch(store, player.number, volts)
    found = practising(open_case(store, player.number))
    assert found.spent == ("F1",)
    assert found.minutes == pytest.approx(8.0 + 1.0 + 2.0)
    practice.touch(store, player.number, Point(rail_target("+12 V"), VOLTS, Condition.DUMMY))
    assert practising(open_case(store, player.number)).minutes == pytest.approx(12.0)
    with pytest.raises(InputError, match="overload"):
        player.touch("C1")
    review = player.end("bulk-short")
    assert [step.label for step in review.mine if step.unsafe] == ["volts, dummy"]


def test_a_record_costs_its_minutes_until_the_practice_is_over(store: Store) -> None:
    player = Player(store, Practised(3, "", "", 0))
    said = {"load": "machine"}
    capturing.capture_record(store, player.number, "+5 V", said)
    assert practising(open_case(store, player.number)).minutes == pytest.approx(3.0 + 2.0)
    with pytest.raises(InputError, match="not there"):
        capturing.capture_soak(store, player.number, "+5 V", 1.7e9)
    review = player.end("bulk-dry")
    assert [s.unsafe for s in review.mine if s.label == "a record of +5 V"] == [True]
    with pytest.raises(ConflictError):
        capturing.capture_record(store, player.number, "+5 V", said)


def test_an_overload_is_told_and_saves_nothing(store: Store) -> None:
    player = Player(store, Practised(None, "flyback", "plain", 3))
    player.make_safe()
    power.apply_power(store, player.number, "mains")
    power.remove_power(store, player.number)
    before = len(open_case(store, player.number).rows.readings)
    with pytest.raises((InputError, GuardError)):
        player.touch("C1")
    assert len(open_case(store, player.number).rows.readings) == before


def test_a_practice_stays_out_of_the_workshop(store: Store) -> None:
    player = Player(store, BLACK)
    player.make_safe()
    player.touch("C1")
    connection = store.read()
    assert cases.search(connection, {}, CasePlace.BENCH, limit=9, offset=0)[1] == 0
    assert suggest_number(store) == "HR-001"
    hand_back(store, player.number, open_case(store, player.number).case.version,
              CaseOutcome.REPAIRED.code)  # fmt: skip
    ledger.refresh(store)
    assert kept.lines(store.read()) == []
    assert cases.search(store.read(), {}, CasePlace.BACK, limit=9, offset=0)[1] == 0


def test_what_is_over_stays_as_it_was(store: Store) -> None:
    player = Player(store, BLACK)
    player.make_safe()
    with pytest.raises(InputError, match="what you found"):
        player.end("no such thing")
    player.end("switch-short")
    for act in (
        lambda: player.end("switch-short"),
        lambda: player.touch("C1"),
        lambda: practice.bleed(store, player.number),
        lambda: practice.look_at(store, player.number, 1),
        lambda: practice.by_hand(store, player.number, "ring"),
    ):
        with pytest.raises(ConflictError):
            act()


def test_a_test_by_hand_answers_as_the_unit_is(store: Store) -> None:
    player = Player(store, Practised(11, "", "", 0))
    practice.by_hand(store, player.number, "reference")
    said = open_case(store, player.number).rows.all(STATEMENTS)[-1]
    assert (said.key, said.value) == ("reference", "off")
    with pytest.raises(InputError, match="readings"):
        practice.by_hand(store, player.number, "bank-esr")


def test_every_graded_case_can_be_taken_up_and_found(store: Store) -> None:
    """Its owner notices the fault, and the diagnosis knows a hypothesis for it."""
    assert len(GRADED) == 16
    for case in GRADED:
        unit = case.drawn().unit()
        assert unit.symptom is not None, case.title
        known = knowledge_for(case.topology)
        assert known.symptom(unit.symptom.value), case.title
    places = [line.case.place for line in shown.page(store).graded]
    assert places == list(range(1, 17))
    with pytest.raises(InputError, match="graded"):
        graded(17)


@pytest.mark.parametrize(
    ("unit", "field"),
    [
        (Practised(None, "steam", "", 1), "topology"),
        (Practised(None, "flyback", "", -1), "seed"),
        (Practised(None, "flyback", "", 10**12), "seed"),
    ],
)
def test_a_unit_that_cannot_be_is_refused(store: Store, unit: Practised, field: str) -> None:
    with pytest.raises(InputError) as told:
        practice.start(store, unit)
    assert told.value.field == field


def test_the_figures_that_ship_are_not_stale() -> None:
    """A sample, measured now, lies within its own noise of what docs and page say."""
    sample = measure(tuple(Topology), range(1, 25 if IS_ALL else 9))
    told = figures()
    share = told.right_first
    noise = 3 * (share * (1 - share) / sample.hunts) ** 0.5 + 1 / sample.hunts
    assert abs(sample.right_first - share) <= noise
    assert sample.mean_tests == pytest.approx(told.mean_tests, abs=1.6 if IS_ALL else 3.0)
    assert sample.unsafe_steps == told.unsafe_steps == 0
    source = resources.files("hale_rail.knowledge") / "figures.json"
    body = json.loads(source.read_text(encoding="utf-8"))
    assert sum(f["n"] for f in body["by_fault"].values()) == told.hunts
    for path in (PRACTICE, PRACTICE.parent / "manual" / "practice.md"):
        text = path.read_text(encoding="utf-8")
        assert f"{100 * share:.1f} %" in text
        assert f"{told.mean_tests:.1f} tests" in text
    again = {o.seed: o.hunt.rank for o in sample.outcomes}
    for worst in body["worst"]:
        assert again.get(worst["seed"], worst["ranked"]) == worst["ranked"]


@pytest.mark.parametrize(("topology", "seed"), list(zip(Topology, range(41, 45), strict=True)))
def test_a_unit_with_two_faults_is_repaired_to_the_end(topology: Topology, seed: int) -> None:
    """Replaced, powered, asked after its complaint, until it has none; never powered too early."""
    drawn = draw_pair(topology, seed)
    assert drawn.other
    came = repair(drawn)
    assert came is not None
    assert (came.is_whole, came.first_right, came.unsafe) == (True, True, 0)
    assert came.in_vain <= 1


def test_every_fault_of_every_topology_is_tabled_as_it_comes_out() -> None:
    """Each code has its row in docs/practice.md; a sample, hunted now, says the same."""
    rows = PRACTICE.read_text(encoding="utf-8").splitlines()
    told = [tuple(cell.strip() for cell in row.strip("|").split("|")) for row in rows]
    chance = random.Random(7)
    for topology in Topology:
        sheet = practice_sheet(topology, 1984)
        at = told.index((f"## Every fault: {topology.words}",))
        own = {cells[0]: cells[1:] for cells in told[at + 3 : at + 3 + len(faults(sheet))]}
        assert set(own) == {fault.code for fault in faults(sheet)}
        for fault in chance.sample(faults(sheet), 3):
            came = hunt(sheet, fault, 1)
            if came is None:
                assert own[fault.code] == ("nobody notices", "not hunted")
            else:
                assert own[fault.code][0] == came.symptom
                assert own[fault.code][1].endswith(f", {len(came.path)} tests")


def test_esr_of_a_dry_part_is_read_as_bad_on_the_usual_pages(store: Store) -> None:
    player = Player(store, Practised(6, "", "", 0))
    player.make_safe()
    saved = practice.touch(store, player.number, player.part("C2").point(ESR))
    assert saved.file.rows.readings[saved.reading_id].value > 4.0
