"""What a case page needs to be drawn: the view, the point in the tray, and what was just read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from flask import current_app

from hale_rail.actions import casebook, clock, probing
from hale_rail.actions.dossier import Dossier, open_case, position
from hale_rail.actions.facts import RailFacts, StationFacts
from hale_rail.actions.next_step import NextStep, next_step, point_words
from hale_rail.actions.sheetwork import Preview
from hale_rail.actions.stores import Clock, clocks
from hale_rail.core.parts.advice import Suspect, let_through, replacement_advice, suspects
from hale_rail.core.parts.age import AgeRisk
from hale_rail.core.parts.families import LEAK_SOAK_S
from hale_rail.core.parts.others import ACROSS
from hale_rail.core.parts.polarity import BoardMark, Mark, marks, unpolarised_words
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import Load, RailVerdict, band
from hale_rail.core.recap.demand import Choice, School, choose
from hale_rail.core.safety.bleeding import Resistor
from hale_rail.core.shorts.ground import GroundVerdict
from hale_rail.core.supply.points import (
    BY_CODE,
    IN_CIRCUIT,
    NORMAL,
    REVERSED,
    Point,
    Quantity,
    next_undone,
    parse_key,
    polarities,
    quantities,
    settings,
)
from hale_rail.core.supply.sheet import Kind, Rail
from hale_rail.errors import InputError
from hale_rail.formats.parts_text import write_part
from hale_rail.formats.stock_csv import read_stock
from hale_rail.store.readings import Reading

WITH_TRAY = ("map", "capacitors", "rails", "shorts", "safe")
GUARDED = ("map", "capacitors", "shorts")
_RAIL_STATES = {
    RailVerdict.PASS: "good",
    RailVerdict.MARGINAL: "worn",
    RailVerdict.FAIL: "failed",
    RailVerdict.NOT_JUDGED: "unproven",
}
_GROUND_STATES = {
    GroundVerdict.GOOD: "good",
    GroundVerdict.SUSPICIOUS: "worn",
    GroundVerdict.SHORT: "failed",
    GroundVerdict.UNPROVEN: "unproven",
}


@dataclass(frozen=True)
class Result:
    """A reading just saved and what it means: shape, word, figure, sentence."""

    state: str
    word: str
    where: str
    figure: str
    text: str
    reading_id: int


@dataclass(frozen=True)
class Desk:
    """Everything a case page shows."""

    dossier: Dossier
    view: str
    point: Point | None
    facts: StationFacts | None
    rail: RailFacts | None
    expect: str
    standing: Reading | None
    order: list[Point]
    step: NextStep
    result: Result | None = None
    typed: str = ""
    problem: str = ""
    is_conflict: bool = False
    load: Load = Load.MACHINE
    clocks: list[Clock] = field(default_factory=list)
    form: dict[str, str] = field(default_factory=dict)
    preview: Preview | None = None
    age: AgeRisk | None = None

    @property
    def advice(self) -> str:
        """What to heed when the panel's part is replaced, once it is to be."""
        bad = self.facts is not None and self.facts.state in ("failed", "worn")
        return replacement_advice(self.facts.station) if bad and self.facts else ""

    @property
    def marked(self) -> str:
        """The panel's part as one would write it in notes, to be corrected."""
        return write_part(self.facts.station) if self.facts else ""

    @property
    def choices(self) -> list[tuple[School, Choice]]:
        """What each school does with the panel's capacitor, and why."""
        if self.facts is None or self.facts.station.kind is not Kind.CAPACITOR:
            return []
        here = position(self.dossier.sheet, self.facts)
        return [(school, choose(here, school, clock.this_year())) for school in School]

    @property
    def marks(self) -> Sequence[Mark]:
        """The polarity marks to be met on the panel's part."""
        return marks(self.facts.station.family) if self.facts else ()

    @property
    def unpolarised(self) -> str:
        """What to say where there is no polarity to heed, or ""."""
        return unpolarised_words(self.facts.station.family) if self.facts else ""

    @property
    def board_mark(self) -> BoardMark | None:
        """What the panel's part's board prints, once that was asked and proven."""
        known = self.dossier.board_marks.get(self.facts.station.board) if self.facts else None
        return BoardMark(known.mark) if known else None

    @property
    def suspects(self) -> Sequence[Suspect]:
        """What a pass element of the panel's line may have taken along, when it failed."""
        facts, sheet = self.facts, self.dossier.sheet
        if facts and facts.state == "failed" and let_through(sheet, facts.station):
            return suspects(self.dossier.sheet, facts.station.line)
        if self.rail and any("suspect" in j.advice for _, j in self.rail.volts.values()):
            return suspects(self.dossier.sheet, self.rail.rail.key)
        return ()

    @property
    def number(self) -> str:
        return self.dossier.case.number

    @property
    def has_tray(self) -> bool:
        return self.view in WITH_TRAY and self.point is not None

    @property
    def is_guarded(self) -> bool:
        """True when the guard stands in front of this view's tray."""
        return self.view in GUARDED and not self.dossier.energy.guard_open

    @property
    def done_count(self) -> int:
        return sum(point.key in self.dossier.done for point in self.order)

    @property
    def how(self) -> str:
        """How the point is taken, and what to expect: `in circuit, whole bank of 3 · expect …`."""
        if self.point is None:
            return ""
        words = [self.point.setting]
        way = self.point.polarity
        if self.facts and self.point.quantity is Quantity.RESISTANCE and not way:
            way = ACROSS.get(self.facts.station.kind, "")
        words.append(f"leads {way}" if way in (NORMAL, REVERSED) else way)
        if self.facts and self.facts.bank and self.point.setting == IN_CIRCUIT:
            words.append(f"whole bank of {len(self.facts.mates)}")
        way = ", ".join(word for word in words if word)
        return " · ".join(
            part for part in (way, f"expect {self.expect}" * bool(self.expect)) if part
        )

    @property
    def soak_s(self) -> float:
        """How long the tray's reading settles before it counts, in seconds; 0 for at once."""
        is_leak = self.point is not None and self.point.quantity is Quantity.LEAKAGE
        return LEAK_SOAK_S if is_leak else 0.0

    @property
    def unit(self) -> str:
        if self.point is None or self.point.quantity.unit is None:
            return ""
        return self.point.quantity.unit.plain_symbol

    def sibling(self, quantity: Quantity | None = None, setting: str | None = None) -> Point:
        """The point beside the tray's: another quantity, or another way of taking it."""
        here = self.point
        if here is None:
            raise ValueError("no point in the tray")
        wanted = quantity or here.quantity
        how = setting if setting is not None else here.setting
        if how not in settings(wanted):
            how = settings(wanted)[0]
        ways = polarities(self.facts.station.kind if self.facts else None, wanted)
        way = here.polarity if here.polarity in ways else ways[0]
        return Point(wanted, here.station_id, here.rail_key, how, way)

    @property
    def quantities(self) -> tuple[Quantity, ...]:
        """What else can be read at the tray's part; while it is made safe, only volts."""
        if self.facts is None or self.view == "safe":
            return ()
        return quantities(self.facts.station)

    @property
    def settings(self) -> tuple[str, ...]:
        return settings(self.point.quantity) if self.point else ()

    def neighbour(self, step: int) -> Point | None:
        """The point before or after the tray's in the view's order."""
        keys = [point.key for point in self.order]
        if self.point is None or not keys:
            return None
        if self.point.key not in keys:
            return self.order[0]
        return self.order[(keys.index(self.point.key) + step) % len(keys)]

    def rail_state(self, verdict: RailVerdict) -> str:
        return _RAIL_STATES[verdict]

    def ground_state(self, verdict: GroundVerdict) -> str:
        return _GROUND_STATES[verdict]

    def band(self, rail: Rail) -> tuple[float, float]:
        return band(rail, self.dossier.tolerance)

    def standing_store(self, station_id: int) -> int | None:
        """Id of the reading that stands across a store."""
        found = self.dossier.standing.get(Point(Quantity.STORE, station_id).key)
        return found.id if found else None

    @property
    def struck(self) -> list[Reading]:
        """Readings of the panel's part or rail that were put aside, newest first."""
        if self.facts:
            here = [r for r in self.dossier.readings if r.station_id == self.facts.station.id]
        else:
            key = self.rail.rail.key if self.rail else None
            here = [r for r in self.dossier.readings if r.rail_key == key]
        return [r for r in reversed(here) if r.struck]

    def station_point(self, facts: StationFacts) -> str:
        """The next sensible reading at a station, as an address part."""
        return station_point(self.dossier, facts)


def lay(
    number: str,
    view: str,
    at: str = "",
    said: int | None = None,
    *,
    load: str = "",
    typed: str = "",
    problem: str = "",
    is_conflict: bool = False,
    form: dict[str, str] | None = None,
    preview: Preview | None = None,
) -> Desk:
    """Lay out a case's page; raises NotFoundError for an unknown case."""
    dossier = open_case(current_app.config["STORE"], number)
    chosen = _load(dossier, at, load)
    order = _order(dossier, view, chosen)
    point = _point(dossier, view, order, at)
    facts = dossier.facts.get(point.station_id or -1) if point else None
    rail = next((r for r in dossier.rails if point and r.rail.key == point.rail_key), None)
    return Desk(
        dossier=dossier,
        view=view,
        point=point,
        facts=facts,
        rail=rail,
        expect=_expect(dossier, point, facts, rail),
        standing=dossier.standing.get(point.key) if point else None,
        order=order,
        step=next_step(dossier),
        result=_result(dossier, said),
        typed=typed,
        problem=problem,
        is_conflict=is_conflict,
        load=chosen,
        clocks=clocks(dossier, _stock()) if view == "safe" else [],
        form=form or {},
        preview=preview,
        age=casebook.age_of(current_app.config["STORE"], facts.station) if facts else None,
    )


def _stock() -> list[Resistor]:
    """The workshop's power resistors; none when the list was never filled in."""
    text = casebook.workshop(current_app.config["STORE"])["resistors"]
    return read_stock(text) if text else []


def station_point(dossier: Dossier, facts: StationFacts) -> str:
    """The next unread point of a station, or its first."""
    station_id = facts.station.id
    walk = (*dossier.cold_points, *dossier.capacitor_points)
    own = [point for point in walk if point.station_id == station_id]
    for point in own:
        if point.key not in dossier.done:
            return point.key
    if own:
        return own[-1].key
    first = quantities(facts.station)[0]
    way = polarities(facts.station.kind, first)[0]
    return Point(first, station_id, "", settings(first)[0], way).key


def after_saving(dossier: Dossier, view: str, point: Point) -> Point:
    """Where the tray goes after a reading: the next unread point of the view, else it stays."""
    order = _order(dossier, view, _load(dossier, point.key, ""))
    return next_undone(order, dossier.done, after=point.key) or point


def _load(dossier: Dossier, at: str, load: str) -> Load:
    if "~rail~" in at:
        load = at.split("~")[2]
    for choice in Load:
        if choice.value == load:
            return choice
    taken = [choice for rail in dossier.rails for choice in rail.volts]
    return Load.MACHINE if Load.MACHINE in taken else Load.DUMMY


def _order(dossier: Dossier, view: str, load: Load) -> list[Point]:
    if view == "capacitors":
        return list(dossier.capacitor_points)
    if view == "rails":
        return probing.rail_points(dossier.sheet, load)
    if view == "shorts":
        return probing.ground_points(dossier.sheet)
    if view == "safe":
        return probing.store_points(dossier.sheet)
    return list(dossier.cold_points) if view == "map" else []


def _point(dossier: Dossier, view: str, order: list[Point], at: str) -> Point | None:
    """The point asked for, else the next unread one, else the first."""
    if at:
        try:
            point = parse_key(at)
        except InputError:
            point = None
        if point and (point.station_id in dossier.facts or dossier.sheet.rail(point.rail_key)):
            return point
    if view == "safe":
        waiting = dossier.energy.next_store
        if waiting:
            return Point(Quantity.STORE, int(waiting.store))
    found = next_undone(order, dossier.done)
    if found is None and view == "shorts":
        low = {r.rail.key for r in dossier.rails if r.polarity_text or r.side_text}
        found = next((p for p in order if p.rail_key in low), None)
    return found or (order[0] if order else None)


def _expect(
    dossier: Dossier, point: Point | None, facts: StationFacts | None, rail: RailFacts | None
) -> str:
    if point is None:
        return ""
    return probing.expectation(
        point, facts, rail.rail if rail else None, dossier.tolerance, dossier.limit_volt,
        rail.records.get((point.setting, point.polarity)) if rail else None,
    )  # fmt: skip


def _result(dossier: Dossier, said: int | None) -> Result | None:
    reading = next((r for r in dossier.readings if r.id == said and not r.struck), None)
    if reading is None:
        return None
    quantity = BY_CODE[reading.quantity]
    point = Point(quantity, reading.station_id, reading.rail_key, reading.setting, reading.polarity)
    state, word, text = _meaning(dossier, reading, quantity)
    figure = reading.typed if quantity.unit is None else show_reading(reading)
    return Result(state, word, point_words(dossier, point), figure, text, reading.id)


def _meaning(dossier: Dossier, reading: Reading, quantity: Quantity) -> tuple[str, str, str]:
    if reading.rail_key:
        rail = next(r for r in dossier.rails if r.rail.key == reading.rail_key)
        if quantity is Quantity.RAIL:
            judged = rail.volts[Load(reading.setting)][1]
            return (_RAIL_STATES[judged.verdict], judged.verdict.value,
                    f"{judged.text}. {judged.advice}")  # fmt: skip
        if quantity is Quantity.INJECT:
            injected = rail.injections[reading.setting][1]
            return _GROUND_STATES[injected.verdict], injected.verdict.value, injected.text
        ground = rail.ground[reading.setting].judgement
        if ground:
            text = f"{ground.text} {rail.side_text}"
            return _GROUND_STATES[ground.verdict], ground.verdict.value, text
    if quantity is Quantity.STORE:
        return _store_meaning(dossier, reading)
    facts = dossier.facts[reading.station_id or 0]
    reasons = facts.judgement.reasons
    return (
        facts.judgement.verdict.value,
        facts.judgement.verdict.value,
        (reasons[0].sentence if reasons else ""),
    )


def _store_meaning(dossier: Dossier, reading: Reading) -> tuple[str, str, str]:
    energy = dossier.energy
    state = next(s for s in energy.stores if s.store == str(reading.station_id))
    limit = show(energy.limit_volt, Unit.VOLT)
    if not state.is_below(energy.limit_volt):
        word = "live" if energy.energy.value == "live" else "charged"
        return "failed", word, f"Above the {limit} touch limit: bleed it, then read again."
    if not state.is_below(5.0):
        text = f"Below {limit}, but above 5 V: no ohm or ESR meter on it yet."
        return "worn", "bleed on", text
    return "good", "bled", "Low enough to touch and to measure. Read again in some minutes."


def show_reading(reading: Reading) -> str:
    """A stored reading with the figures that were typed."""
    unit = BY_CODE[reading.quantity].unit
    if unit is None:
        return reading.typed
    if reading.ampere:
        volt = show(reading.value * reading.ampere, Unit.VOLT)
        return f"{show(reading.value, Unit.OHM)} ({volt}, {show(reading.ampere, Unit.AMPERE)})"
    text = show(reading.value, unit, 4)
    return text if reading.high == reading.value else f"{text} to {show(reading.high, unit, 4)}"
