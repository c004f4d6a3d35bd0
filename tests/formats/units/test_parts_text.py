"""Pasted parts lists: what people write is understood line by line, nothing is dropped."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds import by_code
from hale_rail.core.parts.markings import CapacitorMarking
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.core.supply.templates import Topology, template
from hale_rail.formats.units.part_words import write_part
from hale_rail.formats.units.parts_text import MAX_LINES, ParsedLine, read_parts
from hale_rail.formats.units.pasted_parts import Take, merged, with_parts

RAILS = template(Topology.FLYBACK).rails


def one(line: str) -> ParsedLine:
    lines = read_parts(line, RAILS)
    assert len(lines) == 1
    return lines[0]


def part(line: str) -> Part:
    found = one(line)
    assert found.part is not None, found.problem
    return found.part


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("C12 2200u 10V +5 out bank A",
         {"ref": "C12", "value": 2.2e-3, "volt": 10.0, "line": "+5 V", "role": "output-filter",
          "bank": "A", "family": Family.ALUMINIUM}),
        ("C3 X2 100n 275 paper",
         {"value": 1e-7, "volt": 275.0, "safety_class": "X2", "line": TRUNK,
          "family": Family.SUPPRESSION_PAPER, "is_primary": True}),
        ("C7\t4,7u\t63V\t+12\tnear heatsink",
         {"value": 4.7e-6, "volt": 63.0, "line": "+12 V", "note": "near heatsink"}),
        ("C8,470u,25V,-12", {"value": 470e-6, "volt": 25.0, "line": "−12 V"}),
        ("C8, 470u, 25V, −12 V", {"value": 470e-6, "volt": 25.0, "line": "−12 V"}),
        ("C9;2200;16;+5", {"value": 2.2e-3, "volt": 16.0, "line": "+5 V"}),
        ("c9 2200 uF 16 V +5 1984", {"ref": "C9", "value": 2.2e-3, "volt": 16.0, "year": 1984}),
        ("C10 4700µF/25V +12 -10/+50%",
         {"value": 4.7e-3, "volt": 25.0, "tolerance": (0.1, 0.5), "line": "+12 V"}),
        ("C11 10u 35V +5 tant", {"family": Family.TANTALUM}),
        ("C11 100u 35V +5 low-esr", {"grade": Grade.LOW}),
        ("C2 0.1 250 X2", {"value": 1e-7, "volt": 250.0, "family": Family.SUPPRESSION_FILM}),
        ("C1 220u 400V bulk main", {"role": "bulk", "line": TRUNK, "is_primary": True}),
        ("C5 470p", {"family": Family.CERAMIC}),
        ("C5 47n", {"family": Family.FILM}),
        ("R5 4k7 +5", {"kind": by_code("resistor"), "value": 4700.0, "is_primary": False}),
        ("F1 1.25A", {"kind": by_code("fuse"), "value": 1.25}),
        ("BR1", {"kind": by_code("bridge")}),
        ("RT1 10R", {"kind": by_code("thermistor"), "value": 10.0}),
        ("R9 100k bleeds c1", {"kind": by_code("resistor"), "bleeder_for": "C1"}),
        ("ZD1 5.1V +5", {"kind": by_code("zener"), "value": 5.1}),
        ("MOV1 275V", {"kind": by_code("varistor"), "value": 275.0}),
    ],
)  # fmt: skip
def test_understood(line: str, expected: dict[str, object]) -> None:
    found = part(line)
    for name, value in expected.items():
        actual = getattr(found, name)
        assert actual == (pytest.approx(value) if isinstance(value, float) else value), name


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("foo bar", "not a designator"),
        ("C99", "No capacitance"),
        ("C5 5F 10V", "between 0 F and 1 F"),
        ("C5 0 10V", "cannot have 0 F"),
        ("C4 100n 63V +24", "No rail +24"),
        ("C4 100u 90000V +5", "90000"),
        ("C4 100u 10V +5 900%", "tolerance"),
        ("C4 100x 10V", "not a unit"),
        ("2200u 10V C5", "not a designator"),
    ],
)
def test_a_line_that_cannot_be_used_says_why(line: str, says: str) -> None:
    found = one(line)
    assert found.part is None
    assert says in found.problem.replace("\u00a0", " ")


def test_assumptions_are_said() -> None:
    assert "aluminium assumed" in one("C5 10u 25V +5").told
    assert "film assumed: write paper if it is" in one("C5 X2 100n").told
    assert any("primary side assumed" in note for note in one("C5 10u 25V").told)
    assert one("C5 10u 25V alu +5").told == ()


def test_a_heading_is_named_and_repeats_are_kept() -> None:
    lines = read_parts("ref\tvalue\tvoltage\nC1 10u 25V +5\n\nC1 22u 25V +5\n", RAILS)
    assert [line.is_header for line in lines] == [True, False, False]
    assert [line.number for line in lines] == [1, 2, 4]
    assert "C1 is in line 2 too; both are kept" in lines[2].notes


@pytest.mark.parametrize(
    "text",
    [
        "ref,value,voltage,family,rail,bank,year,note\nC12,2200u,10,aluminium,+5,A,1984,warm\n",
        (
            "Value\tRef\tBank\tVolts\tRail\tType\tNote\tYear\n"
            "2200u\tC12\tA\t10 V\t+5\taluminium\twarm\t1984\n"
        ),
        'designator;value;v;type;rail;bank;year;note\nC12;"2200 uF";10;alu;+5 V;A;1984;warm\n',
    ],
)
def test_a_spreadsheets_columns_are_heeded(text: str) -> None:
    heading, row = read_parts(text, RAILS)
    assert heading.is_header
    found = row.part
    assert found is not None, row.problem
    assert (found.ref, found.value, found.volt) == ("C12", pytest.approx(2.2e-3), 10.0)
    assert (found.line, found.bank, found.year) == ("+5 V", "A", 1984)
    assert (found.family, found.note) == (Family.ALUMINIUM, "warm")
    assert row.text == text.splitlines()[1].strip()


def test_a_row_longer_than_its_heading_is_read_as_notes() -> None:
    _, row = read_parts("ref,value,volts\nC12,2200u,10V,+5,bank,A\n", RAILS)
    assert row.part
    assert (row.part.line, row.part.bank) == ("+5 V", "A")


def test_a_list_far_too_long_is_refused_whole() -> None:
    with pytest.raises(InputError, match=f"at most {MAX_LINES}"):
        read_parts("C1 10u 25V\n" * (MAX_LINES + 1), RAILS)


@given(st.text(max_size=300) | st.text(" \t,;|C12u", max_size=12))
def test_any_text_is_answered_line_by_line(text: str) -> None:
    """But for a row of nothing but separators, as a spreadsheet has them below its last."""
    lines = read_parts(text, RAILS)
    told = [t.strip() for t in text.splitlines() if not re.fullmatch(r'[\s,;|"\ufeff]*', t)]
    answered = {line.number: line.text for line in lines}
    assert list(answered.values()) == told
    for line in lines:
        assert line.part or line.problem or line.is_header
        if line.part:
            assert line.part.ref in line.understood


@given(st.integers(1, 99), st.sampled_from([1e-6, 4.7e-6, 2.2e-3]), st.integers(4, 400))
def test_separators_do_not_matter(number: int, farad: float, volt: int) -> None:
    words = [f"C{number}", f"{farad * 1e6:g}u", f"{volt}V", "+5"]
    found = [part(separator.join(words)) for separator in (" ", "\t", ",", ";", ", ", "  ")]
    assert len(set(found)) == 1
    assert found[0].value == pytest.approx(farad)


@given(
    st.sampled_from([1e-11, 4.7e-9, 1e-7, 2.2e-5, 2.2e-3, 0.015]),
    st.sampled_from([None, 6.3, 16.0, 400.0]),
    st.sampled_from(list(Family)),
    st.sampled_from(["", "bulk", "output-filter", "start-up"]),
    st.sampled_from([TRUNK, "+5 V", "−12 V"]),
    st.sampled_from(["", "A", "out"]),
    st.sampled_from([None, (0.2, 0.2), (0.1, 0.5)]),
    st.sampled_from(list(Grade)),
    st.sampled_from([None, 1984]),
)
def test_a_part_written_out_is_read_back(
    farad: float, volt: float | None, family: Family, role: str, line: str, bank: str,
    tolerance: tuple[float, float] | None, grade: Grade, year: int | None,
) -> None:  # fmt: skip
    marking = CapacitorMarking(
        farad, volt, family, "X2" if family.is_suppressor else "", tolerance, grade
    )
    given_part = Part(
        0, "C7", by_code("capacitor"), line, 0, marking, role, bank, "", year, line == TRUNK
    )
    back = part(f"C7 {write_part(given_part)}")
    assert back.value == pytest.approx(farad)
    assert back.tolerance == (pytest.approx(tolerance) if tolerance else None)
    read = back.capacitor
    assert read is not None
    assert replace(back, marking=replace(read, farad=farad, tolerance=tolerance)) == given_part


@pytest.mark.parametrize(
    "line", ["R5 4700R +5", "F1 1.25A main", "RT1 10R main", "D5 +5", "R9 150k main bleeds C1"]
)
def test_other_parts_written_out_are_read_back(line: str) -> None:
    found = part(line)
    assert part(f"{found.ref} {write_part(found)}") == found


@pytest.mark.parametrize(
    ("line", "refs", "value"),
    [
        ("D1-D4 +5", ["D1", "D2", "D3", "D4"], None),
        ("D1-4", ["D1", "D2", "D3", "D4"], None),
        ("D1 - D3", ["D1", "D2", "D3"], None),
        ("R3, R4 10k", ["R3", "R4"], 1e4),
        ("R3,R4,R7 10k", ["R3", "R4", "R7"], 1e4),
        ("C10/C11 & C12 2200u 10V +5", ["C10", "C11", "C12"], 2.2e-3),
        ("C5..C7 47u 16V +5", ["C5", "C6", "C7"], 4.7e-5),
        ("C1, C4-C5 100n", ["C1", "C4", "C5"], 1e-7),
        ("R1,R47", ["R1"], 0.47),
        ("F1,1.25A", ["F1"], 1.25),
        ("C8,470u,25V,-12", ["C8"], 4.7e-4),
    ],
)
def test_several_designators_in_a_line_are_a_part_each(
    line: str, refs: list[str], value: float | None
) -> None:
    found = read_parts(line, RAILS)
    assert [f.part.ref for f in found if f.part] == refs
    assert {f.number for f in found} == {1}
    assert all(f.part and f.part.value == (pytest.approx(value) if value else None) for f in found)


@pytest.mark.parametrize(
    ("line", "farad", "says"),
    [
        ("C5 104 50V ceramic +5", 1e-7, "code 104"),
        ("C5 473 film +5", 4.7e-8, "code 473"),
        ("C5 225 35V tant +5", 2.2e-6, "code 225"),
        ("C5 1000 25V alu +5", 1e-3, ""),
        ("C5 104 50V +5", None, "the code for 100 nF"),
        ("C5 8mF 450V", None, "8 µF or 8 mF"),
        ("D4-D1", None, "write the lower one first"),
        ("D1-D99", None, "at most 64"),
    ],
)
def test_what_has_two_meanings_is_asked_back(line: str, farad: float | None, says: str) -> None:
    found = one(line)
    assert (found.part.value if found.part else None) == (pytest.approx(farad) if farad else None)
    assert says in " ".join((*found.told, found.problem)).replace("\u00a0", " ")


def test_the_order_of_lines_does_not_matter() -> None:
    lines = ["C70 100u 35V +24", "rail +24 2A", "", ",,;", "R70 1k +24"]
    for text in ("\n".join(lines), "\n".join(reversed(lines))):
        found = read_parts(text, RAILS)
        assert [f.problem for f in found] == ["", "", ""]
        assert {f.part.line for f in found if f.part} == {"+24 V"}


@pytest.mark.parametrize(
    ("take", "line", "bank", "count"),
    [(Take.LIST, "+5 V", "A", 1), (Take.SHEET, "+12 V", "A", 1), (Take.BESIDE, "+12 V", "", 2)],
)
def test_a_named_line_outranks_the_template_unless_the_person_says_otherwise(
    take: Take, line: str, bank: str, count: int
) -> None:
    sheet = template(Topology.FLYBACK)
    old = next(p for p in sheet.capacitors if p.line == "+12 V")
    found = merged(sheet, f"{old.ref} 2200u 10V +5 out bank A\nC1 180u 400V", {old.ref: take})
    (clash,) = found.clashes.values()
    assert (clash.ref, clash.sheet_line, clash.list_line) == (old.ref, "+12 V", "+5 V")
    after = with_parts(sheet, found)
    own = [p for p in after.parts if p.ref == old.ref]
    assert len(own) == count
    assert own[0].line == line
    assert own[0].bank == (bank or old.bank)
    assert own[-1].value == pytest.approx(2.2e-3)
    bulk = next(p for p in after.parts if p.ref == "C1")
    assert (bulk.line, bulk.value) == (TRUNK, pytest.approx(1.8e-4))
    places = [p.order for p in after.on_line(own[-1].line) if not p.board]
    assert own[-1].order == max(places) or take is Take.SHEET


def test_what_is_only_assumed_does_not_outrank_the_sheet() -> None:
    sheet = template(Topology.FLYBACK)
    old = next(p for p in sheet.capacitors if p.line == "+12 V")
    marking = replace(old.marking, family=Family.TANTALUM)
    tantalum = replace(old, marking=marking)
    kept = tuple(tantalum if p.id == old.id else p for p in sheet.parts)
    for text, family, told in (
        (f"{old.ref} 470u 25V", Family.TANTALUM, 1),
        (f"{old.ref} 470u 25V alu", Family.ALUMINIUM, 1),
    ):
        found = merged(replace(sheet, parts=kept), text)
        assert (found.parts[0].family, found.parts[0].line) == (family, "+12 V")
        assert len(found.lines[0].told) == told
