"""The order of tests: which points each view walks, and what is expected at each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from hale_rail.actions.facts import FITTED, REPLACED, StationFacts, wants_base_ohm, wants_lift
from hale_rail.core.parts.capacitors import Capacitor
from hale_rail.core.parts.families import SHORT_OHM, leakage_limit_a
from hale_rail.core.parts.others import (
    BASE,
    BASE_OHM,
    BATTERY_FLAT_V,
    BLOCKING,
    PAIRS,
    THERMISTOR_OHM,
    conducts_limit,
    junction_band,
)
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import Load, Tolerance, band
from hale_rail.core.supply.inspection import codes_for
from hale_rail.core.supply.points import (
    ATTACHED,
    IN_CIRCUIT,
    ISOLATED,
    LIFTED,
    NORMAL,
    REVERSED,
    Point,
    Quantity,
    polarities,
    quantities,
)
from hale_rail.core.supply.sheet import Kind, Rail, Sheet, Station, group_banks


def cold_points(sheet: Sheet, facts: Mapping[int, StationFacts]) -> list[Point]:
    """Everything but capacitors, as power passes it; then lifted where that hid the answer."""
    in_circuit, lifted = [], []
    for station in sheet.in_power_order:
        if station.kind in (Kind.CAPACITOR, Kind.CONNECTOR, Kind.BOARD, Kind.INLET):
            continue
        known = facts[station.id]
        if known.decision and known.decision.kind == FITTED:
            continue
        wanted = [
            (q, polarity)
            for q in quantities(station)
            if q is not Quantity.LOOK
            for polarity in polarities(station.kind, q)
            if q is not Quantity.RESISTANCE or not polarity
        ]
        names = PAIRS.get(station.kind, ())
        wanted.sort(key=lambda pair: names.index(pair[1]) if pair[1] else -1)
        in_circuit += [Point(q, station.id, "", IN_CIRCUIT, way) for q, way in wanted]
        if wants_base_ohm(known):
            lifted.append(Point(Quantity.RESISTANCE, station.id, "", LIFTED, BASE))
        elif wants_lift(known):
            lifted += [Point(q, station.id, "", LIFTED, way) for q, way in wanted]
    return in_circuit + lifted


def capacitor_points(sheet: Sheet, facts: Mapping[int, StationFacts]) -> list[Point]:
    """Capacitors as power passes them, banks once; when all are read, the fewest legs to lift."""
    in_circuit: list[Point] = []
    lifted: list[Point] = []
    for line in dict.fromkeys(s.line for s in sheet.in_power_order):
        for group in group_banks(sheet.on_line(line)):
            is_done = all(facts[s.id].state == REPLACED for s in group)
            if group[0].kind is Kind.CAPACITOR and not is_done:
                in_circuit += _together(group, facts)
                lifted += _one_by_one(group, facts)
    return in_circuit + lifted


def _together(group: Sequence[Station], facts: Mapping[int, StationFacts]) -> list[Point]:
    """In circuit: C and ESR for a bank (C is what excludes an open member), else ESR or C."""
    first = _speaker(group, facts)
    usual = [q for q in quantities(first) if q in (Quantity.ESR, Quantity.CAPACITANCE)]
    if len(group) == 1:
        usual = usual[:1]
    return [Point(q, first.id, setting=IN_CIRCUIT) for q in usual]


def _one_by_one(group: Sequence[Station], facts: Mapping[int, StationFacts]) -> list[Point]:
    hidden = [s for s in group if wants_lift(facts[s.id])]
    bank = facts[hidden[0].id].bank if hidden else None
    if bank:
        first = bank.lift_first % len(hidden)
        hidden = [hidden[first], *hidden[:first], *hidden[first + 1 :]]
    return [
        Point(q, station.id, setting=LIFTED)
        for station in hidden[: bank.legs if bank else None]
        for q in quantities(station)
        if q in (Quantity.ESR, Quantity.CAPACITANCE)
    ]


def _speaker(group: Sequence[Station], facts: Mapping[int, StationFacts]) -> Station:
    """The member that carries the bank's in-circuit readings: the first not lifted."""
    staying = [s for s in group if not any(r.setting == LIFTED for r in facts[s.id].readings)]
    return (staying or list(group))[0]


def ground_points(sheet: Sheet) -> list[Point]:
    """Every rail to ground: attached first, since nothing is unplugged for it, both polarities."""
    return [
        Point(Quantity.GROUND, rail_key=rail.key, setting=setting, polarity=polarity)
        for setting in (ATTACHED, ISOLATED)
        for polarity in (NORMAL, REVERSED)
        for rail in sheet.rails
    ]


def rail_points(sheet: Sheet, load: Load) -> list[Point]:
    return [Point(Quantity.RAIL, rail_key=rail.key, setting=load.value) for rail in sheet.rails]


def store_points(sheet: Sheet) -> list[Point]:
    return [Point(Quantity.STORE, station.id) for station in sheet.stores]


def expectation(
    point: Point,
    facts: StationFacts | None,
    rail: Rail | None,
    tolerance: Tolerance,
    limit_volt: float,
    record_ohm: float | None = None,
) -> str:
    """What a sound unit shows at a point, in a few words, or ""."""
    if rail is not None:
        return _expect_rail(point, rail, tolerance, record_ohm)
    if facts is None:
        return ""
    if point.quantity is Quantity.STORE:
        return f"at most {show(limit_volt, Unit.VOLT)} to touch, below 5 V for a meter"
    if point.quantity is Quantity.LOOK:
        return ", ".join(c.code for c in codes_for(facts.station))
    if facts.station.kind is Kind.CAPACITOR:
        return _expect_capacitor(point, facts)
    return _expect_part(point, facts.station)


def _expect_rail(point: Point, rail: Rail, tolerance: Tolerance, record_ohm: float | None) -> str:
    if point.quantity is Quantity.RAIL:
        low, high = band(rail, tolerance)
        return f"{show(low, Unit.VOLT, 4)} to {show(high, Unit.VOLT, 4)}"
    if point.quantity is Quantity.INJECT:
        return "0.3 to 0.5 V from a limited supply; write volts and current"
    if record_ohm:
        return f"about {show(record_ohm, Unit.OHM)}, as a like unit read; let it settle"
    ohm = rail.ohm_attached if point.setting == ATTACHED else rail.ohm_isolated
    if ohm:
        return f"about {show(ohm, Unit.OHM)}; let it settle"
    if point.setting == ISOLATED:
        return "a kilohm or more; let it settle"
    return "above 1 Ω; let it settle"


def _expect_capacitor(point: Point, facts: StationFacts) -> str:
    station, judgement = facts.station, facts.judgement
    if point.quantity in (Quantity.FRESH_ESR, Quantity.FRESH_CAP):
        return "a new part of the same value on your meter, or its data sheet"
    lifted = point.setting == LIFTED
    if point.quantity is Quantity.ESR:
        typical = judgement.expected_esr_ohm
        if lifted and station.family and station.value:
            alone = Capacitor(
                station.family, station.value, station.volt, grade=station.grade
            ).expected_esr()
            typical = alone.ohm if alone else None
        return f"below {show(2 * typical, Unit.OHM)}" if typical else ""
    if point.quantity is Quantity.CAPACITANCE:
        farad = station.value if lifted else judgement.expected_farad
        return f"about {show(farad, Unit.FARAD, 4)}" if farad else ""
    if point.quantity is Quantity.LEAKAGE and station.volt and station.value and station.family:
        limit = leakage_limit_a(station.family, station.value, station.volt)
        return f"below {show(limit, Unit.AMPERE)} after two minutes" if limit else ""
    return f"not below {SHORT_OHM:g} Ω"


def _expect_part(point: Point, station: Station) -> str:
    if point.quantity is Quantity.REVERSE:
        return "OL"
    if point.quantity is Quantity.BATTERY:
        return f"its marked volts; below {BATTERY_FLAT_V:g} V flat"
    if point.quantity is Quantity.FORWARD:
        if point.polarity in BLOCKING:
            damper = "; or one drop, with a damper inside" if point.polarity == "C–E" else ""
            return f"OL{damper}"
        low, high = junction_band(station)
        return f"{low:g} to {high:g} V"
    if point.polarity == BASE:
        return f"{BASE_OHM[0]:g} to {BASE_OHM[1]:g} Ω with a resistor inside"
    limit = conducts_limit(station)
    if limit is not None:
        return f"below {limit:g} Ω"
    if station.kind is Kind.THERMISTOR:
        low, high = THERMISTOR_OHM
        if station.value:
            low, high = 0.75 * station.value, 1.25 * station.value
        return f"{low:.3g} to {high:.3g} Ω, cold"
    if station.kind is Kind.RESISTOR and station.value:
        return f"about {show(station.value, Unit.OHM)}"
    return f"not below {SHORT_OHM:g} Ω"
