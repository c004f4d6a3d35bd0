"""Capacitor families: what a new part shows, and the limits a reading is held against.

Sources: the tables of docs/formulas.md, “ESR”, “Capacitance” and “Leakage”. The figures are
typical ones, for when neither the part's data sheet nor a fresh part is at hand.
"""

from __future__ import annotations

import math
from enum import Enum
from itertools import pairwise

from msgspec import Struct


class Family(Enum):
    """A capacitor's construction; the value is its name in lists."""

    ALUMINIUM = "aluminium"
    ALUMINIUM_BIPOLAR = "aluminium-bipolar"
    TANTALUM = "tantalum"
    POLYMER = "polymer"
    FILM = "film"
    CERAMIC = "ceramic"
    SUPPRESSION_FILM = "suppression-film"
    SUPPRESSION_PAPER = "suppression-paper"

    @property
    def is_wet(self) -> bool:
        """True where an electrolyte dries out."""
        return self in (Family.ALUMINIUM, Family.ALUMINIUM_BIPOLAR)

    @property
    def insulates(self) -> bool:
        """True where a sound part leaks next to nothing: film, ceramic, suppressors."""
        return self in (Family.FILM, Family.CERAMIC) or self.is_suppressor

    @property
    def is_suppressor(self) -> bool:
        """True for a class X or Y part across the mains."""
        return self in (Family.SUPPRESSION_FILM, Family.SUPPRESSION_PAPER)

    @property
    def label(self) -> str:
        """The family as one says it."""
        return {
            Family.ALUMINIUM_BIPOLAR: "bipolar aluminium",
            Family.SUPPRESSION_FILM: "film suppressor",
            Family.SUPPRESSION_PAPER: "paper suppressor",
        }.get(self, self.value)


class Grade(Enum):
    """How an aluminium part was sold: `general` is what most parts of the period are."""

    GENERAL = "general"
    LOW = "low"


class Limits(Struct, frozen=True):
    """Ratios or losses up to which a reading is good, and up to which it is worn."""

    good: float
    worn: float


#: ESR against the typical figure, and against a fresh part or a data sheet
ESR_TYPICAL = Limits(2.0, 5.0)
ESR_FRESH = Limits(1.5, 3.0)
#: multiples of the leakage limit: good up to 1, worn up to 3, to be reformed up to 10
LEAK_WORN, LEAK_REFORM = 3.0, 10.0
PAPER_YEARS = 25
#: below this an ESR meter's reading is not a reading
ESR_METER_MIN_F = 1e-6
SHORT_OHM = 1.0

# µF·V → Ω, low-impedance aluminium, 100 kHz, 20–25 °C
_LOW_IMPEDANCE = (
    (50.0, 3.0),
    (100.0, 2.2),
    (250.0, 1.4),
    (500.0, 0.95),
    (1000.0, 0.50),
    (2500.0, 0.22),
    (5000.0, 0.12),
    (10_000.0, 0.065),
    (16_000.0, 0.046),
    (25_000.0, 0.032),
    (50_000.0, 0.021),
    (100_000.0, 0.015),
    (250_000.0, 0.011),
)
# µF → Ω, general-grade aluminium rated 160 V and above
_HIGH_VOLTAGE = (
    (1.0, 12.0),
    (4.7, 4.0),
    (10.0, 2.2),
    (22.0, 1.3),
    (47.0, 0.85),
    (100.0, 0.55),
    (220.0, 0.30),
    (470.0, 0.16),
)
# µF → Ω, solid tantalum
_TANTALUM = ((1.0, 5.0), (10.0, 1.5), (47.0, 0.6), (100.0, 0.3))
HIGH_VOLTAGE_V = 160.0
GENERAL_FACTOR = 3.0
#: share of low-impedance aluminium's ESR that a polymer part shows
POLYMER_SHARE = 0.1
#: the lowest plausible rating of a part whose rating is not known, volts
LEAST_RATED_V = 6.3
#: ESR below this share of a new part's is what a shorted or bypassed part shows
TOO_GOOD_SHARE = 0.1
#: what a meter's leads add to ohms, where they were not nulled
LEADS_OHM = (0.2, 0.5)
#: above this the leads do not matter
LEADS_MATTER_OHM = 2.0


class TypicalEsr(Struct, frozen=True):
    """What a new part shows, in ohms at 100 kHz.

    `clamped` when the table did not reach so far; `assumed_v` the rating that was assumed.
    """

    ohm: float
    clamped: bool
    assumed_v: float | None = None


#: what an unmarked part may be below nominal when new: solid tantalum, class-2 ceramic
UNMARKED_TANTALUM, UNMARKED_CLASS_2 = 0.20, 0.30
#: from here on an unmarked ceramic is taken for one of class 2
CLASS_2_F = 1e-9
#: ohms of a lifted film, ceramic or suppressor part below which it has failed, or is worn
INSULATION_FAILED_OHM, INSULATION_WORN_OHM = 1e6, 10e6
#: above this draw, nothing is left on its rated voltage
MOST_LEFT_ON_A = 10e-3


def capacitance_limits(
    family: Family, marked_minus: float | None = None, farad: float = 0.0
) -> Limits:
    """Shares of capacitance lost, for a lifted part of `farad` as marked.

    A marking moves the limits: good down to the marked minus, never tighter than the default, and
    worn for as many points again as the default has. Without one a solid tantalum began within
    20 %, a ceramic of class 2 within 30 %.
    """
    step = 0.10 if family.is_wet else 0.05
    if marked_minus is None and family is Family.TANTALUM:
        marked_minus = UNMARKED_TANTALUM
    if marked_minus is None and family is Family.CERAMIC and farad >= CLASS_2_F:
        marked_minus = UNMARKED_CLASS_2
    good = max(step, marked_minus or 0.0)
    return Limits(good, good + step)


def excess_limit(family: Family) -> float:
    """Share above nominal from which leakage, not capacitance, is what the meter shows."""
    return 0.5 if family.is_wet else 0.2


def typical_esr(
    family: Family, farad: float, volt: float | None, grade: Grade = Grade.GENERAL
) -> TypicalEsr | None:
    """ESR of a new part in ohms at 100 kHz, or None where the tables say nothing.

    Log–log interpolation by C·V (aluminium below 160 V, general grade three times the
    low-impedance figure; polymer a fifth of low impedance) or by C (160 V and above, where low
    impedance is half; tantalum). A rating that is not known is taken at 6.3 V, the worst plausible.
    """
    micro = farad * 1e6
    if family is Family.TANTALUM:
        return _interpolate(_TANTALUM, micro)
    if not family.is_wet and family is not Family.POLYMER:
        return None
    rated = volt or LEAST_RATED_V
    if family is Family.POLYMER:
        esr, factor = _interpolate(_LOW_IMPEDANCE, micro * rated), POLYMER_SHARE
    elif rated >= HIGH_VOLTAGE_V:
        esr = _interpolate(_HIGH_VOLTAGE, micro)
        factor = 0.5 if grade is Grade.LOW else 1.0
    else:
        esr = _interpolate(_LOW_IMPEDANCE, micro * rated)
        factor = 1.0 if grade is Grade.LOW else GENERAL_FACTOR
    return TypicalEsr(esr.ohm * factor, esr.clamped, None if volt else LEAST_RATED_V)


def _interpolate(table: tuple[tuple[float, float], ...], x: float) -> TypicalEsr:
    if x <= table[0][0]:
        return TypicalEsr(table[0][1], x < table[0][0])
    for (x0, y0), (x1, y1) in pairwise(table):
        if x <= x1:
            share = math.log(x / x0) / math.log(x1 / x0)
            return TypicalEsr(y0 * (y1 / y0) ** share, False)
    return TypicalEsr(table[-1][1], True)


def leakage_limit_a(family: Family, farad: float, volt: float) -> float | None:
    """Leakage allowed after two minutes at rated voltage, in amperes; None where none is given.

    Aluminium max(3 µA, 0.01·C·V µA), tantalum max(0.5 µA, 0.01·C·V µA), polymer 0.2·C·V µA, as
    its makers allow it; C in µF, V in volts.
    """
    if family.is_wet:
        return max(3e-6, 0.01 * farad * volt)
    if family is Family.TANTALUM:
        return max(0.5e-6, 0.01 * farad * volt)
    return max(3e-6, 0.2 * farad * volt) if family is Family.POLYMER else None
