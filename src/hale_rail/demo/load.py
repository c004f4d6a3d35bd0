"""Makes the demo workshop: four cases at four stages, through the same actions a person uses."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from importlib import resources
from pathlib import Path

from hale_rail.actions import casebook, diagnose, photos, record
from hale_rail.actions.casebook import NewCase
from hale_rail.actions.dossier import open_case
from hale_rail.core.parts.others import BLOCKING
from hale_rail.core.safety.bleeding import volts_after
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
    settings,
)
from hale_rail.core.supply.sheet import Kind, Sheet, Station, bank_mates
from hale_rail.demo import units
from hale_rail.demo.pictures import blackened_fuse, crazed_suppressor
from hale_rail.demo.truth import DemoMeter
from hale_rail.errors import StoreError
from hale_rail.store import sheets
from hale_rail.store.database import DATABASE, Store

MARK = "DEMO"
_MARK_TEXT = "Demo data of Hale Rail. `hale-rail demo --reset` throws this folder's content away.\n"
#: volts left on the Pattern Editor's bulk capacitor, read twice so many seconds apart
_LEFT_V, _FALL_S = 154.0, 20.0


def ensure_demo(folder: Path, *, reset: bool = False) -> Store:
    """The demo's store, made when absent; refuses a folder that holds somebody's real data."""
    mark = folder / MARK
    if (folder / DATABASE).exists() and not mark.exists():
        raise StoreError(f"{folder} holds data that is no demo: choose another --data folder.")
    is_finished = mark.exists() and "ready" in mark.read_text(encoding="utf-8")
    if mark.exists() and (reset or not is_finished):
        shutil.rmtree(folder)
    if not mark.exists():
        folder.mkdir(parents=True, exist_ok=True)
        mark.write_text(_MARK_TEXT, encoding="utf-8")
        store = Store(folder)
        _load(store)
        mark.write_text(_MARK_TEXT + "ready\n", encoding="utf-8")
        return store
    return Store(folder)


def _load(store: Store) -> None:
    stock = resources.files("hale_rail.demo") / "resistors.csv"
    casebook.save_workshop(store, {"resistors": stock.read_text(encoding="utf-8")})
    with store.write() as connection:
        patterns = [
            sheets.insert(connection, make(), is_pattern=True)
            for make in (units.loomwright, units.draftmaster, units.pattern_editor,
                         units.shed_terminal)
        ]  # fmt: skip
    _first_draftmaster(store, f"pattern:{patterns[1]}")
    makers: tuple[Callable[[Store, str], None], ...] = (
        _shed_terminal, _pattern_editor, _draftmaster, _loomwright,
    )  # fmt: skip
    for make, pattern in zip(makers, reversed(patterns), strict=True):
        make(store, f"pattern:{pattern}")


class _Hand:
    """One technician at one case: reads points in time order, minutes apart."""

    def __init__(self, store: Store, typed: NewCase, days_ago: float) -> None:
        self.store, self.number = store, typed.number
        self.at = datetime.now(UTC) - timedelta(days=days_ago)
        casebook.open_new(store, typed, self.moment())
        self.meter = DemoMeter(typed.number)
        self.sheet: Sheet = open_case(store, typed.number).sheet

    def moment(self, minutes: float = 2.0) -> str:
        self.at += timedelta(minutes=minutes)
        return self.at.isoformat(timespec="microseconds")

    def station(self, ref: str) -> Station:
        return next(s for s in self.sheet.stations if s.ref == ref)

    def read(self, point: Point, text: str) -> None:
        record.save_reading(
            self.store, self.number, point, text, at=self.moment(), check_seen=False
        )

    def part(self, ref: str, **texts: str) -> None:
        """Readings in circuit by quantity name, such as `resistance="0.2"`."""
        for name, text in texts.items():
            quantity = Quantity[name.upper()]
            setting = settings(quantity)[0]
            self.read(Point(quantity, self.station(ref).id, setting=setting), text)

    def look_over(self, *, with_boards: bool = True, **found: str) -> None:
        """The whole round in one go: what is not named looks sound."""
        for station in self.sheet.in_power_order:
            if station.board and not with_boards:
                continue
            point = Point(Quantity.LOOK, station.id)
            self.read(point, found.get(station.ref, "none"))

    def junction(self, ref: str, forward: float) -> None:
        """A sound junction, the four of a bridge, or a transistor's pairs."""
        station = self.station(ref)
        self.part(ref, resistance="OL" if station.kind is Kind.BRIDGE else "1M2")
        for way in polarities(station.kind, Quantity.FORWARD):
            shown = "OL" if way in BLOCKING else self.meter.volts(forward)
            for quantity, text in ((Quantity.FORWARD, shown), (Quantity.REVERSE, "OL")):
                self.read(Point(quantity, station.id, "", IN_CIRCUIT, way), text)

    def capacitor(self, ref: str, *quantities: Quantity, lifted: bool = False) -> None:
        """Read a capacitor (its whole bank when in circuit) with the demo's meter."""
        station = self.station(ref)
        read = [station] if lifted else bank_mates(self.sheet, station)
        for quantity in quantities:
            is_esr = quantity is Quantity.ESR
            text = self.meter.esr(read) if is_esr else self.meter.capacitance(read)
            setting = LIFTED if lifted else IN_CIRCUIT
            self.read(Point(quantity, station.id, setting=setting), text)

    def ground(self, setting: str, **ohms: tuple[float, float]) -> None:
        """Both polarities of each rail, keys such as `p5` and `m12`."""
        for rail in self.sheet.rails:
            name = f"{'m' if rail.nominal_v < 0 else 'p'}{abs(rail.nominal_v):g}"
            for polarity, ohm in zip((NORMAL, REVERSED), ohms.get(name, ()), strict=False):
                point = Point(Quantity.GROUND, None, rail.key, setting, polarity)
                self.read(point, self.meter.ohms(ohm))

    def rails(self, load: str, **volts: str) -> None:
        for rail in self.sheet.rails:
            name = f"{'m' if rail.nominal_v < 0 else 'p'}{abs(rail.nominal_v):g}"
            if name in volts:
                self.read(Point(Quantity.RAIL, None, rail.key, load), volts[name])

    def store_volts(self, ref: str, text: str) -> None:
        self.read(Point(Quantity.STORE, self.station(ref).id), text)

    def power(self, source: str) -> None:
        record.apply_power(self.store, self.number, source, self.moment(30))

    def unplug(self) -> None:
        record.remove_power(self.store, self.number, self.moment())

    def note(self, text: str) -> None:
        record.note(self.store, self.number, text, self.moment())

    def replaced(self, ref: str, reason: str) -> None:
        station = self.station(ref)
        record.decide(self.store, self.number, station.id, "fitted", reason, self.moment())


def _say(hand: _Hand, *said: tuple[str, str, str]) -> None:
    """What the technician says in the diagnosis: kind, key, value."""
    for kind, key, value in said:
        diagnose.say(hand.store, hand.number, kind, key, value, hand.moment())


def _case(number: str, machine: str, symptom: str, before: str, start: str, school: str) -> NewCase:
    return NewCase(number, machine, symptom, before, start, "", school, "strict")


def _loomwright(store: Store, start: str) -> None:
    """Fuse blackened twice, switch transistor shorted, capacitors half measured."""
    hand = _Hand(store, _case(
        "LW-014", "Wendlebury Loomwright 12",
        "Dead. Mains fuse blackened; a second one went the same way at once.",
        "Fuse replaced twice by the weaving room, nothing else.", start, "offenders",
    ), 3)  # fmt: skip
    hand.unplug()
    hand.store_volts("C1", "0.4")
    for ref, seen in (("J1", "none"), ("F1", "blackened"), ("S1", "none"), ("CX1", "craze"),
                      ("L1", "none"), ("RT1", "none"), ("BR1", "none"), ("C1", "none"),
                      ("Q1", "crack"), ("T1", "none"), ("Main board", "repaired")):  # fmt: skip
        hand.part(ref, look=seen)
    for ref, photo, caption in (
        ("F1", blackened_fuse(), "The second fuse, drawn from memory"),
        ("CX1", crazed_suppressor(), "CX1, drawn from memory"),
    ):
        files = [(f"{ref}.png", photo)]
        photos.add(store, hand.number, hand.station(ref).id, files, caption, hand.moment())
    hand.part("F1", resistance="OL")
    hand.part("S1", resistance="0R2")
    hand.part("L1", resistance="0.6")
    hand.part("RT1", resistance=hand.meter.ohms(9.8))
    hand.junction("BR1", 0.53)
    hand.part("Q1", resistance="0.3")
    hand.read(Point(Quantity.RESISTANCE, hand.station("Q1").id, setting=LIFTED), "short")
    hand.note("Q1 lifted: C to E shorted. Bridge reads good, bulk capacitor holds nothing.")
    hand.part("R1", resistance=hand.meter.ohms(101e3))
    hand.read(Point(Quantity.RESISTANCE, hand.station("R1").id, setting=LIFTED), "100k3")
    hand.part("T1", resistance="1.4")
    hand.junction("D5", 0.21)
    hand.part("L5", resistance="0R1")
    hand.junction("D6", 0.47)
    hand.part("L6", resistance="0R1")
    hand.junction("D7", 0.51)
    hand.part("U1", resistance="2k4")
    _say(hand, ("symptom", "fuse-black", "yes"), ("result", "bulk-ohm", "low"),
         ("result", "bulk-out", "short stays"))  # fmt: skip
    hand.ground(ISOLATED, p5=(178, 171), p12=(1480, 940), m12=(2210, 1300), m5=(1790, 1150))
    hand.ground(ATTACHED, p5=(21.4, 20.8), p12=(88, 71), m12=(1650, 1100), m5=(1510, 990))
    hand.capacitor("C1", Quantity.ESR)
    hand.capacitor("C2", Quantity.ESR)
    hand.capacitor("C10", Quantity.ESR, Quantity.CAPACITANCE)
    hand.capacitor("C13", Quantity.ESR)


def _first_draftmaster(store: Store, start: str) -> None:
    """The archive's other Draftmaster, handed back: its rails are the next one's record."""
    hand = _Hand(store, _case(
        "LW-003", "Tamsin Draftmaster 3, the spare", "Hum bars across the picture.",
        "Stood in a dry store for twelve years.", start, "proven only"), 212)  # fmt: skip
    _say(hand, ("symptom", "ripple", "yes"))
    hand.unplug()
    hand.store_volts("C1", "0.3")
    hand.store_volts("C2", "0.6")
    hand.look_over(with_boards=False)
    hand.capacitor("C1", Quantity.ESR, Quantity.CAPACITANCE)
    hand.replaced("C1", "15 000 µF 16 V 85 °C, measured before fitting")
    hand.ground(ATTACHED, p5=(14.2, 13.7), p12=(70.5, 55.0), m5=(748, 531))
    hand.ground(ISOLATED, p5=(948, 702), p12=(2610, 1510), m5=(3120, 2240))
    hand.power("mains")
    hand.rails("in the machine", p5="5.04", p12="11.98", m5="-5.02")
    hand.unplug()
    hand.store_volts("C1", "1.2")
    hand.store_volts("C2", "0.9")
    moment = hand.moment()
    casebook.edit(store, hand.number, 1, is_closed=True, at=moment)


def _draftmaster(store: Store, start: str) -> None:
    """+12 V absent; 0.4 Ω to ground with the board on, kilohms without it."""
    hand = _Hand(store, _case(
        "LW-022", "Tamsin Draftmaster 3",
        "No picture. +12 V absent, the regulator warm; +5 V and −5 V right.",
        "Came from a closed drawing office; recapped never.", start, "offenders"), 2)  # fmt: skip
    _say(hand, ("symptom", "rail-missing", "yes"))
    hand.power("mains")
    hand.rails("in the machine", p5="5.03", p12="0.21", m5="-5.06")
    hand.unplug()
    hand.store_volts("C1", hand.meter.volts(0.8))
    hand.store_volts("C2", hand.meter.volts(2.1))
    hand.look_over(with_boards=False)
    hand.part("F1", resistance="0R4")
    hand.part("S1", resistance="0R1")
    hand.part("T1", resistance="38")
    for ref in ("BR1", "BR2"):
        hand.junction(ref, 0.56)
    for ref in ("U1", "U2", "U3"):
        hand.part(ref, resistance=hand.meter.ohms(5200))
    hand.ground(ATTACHED, p5=(13.8, 13.1), p12=(0.4, 0.4), m5=(735, 520))
    hand.ground(ISOLATED, p5=(960, 710), p12=(2590, 1480), m5=(3080, 2200))
    hand.read(Point(Quantity.INJECT, None, "+12 V", ATTACHED), "0.31 V 780 mA")
    hand.capacitor("C1", Quantity.ESR)
    hand.capacitor("C2", Quantity.ESR)
    hand.capacitor("C3", Quantity.ESR)
    hand.note("Short is on the board, not in the supply. Same both ways: copper or a tantalum.")


def _pattern_editor(store: Store, start: str) -> None:
    """Crashes when warm; output bank worn out; bulk still charged from the last run."""
    hand = _Hand(store, _case(
        "LW-031", "Corvane Pattern Editor",
        "Runs, then crashes after twenty minutes, sooner on warm days.",
        "Cards reseated, contacts cleaned.", start, "proven only"), 1)  # fmt: skip
    _say(hand, ("symptom", "warm", "yes"))
    hand.unplug()
    for ref in ("C1", "C2"):
        hand.store_volts(ref, hand.meter.volts(1.6))
    hand.look_over(C21="bulge", C22="bulge leak", Backplane="battery-leak")
    hand.part("Backplane", battery="1.1")
    for ref in ("F1", "L1", "S1", "L10", "L11", "L12", "T1"):
        hand.part(ref, resistance=hand.meter.ohms(0.4))
    hand.part("RT1", resistance="4.8")
    for ref, volt in (("BR1", 0.55), ("Q1", 0.58), ("Q2", 0.58), ("D10", 0.19), ("D11", 0.46),
                      ("D12", 0.5), ("D13", 0.51)):  # fmt: skip
        hand.junction(ref, volt)
    for ref in ("R1", "R2"):
        hand.part(ref, resistance=hand.meter.ohms(149e3))
        point = Point(Quantity.RESISTANCE, hand.station(ref).id, setting=LIFTED)
        hand.read(point, hand.meter.ohms(150e3))
    hand.part("U1", resistance="3k1")
    hand.ground(ATTACHED, p5=(8.8, 8.6), p12=(83, 61), m12=(900, 640), m5=(1100, 800))
    hand.ground(ISOLATED, p5=(122, 118), p12=(630, 410), m12=(1190, 850), m5=(1420, 960))
    for ref in ("CX1", "CY1", "CY2", "C5"):
        hand.capacitor(ref, Quantity.CAPACITANCE, lifted=True)
    for ref in ("C1", "C2", "C25", "C26", "C27"):
        hand.capacitor(ref, Quantity.ESR)
    for ref in ("C20", "C23"):
        hand.capacitor(ref, Quantity.ESR, Quantity.CAPACITANCE)
    hand.power("mains")
    hand.rails("in the machine", p5="4.78..4.93", p12="12.31", m12="-11.72", m5="-5.02")
    hand.note("Rails read warm, after fifteen minutes. +5 V sags and jumps.")
    hand.at = datetime.now(UTC) - timedelta(minutes=2, seconds=_FALL_S + 4)
    hand.unplug()
    bulk, bleeder = hand.station("C1"), hand.station("R1")
    tau = (bulk.value or 0) * (bleeder.value or 0)
    hand.at -= timedelta(minutes=2)
    hand.store_volts("C1", hand.meter.volts(_LEFT_V))
    hand.at += timedelta(seconds=_FALL_S - 120)
    hand.store_volts("C1", hand.meter.volts(volts_after(_LEFT_V, tau, _FALL_S)))


def _shed_terminal(store: Store, start: str) -> None:
    """Finished: recapped, rails right in the machine, ready to be handed back."""
    hand = _Hand(store, _case(
        "LW-009", "Oakhanger Shed Terminal",
        "Wavy picture, resets when the printer starts.",
        "Brick swapped for a bench supply: no change.", start, "blanket"), 9)  # fmt: skip
    _say(hand, ("symptom", "ripple", "yes"))
    hand.unplug()
    hand.store_volts("C1", "0.2")
    hand.look_over(C1="leak")
    for ref in ("F1", "S1", "L1"):
        hand.part(ref, resistance=hand.meter.ohms(0.3))
    for ref, volt in (("D1", 0.52), ("Q1", 0.61), ("D2", 0.49), ("D3", 0.5)):
        hand.junction(ref, volt)
    hand.part("U1", resistance="4k4")
    hand.read(Point(Quantity.CAPACITANCE, hand.station("C1").id, setting=LIFTED), "2930u")
    hand.read(Point(Quantity.ESR, hand.station("C2").id, setting=IN_CIRCUIT), "4.8")
    for ref, what in (("C1", "4700 µF 25 V 105 °C"), ("C2", "100 µF 25 V 105 °C"),
                      ("C3", "10 µF 25 V tantalum"), ("C4", "220 µF 35 V 105 °C"),
                      ("C5", "100 µF 25 V 105 °C")):  # fmt: skip
        hand.replaced(ref, f"{what}, measured before fitting")
    hand.ground(ATTACHED, p5=(29.6, 28.8), p12=(905, 700), m5=(1880, 1400))
    hand.ground(ISOLATED, p5=(812, 640), p12=(2390, 1700), m5=(2610, 1900))
    hand.power("bench supply")
    hand.rails("dummy", p5="5.02", p12="12.08", m5="-5.06")
    hand.power("mains")
    hand.rails("in the machine", p5="5.01", p12="12.04", m5="-5.04")
    hand.note("24 hours with the printer on: no reset.")
    hand.unplug()
    hand.store_volts("C1", "0.9")
