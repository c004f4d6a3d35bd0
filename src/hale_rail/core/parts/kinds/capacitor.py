"""Capacitor: what is read at it, what a sound one shows, and what takes its place."""

from __future__ import annotations

from hale_rail.core.parts import capacitor_verdicts
from hale_rail.core.parts.capacitors import Capacitor, Readings
from hale_rail.core.parts.families import ESR_METER_MIN_F, Family, leakage_limit_a
from hale_rail.core.parts.kinds.common import NOT_SHORT, concluded
from hale_rail.core.parts.looks import CAPACITOR
from hale_rail.core.parts.markings import CapacitorMarking
from hale_rail.core.parts.measured import NOTHING_BESIDE, Beside, PartReadings
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import (
    CAPACITANCE,
    ESR,
    FRESH_CAP,
    FRESH_ESR,
    LEAKAGE,
    NEW_CAP,
    NEW_ESR,
    OHMS,
    STORE,
    Condition,
)
from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety.cautions import EARTH, ENERGISED, VENTS

#: families whose ESR tells of their health
_WITH_ESR = (Family.ALUMINIUM, Family.ALUMINIUM_BIPOLAR, Family.TANTALUM, Family.POLYMER)
_LOOK_FOR = {
    Family.SUPPRESSION_PAPER: "Crazed, split or sooty epoxy; smell it.",
    Family.SUPPRESSION_FILM: "Split box, soot.",
    Family.TANTALUM: "Scorched or split bead; on three legs or two, the right way round?",
    Family.FILM: "Split or scorched body.",
    Family.CERAMIC: "Cracked body.",
}
_USUAL_LOOK = "Domed top, crust at the seal, brown on the board under it."


def has_esr(part: Part) -> bool:
    """True where ESR is worth reading and a meter's range reaches."""
    return part.family in _WITH_ESR and (part.value or 0.0) >= ESR_METER_MIN_F


def asks(part: Part) -> tuple[Ask, ...]:
    """ESR first where it tells, else capacitance."""
    if has_esr(part):
        return Ask(ESR), Ask(CAPACITANCE), Ask(LEAKAGE), Ask(OHMS)
    return Ask(CAPACITANCE), Ask(OHMS), Ask(LEAKAGE)


def extras(part: Part) -> tuple[Ask, ...]:
    """Volts held, whether or not it is known for a store, a fresh part's figure, the new part's."""
    return Ask(STORE), Ask(FRESH_ESR if has_esr(part) else FRESH_CAP), *new_asks(part)


def new_asks(part: Part) -> tuple[Ask, ...]:
    """What is read at the part that is to be fitted, in the hand."""
    return (Ask(NEW_ESR), Ask(NEW_CAP)) if has_esr(part) else (Ask(NEW_CAP),)


def fails(part: Part) -> tuple[FaultMode, ...]:
    """A wet one dries out, a tantalum shorts; film, ceramic and suppressors leak or short."""
    is_wet = part.family is None or part.family.is_wet
    return (FaultMode.SHORT, FaultMode.OPEN, *((FaultMode.DRY,) if is_wet else ()), FaultMode.LEAKY)


def is_judged(part: Part) -> bool:
    """True when enough is marked to judge by."""
    return bool(part.value) and part.family is not None


def capacitor(
    part: Part,
    fresh_farad: float | None = None,
    fresh_esr_ohm: float | None = None,
    beside: Beside = NOTHING_BESIDE,
) -> Capacitor:
    """A part in the form that its judgement takes; ValueError when it is none with a value."""
    marked = part.capacitor
    if marked is None or marked.family is None or not marked.farad:
        raise ValueError(f"{part.ref} is not a capacitor with a value")
    return Capacitor(
        marked.family, marked.farad, marked.volt, marked.tolerance, marked.grade, part.year,
        fresh_farad, fresh_esr_ohm, beside.ohm, beside.bleeder_ohm,
    )  # fmt: skip


def cap_readings(readings: PartReadings) -> Readings:
    """What was read, in the form that the judgement of capacitors takes."""
    return Readings(
        readings.get(CAPACITANCE),
        readings.get(ESR),
        readings.get(LEAKAGE),
        readings.get(OHMS),
        readings.seen,
    )


def judge(part: Part, readings: PartReadings) -> Judgement:
    """One that is alone on its node, or is lifted; a bank is `bank_verdicts`' business."""
    if not is_judged(part):
        return concluded([], readings)
    return capacitor_verdicts.judge(
        capacitor(part, readings.fresh_farad, readings.fresh_esr_ohm, readings.beside),
        cap_readings(readings),
        readings.this_year,
        readings.esr_min_farad,
        readings.unit_year,
    )


def look_for(part: Part) -> str:
    """What its family shows when it goes."""
    return _LOOK_FOR.get(part.family, _USUAL_LOOK) if part.family else _USUAL_LOOK


def expect(part: Part, ask: Ask, _: Condition) -> str:
    """A new part's figures, alone."""
    if not is_judged(part):
        return NOT_SHORT if ask.procedure is OHMS else ""
    cap = capacitor(part)
    if ask.procedure is ESR:
        return f"below {show(cap.good_esr_ohm, Unit.OHM)}" if cap.good_esr_ohm else ""
    if ask.procedure is CAPACITANCE:
        return f"about {show(cap.farad, Unit.FARAD, 4)}"
    if ask.procedure is LEAKAGE:
        limit = leakage_limit_a(cap.family, cap.farad, cap.volt) if cap.volt else None
        return f"below {show(limit, Unit.AMPERE)} after two minutes" if limit else ""
    return NOT_SHORT


def advice(part: Part) -> str:
    """What to heed when it is replaced."""
    family = part.family
    if family is None:
        return ""
    if family.is_suppressor:
        wanted = part.safety_class or "X or Y"
        only = f"Only an approved {wanted} safety part, never an ordinary film or ceramic one."
        return f"{only} {ENERGISED} {VENTS} {EARTH}"
    if family is Family.TANTALUM:
        return f"Never reversed; at twice the rail's voltage or more it lasts. {VENTS}"
    if family.is_wet or family is Family.POLYMER:
        grade = "105 °C, voltage at or above the marked one, polarity against board and old part."
        return f"{grade} {VENTS}"
    return ""


KIND = PartKind(
    code="capacitor",
    name="capacitor",
    model="capacitor",
    judge=judge,
    asks=asks,
    extras=extras,
    look_for=look_for,
    expect=expect,
    advice=advice,
    letters=("C", "CX", "CY"),
    value_unit=Unit.FARAD,
    marking=CapacitorMarking,
    findings=CAPACITOR,
    fails=fails,
    shows_value=True,
    rules=(),
    is_series=False,
    walks=False,
)
