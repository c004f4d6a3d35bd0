"""Makes the demo workshop: four cases at four stages, through the same actions a person uses."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from functools import partial
from pathlib import Path

from hale_rail.actions.diagnosis import diagnosis
from hale_rail.actions.intake import drawings, waiting
from hale_rail.actions.intake.cases import NewCase
from hale_rail.actions.intake.sheets import add_pattern
from hale_rail.actions.parts import photos
from hale_rail.actions.places import marks
from hale_rail.actions.report.closing import hand_back
from hale_rail.actions.shorts import boards
from hale_rail.actions.workshop.workshop import save_ready_loads, save_resistors
from hale_rail.case.ledger import ledger
from hale_rail.case.report.report import CaseOutcome
from hale_rail.core.places.marks import MarkShape
from hale_rail.core.places.place import Side
from hale_rail.core.power.ready_loads import LOAD_KINDS, ReadyLoad
from hale_rail.core.procedures import (
    BATTERY,
    CAPACITANCE,
    ESR,
    INJECT,
    LEG_LIFTED,
    Condition,
    Point,
)
from hale_rail.core.procedures.boards import board_part
from hale_rail.core.safety.bleeding import volts_after
from hale_rail.core.targets import rail_target
from hale_rail.formats.boards.board_json import board_text
from hale_rail.formats.workshop.stock_csv import read_stock
from hale_rail.store.database import Store
from larkmoor import behind, closing, history, moment, placed, practised, sourcing, units, waves
from larkmoor.boards import Etched
from larkmoor.boards import board as board_map
from larkmoor.boards import photo as board_photo
from larkmoor.hand import Hand
from larkmoor.pictures import blackened_fuse, crazed_suppressor, drawing_pdf

#: volts left on the Pattern Editor's bulk capacitor, read twice so many seconds apart
_LEFT_V, _FALL_S = 154.0, 20.0


def fill(store: Store) -> None:
    """Fill an empty store with the demo's cases, vendors, drawers, history and practice."""
    patterns = begin(store)
    makers: tuple[Callable[[Store, str], None], ...] = (
        _shed_terminal,
        _pattern_editor,
        _draftmaster,
        _loomwright,
    )
    _warp_counter(store)
    _second_terminal(store, patterns[3])
    for make, pattern in zip(makers, reversed(patterns), strict=True):
        make(store, pattern)
    practised.fill(store)
    ledger.refresh(store)


def begin(store: Store) -> list[str]:
    """What was there before the bench's work of today: vendors, drawers, the earlier cases, the
    spare Draftmaster; returns the patterns of the four supplies."""
    stock = Path(__file__).parent / "resistors.csv"
    save_resistors(store, read_stock(stock.read_text(encoding="utf-8")))
    save_ready_loads(store, [
        ReadyLoad("headlamp", LOAD_KINDS["lamp"], 12.0, 1.75),
        ReadyLoad("old drive", LOAD_KINDS["drive"], 12.0, 0.5),
    ])  # fmt: skip
    sourcing.fill(store)
    history.fill(store)
    sheets = (units.loomwright, units.draftmaster, units.pattern_editor, units.shed_terminal)
    at = (moment.now() - timedelta(days=400)).isoformat(timespec="microseconds")
    patterns = [f"pattern:{add_pattern(store, make(), at)}" for make in sheets]
    _first_draftmaster(store, patterns[1])
    return patterns


def _say(hand: Hand, *said: tuple[str, str, str]) -> None:
    """What the technician says in the diagnosis: kind, key, value."""
    for kind, key, value in said:
        diagnosis.say(hand.store, hand.number, kind, key, value, hand.moment())


def _case(number: str, machine: str, symptom: str, before: str, start: str, school: str) -> NewCase:
    return NewCase(number, machine, symptom, before, start, "", school, "strict")


def _loomwright(store: Store, start: str) -> None:
    """Fuse blackened twice, switch transistor shorted, capacitors half measured."""
    hand = Hand(store, _case(
        "LW-014", "Wendlebury Loomwright 12",
        "Dead. Mains fuse blackened; a second one went the same way at once.",
        "Fuse replaced twice by the weaving room, nothing else.", start, "offenders",
    ), 3)  # fmt: skip
    hand.make_dead(C1="0.4")
    for ref, seen in (("J1", "none"), ("F1", "blackened"), ("S1", "none"), ("CX1", "craze"),
                      ("L1", "none"), ("RT1", "none"), ("BR1", "none"), ("C1", "none"),
                      ("Q1", "crack"), ("T1", "none"), ("Main board", "repaired")):  # fmt: skip
        hand.look(ref, seen)
    for ref, photo, caption in (
        ("F1", blackened_fuse(), "The second fuse, drawn from memory"),
        ("CX1", crazed_suppressor(), "CX1, drawn from memory"),
    ):
        files = [(f"{ref}.png", partial(bytes, photo))]
        photos.add(store, hand.number, hand.part(ref).id, files, caption, hand.moment())
    _loomwright_board(hand)
    hand.ohms("F1", "OL")
    hand.ohms("S1", "0R2")
    hand.ohms("L1", "0.6")
    hand.ohms("RT1", hand.meter.ohms(9.8))
    hand.junction("BR1", 0.53)
    hand.ohms("Q1", "0.3")
    hand.ohms("Q1", "short", lifted=True)
    hand.note("Q1 lifted: C to E shorted. Bridge reads good, bulk capacitor holds nothing.")
    hand.ohms("R1", hand.meter.ohms(101e3))
    hand.ohms("R1", "100k3", lifted=True)
    hand.ohms("T1", "1.4")
    hand.junction("D5", 0.21)
    hand.ohms("L5", "0R1")
    hand.junction("D6", 0.47)
    hand.ohms("L6", "0R1")
    hand.junction("D7", 0.51)
    hand.ohms("U1", "2k4")
    _say(hand, ("symptom", "fuse-black", "yes"), ("result", "bulk-ohm", "some ohms"),
         ("result", "bulk-out", "the short stays"))  # fmt: skip
    hand.ground("isolated", p5=(178, 171), p12=(1480, 940), m12=(2210, 1300), m5=(1790, 1150))
    hand.ground("attached", p5=(21.4, 20.8), p12=(88, 71), m12=(1650, 1100), m5=(1510, 990))
    hand.capacitor("C1", ESR)
    hand.capacitor("C2", ESR)
    hand.capacitor("C10", ESR, CAPACITANCE)
    hand.capacitor("C13", ESR)
    sourcing.measure_room(hand)
    sourcing.rate(hand, "F1", speed="T", voltage="250", case="5x20", breaking_a="35")
    sourcing.rate(hand, "Q1", style="npn", voltage="800", amps="6", watts="80", case="TO-218")


def _loomwright_board(hand: Hand) -> None:
    """Its board from both sides, every part placed, and a mark beside the switch transistor."""
    drawn = placed.supply_board(hand.sheet, hand.names, 240.0, "brown")
    top = hand.board(drawn, placed.photo(drawn))
    hand.place(drawn)
    behind = hand.board(drawn, placed.solder_side(drawn), Side.BOTTOM)
    wide, tall = (10 * side for side in drawn.size)
    hand.corners(behind, ((0, 0), (wide, 0), (wide, tall), (0, tall)), drawn.size[1])
    x, y = drawn.places["Q1"]
    marks.draw_mark(hand.store, hand.number, top, MarkShape.ARROW,
                    ((x + 24, y + 20), (x + 7, y + 9)), "cracked here", hand.moment())  # fmt: skip


def _first_draftmaster(store: Store, start: str) -> None:
    """The archive's other Draftmaster, handed back: its rails are the next one's record."""
    hand = Hand(store, _case(
        "LW-003", "Tamsin Draftmaster 3, the spare", "Hum bars across the picture.",
        "Stood in a dry store for twelve years.", start, "proven"), 212)  # fmt: skip
    _say(hand, ("symptom", "ripple", "yes"))
    hand.make_dead(C1="0.3", C2="0.6")
    hand.look_over(with_boards=False)
    supply = placed.supply_board(hand.sheet, hand.names, 190.0, "green")
    main = placed.main_board(hand.sheet, hand.names)
    for board in (supply, main):
        hand.board(board, placed.photo(board))
        hand.place(board)
    _drawn_board(hand)
    hand.capacitor("C1", ESR, CAPACITANCE)
    hand.replaced("C1", "15 000 µF 16 V 85 °C")
    hand.capacitor("C1", ESR, CAPACITANCE)
    after = hand.board(supply, placed.photo(supply, ("C1",)))
    wide, tall = (10 * side for side in supply.size)
    hand.corners(after, ((0, 0), (wide, 0), (wide, tall), (0, tall)), supply.size[1])
    hand.ground("attached", p5=(14.2, 13.7), p12=(70.5, 55.0), m5=(748, 531))
    hand.ground("isolated", p5=(948, 702), p12=(2610, 1510), m5=(3120, 2240))
    hand.power("mains")
    hand.rails(Condition.MACHINE, p5="5.04", p12="11.98", m5="-5.02")
    hand.make_dead(C1="1.2", C2="0.9")
    closing.earthed(hand, "0.07")
    hand_back(store, hand.number, 1, CaseOutcome.REPAIRED.code, hand.moment())


def _drawn_board(hand: Hand) -> None:
    """The map of +12 V, drawn here for every unit of the type, and a trace to its end."""
    rail = "+12 V"
    hand.ground("attached", p12=(0.31, 0.31))
    boards.save_map(hand.store, hand.number, rail, board_text(board_map()), at=hand.moment(40))
    boards.put_picture(hand.store, hand.number, rail, "board.png", board_photo(), hand.moment())
    title = "Draftmaster main board, sheet 2"
    drawings.attach(
        hand.store, hand.number, drawing_pdf(title), "sheet2.pdf", title, "B", of_type=True,
        at=hand.moment(),
    )  # fmt: skip
    hand.prove("P1 pin 3", "C50 +", "0.1")
    hand.prove("M11 pin 8", "C50 +", "0.2")
    hand.prove("P1 pin 5", "C50 −", "0.1")
    hand.trace(rail, 8)
    part_id = Etched(hand.number).part
    hand.read(Point(board_part(rail, part_id), LEG_LIFTED), "2k4")
    hand.note(f"{part_id} lifted: +12 V reads kilohms.")
    hand.replaced(part_id, "10 µF 25 V tantalum")


def _draftmaster(store: Store, start: str) -> None:
    """+12 V absent; 0.4 Ω to ground with the board on, kilohms without it."""
    hand = Hand(store, _case(
        "LW-022", "Tamsin Draftmaster 3",
        "No picture. +12 V absent, the regulator warm; +5 V and −5 V right.",
        "Came from a closed drawing office; recapped never.", start, "offenders"), 2)  # fmt: skip
    _say(hand, ("symptom", "rail-missing", "yes"))
    hand.power("mains")
    hand.rails(Condition.MACHINE, p5="5.03", p12="0.21", m5="-5.06")
    hand.bring_in(waves.draftmaster_raw())
    hand.make_dead(C1=hand.meter.volts(0.8), C2=hand.meter.volts(2.1))
    hand.look_over(with_boards=False)
    _photographed_aslant(hand)
    hand.ohms("F1", "0R4")
    hand.ohms("S1", "0R1")
    hand.ohms("T1", "38")
    for ref in ("BR1", "BR2"):
        hand.junction(ref, 0.56)
    for ref in ("U1", "U2", "U3"):
        hand.ohms(ref, hand.meter.ohms(5200))
    hand.ground("attached", p5=(13.8, 13.1), p12=(0.4, 0.4), m5=(735, 520))
    hand.ground("isolated", p5=(960, 710), p12=(2590, 1480), m5=(3080, 2200))
    hand.read(Point(rail_target("+12 V"), INJECT, Condition.ATTACHED), "0.31 V 780 mA")
    hand.capacitor("C1", ESR)
    hand.capacitor("C2", ESR)
    hand.capacitor("C3", ESR)
    hand.note("Short is on the board, not in the supply. Same both ways: copper or a tantalum.")
    hand.prove("P1 pin 3", "C50 +", "0.1")
    hand.tree("+12 V", ("Keyboard", 0.5, 0.5), ("Plotter card", 3.0, 1.0))
    cards = ("keyboard", "plotter-card")
    hand.attached("+12 V", ("supply", "p1", "main-board", *cards), "0.4")
    hand.attached("+12 V", ("supply", "p1", "main-board"), "0.4")
    hand.attached("+12 V", ("supply", "p1"), "2k6")
    hand.trace("+12 V", 1)


def _photographed_aslant(hand: Hand) -> None:
    """The places come from the spare of its type; its own photos are laid over by their corners."""
    size, seen = (2400, 1600), ((260, 210), (2180, 120), (2290, 1400), (150, 1500))
    for board in (
        placed.main_board(hand.sheet, hand.names),
        placed.supply_board(hand.sheet, hand.names, 190.0, "green"),
    ):
        photo = hand.board(board, placed.aslant(board, seen, size))
        hand.corners(photo, seen)


def _pattern_editor(store: Store, start: str) -> None:
    """Crashes when warm; output bank worn out; bulk still charged from the last run."""
    hand = Hand(store, _case(
        "LW-031", "Corvane Pattern Editor",
        "Runs, then crashes after twenty minutes, sooner on warm days.",
        "Cards reseated, contacts cleaned.", start, "proven"), 1)  # fmt: skip
    _say(hand, ("symptom", "warm", "yes"))
    hand.make_dead(C1=hand.meter.volts(1.6), C2=hand.meter.volts(1.6))
    hand.look_over(C21="bulge", C22="bulge leak", Backplane="battery-leak")
    hand.read(hand.part("Backplane").point(BATTERY), "1.1")
    drawn = placed.supply_board(hand.sheet, hand.names, 250.0, "blue")
    hand.board(drawn, placed.photo(drawn))
    hand.place(drawn, len(drawn.places) // 2)
    for ref in ("F1", "L1", "S1", "L10", "L11", "L12", "T1"):
        hand.ohms(ref, hand.meter.ohms(0.4))
    hand.ohms("RT1", "4.8")
    for ref, volt in (("BR1", 0.55), ("Q1", 0.58), ("Q2", 0.58), ("D10", 0.19), ("D11", 0.46),
                      ("D12", 0.5), ("D13", 0.51)):  # fmt: skip
        hand.junction(ref, volt)
    for ref in ("R1", "R2"):
        hand.ohms(ref, hand.meter.ohms(149e3))
        hand.ohms(ref, hand.meter.ohms(150e3), lifted=True)
    hand.ohms("U1", "3k1")
    hand.ground("attached", p5=(8.8, 8.6), p12=(83, 61), m12=(900, 640), m5=(1100, 800))
    hand.ground("isolated", p5=(122, 118), p12=(630, 410), m12=(1190, 850), m5=(1420, 960))
    for ref in ("CX1", "CY1", "CY2", "C5"):
        hand.capacitor(ref, CAPACITANCE, lifted=True)
    for ref in ("C1", "C2", "C25", "C26", "C27"):
        hand.capacitor(ref, ESR)
    for ref in ("C20", "C23"):
        hand.capacitor(ref, ESR, CAPACITANCE)
    hand.power("mains")
    hand.rails(Condition.MACHINE, p5="4.72..4.93", p12="12.31", m12="-11.72", m5="-5.02")
    hand.at_place("+5 V", Condition.MACHINE, supply="4.91 at 9 A", far="4.80 at 9 A")
    hand.note("Rails read warm, after fifteen minutes. +5 V sags and jumps.")
    hand.bring_in(waves.editor_before())
    hand.make_dead(C1=hand.meter.volts(1.4), C2=hand.meter.volts(1.5))
    sourcing.measure_room(hand)
    sourcing.rework(hand, "C27", "C23", "C24")
    hand.note("C20 to C22 wait for their parts. Run once more to hear whether +12 V is quieter.")
    hand.power("mains")
    hand.bring_in(waves.editor_after())
    hand.at = moment.now() - timedelta(minutes=2, seconds=_FALL_S + 4)
    hand.unplug()
    bulk, bleeder = hand.part("C1"), hand.part("R1")
    tau = (bulk.value or 0) * (bleeder.value or 0)
    hand.at -= timedelta(minutes=2)
    hand.store_volts("C1", hand.meter.volts(_LEFT_V))
    hand.at += timedelta(seconds=_FALL_S - 120)
    hand.store_volts("C1", hand.meter.volts(volts_after(_LEFT_V, tau, _FALL_S)))


def _shed_terminal(store: Store, start: str) -> None:
    """Finished: recapped, rails right in the machine, ready to be handed back."""
    hand = Hand(store, _case(
        "LW-009", "Oakhanger Shed Terminal",
        "Wavy picture, resets when the printer starts.",
        "Brick swapped for a bench supply: no change.", start, "blanket"), 9)  # fmt: skip
    _say(hand, ("symptom", "ripple", "yes"))
    hand.power("bench")
    hand.did("picture", "hum", "still")
    hand.bring_in(waves.terminal(2930e-6, "terminal-5v.csv", 6))
    hand.make_dead(C1="0.2")
    hand.look_over(C1="leak")
    for ref in ("F1", "S1", "L1"):
        hand.ohms(ref, hand.meter.ohms(0.3))
    for ref, volt in (("D1", 0.52), ("Q1", 0.61), ("D2", 0.49), ("D3", 0.5)):
        hand.junction(ref, volt)
    hand.ohms("U1", "4k4")
    hand.read(hand.part("C1").point(CAPACITANCE, Condition.LIFTED), "2930u")
    hand.read(hand.part("C2").point(ESR), "4.8")
    for ref, what in (("C1", "4700 µF 25 V 105 °C"), ("C2", "100 µF 25 V 105 °C"),
                      ("C3", "10 µF 25 V tantalum"), ("C4", "220 µF 35 V 105 °C"),
                      ("C5", "100 µF 25 V 105 °C")):  # fmt: skip
        hand.replaced(ref, what)
        hand.capacitor(ref, ESR, lifted=ref in ("C2", "C3"))  # on one node: either hides the other
    hand.ground("attached", p5=(29.6, 28.8), p12=(905, 700), m5=(1880, 1400))
    hand.ground("isolated", p5=(812, 640), p12=(2390, 1700), m5=(2610, 1900))
    hand.first_power({"limiter": "bench", "supply_v": 9.0, "draw_a": 0.6}, (
        ("limited", Condition.DUMMY, {"p5": "5.03", "p12": "12.10", "m5": "-5.07"}),
        ("alone", Condition.DUMMY, {"p5": "5.02", "p12": "12.08", "m5": "-5.06"}),
        ("board-1", Condition.MACHINE, {"p5": "5.01", "p12": "12.04", "m5": "-5.04"}),
    ))  # fmt: skip
    hand.power("mains")
    hand.did("picture", "gone")
    hand.bring_in(waves.terminal(4700e-6, "terminal-5v-after.csv", 7))
    behind.brought_up(hand)
    closing.soaked(hand)
    hand.note("24 hours with the printer on: no reset.")
    hand.make_dead(C1="0.9")


def _second_terminal(store: Store, start: str) -> None:
    """Its rails are right, and it shows nothing: the hunt behind the supply is under way."""
    hand = Hand(store, _case(
        "LW-027", "Oakhanger Shed Terminal", "Runs, but the screen stays dark. No beep.",
        "Keyboard unplugged and plugged again.", start, "proven"), 2)  # fmt: skip
    _say(hand, ("symptom", "machine-dead", "yes"))
    hand.make_dead(C1="0.6")
    hand.look_over()
    hand.power("bench")
    hand.rails(Condition.MACHINE, p5="5.01", p12="12.03", m5="-5.05")
    hand.make_dead(C1="0.5")
    behind.under_way(hand)


def _warp_counter(store: Store) -> None:
    """Its supply is past saving: a modern one, and a harness for it."""
    hand = Hand(store, _case(
        "LW-038", "Pellmarsh Warp Counter",
        "Supply burnt: transformer open, board scorched. The counter itself is whole.",
        "None known.", "template:linear", "proven"), 0.4)  # fmt: skip
    hand.make_dead()
    closing.listed(hand)
    closing.harnessed(hand)
    due = (moment.now() + timedelta(days=3)).date().isoformat()
    waiting.wait(store, [hand.number], due, "connector housings", hand.moment())
