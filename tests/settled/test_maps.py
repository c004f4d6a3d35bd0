"""A map that is not the board: a ring that was drawn as a line."""

from __future__ import annotations

from collections import Counter

import pytest
from msgspec.structs import replace

from hale_rail.actions.readings import save_reading
from hale_rail.core.procedures import SPOT
from hale_rail.core.shorts.board import IDEAL_GROUND, Board, BoardPart
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.copper import CopperSegment, Net, Pad
from hale_rail.core.shorts.distrust import place_of
from hale_rail.core.shorts.meaning import advice
from hale_rail.core.shorts.next_probe import next_probe
from hale_rail.core.shorts.trace import Trace, trace
from hale_rail.core.shorts.without_map import Spot, least
from hale_rail.stages.shorts import trace as trace_stage
from hale_rail.stages.stage import PageQuery
from hale_rail.store.database import Store
from hale_rail.web import create_app
from tests.conftest import Bench
from tests.core.shorts.nodal import Short, volts

SIZE = 12
LINE = Net(
    tuple(Pad(f"R{i}", 10.0 * i, 0.0) for i in range(SIZE)),
    tuple(CopperSegment(f"R{i}", f"R{i + 1}", 5e-3) for i in range(SIZE - 1)),
)
RING = replace(LINE, segments=(*LINE.segments, CopperSegment("R11", "R0", 5e-3)))
PARTS = tuple(BoardPart(f"C{i}", f"C{i}", "tantalum", f"R{i}", IDEAL_GROUND) for i in range(SIZE))
DRAWN, TRUE = Board(LINE, None, PARTS), Board(RING, None, PARTS)


def read(asked: TraceReading, shorted: str, line: int) -> TraceReading:
    """What the true board shows, to a tenth of a millivolt."""
    inject, drain = asked.inject or asked.plus, asked.drain or asked.minus
    short = [Short(shorted, IDEAL_GROUND, 0.15)]
    found = volts(TRUE, short, (inject, drain), asked.amps if asked.kind is Kind.DROP else 1.0)
    value = found[asked.plus] - found[asked.minus]
    if asked.kind is Kind.OHMS:
        return replace(asked, value=value + 0.15, resolution=0.01, line=line)
    return replace(asked, value=round(value, 4), resolution=1e-4, line=line)


def followed(shorted: str, first: TraceReading) -> tuple[Trace, Counter[tuple[object, ...]]]:
    """Take what is proposed until nothing is, the first reading being one against the map."""
    readings = [read(first, shorted, 2)]
    asked: Counter[tuple[object, ...]] = Counter([place_of(first)])
    found = trace(DRAWN, readings)
    for line in range(3, 18):
        proposal = next_probe(found)
        if proposal is None or proposal.reading.kind is Kind.LIFTED:
            break
        asked[place_of(proposal.reading)] += 1
        readings.append(read(proposal.reading, shorted, line))
        found = trace(DRAWN, readings)
    return found, asked


AGAINST = TraceReading(Kind.DROP, "R11", "R10", "R0", IDEAL_GROUND)


@pytest.mark.parametrize("shorted", ["R6", "R8"])
def test_a_reading_against_the_map_is_asked_for_twice_at_most(shorted: str) -> None:
    _, asked = followed(shorted, AGAINST)
    assert max(asked.values()) <= 2


@pytest.mark.parametrize("shorted", ["R6", "R8"])
def test_read_twice_it_is_the_map_that_is_doubted(shorted: str) -> None:
    once = trace(DRAWN, [read(AGAINST, shorted, 2)])
    assert not once.doubt.readings and "leads swapped" in once.troubles[0].text
    found = trace(DRAWN, [read(AGAINST, shorted, 2), read(AGAINST, shorted, 3)])
    assert len(found.doubt.readings) == 2 and found.is_misfit and not found.troubles
    assert found.doubt.where == "copper from R0 to R11 is missing from it"
    proposal = next_probe(found)
    assert proposal and (proposal.reading.inject, proposal.reading.drain) == ("R11", "R10")
    said = advice(found, proposal)
    assert "doubt the map" in said and "tells the map from the short" in said


def test_a_reading_that_took_another_s_place_is_a_second_one() -> None:
    again = replace(read(AGAINST, "R8", 2), again=True)
    assert trace(DRAWN, [again]).doubt.readings == (again,)


def test_turned_leads_are_still_only_asked_about() -> None:
    right = TraceReading(Kind.DROP, "R1", "R3", "R0", IDEAL_GROUND)
    turned = replace(read(right, "R8", 2), value=-read(right, "R8", 2).value)
    found = trace(DRAWN, [turned])
    assert not found.is_misfit and "leads swapped" in found.troubles[0].text


MV = 1e-3


@pytest.mark.parametrize(
    ("spots", "name", "says"),
    [
        ([("C3", 41.2 * MV, 0.3 * MV), ("C7", 12.1 * MV, 0.2 * MV)], "C7", "Lift its leg"),
        ([("C3", 12.2 * MV, 0.3 * MV), ("C7", 12.1 * MV, 0.2 * MV)], "", "too coarse"),
        ([("C3", 41.2 * MV, 0.3 * MV)], "", "Read C9 next"),
        ([], "", "Read C9 next"),
    ],
)
def test_without_a_map_the_least_wins_by_more_than_the_meter_tells(
    spots: list[tuple[str, float, float]], name: str, says: str
) -> None:
    found = least([Spot(*spot) for spot in spots], ["C9"])
    assert found.name == name and says in found.text


def test_a_number_is_entered_at_each_suspect_without_a_map(store: Store) -> None:
    bench = Bench(store)
    bench.make_safe()
    page = trace_stage.page(bench.file, PageQuery(by="+5 V"))
    assert page and [s.part.ref for s in page.suspects] == ["C10", "C11"]
    for ref, text in (("C10", "31"), ("C11", "8.4 mV")):
        save_reading(store, bench.number, bench.part(ref).point(SPOT), text)
    page = trace_stage.page(bench.file, PageQuery(by="+5 V"))
    assert page.spots.name == "C11"
    with create_app(store).test_client() as client:
        text = client.get(f"/cases/{bench.number}/trace?by=%2B5%20V").get_data(as_text=True)
    assert "the least stands at C11" in text and "8.4\u00a0mV" in text
