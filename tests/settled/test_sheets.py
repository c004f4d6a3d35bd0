"""Sheets of other benches: what a pasted line means, and what it takes of a template."""

from __future__ import annotations

from typing import Any

import pytest

from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.core.supply.templates import template
from hale_rail.formats.units.parts_text import read_parts
from hale_rail.formats.units.pasted_parts import merged, with_parts
from tests.settled.judging import judge, part_of

FLYBACK = template(Topology.FLYBACK)


def read(line: str) -> Part:
    (found,) = read_parts(line, FLYBACK.rails)
    assert found.part, found.problem
    return found.part


@pytest.mark.parametrize(
    ("line", "kind", "value", "volt", "more"),
    [
        ("C3 10 nanofarad X2", "capacitor", 10e-9, None, "X2"),
        ("C4 3300 picofarad", "capacitor", 3.3e-9, None, "film"),
        ("C5 220 microfarads 25 volts", "capacitor", 220e-6, 25.0, "aluminium"),
        ("CY8 3n3 Y 400V", "capacitor", 3.3e-9, 400.0, "Y2"),
        ("CX1 100n 305V~", "capacitor", 100e-9, 305.0, "X2"),
        ("CX2 100n ~275V", "capacitor", 100e-9, 275.0, "X2"),
        ("C7 47n X 250VAC", "capacitor", 47e-9, 250.0, "X2"),
        ("C10 1n 1kV snubber", "capacitor", 1e-9, 1000.0, "snubber"),
        ("C9 X1/Y2 2n2 250V", "capacitor", 2.2e-9, 250.0, "Y2"),
        ("CX9 X1/Y2 2n2", "capacitor", 2.2e-9, None, "X1"),
        ("C40 100n across-switch", "capacitor", 100e-9, None, "across-switch"),
        ("F1 T4A 250V", "fuse", 4.0, 250.0, "T"),
        ("F2 1.6A T 250V", "fuse", 1.6, 250.0, "T"),
        ("F3 FF 500mA", "fuse", 0.5, None, "FF"),
        ("U2 7905 -12", "regulator", None, None, "7905"),
        ("U5 74LS00", "chip", None, None, "74LS00"),
        ("U7 4116 ram", "chip", None, None, "4116"),
        ("UA13 logic", "chip", None, None, ""),
        ("U1", "regulator", None, None, ""),
        ("VR1 10k", "trimmer", 10e3, None, ""),
        ("Q3 SCR 400V", "scr", None, None, "400V"),
        ("D5 zener 12V", "zener", 12.0, None, ""),
        ("CR4", "diode", None, None, ""),
        ("BT1 3.6V", "battery", 3.6, None, ""),
        ("X1 4MHz", "crystal", 4e6, None, ""),
        ("K1 12V", "relay", None, None, ""),
        ("LP1", "lamp", None, None, ""),
        ("R6 4.7 kilohm", "resistor", 4700.0, None, ""),
    ],
)
def test_a_line_of_a_list(
    line: str, kind: str, value: float | None, volt: float | None, more: str
) -> None:
    part = read(line)
    assert part.kind.code == kind
    assert part.value == (pytest.approx(value) if value else None)
    assert part.volt == (pytest.approx(volt) if volt else None)
    speed = getattr(part.marking, "speed", "")
    said = (part.safety_class, part.role, part.note, speed, part.family and part.family.value)
    assert not more or more in said


@pytest.mark.parametrize("line", ["C3 10 nanofoo X2", "C3 10 milihenry"])
def test_a_word_that_looks_like_a_unit_and_is_none_refuses_the_line(line: str) -> None:
    (found,) = read_parts(line, FLYBACK.rails)
    assert "is not a unit" in found.problem


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("C3 100n 250V X2", "C3 X2 250V 100n"),
        ("C3 100 nF 250 V X2", "C3 100 nanofarads 250 volts X2"),
        ("C3 4700 pF X2", "C3 4.7 nF X2"),
        ("C3\t2200u\t10V\t+5\tout", "C3,2200u,10V,+5,out"),
        ("F1 T4A 250V", "F1 4A T 250V"),
    ],
)
def test_order_spelling_and_separators_change_nothing(one: str, other: str) -> None:
    assert read(one) == read(other)


def taken(*lines: str, **more: Any) -> Sheet:
    return with_parts(FLYBACK, merged(FLYBACK, "\n".join(lines)), **more)


def on(sheet: Sheet, ref: str) -> Part:
    return next(p for p in sheet.parts if p.ref == ref)


@pytest.mark.parametrize(
    ("line", "ref", "role", "line_of", "volt"),
    [
        ("C10 2000u", "C10", "output-filter", "+5 V", 10.0),  # the template's, corrected
        ("C10 1n 1kV snubber", "C10", "snubber", "main", 1000.0),
        ("C10 150u", "C10", "", "main", None),  # 2200 µF are fifteen times that
        ("C10 2200u 16V main", "C10", "", "main", 16.0),  # the other side
        ("D10 zener 12V +5", "D10", "", "+5 V", None),
        ("Q1 mosfet", "Q1", "", "main", None),
    ],
)
def test_what_a_line_takes_of_the_template(
    line: str, ref: str, role: str, line_of: str, volt: float | None
) -> None:
    part = on(taken(line), ref)
    assert (part.role, part.line, part.volt) == (role, line_of, volt)
    assert len([p for p in taken(line).parts if p.ref == ref]) == 1


def test_a_fuse_of_the_list_is_not_the_templates() -> None:
    fuse = on(taken("F1 T4A 250V"), "F1")
    assert (fuse.value, fuse.volt, fuse.line) == (4.0, 250.0, "main")


def test_what_no_line_names_is_kept_or_dropped() -> None:
    lines = ("C10 2200u 16V +5", "C1 150u 400V bulk main", "rail +12 2A")
    found = merged(FLYBACK, "\n".join(lines))
    assert {"C13", "RT1", "CX1"} <= {p.ref for p in found.unnamed}
    assert [rail.key for rail in found.unnamed_rails] == ["−12 V"]
    kept = taken(*lines)
    assert on(kept, "RT1") and kept.rail("−12 V")
    left = taken(*lines, dropped=("RT1",), lost_rails=("−12 V", "+5 V"))
    assert [rail.key for rail in left.rails] == ["+5 V", "+12 V"]  # a named rail stays
    assert not {"RT1", "C13", "D13", "L13"} & {p.ref for p in left.parts}
    assert on(left, "P1").rails == ("+5 V", "+12 V")


def test_an_alternating_rail_is_none_of_nine_volts_dc() -> None:
    (found,) = read_parts("rail 9VAC 2A", FLYBACK.rails)
    assert found.rail and (found.rail.key, found.rail.is_ac) == ("9 V AC", True)


AC = {"key": "9 V AC", "nominal_v": 9, "kind": "ac", "regulation": "raw"}


@pytest.mark.parametrize(
    ("value", "verdict"),
    [("9.4 VAC", "pass"), ("9.4", "pass"), ("7.2 V~", "fail"), ("12.5", "fail"), ("0.0", "fail")],
)
def test_an_alternating_rail_has_a_band_of_its_own(value: str, verdict: str) -> None:
    found = judge(f"9 V AC|volts|machine|{value}", rails=[AC], topology="linear")
    assert found["problems"] == []
    assert found["rails"][0]["volts"]["machine"]["verdict"] == verdict


def test_dc_on_an_alternating_rail_is_asked_back() -> None:
    (problem,) = judge("9 V AC|volts|machine|12 VDC", rails=[AC])["problems"]
    assert "set the meter to AC" in problem["text"]


def test_unknown_roles_and_keys_are_named_and_the_rest_is_read() -> None:
    parts = [
        {"ref": "C1", "kind": "capacitor", "value": "100u", "volt": 25, "role": "smoothing"},
        {"ref": "F1", "kind": "fuse", "fuse": {"amps": 1.6, "speed": "T", "volts": 250}},
    ]
    found = judge(
        "F1|replaced||T4A 250V", "F1|ohms|lifted|0.1", parts=parts, colour="grey", self_loaded=True
    )
    said = " ".join(problem["text"] for problem in found["problems"])
    assert "smoothing" in said and "colour" in said
    assert part_of(found, "C1")["verdict"] == "unread"
    assert part_of(found, "F1")["verdict"] == "failed"  # 4 A where the sheet has 1.6 A


@pytest.mark.parametrize(
    ("fitted", "verdict"),
    [
        ("T1.6A 250V", "good"), ("1.6 A", "good"), ("T 2 A 250 V", "failed"), ("F1.6A", "failed"),
        ("T1.6A 125V", "failed"), ("T500mA 250V", "good"), ("", "good"), ("the same", "good"),
    ],
)  # fmt: skip
def test_a_fuse_is_compared_with_its_sheet(fitted: str, verdict: str) -> None:
    parts = [{"ref": "F1", "kind": "fuse", "fuse": {"amps": 1.6, "speed": "T", "volts": 250}}]
    found = judge(f"F1|replaced||{fitted}", "F1|ohms|lifted|0.1", parts=parts)
    assert found["problems"] == []
    assert part_of(found, "F1")["verdict"] == verdict
