"""The four made-up supplies of the Larkmoor Loom Archive, as sheets."""

from __future__ import annotations

from typing import Any

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds.diode import FAST
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import TRUNK, Rail, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part

_AL = Family.ALUMINIUM
_PAPER = Family.SUPPRESSION_PAPER
_TANTALUM = Family.TANTALUM


class _Builder:
    """Collects parts line by line, each behind the one before."""

    def __init__(self, year: int) -> None:
        self.year = year
        self.parts: list[Part] = []
        self._primary = False

    def primary(self) -> _Builder:
        self._primary = True
        return self

    def secondary(self) -> _Builder:
        self._primary = False
        return self

    def add(self, ref: str, kind: str, line: str = TRUNK, **more: Any) -> _Builder:
        number = len(self.parts) + 1
        more.setdefault("is_primary", self._primary)
        self.parts.append(make_part(number, ref, kind, line, number * 10, **more))
        return self

    def cap(self, ref: str, farad: float, volt: float, line: str = TRUNK, **more: Any) -> _Builder:
        more.setdefault("family", _AL)
        return self.add(ref, "capacitor", line, value=farad, volt=volt, year=self.year, **more)

    def paper(self, ref: str, farad: float, safety_class: str) -> _Builder:
        role = "suppressor-x" if safety_class.startswith("X") else "suppressor-y"
        return self.cap(ref, farad, 250.0, family=_PAPER, safety_class=safety_class, role=role)

    def joint(self, ref: str, board: str, rails: tuple[str, ...]) -> _Builder:
        self.add(ref, "connector", "", rails=rails)
        return self.add(board, "board", "", rails=rails, board=ref)

    def sheet(self, name: str, topology: Topology, rails: tuple[Rail, ...]) -> Sheet:
        return Sheet(name, topology, rails, tuple(self.parts), year=self.year)


def loomwright() -> Sheet:
    """WL-80, offline flyback, 80 W."""
    b = _Builder(1984).primary()
    b.add("J1", "inlet").add("F1", "fuse", value=1.25).add("S1", "switch")
    b.paper("CX1", 100e-9, "X2").add("L1", "filter").paper("CX2", 220e-9, "X2")
    b.paper("CY1", 2.2e-9, "Y2").paper("CY2", 2.2e-9, "Y2")
    b.add("RT1", "thermistor", value=10.0).add("BR1", "bridge")
    b.cap("C1", 150e-6, 400.0, role="bulk")
    b.add("R1", "resistor", value=100e3, bleeder_for="C1")
    b.cap("C2", 47e-6, 35.0, role="start-up")
    b.add("Q1", "transistor").add("T1", "transformer")
    b.secondary().add("D5", "schottky", "+5 V")
    for ref in ("C10", "C11", "C12"):
        b.cap(ref, 2200e-6, 10.0, "+5 V", role="output-filter", bank="A")
    b.add("L5", "choke", "+5 V")
    b.add("D6", "diode", "+12 V", role=FAST).cap(
        "C13", 1000e-6, 25.0, "+12 V", role="output-filter"
    )
    b.add("L6", "choke", "+12 V")
    b.add("D7", "diode", "−12 V", role=FAST).cap("C14", 470e-6, 25.0, "−12 V", role="output-filter")
    b.add("U1", "regulator", "−5 V").cap("C15", 10e-6, 25.0, "−5 V", role="output-filter")
    b.joint("P2", "Disk", ("+5 V", "+12 V"))
    b.joint("P1", "Main board", ("+5 V", "+12 V", "−12 V", "−5 V"))
    rails = (
        Rail("+5 V", 5.0, Regulation.MAIN, 0.8, 8.0, ohm_isolated=180.0, ohm_attached=22.0),
        Rail("+12 V", 12.0, Regulation.AUXILIARY, 0.2, 2.5, ohm_isolated=1500.0, ohm_attached=90.0),
        Rail("−12 V", -12.0, Regulation.AUXILIARY, None, 0.3, ohm_isolated=2200.0),
        Rail("−5 V", -5.0, Regulation.LINEAR, None, 0.2, ohm_isolated=1800.0),
    )
    return b.sheet("Wendlebury WL-80", Topology.FLYBACK, rails)


#: designators on the Draftmaster's board by rail; the drawing gives several parts the same one
TANTALUM_REFS = {
    "+5 V": [*(f"C{n}" for n in range(20, 38)), "C40", "C40", "C40", "C40", "C41", "C41"],
    "+12 V": [*(f"C{n}" for n in range(50, 60)), "C60", "C60", "C60", "C61"],
    "−5 V": [*(f"C{n}" for n in range(70, 76)), "C76", "C76"],
}


def draftmaster() -> Sheet:
    """Linear supply and the board behind it with 46 tantalums."""
    b = _Builder(1979).primary()
    b.add("J1", "inlet").add("F1", "fuse", value=1.0).add("S1", "switch")
    b.add("T1", "transformer").secondary()
    b.add("BR1", "bridge", "+5 V")
    b.cap("C1", 15e-3, 16.0, "+5 V", role="raw-filter", tolerance=(0.1, 0.5))
    b.add("U1", "regulator", "+5 V").add("BR2", "bridge", "+12 V")
    b.cap("C2", 2200e-6, 35.0, "+12 V", role="raw-filter")
    b.add("U2", "regulator", "+12 V").add("U3", "regulator", "−5 V")
    b.cap("C3", 100e-6, 25.0, "−5 V", role="output-filter")
    ratings = {"+5 V": (10e-6, 16.0), "+12 V": (10e-6, 16.0), "−5 V": (4.7e-6, 16.0)}
    for key, refs in TANTALUM_REFS.items():
        for ref in refs:
            farad, volt = ratings[key]
            b.cap(ref, farad, volt, key, family=_TANTALUM, role="decoupling", board="P1",
                  bank=f"board{key.removesuffix(' V')}")  # fmt: skip
    b.joint("P1", "Main board", ("+5 V", "+12 V", "−5 V"))
    rails = (
        Rail("+5 V", 5.0, Regulation.LINEAR, None, 3.0, ohm_isolated=950.0, ohm_attached=14.0),
        Rail("+12 V", 12.0, Regulation.LINEAR, None, 1.2, ohm_isolated=2600.0, ohm_attached=68.0),
        Rail(
            "−5 V",
            -5.0,
            Regulation.LINEAR,
            None,
            0.2,
            ohm_isolated=3100.0,
            ohm_attached=740.0,
            guards="+12 V",
        ),
    )
    return b.sheet("Tamsin Draftmaster", Topology.LINEAR, rails)


def pattern_editor() -> Sheet:
    """CV-150, half-bridge forward, 150 W."""
    b = _Builder(1988).primary()
    b.add("J1", "inlet").add("F1", "fuse", value=3.15).paper("CX1", 100e-9, "X2")
    b.add("L1", "filter").paper("CY1", 4.7e-9, "Y2").paper("CY2", 4.7e-9, "Y2")
    b.add("S1", "switch").add("RT1", "thermistor", value=5.0).add("BR1", "bridge")
    b.cap("C1", 330e-6, 200.0, role="bulk")
    b.cap("C2", 330e-6, 200.0, role="bulk")
    for ref, store in (("R1", "C1"), ("R2", "C2")):
        b.add(ref, "resistor", value=150e3, bleeder_for=store)
    b.add("Q1", "transistor").add("Q2", "transistor")
    b.cap("C5", 1e-6, 250.0, family=Family.FILM, role="coupling").add("T1", "transformer")
    b.secondary().add("D10", "schottky", "+5 V").add("L10", "choke", "+5 V")
    for ref in ("C20", "C21", "C22"):
        b.cap(ref, 3300e-6, 10.0, "+5 V", role="output-filter", bank="A", grade=Grade.LOW)
    b.add("D11", "diode", "+12 V", role=FAST).add("L11", "choke", "+12 V")
    for ref in ("C23", "C24"):
        b.cap(ref, 2200e-6, 16.0, "+12 V", role="output-filter", bank="B", grade=Grade.LOW)
    b.add("D12", "diode", "−12 V", role=FAST).add("L12", "choke", "−12 V")
    b.cap("C25", 470e-6, 25.0, "−12 V", role="output-filter")
    b.add("D13", "diode", "−5 V", role=FAST).cap("C26", 470e-6, 16.0, "−5 V", role="raw-filter")
    b.add("U1", "regulator", "−5 V").cap("C27", 47e-6, 16.0, "−5 V", role="output-filter")
    b.joint("P10", "Drives", ("+5 V", "+12 V"))
    b.joint("P8", "Backplane", ("+5 V", "+12 V", "−12 V", "−5 V"))
    rails = (
        Rail(
            "+5 V",
            5.0,
            Regulation.MAIN,
            1.5,
            15.0,
            ohm_isolated=120.0,
            ohm_attached=9.0,
            trimmer="VR1",
        ),
        Rail("+12 V", 12.0, Regulation.AUXILIARY, 0.5, 4.5, ohm_isolated=620.0, ohm_attached=85.0),
        Rail("−12 V", -12.0, Regulation.AUXILIARY, None, 0.5, ohm_isolated=1200.0),
        Rail("−5 V", -5.0, Regulation.LINEAR, None, 0.5, ohm_isolated=1400.0),
    )
    return b.sheet("Corvane CV-150", Topology.HALF_BRIDGE, rails)


def shed_terminal() -> Sheet:
    """DC-fed: a 9 V brick outside, a linear +5 V and a small converter for +12 V and −5 V."""
    b = _Builder(1983)
    b.add("J1", "inlet").add("F1", "fuse", value=2.0).add("S1", "switch")
    b.add("D1", "diode").cap("C1", 4700e-6, 16.0, role="raw-filter")
    b.add("U1", "regulator", "+5 V").cap("C2", 100e-6, 16.0, "+5 V", role="output-filter")
    b.cap("C3", 10e-6, 16.0, "+5 V", family=_TANTALUM, role="decoupling")
    b.add("L1", "choke", "+12 V").add("Q1", "transistor", "+12 V")
    b.add("D2", "diode", "+12 V").cap("C4", 220e-6, 25.0, "+12 V", role="output-filter")
    b.add("D3", "diode", "−5 V").cap("C5", 100e-6, 16.0, "−5 V", role="output-filter")
    b.joint("P1", "Terminal board", ("+5 V", "+12 V", "−5 V"))
    rails = (
        Rail("+5 V", 5.0, Regulation.LINEAR, None, 1.2, ohm_isolated=800.0, ohm_attached=30.0),
        Rail("+12 V", 12.0, Regulation.AUXILIARY, None, 0.1, ohm_isolated=2400.0,
             ohm_attached=900.0),
        Rail("−5 V", -5.0, Regulation.AUXILIARY, None, 0.05, ohm_isolated=2600.0,
             ohm_attached=1900.0),
    )  # fmt: skip
    return b.sheet("Oakhanger Shed Terminal", Topology.DC_FED, rails)
