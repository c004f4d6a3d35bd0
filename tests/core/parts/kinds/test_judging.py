"""Fuses, thermistors, junctions, resistors and windings by the table of expected readings."""

from __future__ import annotations

import math
from typing import Any

import pytest
from msgspec.structs import replace

from hale_rail.core.parts.kinds import by_code
from hale_rail.core.parts.kinds.bridge import PAIRS as JUNCTIONS
from hale_rail.core.parts.kinds.transistor import BASE
from hale_rail.core.parts.measured import Key, MeasuredValue, PartReadings
from hale_rail.core.parts.verdicts import Action, Judgement, Verdict
from hale_rail.core.procedures import BATTERY, BREAKDOWN, DIODE, OHMS
from hale_rail.core.supply.templates import make_part
from hale_rail.core.targets import Pair

G, W, X, U = Verdict.GOOD, Verdict.WORN, Verdict.FAILED, Verdict.UNPROVEN
OL = math.inf


Ways = dict[Pair, tuple[float | None, float | None]]


def judge(kind: str, taken: dict[Key, MeasuredValue], seen: str = "", **known: Any) -> Judgement:
    part = make_part(1, "P1", kind, "main", 1, **known)
    readings = PartReadings(taken, tuple(seen.split()))
    return part.kind.judge(part, readings)


def drops(ways: Ways, lifted: bool = False) -> dict[Key, MeasuredValue]:
    """Readings of pairs, forward and with the leads turned."""
    return {
        (DIODE.code, pair if way == 0 else pair.turned): MeasuredValue(volt, lifted)
        for pair, both in ways.items()
        for way, volt in enumerate(both)
        if volt is not None
    }


def judged(kind: str, value: float | None, lifted: bool, **values: float) -> tuple[str, str]:
    """A part by its ohms across, and by its first pair both ways."""
    pairs, across = by_code(kind).pairs, by_code(kind).across
    taken: dict[Key, MeasuredValue] = {}
    if "ohm" in values:
        taken[(OHMS.code, across)] = MeasuredValue(values["ohm"], lifted)
    if "forward" in values:
        taken |= drops({pairs[0]: (values["forward"], values.get("reverse"))}, lifted)
    found = judge(kind, taken, value=value)
    return found.verdict.value, found.action.value


@pytest.mark.parametrize(
    ("kind", "value", "lifted", "values", "verdict"),
    [
        ("fuse", 2.0, False, {"ohm": 0.4}, G),
        ("fuse", 0.25, False, {"ohm": 3.0}, G),
        ("fuse", 2.0, False, {"ohm": 3.0}, W),
        ("fuse", 2.0, False, {"ohm": OL}, X),
        ("thermistor", 10.0, False, {"ohm": 11.0}, G),
        ("thermistor", 10.0, False, {"ohm": 7.0}, U),
        ("thermistor", 10.0, False, {"ohm": 14.0}, W),
        ("thermistor", None, False, {"ohm": 45.0}, G),
        ("thermistor", 10.0, False, {"ohm": OL}, X),
        ("resistor", 4700.0, False, {"ohm": 4800.0}, U),
        ("resistor", 4700.0, True, {"ohm": 4800.0}, G),
        ("resistor", 4700.0, False, {"ohm": 5100.0}, U),  # unmarked, ±10 %
        ("resistor", 4700.0, False, {"ohm": 5190.0}, U),  # above by 20 Ω, 52 Ω of error
        ("resistor", 4700.0, True, {"ohm": 5190.0}, G),  # lifted, the milder verdict
        ("resistor", 4700.0, False, {"ohm": 5300.0}, X),
        ("resistor", 1.0, False, {"ohm": 1.5}, U),  # the leads may be half of it
        ("resistor", 1.0, False, {"ohm": 2.1}, X),
        ("resistor", 4700.0, False, {"ohm": 900.0}, U),
        ("resistor", 4700.0, True, {"ohm": 900.0}, X),
        ("resistor", 4700.0, False, {"ohm": OL}, X),
        ("diode", None, False, {"forward": 0.55, "reverse": OL}, G),
        ("diode", None, False, {"forward": 0.55}, U),
        ("diode", None, False, {"forward": OL, "reverse": OL}, X),
        ("diode", None, False, {"forward": 0.01, "reverse": 0.01}, U),
        ("diode", None, True, {"forward": 0.01, "reverse": 0.01}, X),
        ("diode", None, False, {"forward": OL, "reverse": 0.55}, U),  # leads turned?
        ("diode", None, True, {"forward": 0.9, "reverse": OL}, W),
        ("diode", None, True, {"forward": 0.2, "reverse": OL}, U),
        ("schottky", None, False, {"forward": 0.2, "reverse": OL}, G),
        ("schottky", None, False, {"forward": 0.6, "reverse": OL}, U),
        ("transistor", None, False, {"ohm": 0.3}, U),
        ("transistor", None, True, {"ohm": 0.0}, X),
        ("mosfet", None, False, {"ohm": 1e6}, U),
        ("regulator", None, True, {"ohm": 0.2}, X),
        ("regulator", None, False, {"ohm": 5e3}, U),
        ("fuse", 2.0, False, {"ohm": 1.4}, U),  # perhaps the leads
        ("thermistor", 10.0, False, {"ohm": 13.3}, U),  # inside by less than the error
        ("thermistor", 10.0, True, {"ohm": 12.6}, G),
        ("switch", None, False, {"ohm": 0.3}, G),
        ("choke", None, False, {"ohm": 0.1}, U),  # whole, but no proof against shorted turns
        ("transformer", None, False, {"ohm": 1.4}, U),
        ("transformer", None, False, {"ohm": OL}, X),
        ("fuse", 2.0, False, {}, U),
        ("diode", None, False, {"forward": 0.77, "reverse": OL}, U),
        ("diode", None, True, {"forward": 0.005}, X),
        ("zener", 5.1, False, {"forward": 0.6, "reverse": OL}, U),  # where it breaks down is unread
        ("zener", 2.7, False, {"forward": 0.7, "reverse": 2.6}, G),  # the meter reached it
        ("varistor", 275.0, False, {"ohm": OL}, G),
        ("varistor", 275.0, False, {"ohm": 4e3}, U),
        ("varistor", 275.0, True, {"ohm": 4e3}, X),
        ("scr", None, True, {"ohm": 0.4}, X),
        ("optocoupler", None, False, {"forward": 1.1, "reverse": OL}, U),  # one pair of two
    ],
)
def test_judgement(
    kind: str, value: float | None, lifted: bool, values: dict[str, float], verdict: Verdict
) -> None:
    assert judged(kind, value, lifted, **values)[0] == verdict.value


@pytest.mark.parametrize(
    ("role", "drop", "verdict"),
    [("", 0.37, G), ("", 0.72, G), ("fast", 0.37, G), ("fast", 0.72, U), ("", 0.34, U)],
)
def test_a_fast_diode_drops_less(role: str, drop: float, verdict: Verdict) -> None:
    found = judge("diode", drops({Pair("A", "K"): (drop, OL)}), role=role)
    assert found.verdict is verdict


def test_a_short_in_circuit_asks_for_a_lift() -> None:
    assert judged("transistor", None, False, ohm=0.3) == ("unproven", Action.LIFT.value)


def test_a_regulator_is_proven_by_its_rail() -> None:
    part = make_part(1, "U1", "regulator", "+5 V", 1)
    assert part.kind.judge(part, PartReadings(output_right=True)).verdict is G
    shorted = {(OHMS.code, part.kind.across): MeasuredValue(0.1, True)}
    assert part.kind.judge(part, PartReadings(shorted, output_right=True)).verdict is X


@pytest.mark.parametrize(("volt", "verdict"), [(3.5, U), (2.4, U), (2.39, W), (0.0, W)])
def test_a_backup_battery(volt: float, verdict: Verdict) -> None:
    found = judge("board", {(BATTERY.code, None): MeasuredValue(volt, False)})
    assert found.verdict is verdict
    assert "attery" in found.reasons[0].text


def test_a_blown_fuse_warns_of_the_second() -> None:
    found = judge("fuse", {(OHMS.code, None): MeasuredValue(OL, False)}, value=2.0)
    assert "second fuse" in found.reasons[0].sentence


def bridge(**ways: tuple[float | None, float | None]) -> tuple[str, str]:
    """Junctions by letter a–d in the kind's order; those not named read 0.55 V and OL."""
    named = zip("abcd", JUNCTIONS, strict=True)
    found = judge("bridge", drops({pair: ways.get(name, (0.55, OL)) for name, pair in named}))
    return found.verdict.value, found.reasons[0].text


@pytest.mark.parametrize(
    ("ways", "verdict", "says"),
    [
        ({}, "good", "All four"),
        ({"c": (OL, OL)}, "failed", "− to AC1: open both ways: a missing diode"),
        ({"b": (0.01, 0.01)}, "unproven", "AC2 to +: reads short in circuit"),
        ({"d": (0.38, OL)}, "unproven", "− to AC2: 380 mV forward"),
        ({"a": (None, None)}, "unproven", "3 of 4 pairs"),
        ({"a": (0.5, None)}, "unproven", "3 of 4"),
        ({"a": (OL, OL), "b": (0.0, 0.0)}, "failed", "AC1 to +"),
    ],
)
def test_a_bridge_is_four_junctions(
    ways: dict[str, tuple[float | None, float | None]], verdict: str, says: str
) -> None:
    found = bridge(**ways)
    assert found[0] == verdict
    assert says in found[1].replace("\u00a0", " ")


@pytest.mark.parametrize(
    ("kind", "lifted", "pairs", "verdict", "says"),
    [
        ("transistor", False, [(0.6, OL), (0.6, OL), (OL, OL)], "good", "C to E blocks"),
        ("transistor", False, [(0.6, OL), (0.6, OL), (OL, 0.5)], "good", "C to E blocks"),
        (
            "transistor",
            False,
            [(0.6, OL), (0.6, OL), (0.01, 0.01)],
            "unproven",
            "C to E: reads short",
        ),
        ("transistor", True, [(0.6, OL), (0.6, OL), (0.01, 0.01)], "failed", "C to E: reads short"),
        ("transistor", True, [(0.0, 0.0), (0.6, OL), (OL, OL)], "failed", "B to E: reads short"),
        ("transistor", False, [(OL, OL), (0.6, OL), (OL, OL)], "failed", "B to E: OL both"),
        ("transistor", False, [(0.6, OL), (0.6, OL)], "unproven", "2 of 3"),
        ("mosfet", False, [(0.5, OL), (OL, OL), (OL, OL)], "good", "gate is insulated"),
        ("mosfet", True, [(0.5, OL), (0.02, 0.02), (OL, OL)], "failed", "G to S: conducts"),
        ("mosfet", False, [(0.5, OL), (OL, OL), (0.5, OL)], "unproven", "G to D: conducts"),
    ],
)
def test_transistors_by_their_pairs(
    kind: str, lifted: bool, pairs: list[tuple[float, float]], verdict: str, says: str
) -> None:
    read = dict(zip(by_code(kind).pairs, pairs, strict=False))
    found = judge(kind, drops(read, lifted))
    assert found.verdict.value == verdict
    assert says in " ".join(reason.text for reason in found.reasons)


@pytest.mark.parametrize(
    ("drop", "lifted", "ohm", "verdict"),
    [
        (0.043, True, None, "unproven"),
        (0.001, True, None, "failed"),  # a dead short needs no ohms
        (0.043, True, 43.0, "good"),
        (0.043, True, 20.0, "good"),
        (0.043, True, 60.0, "good"),
        (0.018, True, 18.0, "failed"),
        (0.150, True, 150.0, "failed"),
        (0.043, False, 43.0, "unproven"),  # in circuit its drive may be what conducts
    ],
)
def test_a_resistor_inside_a_transistor(
    drop: float, lifted: bool, ohm: float | None, verdict: str
) -> None:
    ways = ((drop, drop), (0.6, OL), (OL, OL))
    taken = drops(dict(zip(by_code("transistor").pairs, ways, strict=True)), lifted)
    if ohm:
        taken[(OHMS.code, BASE)] = MeasuredValue(ohm, lifted)
    assert judge("transistor", taken).verdict.value == verdict


@pytest.mark.parametrize(
    ("kind", "pairs", "verdict"),
    [
        ("scr", [(0.6, OL), (OL, OL)], "good"),
        ("scr", [(0.6, OL), (0.01, 0.01)], "failed"),
        ("optocoupler", [(1.15, OL), (OL, OL)], "unproven"),
        ("optocoupler", [(1.15, OL), (0.1, 0.1)], "failed"),
        ("optocoupler", [(OL, OL), (OL, OL)], "failed"),
    ],
)
def test_further_parts_by_their_pairs(
    kind: str, pairs: list[tuple[float, float]], verdict: str
) -> None:
    read = dict(zip(by_code(kind).pairs, pairs, strict=True))
    assert judge(kind, drops(read, lifted=True)).verdict.value == verdict


@pytest.mark.parametrize(
    ("kind", "material", "base", "verdict"),
    [
        ("transistor", "darlington", 1.2, "good"),
        ("transistor", "", 1.2, "unproven"),
        ("transistor", "germanium", 0.25, "unproven"),  # its other junction reads silicon
        ("diode", "germanium", 0.25, "good"),
        ("diode", "", 0.25, "unproven"),
    ],
)
def test_the_sheet_says_what_a_junction_is_made_of(
    kind: str, material: str, base: float, verdict: str
) -> None:
    ways = ((base, OL), (0.6, OL), (OL, OL))
    read = dict(zip(by_code(kind).pairs, ways, strict=False))
    assert judge(kind, drops(read), material=material).verdict.value == verdict


@pytest.mark.parametrize(
    ("again", "gate", "verdict", "code"),
    [
        (False, OL, "unproven", "charged-gate"),
        (True, OL, "failed", "shorted"),  # read once more, the gate shorted to the source
        (False, 0.0, "failed", "shorted"),
    ],
)
def test_a_charged_gate_is_no_proof_of_a_short(
    again: bool, gate: float, verdict: str, code: str
) -> None:
    body, to_source, to_drain = by_code("mosfet").pairs
    taken = drops({body: (0.01, 0.01), to_source: (gate, gate), to_drain: (OL, OL)}, lifted=True)
    taken = {key: replace(t, again=again) for key, t in taken.items()}
    found = judge("mosfet", taken)
    assert found.verdict.value == verdict
    assert code in [reason.code for reason in found.reasons]


@pytest.mark.parametrize(
    ("volt", "lifted", "verdict"),
    [(5.1, False, G), (4.6, False, G), (4.5, False, U), (4.5, True, X), (5.7, False, X)],
)
def test_a_zener_is_proven_by_its_breakdown(volt: float, lifted: bool, verdict: Verdict) -> None:
    taken = drops({Pair("A", "K"): (0.6, OL)}, lifted)
    taken[(BREAKDOWN.code, None)] = MeasuredValue(volt, lifted)
    assert judge("zener", taken, value=5.1).verdict is verdict


@pytest.mark.parametrize("kind", ["controller", "tube", "connector", "inlet"])
def test_what_is_only_looked_at(kind: str) -> None:
    assert judge(kind, {}, "none").verdict is G
    assert judge(kind, {}, "burnt").verdict is X
    assert judge(kind, {}).verdict is U
