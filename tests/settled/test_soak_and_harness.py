"""Soaks and harnesses of other benches, settled on paper: what fails, what is not invented."""

from __future__ import annotations

import numpy as np
import pytest

from hale_rail.core.bring_up.harness import Harness, plan
from hale_rail.core.bring_up.wiring import wire_ohm
from hale_rail.core.errors import InputError
from hale_rail.core.soak.soak import Sample, SoakLimits, SoakVerdict, soak
from hale_rail.formats.readings.soak_csv import of_rail, read_log
from hale_rail.formats.workshop.harness_csv import check_words, read_source, read_target

FIVE = SoakLimits(4.75, 5.25, hours=24, nominal_v=5.0)
TWELVE = SoakLimits(11.4, 12.6, hours=24, nominal_v=12.0)


def rows(*parts: tuple[float, float, float]) -> list[Sample]:
    """A row each five minutes; parts as hours from, hours to, volts."""
    return [
        Sample(300.0 * n, volt)
        for begin, end, volt in parts
        for n in range(round(begin * 12), round(end * 12))
    ]


FINE = rows((0, 24.1, 5.0))
HUNG = Sample(3600 * 5.6, float("nan"), event="hung")
RESET = Sample(3600 * 23.0, 5.0, event="reset")
PASSED = Sample(3600 * 5.6, float("nan"), event="test-passed")


@pytest.mark.parametrize(("samples", "asked", "verdict", "words"), [
    (FINE, FIVE, SoakVerdict.PASS, ""),
    # in the first half hour: +18 % of a logic rail; 12 V may be 14.2 V there, not 15 V
    (rows((0, 0.2, 5.0), (0.2, 0.3, 5.92), (0.3, 24.1, 5.0)), FIVE, SoakVerdict.FAIL, "5.92"),
    (rows((0, 0.3, 14.2), (0.3, 24.1, 12.0)), TWELVE, SoakVerdict.PASS, ""),
    (rows((0, 0.3, 15.0), (0.3, 24.1, 12.0)), TWELVE, SoakVerdict.FAIL, "Power off at once"),
    # −12 V at −15 V is as much of one; at +15 V it is another fault, told as outside its limits
    (rows((0, 0.3, -15.0), (0.3, 24.1, -12.0)), SoakLimits(-12.6, -11.4, nominal_v=-12.0),
     SoakVerdict.FAIL, "Over-voltage"),
    # 21 h of silence of 24 h; 6 h are a quarter, which is enough
    (rows((0, 2, 5.0), (23, 24.1, 5.0)), FIVE, SoakVerdict.TOO_SHORT, "a quarter of 24 h"),
    (rows((0, 8, 5.0), (13.9, 24.1, 5.0)), FIVE, SoakVerdict.PASS, "Nothing was read from"),
    # the machine hangs: it fails with its time, whatever the volts; a passed test is none
    ([*FINE, HUNG], FIVE, SoakVerdict.FAIL, "After 5.60 h the machine hung"),
    ([*FINE, RESET], FIVE, SoakVerdict.FAIL, "After 23.00 h the machine reset itself"),
    ([*FINE, PASSED], FIVE, SoakVerdict.PASS, ""),
    # what came after the failure is not of this soak
    ([*rows((0, 5.6, 5.0), (5.6, 24.1, 1.0)), HUNG], FIVE, SoakVerdict.FAIL, "After 5.60 h"),
])  # fmt: skip
def test_what_a_soak_comes_to(
    samples: list[Sample], asked: SoakLimits, verdict: SoakVerdict, words: str
) -> None:
    found = soak(samples, asked)
    said = " ".join(found.reasons).replace("\u00a0", " ")
    assert found.verdict is verdict, said
    assert words in said


def test_a_soak_ends_with_the_failure() -> None:
    found = soak([*rows((0, 5.6, 5.0), (5.7, 24.1, 1.0)), HUNG], FIVE)
    assert found.hours == pytest.approx(5.6)
    assert found.min_v == 5.0


def pink(count: int, sigma: float, seed: int) -> np.ndarray:
    """Noise whose power falls as 1/f, of so many volts rms."""
    random = np.random.default_rng(seed)
    spectrum = np.fft.rfft(random.normal(size=count))
    share = np.fft.rfftfreq(count)
    spectrum[1:] /= np.sqrt(share[1:])
    spectrum[0] = 0
    found = np.fft.irfft(spectrum, count)
    return np.asarray(found / found.std() * sigma)


@pytest.mark.parametrize("count", [96, 289, 1441])
def test_noise_of_one_over_f_is_rarely_a_drift(count: int) -> None:
    false = 0
    for seed in range(200):
        at_s = np.arange(count) * 24.0 * 3600 / (count - 1)
        volts = 5.0 + pink(count, 0.008, seed)
        samples = [Sample(*row) for row in zip(at_s, volts, strict=True)]
        trend = soak(samples, FIVE).trend
        assert trend is not None
        false += trend.is_proven
    assert false <= 0.05 * 200 + 5  # 5 %, and what chance adds to it in 200 series


def test_a_true_drift_is_still_found() -> None:
    at_s = np.arange(289) * 300.0
    volts = 5.0 + 0.005 * at_s / 3600 + pink(289, 0.004, 7)
    found = soak([Sample(*row) for row in zip(at_s, volts, strict=True)], FIVE)
    assert found.verdict is SoakVerdict.DRIFTING


LOG = """at,volts,rail,event
0,5.01,+5 V,
3600,12.02,+12 V,
7200,,,Test passed 3 times
10800,5.00,+5 V,hangs
"""


def test_a_machines_events_are_of_every_rail() -> None:
    events = {rail: [row.event for row in of_rail(read_log(LOG), rail) if row.event]
              for rail in ("+5 V", "+12 V")}  # fmt: skip
    assert events == {"+5 V": ["test-passed", "hung"], "+12 V": ["test-passed", "hung"]}
    with pytest.raises(InputError, match="event “on fire” is not one of"):
        read_log("at,volts,event\n0,5,on fire\n")


SOURCE = "rail_v,amps,conductors,awg,pin_amps\n5,20,4,18,6\n12,8,2,28,6\n0,,6,18,6\n"
TARGET = "pin,kind,rail_v,amps\n"


def planned(source: str, target: str) -> Harness:
    """The plan of two tables."""
    return plan(read_source(source), read_target(TARGET + target))


def said_of(found: Harness) -> str:
    """What is to be minded, with plain spaces."""
    return "\n".join(found.warnings).replace("\u00a0", " ")


def test_without_currents_nothing_is_invented() -> None:
    found = planned("rail_v,amps,conductors\n5,20,1\n0,,1\n", "1,rail,5,\n2,rail,5,\n3,ground,,\n")
    assert [(wire.amps, wire.drop_v, wire.mv_per_a) for wire in found.wires] == [(None,) * 3] * 3
    assert said_of(found).count("current is not known") == 1
    assert not any(word in said_of(found) for word in (" W", "conductors are wanted", "contact"))
    known = planned(SOURCE, "1,rail,5,\n3,ground,,\n").wires[0]
    assert known.mv_per_a == pytest.approx(1e3 * (wire_ohm(18, 0.4) + 0.010))


def test_a_total_is_shared_by_the_pins_of_its_rail() -> None:
    found = planned(SOURCE, "1,rail,5,9 total\n2,rail,5,\n3,rail,5,1\n4,ground,,\n")
    assert [wire.amps for wire in found.wires] == pytest.approx([4.0, 4.0, 1.0, 9.0])
    for target, words in (
        ("1,rail,5,2 total\n2,rail,5,3\n", "draw more than their total of 2 A"),
        ("1,rail,5,2 total\n2,rail,5,3 total\n", "two totals"),
    ):
        with pytest.raises(InputError, match=words):
            read_target(TARGET + target)


def test_a_thin_wire_is_told_by_its_own_limit() -> None:
    # 28 AWG is 0.081 mm²: at 3 A its contact is well, its copper carries 37 A a square millimetre
    found = said_of(planned(SOURCE, "1,rail,12,3\n2,ground,,\n"))
    assert "3 A through one conductor of AWG 28, which bears 570 mA" in found
    assert "AWG" not in said_of(planned(SOURCE, "1,rail,5,5\n2,ground,,\n"))


def test_a_pin_of_alternating_volts_is_fed_by_such_a_rail_only() -> None:
    target = "1,ac,9,1\n2,rail,9 VAC,1\n3,rail,5,1\n4,ground,,\n"
    alone = planned(SOURCE + "9,5,2,18,6\n", target)
    assert [volt for volt, _ in alone.missing] == [9.0]
    assert "mains transformer of 18 VA or more" in alone.missing[0][1]
    fed = planned(SOURCE + "9~,5,2,18,6\n", target)
    assert not fed.missing
    # ground carries what the rails of direct current draw
    assert fed.wires[-1].amps == pytest.approx(1.0)
    words = "\n".join(check_words(fed)).replace("\u00a0", " ")
    assert "pin 1: 9 V AC, 8.1 V to 11.7 V, source on" in words
