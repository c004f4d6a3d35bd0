"""The demo's ends of work: a soak with known truth, a harness, a list from a wrong drawing."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass
from datetime import datetime

from hale_rail.actions.bring_up import continuity, machine
from hale_rail.actions.intake import drawings
from hale_rail.actions.soak import soaks
from hale_rail.case.bring_up.continuity import list_of
from hale_rail.case.file import open_case
from hale_rail.case.intake.drawings import drawings as case_drawings
from hale_rail.core.bring_up.harness import USUAL_M
from hale_rail.core.procedures import CONTINUITY, EARTH, PIN_VOLTS, Point
from hale_rail.core.procedures.bring_up import EARTH_TARGET, HARNESS, joint_target, pin_target
from hale_rail.core.soak.soak import Sample
from larkmoor.hand import Hand
from larkmoor.pictures import drawing_pdf


@dataclass(frozen=True)
class SoakTruth:
    """What a rail of the demo's soak really did: volts at the end of the warm-up, drift an hour,
    what it rose by while warming, noise and how much of it lasts to the next row, ripple in mV."""

    volt: float
    v_per_hour: float
    warming_v: float
    noise_v: float
    lag: float
    ripple_mv: float


SOAK_TRUTH = {
    "+5 V": SoakTruth(5.012, 0.00004, -0.018, 0.0016, 0.5, 9.0),
    "+12 V": SoakTruth(12.041, -0.0002, 0.035, 0.006, 0.6, 21.0),
    "−5 V": SoakTruth(-5.043, 0.0, 0.012, 0.003, 0.4, 14.0),
}
SOAK_STEP_S, SOAK_HOURS = 600.0, 25.5
#: rows between these hours are missing: the logger's battery was changed
SOAK_GAP_H = (9.1, 10.9)


def soak_rows(key: str, begins_s: float, seed: int = 9) -> list[tuple[str, Sample]]:
    """A rail's rows by its truth."""
    truth, draw = SOAK_TRUTH[key], random.Random(f"soak/{key}/{seed}")
    rest, found = 0.0, []
    for place in range(int(SOAK_HOURS * 3600 / SOAK_STEP_S) + 1):
        hours = place * SOAK_STEP_S / 3600
        rest = truth.lag * rest + draw.gauss(0, truth.noise_v * math.sqrt(1 - truth.lag**2))
        volt = truth.volt + truth.v_per_hour * hours + truth.warming_v * math.exp(-hours / 0.12)
        ripple = truth.ripple_mv + draw.gauss(0, 0.4)
        heat = 22 + 14 * (1 - math.exp(-hours / 0.8)) + 1.5 * math.sin(hours * math.pi / 12)
        if not SOAK_GAP_H[0] < hours < SOAK_GAP_H[1]:
            at_s = begins_s + place * SOAK_STEP_S
            sample = Sample(at_s, round(volt + rest, 4), round(ripple, 1), round(heat, 1))
            found.append((key, sample))
    return found


def soaked(hand: Hand) -> None:
    """A day and a half hour in the machine, by a logger."""
    begins = datetime.fromisoformat(hand.moment()).timestamp()
    rows = [row for key in SOAK_TRUTH for row in soak_rows(key, begins)]
    hand.moment(60 * SOAK_HOURS)
    soaks.add_rows(hand.store, hand.number, rows, "simulated", hand.moment())


SOURCE = """rail_v,amps,conductors,awg,pin_amps,min_amps
5,20,4,18,6,1
12,8,2,18,6,
-12,0.5,1,22,3,
0,,6,18,6,
"""
TARGET = """pin,kind,rail_v,amps,use
1,rail,5,4,
2,rail,5,4,
3,ground,,,
4,ground,,,
5,rail,12,1.2,
6,rail,-12,0.25,
7,rail,-5,0.1,
8,signal,,,power-good
9,signal,,,tick
10,nc,,,
"""
#: what the plan of the demo's harness is by hand: (pin, conductors, drop in mV), 0.4 m
HARNESS_TRUTH = (
    ("1", 1, 33.5), ("2", 1, 33.5), ("3", 1, 38.5), ("4", 1, 38.5), ("5", 1, 10.1), ("6", 1, 5.3),
)  # fmt: skip


def harnessed(hand: Hand) -> None:
    """A modern supply instead of one past saving; some of its pins read already."""
    machine.plan_harness(hand.store, hand.number, SOURCE, TARGET, USUAL_M, at=hand.moment(10))
    for pin, colour in (("1", "red"), ("2", "red"), ("3", "black"), ("4", "black"),
                        ("5", "orange"), ("6", "blue")):  # fmt: skip
        machine.say_colour(hand.store, hand.number, pin, colour, hand.moment(1))
    hand.power("mains")
    for pin, volts in (("1", "5.08"), ("2", "5.08"), ("3", "0.002"), ("4", "0.001"),
                       ("5", "12.11")):  # fmt: skip
        hand.read(Point(pin_target(HARNESS, pin), PIN_VOLTS), volts)
    hand.make_dead()


PAIRS = """one,other,joined,note
P8.1,S1.B9,yes,+5 V to slot 1
P8.2,S1.B10,yes,+5 V to slot 1
P8.5,S1.A1,yes,ground
P8.9,S1.B7,yes,+12 V to slot 1
P8.11,S1.B5,yes,−12 V to slot 1
S1.A12,U3.6,yes,write strobe
S1.A14,U3.11,yes,card select
S1.B9,S1.A1,no,+5 V to ground
S1.B7,S1.B9,no,+12 V to +5 V
U3.6,U3.11,no,strobe to select
"""


def listed(hand: Hand) -> None:
    """A list from a drawing that agrees twice; two results; then it is another board's."""
    store, number, title = hand.store, hand.number, "Warp Counter backplane"
    drawings.attach(
        store, number, drawing_pdf(title), "backplane.pdf", title, "A", at=hand.moment()
    )
    hand.prove("P8 pin 1", "S1 pin B9", "0.1")
    hand.prove("P8 pin 5", "S1 pin A1", "0.1")
    drawing = case_drawings(open_case(store, number))[-1].document.id
    key = continuity.take_list(
        store, number, "Backplane to slot 1", "Backplane, marked A", PAIRS, drawing, hand.moment()
    )
    found = list_of(open_case(store, number), key)
    shown = {"S1.A14": "OL", "S1.B7": "0.4"}
    for pair in found.pairs if found else ():
        one, other, is_joined = pair.pair.one, pair.pair.other, pair.pair.is_joined
        usual = "0.2" if is_joined else "OL"
        text = shown.get(one, usual) if one != "S1.B7" or other == "S1.B9" else usual
        hand.read(Point(joint_target(key, one, other), CONTINUITY), text)
    for number_of_pair, what, note, partner in (
        (7, "bodge", "wire from A14 to U3.11", "none"),
        (9, "cleared", "solder bridge at slot 1", ""),
    ):
        continuity.mark_pair(store, number, key, number_of_pair, what, note, partner, hand.moment())
    drawings.prove(store, number, drawing, "P8 pin 9", "S1 pin B7", True, "OL", hand.moment())
    hand.note("Sheet A draws +12 V on S1 pin B7; this board has it on B8. Find sheet B.")


def earthed(hand: Hand, ohms: str) -> None:
    """Earth continuity, pin to case."""
    hand.read(Point(EARTH_TARGET, EARTH), ohms)
