"""The hand at the simulated bench: where probes are, what passes while time does."""

from __future__ import annotations

import math

import pytest

from hale_rail.bench.simulated.hand import Hand
from hale_rail.bench.simulated.scpi import OVERRUN, Output, SimulatedInstrument, block, figure
from hale_rail.core.errors import InputError
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.random_units import practice_sheet
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Topology

SHEET = practice_sheet(Topology.FLYBACK, 1984)


class Clock:
    """Time that passes when it is told to."""

    def __init__(self) -> None:
        self.at = 1000.0

    def __call__(self) -> float:
        return self.at


def hand(fault: str = "") -> tuple[Hand, Clock]:
    clock = Clock()
    return Hand(SimulatedUnit(SHEET, find_fault(SHEET, fault) if fault else None, 4), clock), clock


def test_loose_probes_show_nothing_conducting_and_next_to_no_volts() -> None:
    bench, _ = hand()
    assert bench.read(None, "ohms") == math.inf
    assert abs(bench.read(None, "volts")) < 1e-3


@pytest.mark.parametrize(
    ("target", "condition", "pair"),
    [("Z9", "", ""), ("Q1", "sideways", ""), ("Q1", "lifted", "B"), ("Q1", "lifted", "B>Z"),
     ("F1", "in-circuit", "A>K"), ("+3 V", "machine", "")],
)  # fmt: skip
def test_there_is_no_such_place(target: str, condition: str, pair: str) -> None:
    with pytest.raises(InputError):
        hand()[0].hold(target, condition, pair)


def test_a_store_falls_while_time_passes_at_the_bench() -> None:
    bench, clock = hand("dead:U9")
    at = bench.hold("C1", "", "")
    bench.power("mains")
    assert bench.read(at, "volts") == pytest.approx(325, rel=0.02)
    assert bench.read(at, "ohms") == math.inf
    bench.power("off")
    clock.at += 22.5
    # through the bleeder, the start resistor and the control beside it: some ten seconds
    assert 325 * math.exp(-22.5 / 9) < bench.read(at, "volts") < 325 * math.exp(-22.5 / 15)
    clock.at += 3600
    assert abs(bench.read(at, "volts")) < 1
    assert 2e4 < bench.read(at, "ohms") < 2e5


def test_four_wires_leave_the_leads_out() -> None:
    bench, _ = hand()
    at = bench.hold("F1", "in-circuit", "")
    two, four = bench.read(at, "ohms"), bench.read(at, "ohms-4")
    assert two - four == pytest.approx(bench.bench.meters.gain.lead_ohm)


@pytest.mark.parametrize(
    ("volt", "ampere", "is_on", "shown"),
    [
        (0.4, 1.0, True, (0.4, 0.4 / 150)), (0.4, 1e-3, True, (0.15, 1e-3)),
        (0.4, 1.0, False, (0.0, 0.0)),
    ],
)  # fmt: skip
def test_a_supply_gives_its_volts_or_its_amperes(
    volt: float, ampere: float, is_on: bool, shown: tuple[float, float]
) -> None:
    bench, _ = hand()
    at = bench.hold("+5 V", "isolated", "")
    assert bench.drawn(at, Output(volt, ampere, is_on)) == pytest.approx(shown, rel=0.03)
    assert bench.drawn(None, Output(volt, ampere, is_on))[1] == 0


def test_a_record_is_flat_until_there_is_power() -> None:
    bench, _ = hand()
    at = bench.hold("+5 V", "machine", "")
    flat = [float(row.split(",")[1]) for row in bench.record(at).splitlines()]
    assert max(map(abs, flat)) < 0.02
    bench.power("mains")
    live = [float(row.split(",")[1]) for row in bench.record(at).splitlines()]
    assert sum(live) / len(live) == pytest.approx(5.0, rel=0.03)


def test_an_error_queue_holds_so_much_and_says_so() -> None:
    instrument = SimulatedInstrument("meter", hand()[0])
    for _ in range(50):
        assert instrument.answer("NONSENSE") is None
    said = [instrument.answer("SYST:ERR?") for _ in range(33)]
    assert said[0] == '-113,"Undefined header"'
    assert said[31] == '-350,"Queue overflow"'
    assert said[32] == '0,"No error"'
    instrument.refuse(OVERRUN)
    assert instrument.answer("*CLS") is None
    assert instrument.answer("SYST:ERR?") == '0,"No error"'
    assert instrument.answer("   ") is None


@pytest.mark.parametrize(
    ("data", "sent"), [(b"", b"#10"), (b"abc", b"#13abc"), (b"x" * 120, b"#3120" + b"x" * 120)]
)
def test_a_block_tells_its_length(data: bytes, sent: bytes) -> None:
    assert block(data) == sent


@pytest.mark.parametrize(
    ("value", "text"), [(0.35, "+3.500000E-01"), (math.inf, "9.9E37"), (-12.0, "-1.200000E+01")]
)
def test_figures_are_written_as_instruments_do(value: float, text: str) -> None:
    assert figure(value) == text
