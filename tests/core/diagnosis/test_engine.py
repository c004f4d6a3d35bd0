"""The diagnosis against Bayes' rule written out here, hypothesis by hypothesis; its properties."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from hale_rail.core.diagnosis import information
from hale_rail.core.diagnosis.bench import has_subject, parts_of, views_of
from hale_rail.core.diagnosis.blocks.block import UnitSheet
from hale_rail.core.diagnosis.effects import NOTHING, REGIMES, RUNS
from hale_rail.core.diagnosis.engine import BELIEFS
from hale_rail.core.diagnosis.facts import (
    DidFact,
    Fact,
    GoneFact,
    GroundFact,
    LookFact,
    PartFact,
    ReadValue,
    SymptomFact,
    VoltsFact,
)
from hale_rail.core.diagnosis.faults import faults, sheet_of
from hale_rail.core.diagnosis.inference import SOUND, Weighed, weigh
from hale_rail.core.diagnosis.model import UnitModel
from hale_rail.core.diagnosis.views import LOOKS
from hale_rail.core.parts.kinds import KINDS, by_code
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.core.supply.templates import make_part, template
from hale_rail.formats.knowledge import knowledge_for

from ...sizes import examples

NOW = 1000


def model_of(sheet: Sheet, fitted: dict[int, int] | None = None) -> UnitModel:
    knowledge = knowledge_for(sheet.topology)
    names = {p.id: p.ref for p in sheet.parts}
    return UnitModel(knowledge, sheet, faults(knowledge, sheet, names, fitted or {}, {}))


MODELS = {topology: model_of(template(topology)) for topology in Topology}
FLYBACK = MODELS[Topology.FLYBACK]


def part(ref: str, model: UnitModel = FLYBACK):  # type: ignore[no-untyped-def]
    return next(p for p in model.sheet.parts if p.ref == ref)


def read(ref: str, procedure: str, value: float, at: int = 5, *, lifted: bool = False) -> PartFact:
    figure = ReadValue(procedure, value, value)
    return PartFact(at, part(ref).id, figure, lifted, f"{ref} {procedure} {value}")


def ground(rail: str, ohm: float, *, attached: bool, at: int = 5) -> GroundFact:
    return GroundFact(at, rail, attached, ohm, ohm, None, rail)


def volts(rail: str, share: float, at: int = 5) -> VoltsFact:
    return VoltsFact(at, rail, True, False, True, share, share, 0.005, rail)


def said(symptom: str, at: int = 1) -> SymptomFact:
    return SymptomFact(at, symptom, symptom)


def weighed(*known: Fact, model: UnitModel = FLYBACK, now: int = NOW) -> Weighed:
    symptoms = [f.symptom for f in known if isinstance(f, SymptomFact)]
    return weigh(model, known, symptoms, now)


def chance(found: Weighed, *codes: str) -> float:
    """The chance that one of these faults was there."""
    return sum(
        float(p)
        for f, p in zip(found.model.faults, found.marginals, strict=True)
        if f.code in codes
    )


FACTS = st.one_of(
    st.sampled_from(("fuse-black", "dead-whole", "ripple", "hiccup", "smoke")).map(said),
    st.builds(
        read,
        st.sampled_from(("C1", "C2", "C10", "C12", "CX1")),
        st.sampled_from(("ohms", "esr", "c")),
        st.sampled_from((1e-5, 0.05, 0.3, 2.0, 40.0, 9e4, math.inf)),
    ),
    st.builds(
        ground,
        st.sampled_from(("+5 V", "+12 V")),
        st.sampled_from((0.2, 15.0, 300.0, math.inf)),
        attached=st.booleans(),
    ),
    st.builds(volts, st.sampled_from(("+5 V", "+12 V")), st.sampled_from((0.0, 0.7, 1.0, 1.3))),
    st.builds(
        lambda ref, found: LookFact(5, part(ref).id, found, ref),
        st.sampled_from(("CX1", "C10", "P1", "T1")),
        st.sampled_from(LOOKS),
    ),
)


def subject(fact: Fact) -> object:
    """What a fact is of: those of one subject share their errors."""
    of = getattr(fact, "part_id", None) or getattr(fact, "rail", None) or repr(fact)
    return of, type(fact), getattr(fact, "is_attached", None)


@given(st.lists(FACTS, min_size=1, max_size=5, unique_by=repr))
@settings(max_examples=examples(60, 15), deadline=None)
def test_chances_are_bayes_rule_over_every_pair(known: list[Fact]) -> None:
    """Sums of logarithms by array against products one by one, of one fact a subject."""
    kept = [*{subject(fact): fact for fact in known}.values()]
    found = weighed(*kept)
    model, space = found.model, found.model.space
    total = [float(w) for w in space.log_weight]
    for fact in kept:
        for h, value in enumerate(model.factor(fact, found.symptoms).of(space)):
            total[h] += float(value)
    most = max(total)
    whole = math.fsum(math.exp(t - most) for t in total)
    for h in range(0, len(total), 37):
        assert found.chances[h] == pytest.approx(math.exp(total[h] - most) / whole, rel=1e-9)
    assert math.fsum(found.by_group.values()) == pytest.approx(1.0)
    assert math.fsum(found.chances) == pytest.approx(1.0)


@given(st.lists(FACTS, max_size=3, unique_by=repr), FACTS)
@settings(max_examples=examples(60, 15), deadline=None)
def test_what_a_hypothesis_predicts_best_never_lowers_it(known: list[Fact], more: Fact) -> None:
    """A fact of its own: whoever gives it the most is not made less likely by it."""
    known = [f for f in known if subject(f) != subject(more)]
    known = [f for f in known if not isinstance(f, SymptomFact)]
    assume(not isinstance(more, SymptomFact))
    before, after = weighed(*known), weighed(*known, more)
    factor = before.model.factor(more, ()).of(before.model.space)
    best = (factor == factor.max()).nonzero()[0][:5]
    assert len(best)
    for h in best:
        assert after.chances[h] >= before.chances[h] * (1 - 1e-9)


@pytest.mark.parametrize("test_id", ["bank-esr", "rectifiers", "attached", "vents", "control"])
def test_worth_is_the_expected_fall_of_entropy(test_id: str) -> None:
    """I = H(R) − Σ P(result)·H(R | result), the other way round than the engine reckons it."""
    found = weighed(said("hiccup"))
    test = next(t for t in FLYBACK.knowledge.tests if t.id == test_id)
    view = information.signature(views_of(FLYBACK.views, test, parts_of(FLYBACK.unit, test)))
    seen = information.outlook(found)
    joint: dict[tuple[int, int], float] = {}
    for h, p in enumerate(seen.chances):
        a, b = int(seen.first[h]), int(seen.second[h])
        rows = view.rows[a] if view.ranks[a] > view.ranks[b] else view.rows[b]
        if view.ranks[a] == view.ranks[b]:
            rows = (view.rows[a] + view.rows[b]) / 2
        for c, q in enumerate(rows):
            key = (sum(h >= start for start in seen.starts), c)
            joint[key] = joint.get(key, 0.0) + float(p * q)

    def entropy(shares: list[float]) -> float:
        return -math.fsum(s * math.log2(s) for s in shares if s > 0)

    repairs = {r for r, _ in joint}
    before = entropy([sum(p for (r, _), p in joint.items() if r == own) for own in repairs])
    after = 0.0
    for c in {c for _, c in joint}:
        column = [p for (_, k), p in joint.items() if k == c]
        share = math.fsum(column)
        after += share * entropy([p / share for p in column])
    assert information.bits(view, seen) == pytest.approx(before - after, abs=1e-9)


def test_what_is_read_of_one_rail_again_counts_half() -> None:
    """Low at the supply end and low at the far end are one state of the rail, not two witnesses."""
    one, other = volts("+5 V", 0.8), VoltsFact(6, "+5 V", True, True, True, 0.8, 0.8, 0.005, "")
    both = weighed(one, other)
    factor = both.model.factor(other, ()).of(both.model.space)
    sharper = both.model.factor(one, ()).of(both.model.space)
    weights = (
        (1.0, 0.5)
        if both.model.factor(one, ()).spread >= both.model.factor(other, ()).spread
        else (0.5, 1.0)
    )
    total = both.model.space.log_weight + weights[0] * sharper + weights[1] * factor
    expected = math.e ** (total - total.max())
    assert both.chances == pytest.approx(expected / expected.sum(), rel=1e-9)


def test_degrees_count_in_proportion() -> None:
    """A capacitor 1 % below a limit and one 1 % above it weigh nearly alike."""
    below = chance(weighed(said("dead-whole"), read("C12", "c", 0.795e-3)), "dry:C12")
    above = chance(weighed(said("dead-whole"), read("C12", "c", 0.805e-3)), "dry:C12")
    assert below == pytest.approx(above, rel=0.3)
    assert below < 0.2  # and it settles no dead supply
    rising = [
        chance(weighed(read("C12", "c", share * 1e-3)), "dry:C12")
        for share in (1.0, 0.9, 0.8, 0.7, 0.6, 0.5)
    ]
    assert rising == sorted(rising)


def test_a_fresh_fuse_says_nothing_of_the_suppressors() -> None:
    sheet = template(Topology.FLYBACK)
    fuse = part("F1")
    model = model_of(sheet, {fuse.id: 20})
    known = [said("fuse-black"), read("C1", "ohms", 5e4)]
    before = weigh(model, known, ["fuse-black"], NOW).by_group["suppressor"]
    after = weigh(model, [*known, read("F1", "ohms", 0.1, at=30)], ["fuse-black"], NOW)
    assert after.by_group["suppressor"] == pytest.approx(before, rel=0.02)


def test_both_rails_right_clear_the_way_to_them() -> None:
    before = weighed(said("machine-dead"))
    runs = DidFact(4, (("runs", 0.95),), "it runs")
    after = weighed(said("machine-dead"), runs, volts("+5 V", 1.0), volts("+12 V", 1.0))
    for code in ("open:J1", "open:S1", "open:T1", "open:D12", "open:L12"):
        assert chance(after, code) <= chance(before, code), code
    assert after.by_group["machine"] > 0.5


def test_a_short_attached_and_free_isolated_hangs_behind_the_connector() -> None:
    found = weighed(
        said("dead-whole"), ground("+5 V", 0.4, attached=True), ground("+5 V", 160, attached=False)
    )
    assert found.by_group["board-short"] > 0.7
    assert found.by_group["rectifier-short"] < 0.1


def test_two_faults_are_both_held() -> None:
    found = weighed(
        said("dead-whole"), read("RT1", "ohms", math.inf), read("L12", "ohms", math.inf)
    )
    assert chance(found, "open:RT1") > 0.9
    assert chance(found, "open:L12") > 0.4
    pairs = [(a.code, b.code) for a, b, _ in found.pairs(0.2)]
    assert {"open:RT1", "open:L12"} in [set(pair) for pair in pairs]


def test_what_was_replaced_is_another_part_from_then_on() -> None:
    """Readings before speak of the former part, those after of the new one."""
    model = model_of(template(Topology.FLYBACK), {part("Q1").id: 20})
    known = [said("fuse-black"), read("Q1", "ohms", 0.1, at=10, lifted=True)]
    found = weigh(model, known, ["fuse-black"], NOW)
    assert found.nothing_left > 0.7
    assert found.repaired()[0][0].ref == "Q1"
    unproven = weigh(model, [*known, read("Q1", "ohms", 3e4, at=30)], ["fuse-black"], NOW)
    assert unproven.nothing_left > 0.7  # one reading of the new part forgets no repair
    bad = weigh(model, [*known, read("Q1", "ohms", 0.1, at=30, lifted=True)], ["fuse-black"], NOW)
    assert bad.nothing_left < 0.3
    assert bad.by_group["own-work"] > 0.5


def test_gone_names_what_explains_it_and_still_opens_the_hunt() -> None:
    model = model_of(template(Topology.FLYBACK), {part("C12").id: 20})
    known = [said("dead-whole"), read("C12", "esr", 3.0, at=10)]
    still = weigh(model, [*known, GoneFact(30, False, "still")], ["dead-whole"], NOW)
    gone = weigh(model, [*known, GoneFact(30, True, "gone")], ["dead-whole"], NOW)
    assert still.nothing_left < 0.05 < gone.nothing_left
    assert still.by_group["start-path"] > gone.by_group["start-path"]


def test_a_preventive_unit_may_have_nothing_wrong() -> None:
    sheet = template(Topology.FLYBACK)
    before = weigh(model_of(sheet), (), (), NOW).by_group[SOUND]
    preventive = Sheet(
        sheet.name, sheet.topology, sheet.rails, sheet.parts, 230, 50, 1985, "preventive"
    )
    assert weigh(model_of(preventive), (), (), NOW).by_group[SOUND] > 0.6 > before


def test_parts_that_a_sheet_does_not_have_have_no_faults() -> None:
    codes = {f.code for f in MODELS[Topology.LINEAR].faults}
    assert not [c for c in codes if "CX" in c]
    assert "open:U1" in codes
    bare = template(Topology.LINEAR)
    kept = tuple(p for p in bare.parts if p.kind.code != "regulator")
    none = model_of(Sheet("x", Topology.LINEAR, bare.rails, kept))
    found = weigh(none, [said("rail-missing")], ["rail-missing"], NOW).by_group
    assert found["regulator-dead"] == 0.0
    assert sheet_of(Sheet("x", Topology.FLYBACK, (), ())).parts  # an empty sheet: its template's


@pytest.mark.parametrize("topology", list(Topology))
def test_every_fault_has_a_rule_a_group_and_shares_that_add_up(topology: Topology) -> None:
    model = MODELS[topology]
    silent = {f.code for f, e in zip(model.faults, model.effects, strict=True) if e is NOTHING}
    assert silent <= {"open:CX1"}  # an open suppressor does nothing that is felt
    for fault, effect in zip(model.faults, model.effects, strict=True):
        assert model.knowledge.group(fault.group), fault.code
        assert fault.group != "other", fault.code
        assert sum(effect.regime(name) for name in REGIMES) == pytest.approx(1.0, abs=0.01)
        assert effect.regime(RUNS) > 0
        assert effect.because[0].islower(), effect.rule
        for shares in (effect.every, *effect.rails.values()):
            assert sum(shares) == pytest.approx(1.0, abs=0.011), effect.rule
    of_parts = [model.part(p, 5, is_lifted=False) for p in model.sheet.parts]
    for view in (model.views.regime(), *of_parts):
        assert view.rows.sum(axis=1) == pytest.approx(1.0)
        assert (view.rows > 0).all()


@pytest.mark.parametrize("topology", list(Topology))
def test_a_part_of_any_kind_anywhere_has_its_rules(topology: Topology) -> None:
    """One of each kind on the mains side and on a rail: what it can have does something, or is
    named here as what nobody feels."""
    usual = template(topology)
    lines = ("main", usual.rails[0].key)
    parts = tuple(
        make_part(100 * n + m, f"X{n}-{m}", kind.code, line, 50, role="output-filter" if n else "")
        for m, kind in enumerate(KINDS)
        for n, line in enumerate(lines)
    )
    model = model_of(Sheet("all", topology, usual.rails, (*usual.parts, *parts)))
    silent = {
        (f.mode, f.line, f.part.kind.code)
        for f, e in zip(model.faults, model.effects, strict=True)
        if e is NOTHING and f.part and f.part.id >= 100
    }
    known_apart = {"fuse", "switch", "bridge", "board", "connector", "inlet", "choke", "regulator"}
    assert not {
        s for s in silent if s[2] in known_apart and s[0] in (FaultMode.SHORT, FaultMode.JOINT)
    }
    assert not {s for s in silent if s[1] != "main" and s[0] is FaultMode.OPEN}
    assert all(model.knowledge.group(f.group) for f in model.faults)


def test_every_kind_says_how_it_fails() -> None:
    """A new kind without its faults fails here; what is not a part of a supply fails in no way."""
    never = {k.code for k in KINDS if not k.fails(make_part(1, "X1", k.code, "main", 1))}
    assert never == {"tube", "chip", "socket", "crystal", "battery", "lamp", "coil"}
    ways = by_code("capacitor").fails(make_part(1, "C1", "capacitor", "main", 1))
    assert FaultMode.DRY in ways


def test_beliefs_move_a_group() -> None:
    for belief, factor in BELIEFS.items():
        places = {i: factor for i, f in enumerate(FLYBACK.faults) if f.group == "joint"}
        model = UnitModel(FLYBACK.knowledge, FLYBACK.sheet, FLYBACK.faults, places)
        found = weigh(model, [said("warm")], ["warm"], NOW).by_group["joint"]
        usual = weighed(said("warm")).by_group["joint"]
        assert (found > usual) == (belief == "likely")


@pytest.mark.parametrize("topology", list(Topology))
def test_every_test_of_the_knowledge_has_its_subject_and_views(topology: Topology) -> None:
    model = MODELS[topology]
    tests = [t for t in model.knowledge.tests if has_subject(UnitSheet(model.sheet), t)]
    assert len(tests) > 5
    for test in tests:
        parts = parts_of(model.unit, test)
        views = views_of(model.views, test, parts)
        assert views, test.id
        assert information.signature(views).rows.sum(axis=1) == pytest.approx(1.0)
