"""What each part of a simulated unit truly is: drawn by family and age, the fault put on top.

Stated distributions (docs/formulas.md, “The simulated unit”); age in years to `NOW_YEAR`. A part's
draw depends on the seed and its name alone, so that a fault elsewhere changes nothing of it.
"""

from __future__ import annotations

import math
import random
from collections.abc import Mapping

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.parts.families import Family, leakage_limit_a, typical_esr
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.faults import SimulatedFault, named
from hale_rail.core.supply.sheet import TRUNK, Sheet

#: the year in which every simulated unit stands on the bench, so that a seed stays what it is
NOW_YEAR, _USUAL_YEAR = 2026, 1985
#: ohms of a part that was burnt through
_BURNT_OHM = (0.08, 0.25)
_FILM_ESR_OHM = (0.02, 0.12)
#: volts that a sound junction drops at a milliampere, by kind, and by material
_DROPS_V = {
    "bridge": (0.50, 0.62), "diode": (0.48, 0.60), "schottky": (0.16, 0.28),
    "zener": (0.58, 0.68), "transistor": (0.52, 0.64), "mosfet": (0.45, 0.55),
    "scr": (0.60, 0.72), "optocoupler": (1.05, 1.18), "regulator": (0.55, 0.65),
    "controller": (0.55, 0.65),
}  # fmt: skip
_MATERIALS_V = {"germanium": (0.18, 0.30), "darlington": (1.15, 1.35)}
#: ohms of what conducts, where nothing is marked
_OHMS = {
    "inlet": 0.05, "fuse": 0.09, "switch": 0.06, "filter": 0.5, "choke": 0.04,
    "connector": 0.004, "thermistor": 10.0, "resistor": 1000.0,
}  # fmt: skip
#: a primary winding where the sheet has none, switched and for the mains' frequency
_PRIMARY_OHM, _MAINS_OHM = 1.6, 30.0
_RESISTOR_SPREAD, _THERMISTOR_SPREAD = 0.03, 0.08
#: what a new electrolytic's C is against its marking, what a year takes, and how parts differ
_WET_NEW, _WET_A_YEAR, _WET_SPREAD = 1.04, 0.0018, 0.035
_DRY_SPREAD, _ESR_A_YEAR, _ESR_SPREAD = 0.02, 0.006, 0.16
#: chance a year of being worn beyond its age, and what that takes
_WORN_A_YEAR, _WORN_C, _WORN_ESR = 0.0015, (0.83, 0.89), (2.1, 2.8)
#: what is left of a dried-out part
_DRY_C, _DRY_ESR = (0.30, 0.45), (8.0, 14.0)
#: leakage of a sound part, and of a leaking one, as multiples of its family's limit
_SOUND_LEAK, _LEAKY = (0.1, 0.5), (20.0, 60.0)
#: ohms of a suppressor or film that leaks, and of one that does not
_WEEPING_OHM, _DRY_OHM = (2e3, 20e3), 2e9
_USUAL_V, _USUAL_F = 16.0, 10e-6


def winding_ohm(sheet: Sheet, line: str, usual: float) -> float:
    """Ohms of a line's winding as the sheet has it, else the usual."""
    for part in sheet.parts:
        for winding in getattr(part.marking, "windings", ()):
            if winding.line == line:
                return float(winding.ohm)
    return usual


class Truth(Struct, frozen=True):
    """What a part truly is (SI); None where its kind has no such thing.

    `shorted`: it conducts both ways with `short_ohm` between its usual pins; `is_open`: nothing
    passes; `fault`: what was put in, or None.
    """

    farad: float | None = None
    esr_ohm: float | None = None
    leak_a: float | None = None
    leak_ohm: float | None = None
    ohm: float | None = None
    drop_v: float | None = None
    short_ohm: float | None = None
    is_open: bool = False
    is_dead: bool = False
    fault: SimulatedFault | None = None

    @property
    def how(self) -> FaultMode | None:
        """How it failed, None for a part that did not."""
        return self.fault.how if self.fault else None

    @property
    def figures(self) -> dict[str, float | bool | str]:
        """What is known of it, by name."""
        known = {name: getattr(self, name) for name in self.__struct_fields__}
        known["fault"] = self.fault.code if self.fault else ""
        return {name: value for name, value in known.items() if value not in (None, False, "")}


Truths = Mapping[int, Truth]


def truths(
    sheet: Sheet, fault: SimulatedFault | None, seed: int, other: SimulatedFault | None = None
) -> dict[int, Truth]:
    """The truth of every part by its id; `other`: a second fault, of a part."""
    truths = {}
    for part, name in named(sheet):
        rng = random.Random(f"{seed}/{name}")
        true = sound(part, sheet, rng)
        own = next((f for f in (fault, other) if f and name in f.parts), None)
        truths[part.id] = failed(true, part, own, rng) if own else true
    return truths


def fresh(part: Part, sheet: Sheet, seed: int, times: int) -> Truth:
    """A part as it was fitted new for the n-th time."""
    rng = random.Random(f"{seed}/new/{part.id}/{times}")
    return sound(part, sheet, rng, years=0)


def sound(part: Part, sheet: Sheet, rng: random.Random, years: int | None = None) -> Truth:
    """A part that is merely as old as it is (or `years`)."""
    age = max(0, NOW_YEAR - (part.year or sheet.year or _USUAL_YEAR)) if years is None else years
    if part.capacitor is not None:
        return _capacitor(part, age, rng)
    code = part.kind.code
    low, high = _MATERIALS_V.get(getattr(part.marking, "material", ""), _DROPS_V.get(code, (0, 0)))
    drop = rng.uniform(low, high) if high else None
    ohm = _OHMS.get(code)
    if code in ("resistor", "thermistor"):
        ohm = part.value or ohm
    if code == "transformer":
        usual = _PRIMARY_OHM if sheet.topology.is_switching else _MAINS_OHM
        ohm = winding_ohm(sheet, TRUNK, usual)
    spread = _THERMISTOR_SPREAD if code == "thermistor" else _RESISTOR_SPREAD
    return Truth(ohm=ohm * rng.uniform(1 - spread, 1 + spread) if ohm else None, drop_v=drop)


def _capacitor(part: Part, age: int, rng: random.Random) -> Truth:
    family = part.family or Family.ALUMINIUM
    farad, volt = part.value or _USUAL_F, part.volt or _USUAL_V
    typical = typical_esr(family, farad, part.volt, part.grade)
    is_worn = family.is_wet and rng.random() < _WORN_A_YEAR * age
    if family.is_wet:
        kept = rng.gauss(_WET_NEW - _WET_A_YEAR * age, _WET_SPREAD)
        times = math.exp(rng.gauss(_ESR_A_YEAR * age, _ESR_SPREAD))
    else:
        kept, times = rng.gauss(1.0, _DRY_SPREAD), math.exp(rng.gauss(0.0, _ESR_SPREAD))
    worn_c, worn_esr = rng.uniform(*_WORN_C), rng.uniform(*_WORN_ESR)
    if is_worn:
        kept, times = worn_c, worn_esr
    esr = typical.ohm * times if typical else rng.uniform(*_FILM_ESR_OHM)
    limit = leakage_limit_a(family, farad, volt)
    leak = limit * rng.uniform(*_SOUND_LEAK) if limit else volt / _DRY_OHM
    return Truth(farad=farad * kept, esr_ohm=esr, leak_a=leak, leak_ohm=volt / leak)


def failed(true: Truth, part: Part, fault: SimulatedFault, rng: random.Random) -> Truth:
    """A part's truth with a fault on top."""
    marked = replace(true, fault=fault)
    if fault.how is FaultMode.SHORT:
        return replace(marked, short_ohm=rng.uniform(*_BURNT_OHM))
    if fault.how is FaultMode.OPEN:
        return replace(marked, is_open=True, farad=0.0 if part.capacitor else None)
    if fault.how is FaultMode.DRY:
        farad, esr = true.farad or 0.0, true.esr_ohm or 0.0
        typical = typical_esr(
            part.family or Family.ALUMINIUM, part.value or _USUAL_F, part.volt, part.grade
        )
        new = typical.ohm if typical else esr
        return replace(
            marked, farad=farad * rng.uniform(*_DRY_C), esr_ohm=new * rng.uniform(*_DRY_ESR)
        )
    if fault.how is FaultMode.LEAKY:
        return _leaking(marked, part, rng)
    return replace(marked, is_dead=fault.how is FaultMode.DEAD)


def _leaking(marked: Truth, part: Part, rng: random.Random) -> Truth:
    volt = part.volt or _USUAL_V
    limit = leakage_limit_a(part.family or Family.ALUMINIUM, part.value or _USUAL_F, volt)
    leak = limit * rng.uniform(*_LEAKY) if limit else volt / rng.uniform(*_WEEPING_OHM)
    return replace(marked, leak_a=leak, leak_ohm=volt / leak)
