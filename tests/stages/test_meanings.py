"""What a stage says of a reading just saved, and of itself, in its own words."""

from __future__ import annotations

import pytest

from hale_rail.actions.safety import power
from hale_rail.case.report.report import report
from hale_rail.core.procedures import DIODE, Condition
from hale_rail.core.supply.sheet import Topology
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.stages import STAGES, stage
from hale_rail.stages.frame.panel import part_panel
from hale_rail.stages.frame.tray import SavedReading, result_of, tray_point
from hale_rail.stages.stage import PageQuery, Status
from hale_rail.store.database import Store
from tests.conftest import Bench


def result(bench: Bench, reading_id: int) -> SavedReading:
    found = result_of(bench.file, reading_id)
    assert found
    return found


@pytest.mark.parametrize(
    ("ref", "procedure", "condition", "text", "shape", "word"),
    [
        ("+5 V", "ground", "attached", "0.3", "failed", "short"),
        ("+5 V", "ground", "isolated", "4k", "good", "good"),
        ("+5 V", "inject", "attached", "0.4 V 800 mA", "failed", "short"),
        ("+5 V", "inject", "isolated", "0.4 V 1 mA", "good", "good"),
        ("+5 V", "volts", "dummy", "5.02", "good", "pass"),
        ("+5 V", "volts", "machine", "4.1", "failed", "fail"),
        ("F1", "ohms", "in-circuit", "0.2", "good", "good"),
        ("F1", "ohms", "in-circuit", "OL", "failed", "failed"),
        ("C1", "store", "", "1.2", "good", "bled"),
        ("C1", "store", "", "30", "worn", "bleed on"),
        ("C1", "store", "", "140", "failed", "charged"),
    ],
)  # fmt: skip
def test_a_reading_is_answered_in_its_stages_words(
    bench: Bench, ref: str, procedure: str, condition: str, text: str, shape: str, word: str
) -> None:
    bench.make_safe()
    found = result(bench, bench.read(ref, procedure, text, condition))
    assert (found.meaning.shape, found.meaning.word) == (shape, word)
    assert ref.replace("-", "−") in found.where


def test_a_drop_is_answered_as_a_drop_whatever_was_read_before(bench: Bench) -> None:
    """Not by the ohms of the same part: the figure that is told is the one just read."""
    bench.make_safe()
    diode = next(p for p in bench.file.sheet.parts if len(p.kind.pairs) == 1 and p.ref[0] == "D")
    bench.read(diode.ref, "ohms", "1k")
    saved = result(bench, bench.read(diode.ref, "diode", "0.55", pair=diode.kind.pairs[0]))
    assert saved.meaning.text.replace("\u00a0", " ").startswith("550 mV forward")
    switch = bench.part("Q1")
    pair = switch.kind.pairs[0]
    bench.read("Q1", "ohms", "8k")
    saved = result(bench, bench.read("Q1", "diode", "0.6", pair=pair))
    ask = next(a for a in switch.kind.asks(switch) if a.pair == pair and a.procedure is DIODE)
    assert saved.meaning.text.startswith(
        f"Sound: {switch.kind.expect(switch, ask, Condition.IN_CIRCUIT)}."
    )


def test_a_reading_that_was_struck_out_or_is_not_there_says_nothing(bench: Bench) -> None:
    bench.make_safe()
    first = bench.read("F1", "ohms", "0.2")
    bench.read("F1", "ohms", "0.3")
    assert result_of(bench.file, first) is None
    assert result_of(bench.file, 10**6) is None
    assert result_of(bench.file, None) is None


def test_make_safe_says_where_it_stands(bench: Bench) -> None:
    safe = stage("safe")
    assert safe
    says = [(safe.state(bench.file).status, safe.state(bench.file).note)]
    power.remove_power(bench.store, bench.number)
    says.append((safe.state(bench.file).status, safe.state(bench.file).note))
    power.pass_guard(bench.store, bench.number, "It has lain unplugged in the store for a year.")
    says.append((safe.state(bench.file).status, safe.state(bench.file).note))
    bench.make_safe()
    says.append((safe.state(bench.file).status, safe.state(bench.file).note))
    power.apply_power(bench.store, bench.number, "mains")
    says.append((safe.state(bench.file).status, safe.state(bench.file).note))
    assert says == [
        (Status.ATTENTION, "unknown"),
        (Status.ATTENTION, "waiting"),
        (Status.ATTENTION, "waiting, passed by reason"),
        (Status.DONE, "dead"),
        (Status.ATTENTION, "live"),
    ]


@pytest.mark.parametrize("topology", list(Topology))
def test_a_unit_begun_from_any_template_is_shown_by_every_stage(
    store: Store, topology: Topology
) -> None:
    """Nothing read yet: each stage has a state, a page and, where it has a tray, a first point."""
    bench = Bench(store, f"template:{topology.code}", number="T-9")
    for each in STAGES:
        assert each.state(bench.file).note
        assert each.page(bench.file, PageQuery()) is not None
        is_offered = each.has_tray and bool(each.points(bench.file, PageQuery()))
        assert (tray_point(bench.file, each, PageQuery()) is not None) == is_offered, each.key
    words = report(bench.file).unit.lower()
    assert words == topology.words.lower()


@pytest.mark.parametrize(
    ("ref", "says"),
    [
        ("CX1", ("approved X2 safety part", "with its switch off too", "Eye protection", "plug")),
        ("C12", ("105 °C", "Eye protection, distance and ventilation", "the plug at hand")),
        ("C80", ("Never reversed", "Eye protection, distance and ventilation")),
        ("F1", ("same current", "breaking capacity")),
    ],
)
def test_each_remedy_has_its_cautions_beside_it(
    store: Store, ref: str, says: tuple[str, ...]
) -> None:
    bench = Bench(store, parts="C80 10u 16V tant +5")
    bench.make_safe()
    what = {"F1": "OL"}.get(ref, "1p")
    bench.read(ref, "ohms" if ref == "F1" else "c", what, "lifted")
    panel = part_panel(bench.file, bench.part(ref))
    assert panel.facts.state.value == "failed"
    for text in says:
        assert text in panel.advice


@pytest.mark.parametrize("topology", list(Topology))
def test_no_remedy_that_fits_a_capacitor_lacks_its_caution(topology: Topology) -> None:
    fits_one = ("suppressor", "bulk-short", "bulk-dry", "filter-short", "bank-dry", "snubber")
    found = {h.id: h.remedy for h in knowledge_for(topology).groups if h.id in fits_one}
    assert {"filter-short", "bank-dry"} <= found.keys()
    for name, remedy in found.items():
        assert "Eye protection, distance and ventilation" in remedy, name
