"""Each row of the table of what may replace what, at its edges."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.recap.any_part import fit, level_of
from hale_rail.core.recap.findings import Level
from hale_rail.core.recap.needs import Build, Mount, Needs, Role, usual_role

AL, BI, TA, PO = Family.ALUMINIUM, Family.ALUMINIUM_BIPOLAR, Family.TANTALUM, Family.POLYMER
FILM, CER, SF, SP = Family.FILM, Family.CERAMIC, Family.SUPPRESSION_FILM, Family.SUPPRESSION_PAPER
OK, FLAG, NO = Level.ALLOWED, Level.FLAGGED, Level.REFUSED
#: typical ESR of the old 2200 µF 10 V, general grade: 22 000 µF·V lies between the table's points
OLD_ESR = 3 * 0.046 * (0.032 / 0.046) ** (0.318454 / 0.446287)


def needs(role: Role, family: Family = AL, farad: float = 100e-6, **more: Any) -> Needs:
    return Needs("a", "C1", role, family, farad, more.pop("volt", 25.0), **more)


def part(family: Family = AL, farad: float = 100e-6, **more: Any) -> Build:
    return Build(family, farad, more.pop("volt", 25.0), temp_c=more.pop("temp_c", 105.0), **more)


def stands(asked: Needs, offered: Build, level: Level, code: str = "") -> None:
    found = fit(asked, offered)
    assert found.level is level, found
    assert level_of(asked, offered) is level
    assert (found.miss > 0) == (level is NO)
    if code:
        assert code in {f.code for f in found.findings if f.level is level}, found
        assert found.why
    else:
        assert not found.findings


BANDS = [
    (Role.BULK, AL, 1.0, 1.5),
    (Role.RAW_FILTER, AL, 1.0, 1.5),
    (Role.OUTPUT_FILTER, FILM, 1.0, 2.0),
    (Role.START_UP, AL, 0.8, 1.2),
    (Role.TIMING, FILM, 0.8, 1.2),
    (Role.COUPLING, FILM, 0.8, 1.2),
    (Role.DECOUPLING, CER, 1.0, 2.2),
    (Role.SNUBBER, FILM, 0.9, 1.1),
]


@pytest.mark.parametrize(("role", "family", "low", "high"), BANDS)
def test_capacitance_stays_in_the_roles_band(
    role: Role, family: Family, low: float, high: float
) -> None:
    asked = needs(role, family)
    for factor, level in ((low, OK), (high, OK), (low * 0.98, NO), (high * 1.02, NO)):
        code = "" if level is OK else "capacitance"
        stands(asked, part(family, 100e-6 * factor), level, code)


@pytest.mark.parametrize("role", [Role.SUPPRESSOR_X, Role.SUPPRESSOR_Y])
def test_suppressors_keep_their_capacitance(role: Role) -> None:
    name = "X2" if role is Role.SUPPRESSOR_X else "Y2"
    asked = needs(role, SP, 100e-9, volt=250.0, safety_class=name)
    for factor, level in ((0.8, OK), (1.2, OK), (0.79, NO), (1.21, NO)):
        offered = part(SF, 100e-9 * factor, volt=275.0, safety_class=name)
        stands(asked, offered, level, "" if level is OK else "capacitance")


CLASSES = [
    ("X2", {"X1", "X2", "Y1", "Y2"}),
    ("X1", {"X1", "Y1"}),
    ("Y2", {"Y1", "Y2"}),
    ("Y1", {"Y1"}),
]


@pytest.mark.parametrize(("old", "allowed"), CLASSES)
def test_a_safety_class_is_replaced_by_its_like_or_better(old: str, allowed: set[str]) -> None:
    role = Role.SUPPRESSOR_X if old[0] == "X" else Role.SUPPRESSOR_Y
    asked = needs(role, SP, 10e-9, volt=250.0, safety_class=old)
    for new in ("X1", "X2", "Y1", "Y2"):
        offered = part(SF, 10e-9, volt=250.0, safety_class=new)
        stands(asked, offered, OK if new in allowed else NO, "" if new in allowed else "class")
    both = part(CER, 10e-9, volt=250.0, safety_class="X1/Y1")
    stands(asked, both, OK)
    stands(asked, part(FILM, 10e-9, volt=630.0), NO, "class")
    paper = part(SP, 10e-9, volt=250.0, safety_class="Y1")
    stands(asked, paper, NO, "paper")  # paper for paper only by hand
    stands(replace(asked, sku="P1"), paper, FLAG, "paper")
    stands(asked, part(SF, 10e-9, safety_class="Y1"), NO, "voltage")  # no AC volts are given
    stands(asked, part(SF, 10e-9, volt=240.0, safety_class="Y1"), NO, "voltage")


def test_a_suppressor_to_earth_of_unknown_class_never_becomes_an_x() -> None:
    asked = needs(Role.SUPPRESSOR_Y, SP, 2.2e-9, volt=250.0)
    stands(asked, part(SF, 2.2e-9, volt=250.0, safety_class="X1"), NO, "class")
    stands(asked, part(SF, 2.2e-9, volt=250.0, safety_class="Y2"), FLAG, "class")


OLD_TA = needs(Role.DECOUPLING, TA, 10e-6, volt=16.0, rail_v=-12.0)
OUT = needs(Role.OUTPUT_FILTER, AL, 2200e-6, volt=10.0)
BULK = needs(Role.BULK, AL, 150e-6, volt=400.0, ripple_a=1.0, max_height_mm=30.0)
BOX = needs(Role.SUPPRESSOR_X, SP, 100e-9, volt=250.0, safety_class="X2", mount=Mount.BOX,
            pitch_mm=15.0)  # fmt: skip
X2 = part(SF, 100e-9, volt=275.0, safety_class="X2", mount=Mount.BOX, pitch_mm=15.24)
RADIAL = needs(Role.START_UP, mount=Mount.RADIAL, pitch_mm=5.0, max_diameter_mm=10.0)
CAN = part(mount=Mount.RADIAL, pitch_mm=5.08, diameter_mm=10.0, height_mm=20.0)
AXIAL = needs(Role.START_UP, mount=Mount.AXIAL, pitch_mm=30.0)
ROD = part(mount=Mount.AXIAL, diameter_mm=10.0, height_mm=28.0)
ROWS: list[tuple[str, Needs, Build, Level, str]] = [
    ("at the marked volts", RADIAL, CAN, OK, ""),
    ("below the marked volts", RADIAL, replace(CAN, volt=24.0), NO, "voltage"),
    ("three times the volts", RADIAL, replace(CAN, volt=75.0), OK, ""),
    ("above three times the volts", RADIAL, replace(CAN, volt=80.0), FLAG, "voltage-high"),
    ("its volts are not given", RADIAL, replace(CAN, volt=None), FLAG, "voltage"),
    ("old volts not known", replace(RADIAL, volt=None), CAN, FLAG, "voltage"),
    ("old volts not known, below the rail", replace(RADIAL, volt=None, rail_v=-30.0), CAN, NO,
     "voltage"),
    ("85 °C at a start-up", RADIAL, replace(CAN, temp_c=85.0), NO, "temperature"),
    ("no temperature given", RADIAL, replace(CAN, temp_c=None), FLAG, "temperature"),
    ("a demand above 105 °C", replace(RADIAL, temp_c=125.0), CAN, NO, "temperature"),
    ("an output filter of 85 °C", OUT, part(AL, 2200e-6, volt=10.0, temp_c=85.0,
     esr_ohm=OLD_ESR / 2), OK, ""),
    ("ESR 1.2 times the old", OUT, part(AL, 2200e-6, volt=10.0, esr_ohm=1.199 * OLD_ESR), OK, ""),
    ("ESR above that", OUT, part(AL, 2200e-6, volt=10.0, esr_ohm=1.21 * OLD_ESR), NO, "esr"),
    ("ESR 0.3 times the old", OUT, part(AL, 2200e-6, volt=10.0, esr_ohm=0.301 * OLD_ESR), OK, ""),
    ("ESR far lower", OUT, part(AL, 2200e-6, volt=10.0, esr_ohm=0.29 * OLD_ESR), FLAG, "esr-low"),
    ("ESR not given", OUT, part(AL, 2200e-6, volt=10.0), FLAG, "esr"),
    ("an old part of low impedance", replace(OUT, grade=Grade.LOW),
     part(AL, 2200e-6, volt=10.0, esr_ohm=0.5 * OLD_ESR), NO, "esr"),
    ("an ESR demand of its own", replace(OUT, esr_max_ohm=0.04),
     part(AL, 2200e-6, volt=10.0, esr_ohm=0.05), NO, "esr"),
    ("polymer", OUT, part(PO, 2200e-6, volt=10.0, esr_ohm=0.01), FLAG, "polymer"),
    ("polymer at the start-up", RADIAL, replace(CAN, family=PO), NO, "family"),
    ("ripple as demanded", BULK, part(farad=150e-6, volt=400.0, ripple_a=1.0, height_mm=30.0), OK,
     ""),
    ("less ripple", BULK, part(farad=150e-6, volt=400.0, ripple_a=0.9, height_mm=30.0), NO,
     "ripple"),
    ("ripple not given", BULK, part(farad=150e-6, volt=400.0, height_mm=30.0), FLAG, "ripple"),
    ("2 mm too tall", BULK, part(farad=150e-6, volt=400.0, ripple_a=1.0, height_mm=32.0), NO,
     "height"),
    ("height not given", BULK, part(farad=150e-6, volt=400.0, ripple_a=1.0), FLAG, "height"),
    ("too wide", RADIAL, replace(CAN, diameter_mm=10.5), NO, "diameter"),
    ("radial, 2.5 mm off", RADIAL, replace(CAN, pitch_mm=7.5), FLAG, "pitch"),
    ("radial, more than that", RADIAL, replace(CAN, pitch_mm=8.0), NO, "pitch"),
    ("radial, pitch not given", RADIAL, replace(CAN, pitch_mm=None), FLAG, "pitch"),
    ("another mounting", RADIAL, replace(CAN, mount=Mount.AXIAL), NO, "mount"),
    ("mounting not given", RADIAL, replace(CAN, mount=None), FLAG, "mount"),
    ("box, the same pitch", BOX, X2, OK, ""),
    ("box, another pitch", BOX, replace(X2, pitch_mm=12.5), NO, "pitch"),
    ("X suppressor, radial, another pitch", replace(BOX, mount=Mount.RADIAL),
     replace(X2, mount=Mount.RADIAL, pitch_mm=14.0), NO, "pitch"),
    ("snap-in, another pitch", replace(RADIAL, mount=Mount.SNAP_IN, pitch_mm=10.0),
     replace(CAN, mount=Mount.SNAP_IN, pitch_mm=7.5), NO, "pitch"),
    ("axial, 2 mm shorter than its holes", AXIAL, ROD, OK, ""),
    ("axial, longer", AXIAL, replace(ROD, height_mm=28.5), NO, "length"),
    ("axial, length not given", AXIAL, replace(ROD, height_mm=None), FLAG, "length"),
    ("tantalum at twice the rail", OLD_TA, part(TA, 10e-6, volt=25.0), OK, ""),
    ("tantalum below twice the rail", OLD_TA, part(TA, 10e-6, volt=20.0), NO, "rail"),
    ("tantalum, rail not known", replace(OLD_TA, rail_v=None), part(TA, 10e-6, volt=16.0), FLAG,
     "rail"),
    ("aluminium for a tantalum", OLD_TA, part(AL, 10e-6, volt=16.0), FLAG, "family"),
    ("aluminium of 85 °C for it", OLD_TA, part(AL, 10e-6, volt=25.0, temp_c=85.0), NO,
     "temperature"),
    ("film for a tantalum", OLD_TA, part(FILM, 10e-6, volt=25.0), NO, "family"),
    ("tantalum for an aluminium", needs(Role.DECOUPLING, rail_v=5.0), part(TA), FLAG, "family"),
    ("ceramic for film", needs(Role.TIMING, FILM), part(CER), NO, "family"),
    ("aluminium timing wants low leakage", needs(Role.TIMING), part(), FLAG, "leakage"),
    ("a snubber of the other family", needs(Role.SNUBBER, FILM), part(CER), NO, "family"),
    ("a snubber of aluminium", needs(Role.SNUBBER), part(), NO, "family"),
    ("polarised for bipolar", needs(Role.COUPLING, BI), part(), NO, "family"),
    ("a suppressor as a coupling part", needs(Role.COUPLING, FILM), part(SF, safety_class="X2"),
     NO, "family"),
    ("role only taken from the family", needs(Role.DECOUPLING, CER, is_role_assumed=True),
     part(CER), FLAG, "role"),
]  # fmt: skip


@pytest.mark.parametrize(("asked", "offered", "level", "code"), [r[1:] for r in ROWS],
                         ids=[r[0] for r in ROWS])  # fmt: skip
def test_a_row_of_the_table(asked: Needs, offered: Build, level: Level, code: str) -> None:
    stands(asked, offered, level, code)


def test_words_give_the_millimetres_and_both_figures() -> None:
    tall = part(farad=150e-6, volt=400.0, ripple_a=1.0, height_mm=32.0)
    assert fit(BULK, tall).why == "2\u00a0mm too tall"
    assert "more leaks to earth" in fit(
        needs(Role.SUPPRESSOR_Y, SP, 1e-9, safety_class="Y2"),
        part(SF, 2e-9, safety_class="Y2"),
    ).why  # fmt: skip
    assert "inrush" in fit(BULK, part(farad=330e-6, volt=400.0)).why


def test_a_school_may_prefer_aluminium_to_tantalum() -> None:
    stands(replace(OLD_TA, prefers_aluminium=True), part(AL, 10e-6, volt=16.0), OK)


@pytest.mark.parametrize(
    ("family", "safety_class", "role"),
    [(SP, "", Role.SUPPRESSOR_X), (SF, "Y2", Role.SUPPRESSOR_Y), (TA, "", Role.DECOUPLING),
     (AL, "", Role.RAW_FILTER), (FILM, "", Role.COUPLING)],
)  # fmt: skip
def test_a_role_that_is_not_given_is_the_one_that_allows_least(
    family: Family, safety_class: str, role: Role
) -> None:
    assert usual_role(family, safety_class) is role
