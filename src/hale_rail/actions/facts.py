"""What is known of each station and rail of a case, judged from its standing readings."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from hale_rail.core.parts.bank_verdicts import BankJudgement, judge_bank, judge_member
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.capacitors import Capacitor, Readings, Taken, judge
from hale_rail.core.parts.others import BASE, BASE_OPEN_QUESTION, PAIRS, PartReadings, judge_part
from hale_rail.core.parts.verdicts import Action, Judgement, Verdict
from hale_rail.core.rails.judge import Load, RailJudgement, RailReading, Tolerance
from hale_rail.core.rails.judge import judge as judge_rail
from hale_rail.core.shorts.ground import (
    GroundJudgement,
    GroundVerdict,
    judge_injection,
    judge_ohm,
    polarity_text,
    which_side,
)
from hale_rail.core.supply.points import (
    ATTACHED,
    IN_CIRCUIT,
    ISOLATED,
    LIFTED,
    NORMAL,
    REVERSED,
    Quantity,
)
from hale_rail.core.supply.sheet import Kind, Rail, Sheet, Station, bank_mates
from hale_rail.store.readings import Reading

UNSEEN, REPLACED = "unseen", "replaced"
#: readings that say nothing of a part's health
_NOT_JUDGED = (Quantity.STORE.code, Quantity.FRESH_ESR.code, Quantity.FRESH_CAP.code)
_FRESH_CODES = (Quantity.FRESH_ESR.code, Quantity.FRESH_CAP.code)
#: the decision that a part was changed; the others are `hale_rail.core.recap.demand`'s
FITTED = "fitted"
#: the decision that takes the last one back
UNDONE = "back to as it was"


@dataclass(frozen=True)
class Decision:
    """The latest decision about a part; `after` is the id of the newest reading before it."""

    kind: str
    reason: str
    at: str


@dataclass(frozen=True)
class StationFacts:
    """A station with its state for the map (`unseen`, a verdict, or `replaced`) and why."""

    station: Station
    state: str
    judgement: Judgement
    readings: tuple[Reading, ...]
    decision: Decision | None = None
    bank: BankJudgement | None = None
    mates: tuple[Station, ...] = ()

    @property
    def found(self) -> Verdict | None:
        """What was read and seen says, age left aside; None while nothing was."""
        return None if self.state in (UNSEEN, REPLACED) else self.judgement.found

    @property
    def seen(self) -> tuple[str, ...]:
        """What the eye found last; empty while nobody looked."""
        return _visual(self.readings)

    def latest(self, code: str) -> Reading | None:
        """The newest standing reading of a quantity; a lifted one outranks one in circuit."""
        own = [r for r in self.readings if r.quantity == code]
        return max(own, key=lambda r: (r.setting == LIFTED, r.id), default=None)


@dataclass(frozen=True)
class GroundFacts:
    """A rail to ground in one setting: ohms by polarity, the judgement of the normal one."""

    normal: Reading | None
    reversed: Reading | None
    judgement: GroundJudgement | None


@dataclass(frozen=True)
class RailFacts:
    """A rail with its voltage by load, its ohms to ground by setting, and low injections.

    `records`: ohms that like units read when they were handed back, by (setting, polarity).
    """

    rail: Rail
    volts: dict[Load, tuple[Reading, RailJudgement]]
    ground: dict[str, GroundFacts]
    injections: dict[str, tuple[Reading, GroundJudgement]]
    records: Mapping[tuple[str, str], float]

    @property
    def side_text(self) -> str:
        """Which side of the connector a short is on, once both sides are read."""
        attached, isolated = self.ground[ATTACHED].normal, self.ground[ISOLATED].normal
        if attached is None or isolated is None:
            return ""
        return which_side(isolated.value, attached.value)

    @property
    def polarity_text(self) -> str:
        """What both polarities of a low reading say, attached before isolated."""
        for setting in (ATTACHED, ISOLATED):
            facts = self.ground[setting]
            is_low = facts.judgement and facts.judgement.verdict is not GroundVerdict.GOOD
            if is_low and facts.normal and facts.reversed:
                return polarity_text(facts.normal.value, facts.reversed.value)
        return ""


def station_facts(
    sheet: Sheet,
    readings: Sequence[Reading],
    decisions: Mapping[int, Decision],
    this_year: int,
    rails_right: Collection[str] = (),
    meter: Meter | None = None,
) -> dict[int, StationFacts]:
    """Judge every station from its standing readings; `rails_right` passed under load.

    ESR readings are judged less what the meter's leads add; what was typed stays as it is.
    """
    ever: dict[int, list[Reading]] = {}
    for reading in readings:
        if reading.station_id is not None and not reading.struck:
            ever.setdefault(reading.station_id, []).append(reading)
    fitted = {i: d.at for i, d in decisions.items() if d.kind == FITTED}
    by_station = {i: [r for r in own if r.taken_at > fitted.get(i, "")] for i, own in ever.items()}
    judge_with = _Bench(
        by_station, ever, fitted, decisions, this_year, rails_right, _fresh(sheet, by_station),
        meter or Meter(),
    )  # fmt: skip
    found: dict[int, StationFacts] = {}
    for station in sheet.in_power_order:
        if station.id not in found:
            for facts in _group(bank_mates(sheet, station), judge_with):
                found[facts.station.id] = facts
    return found


@dataclass(frozen=True)
class _Bench:
    """What every station of a case is judged with.

    `by_station` holds the readings of the part now fitted, `ever` the old part's too; `fitted`
    when a part was changed.
    """

    by_station: Mapping[int, list[Reading]]
    ever: Mapping[int, list[Reading]]
    fitted: Mapping[int, str]
    decisions: Mapping[int, Decision]
    this_year: int
    rails_right: Collection[str]
    fresh: Mapping[tuple[object, ...], Mapping[str, float]]
    meter: Meter

    def capacitor(self, station: Station) -> Capacitor:
        """A capacitor as the judgement wants it, with a fresh part's figures if there are any."""
        figures = self.fresh.get(_alike(station), {})
        return replace(
            capacitor(station),
            fresh_esr_ohm=figures.get(Quantity.FRESH_ESR.code),
            fresh_farad=figures.get(Quantity.FRESH_CAP.code),
        )


def _alike(station: Station) -> tuple[object, ...]:
    """Parts that one fresh part speaks for: same value, voltage and family."""
    return station.value, station.volt, station.family


def _fresh(
    sheet: Sheet, by_station: Mapping[int, list[Reading]]
) -> dict[tuple[object, ...], dict[str, float]]:
    """A fresh part's (or data sheet's) figures by kind of part, the newest of each."""
    found: dict[tuple[object, ...], dict[str, float]] = {}
    for station in sheet.capacitors:
        for reading in by_station.get(station.id, []):
            if reading.quantity in _FRESH_CODES and 0 < reading.value < math.inf:
                found.setdefault(_alike(station), {})[reading.quantity] = reading.value
    return found


def _group(mates: Sequence[Station], bench: _Bench) -> list[StationFacts]:
    """Facts of the stations of one node."""
    bank, speaking = None, []
    in_bank: list[Station] = []
    is_bank = len(mates) > 1 and all(_is_capacitor(m) for m in mates)
    if is_bank:
        in_bank = _still_in(mates, bench)
        speaking = _bank_readings(mates, in_bank, bench)
        bank = _judge_bank(in_bank, speaking, bench) if len(in_bank) > 1 else None
    made = []
    for station in mates:
        own = bench.by_station.get(station.id, [])
        this_bank = bank if _is_spoken_for(station, in_bank, speaking, bench) else None
        alone = own
        if is_bank:
            left = speaking if in_bank == [station] else []
            alone = [r for r in own if r.setting != IN_CIRCUIT or r in left]
        judgement = _judge_alone(station, alone, bench)
        if this_bank:
            judgement = judge_member(
                this_bank.judgement, capacitor(station), _visual(own), bench.this_year
            )
        is_proven = judgement.verdict is Verdict.GOOD
        has_readings = bool(_judged(alone) or is_proven or (this_bank and speaking))
        decision = bench.decisions.get(station.id)
        state = judgement.verdict.value if has_readings else UNSEEN
        if decision and decision.kind == FITTED and state in (UNSEEN, Verdict.GOOD.value):
            state = REPLACED
        made.append(
            StationFacts(station, state, judgement, tuple(own), decision, this_bank, tuple(mates))
        )
    return made


def _is_capacitor(station: Station) -> bool:
    return station.kind is Kind.CAPACITOR and bool(station.value) and station.family is not None


def _judged(readings: Sequence[Reading]) -> list[Reading]:
    return [r for r in readings if r.quantity not in _NOT_JUDGED]


def _was_lifted(readings: Sequence[Reading]) -> bool:
    return any(r.setting == LIFTED for r in readings)


def _in_circuit(readings: Sequence[Reading]) -> list[Reading]:
    return [r for r in readings if r.setting == IN_CIRCUIT]


def _still_in(mates: Sequence[Station], bench: _Bench) -> list[Station]:
    """Members that took part in the bank's newest in-circuit reading.

    A member read lifted before that reading is taken to have been lifted still.
    """
    newest = max((r.id for m in mates for r in _in_circuit(bench.ever.get(m.id, []))), default=0)
    stayed = []
    for mate in mates:
        lifted = [r.id for r in bench.by_station.get(mate.id, []) if r.setting == LIFTED]
        if not lifted or min(lifted) > newest:
            stayed.append(mate)
    return stayed


def _bank_readings(
    mates: Sequence[Station], members: Sequence[Station], bench: _Bench
) -> list[Reading]:
    """Readings across the members, since the others were lifted and since a part was changed.

    While there are none since a change, the older ones still speak for the members not changed.
    """
    out = [bench.by_station.get(m.id, []) for m in mates if m not in members]
    lifted = max((min(r.id for r in own if r.setting == LIFTED) for own in out), default=0)
    across = [r for m in members for r in _in_circuit(bench.ever.get(m.id, [])) if r.id > lifted]
    across.sort(key=lambda reading: reading.id)
    for at in sorted((bench.fitted.get(m.id, "") for m in members), reverse=True):
        later = [r for r in across if r.taken_at > at]
        if later:
            return later
    return across


def _is_spoken_for(
    station: Station, in_bank: Sequence[Station], speaking: Sequence[Reading], bench: _Bench
) -> bool:
    """True when the readings across the bank are this part's too."""
    if station not in in_bank or _was_lifted(bench.by_station.get(station.id, [])):
        return False
    return not speaking or speaking[-1].taken_at > bench.fitted.get(station.id, "")


def _judge_bank(
    members: Sequence[Station], speaking: Sequence[Reading], bench: _Bench
) -> BankJudgement:
    caps = [(m.ref, bench.capacitor(m)) for m in members]
    return judge_bank(caps, _cap_readings(speaking, bench.meter), bench.meter)


def _judge_alone(station: Station, own: Sequence[Reading], bench: _Bench) -> Judgement:
    if _is_capacitor(station):
        return judge(
            bench.capacitor(station),
            _cap_readings(own, bench.meter),
            bench.this_year,
            bench.meter.esr_min_farad,
        )
    across = _latest([r for r in own if not r.polarity])
    base = _latest([r for r in own if r.polarity == BASE])
    return judge_part(
        station,
        PartReadings(
            across.get(Quantity.RESISTANCE.code),
            across.get(Quantity.FORWARD.code),
            across.get(Quantity.REVERSE.code),
            _visual(own),
            station.line in bench.rails_right,
            junctions(station.kind, own),
            base.get(Quantity.RESISTANCE.code),
            _battery(own),
        ),
    )


def junctions(kind: Kind, own: Sequence[Reading]) -> dict[str, tuple[Taken | None, Taken | None]]:
    """The pairs of pins that were read, with their readings forward and reversed."""
    found: dict[str, tuple[Taken | None, Taken | None]] = {}
    for name in PAIRS.get(kind, ()):
        latest = _latest([r for r in own if r.polarity == name])
        pair = latest.get(Quantity.FORWARD.code), latest.get(Quantity.REVERSE.code)
        if pair != (None, None):
            found[name] = pair
    return found


def capacitor(station: Station) -> Capacitor:
    """A capacitor station as the judgement wants it."""
    if station.family is None or not station.value:
        raise ValueError(f"{station.ref} is no capacitor with a value")
    return Capacitor(
        station.family, station.value, station.volt, station.tolerance, station.grade, station.year
    )


def _latest(readings: Sequence[Reading]) -> dict[str, Taken]:
    """The newest of each quantity; a lifted one outranks one in circuit."""
    found: dict[str, Taken] = {}
    for setting in (IN_CIRCUIT, LIFTED):
        for reading in readings:
            if reading.setting == setting:
                found[reading.quantity] = Taken(reading.value, setting == LIFTED, reading.digit)
    return found


def _battery(readings: Sequence[Reading]) -> Taken | None:
    volts = [r for r in readings if r.quantity == Quantity.BATTERY.code]
    return Taken(volts[-1].value, False, volts[-1].digit) if volts else None


def _visual(readings: Sequence[Reading]) -> tuple[str, ...]:
    looks = [r for r in readings if r.quantity == Quantity.LOOK.code]
    return tuple(looks[-1].typed.lower().replace(",", " ").split()) if looks else ()


def _cap_readings(readings: Sequence[Reading], meter: Meter) -> Readings:
    latest = _latest(readings)
    esr = latest.get(Quantity.ESR.code)
    if esr is not None and meter.lead_ohm:
        latest[Quantity.ESR.code] = replace(esr, value=max(0.0, esr.value - meter.lead_ohm))
    return Readings(
        latest.get(Quantity.CAPACITANCE.code),
        latest.get(Quantity.ESR.code),
        latest.get(Quantity.LEAKAGE.code),
        latest.get(Quantity.RESISTANCE.code),
        _visual(readings),
    )


def rail_facts(
    sheet: Sheet,
    readings: Sequence[Reading],
    tolerance: Tolerance,
    records: Mapping[tuple[str, str, str], float],
) -> list[RailFacts]:
    """Judge every rail from its standing readings; `records` are like units' ohms to ground."""
    standing = [r for r in readings if r.rail_key and not r.struck]
    found = []
    for rail in sheet.rails:
        known = {key[1:]: ohm for key, ohm in records.items() if key[0] == rail.key}
        found.append(
            RailFacts(
                rail,
                _volts(rail, standing, tolerance),
                {s: _ground(rail, standing, s, known) for s in (ISOLATED, ATTACHED)},
                _injections(rail, standing),
                known,
            )
        )
    return found


def rail_reading(rail: Rail, reading: Reading) -> RailReading:
    return RailReading(rail, reading.value, reading.high, reading.digit, Load(reading.setting))


def _volts(
    rail: Rail, standing: Sequence[Reading], tolerance: Tolerance
) -> dict[Load, tuple[Reading, RailJudgement]]:
    found = {}
    for reading in standing:
        if reading.rail_key == rail.key and reading.quantity == Quantity.RAIL.code:
            judgement = judge_rail(rail_reading(rail, reading), tolerance)
            found[Load(reading.setting)] = (reading, judgement)
    return found


def _ground(
    rail: Rail,
    standing: Sequence[Reading],
    setting: str,
    records: Mapping[tuple[str, str], float],
) -> GroundFacts:
    by_polarity = {
        r.polarity: r
        for r in standing
        if r.rail_key == rail.key and r.quantity == Quantity.GROUND.code and r.setting == setting
    }
    normal, other = by_polarity.get(NORMAL), by_polarity.get(REVERSED)
    judged = normal or other
    if judged is None:
        return GroundFacts(None, None, None)
    attached = setting == ATTACHED
    sheet_ohm = rail.ohm_attached if attached else rail.ohm_isolated
    record = records.get((setting, judged.polarity))
    judgement = judge_ohm(judged.value, attached, rail.nominal_v, record, sheet_ohm)
    return GroundFacts(normal, other, judgement)


def _injections(
    rail: Rail, standing: Sequence[Reading]
) -> dict[str, tuple[Reading, GroundJudgement]]:
    found = {}
    for reading in standing:
        if reading.rail_key == rail.key and reading.quantity == Quantity.INJECT.code:
            ampere = reading.ampere or 0.0
            found[reading.setting] = (reading, judge_injection(reading.value * ampere, ampere))
    return found


def wants_lift(facts: StationFacts) -> bool:
    return facts.judgement.action is Action.LIFT and facts.state == Verdict.UNPROVEN.value


def wants_base_ohm(facts: StationFacts) -> bool:
    """True when ohms across B–E would tell a resistor inside from a short."""
    return any(reason.code == BASE_OPEN_QUESTION for reason in facts.judgement.reasons)
