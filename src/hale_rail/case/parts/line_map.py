"""The facets of the line map: its geometry, and how far power is proven to reach."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.parts.parts import parts
from hale_rail.case.rails.rails import rails
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import STORE, Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety.bleeding import TOUCH_LIMIT_V
from hale_rail.core.supply.linemap import LineMap, line_map
from hale_rail.core.supply.reach import PowerReach, reach


@facet
def picture(case: CaseFile) -> LineMap:
    """The sheet laid out; redrawn only when the sheet has another version."""
    return case.keep("picture", case.rows.sheet_version, lambda: line_map(case.sheet))


@facet
def power_reach(case: CaseFile) -> PowerReach:
    """Stops that power is proven to reach, live and cold."""
    energised = {
        part.id
        for part in case.sheet.stores
        for r in case.rows.of_part.get(part.id, ())
        if r.procedure is STORE and abs(r.value) > TOUCH_LIMIT_V
    }
    up: dict[str, bool] = {}
    for volts in rails(case):
        for load, (reading, _) in volts.by_load.items():
            if abs(reading.value) > 0.5 * abs(volts.rail.nominal_v):
                key = volts.rail.key
                up[key] = up.get(key, False) or load is Condition.MACHINE
    series = {i: f for i, f in parts(case).items() if f.part.kind.is_series}
    sound = (PartState.GOOD, PartState.REPLACED)
    passed = {i for i, f in series.items() if f.state in sound or f.is_kept}
    broken = {i for i, f in series.items() if f.state is PartState.FAILED}
    follows_from = case.rows.sheet_version, energised, up, passed, broken
    make = partial(reach, case.sheet, picture(case).stops, energised, up, passed, broken)
    return case.keep("reach", follows_from, make)


class Plate(Struct, frozen=True):
    """What is under a rail's plate: its volts at the most telling load, and their shape."""

    volts: str
    shape: str


class CaseMap(Struct, frozen=True):
    """The line map with what is known: a state a part by id, a plate a rail by key, the reach."""

    machine: str
    picture: LineMap
    states: Mapping[int, PartState]
    plates: Mapping[str, Plate]
    reach: PowerReach


def case_map(case: CaseFile) -> CaseMap:
    """The map as it is now."""
    plates = {}
    for volts in rails(case):
        telling = volts.most_telling
        if telling:
            reading, judged = telling
            text = show(reading.value, Unit.VOLT, 4)
            plates[volts.rail.key] = Plate(text, judged.verdict.shape)
    states = {i: facts.state for i, facts in parts(case).items()}
    return CaseMap(case.case.machine, picture(case), states, plates, power_reach(case))
