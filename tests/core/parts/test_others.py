"""Fuses, thermistors, junctions, resistors and windings by the table of expected readings."""

from __future__ import annotations

import math

import pytest

from hale_rail.core.parts.capacitors import Taken
from hale_rail.core.parts.others import JUNCTIONS, PAIRS, PartReadings, judge_part
from hale_rail.core.parts.verdicts import Action, Verdict
from hale_rail.core.supply.sheet import Kind, Station

G, W, X, U = Verdict.GOOD, Verdict.WORN, Verdict.FAILED, Verdict.UNPROVEN
OL = math.inf


def judged(kind: Kind, value: float | None, lifted: bool, **values: float) -> tuple[str, str]:
    station = Station(1, "P1", kind, "main", 1, value)
    readings = PartReadings(**{name: Taken(v, lifted) for name, v in values.items()})
    found = judge_part(station, readings)
    return found.verdict.value, found.action.value


@pytest.mark.parametrize(
    ("kind", "value", "lifted", "values", "verdict"),
    [
        (Kind.FUSE, 2.0, False, {"ohm": 0.4}, G),
        (Kind.FUSE, 0.25, False, {"ohm": 3.0}, G),
        (Kind.FUSE, 2.0, False, {"ohm": 3.0}, W),
        (Kind.FUSE, 2.0, False, {"ohm": OL}, X),
        (Kind.THERMISTOR, 10.0, False, {"ohm": 11.0}, G),
        (Kind.THERMISTOR, 10.0, False, {"ohm": 7.0}, U),
        (Kind.THERMISTOR, 10.0, False, {"ohm": 14.0}, W),
        (Kind.THERMISTOR, None, False, {"ohm": 45.0}, G),
        (Kind.THERMISTOR, 10.0, False, {"ohm": OL}, X),
        (Kind.RESISTOR, 4700.0, False, {"ohm": 4800.0}, U),
        (Kind.RESISTOR, 4700.0, True, {"ohm": 4800.0}, G),
        (Kind.RESISTOR, 4700.0, False, {"ohm": 5100.0}, X),
        (Kind.RESISTOR, 4700.0, False, {"ohm": 900.0}, U),
        (Kind.RESISTOR, 4700.0, True, {"ohm": 900.0}, X),
        (Kind.RESISTOR, 4700.0, False, {"ohm": OL}, X),
        (Kind.DIODE, None, False, {"forward": 0.55, "reverse": OL}, G),
        (Kind.DIODE, None, False, {"forward": 0.55}, U),
        (Kind.DIODE, None, False, {"forward": OL, "reverse": OL}, X),
        (Kind.DIODE, None, False, {"forward": 0.01, "reverse": 0.01}, U),
        (Kind.DIODE, None, True, {"forward": 0.01, "reverse": 0.01}, X),
        (Kind.DIODE, None, False, {"forward": OL, "reverse": 0.55}, G),  # leads turned
        (Kind.DIODE, None, True, {"forward": 0.9, "reverse": OL}, W),
        (Kind.DIODE, None, True, {"forward": 0.2, "reverse": OL}, U),
        (Kind.SCHOTTKY, None, False, {"forward": 0.2, "reverse": OL}, G),
        (Kind.SCHOTTKY, None, False, {"forward": 0.6, "reverse": OL}, U),
        (Kind.TRANSISTOR, None, False, {"ohm": 0.3}, U),
        (Kind.TRANSISTOR, None, True, {"ohm": 0.0}, X),
        (Kind.MOSFET, None, False, {"ohm": 1e6}, U),
        (Kind.REGULATOR, None, True, {"ohm": 0.2}, X),
        (Kind.REGULATOR, None, False, {"ohm": 5e3}, U),
        (Kind.CHOKE, None, False, {"ohm": 0.1}, G),
        (Kind.TRANSFORMER, None, False, {"ohm": OL}, X),
        (Kind.FUSE, 2.0, False, {}, U),
    ],
)
def test_judgement(
    kind: Kind, value: float | None, lifted: bool, values: dict[str, float], verdict: Verdict
) -> None:
    assert judged(kind, value, lifted, **values)[0] == verdict.value


@pytest.mark.parametrize(
    ("role", "drop", "verdict"),
    [("", 0.37, G), ("", 0.72, G), ("fast", 0.37, G), ("fast", 0.72, U), ("", 0.34, U)],
)
def test_a_fast_diode_drops_less(role: str, drop: float, verdict: Verdict) -> None:
    station = Station(1, "D1", Kind.DIODE, "main", 1, role=role)
    readings = PartReadings(forward=Taken(drop, False), reverse=Taken(OL, False))
    assert judge_part(station, readings).verdict is verdict


def test_a_short_in_circuit_asks_for_a_lift() -> None:
    assert judged(Kind.TRANSISTOR, None, False, ohm=0.3) == ("unproven", Action.LIFT.value)


def test_a_regulator_is_proven_by_its_rail() -> None:
    station = Station(1, "U1", Kind.REGULATOR, "+5 V", 1)
    assert judge_part(station, PartReadings(output_right=True)).verdict is G
    shorted = PartReadings(ohm=Taken(0.1, True), output_right=True)
    assert judge_part(station, shorted).verdict is X


@pytest.mark.parametrize(("volt", "verdict"), [(3.5, U), (2.4, U), (2.39, W), (0.0, W)])
def test_a_backup_battery(volt: float, verdict: Verdict) -> None:
    board = Station(1, "Main board", Kind.BOARD, "", 1)
    found = judge_part(board, PartReadings(battery=Taken(volt, False)))
    assert found.verdict is verdict
    assert "attery" in found.reasons[0].text


def test_a_blown_fuse_warns_of_the_second() -> None:
    found = judge_part(Station(1, "F1", Kind.FUSE, "main", 1, 2.0), PartReadings(Taken(OL, False)))
    assert "second fuse" in found.reasons[0].sentence


def bridge(**ways: tuple[float | None, float | None]) -> tuple[str, str]:
    """Junctions by letter a–d in the order of `JUNCTIONS`; those not named read 0.55 V and OL."""
    pairs = {
        name: tuple(None if v is None else Taken(v, False) for v in ways.get(letter, (0.55, OL)))
        for letter, name in zip("abcd", JUNCTIONS, strict=True)
    }
    station = Station(1, "BR1", Kind.BRIDGE, "main", 1)
    found = judge_part(station, PartReadings(junctions=pairs))  # type: ignore[arg-type]
    return found.verdict.value, found.reasons[0].text


@pytest.mark.parametrize(
    ("ways", "verdict", "says"),
    [
        ({}, "good", "All four"),
        ({"c": (OL, OL)}, "failed", "− to AC1 is open both ways: a missing diode"),
        ({"b": (0.01, 0.01)}, "unproven", "AC2 to +: conducts both ways"),
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
        (Kind.TRANSISTOR, False, [(0.6, OL), (0.6, OL), (OL, OL)], "good", "C–E blocks"),
        (Kind.TRANSISTOR, False, [(0.6, OL), (0.6, OL), (0.5, OL)], "good", "C–E blocks"),
        (Kind.TRANSISTOR, False, [(0.6, OL), (0.6, OL), (0.01, 0.01)], "unproven", "C–E: cond"),
        (Kind.TRANSISTOR, True, [(0.6, OL), (0.6, OL), (0.01, 0.01)], "failed", "C–E: conducts"),
        (Kind.TRANSISTOR, True, [(0.0, 0.0), (0.6, OL), (OL, OL)], "failed", "B–E: conducts"),
        (Kind.TRANSISTOR, False, [(OL, OL), (0.6, OL), (OL, OL)], "failed", "B–E: oL both"),
        (Kind.TRANSISTOR, False, [(0.6, OL), (0.6, OL)], "unproven", "2 of 3"),
        (Kind.MOSFET, False, [(0.5, OL), (OL, OL), (OL, OL)], "good", "gate is insulated"),
        (Kind.MOSFET, True, [(0.5, OL), (0.02, 0.02), (OL, OL)], "failed", "G–S: conducts"),
        (Kind.MOSFET, False, [(0.5, OL), (OL, OL), (0.5, OL)], "unproven", "G–D: conducts"),
    ],
)
def test_transistors_by_their_pairs(
    kind: Kind, lifted: bool, pairs: list[tuple[float, float]], verdict: str, says: str
) -> None:
    read = {
        name: (Taken(pair[0], lifted), Taken(pair[1], lifted))
        for name, pair in zip(PAIRS[kind], pairs, strict=False)
    }
    station = Station(1, "Q1", kind, "main", 1)
    found = judge_part(station, PartReadings(junctions=read))  # type: ignore[arg-type]
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
    both = (Taken(drop, lifted), Taken(drop, lifted))
    sound = (Taken(0.6, lifted), Taken(OL, lifted))
    blocks = (Taken(OL, lifted), Taken(OL, lifted))
    read = dict(zip(PAIRS[Kind.TRANSISTOR], (both, sound, blocks), strict=True))
    readings = PartReadings(junctions=read, base_ohm=Taken(ohm, lifted) if ohm else None)
    found = judge_part(Station(1, "Q1", Kind.TRANSISTOR, "main", 1), readings)
    assert found.verdict.value == verdict
