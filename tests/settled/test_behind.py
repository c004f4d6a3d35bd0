"""Dead machines whose supply is right, settled on paper: said, not said, and what is next."""

from __future__ import annotations

import pytest

from hale_rail.core.behind.apart import loose_said
from hale_rail.core.behind.pins import named_pin
from hale_rail.core.behind.symptoms import Symptom, symptom_said
from tests.settled.behind_bench import BUS, CLOCK, RAILS, RESET, RUNS, STROBED, Told

#: the opposite pattern reads right in both banks
LOW = ("memory bank 0 00 00", "memory bank 1 00 00")
#: what was observed; what must be said; what must not be said; what is next
Story = tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...], str]
STORIES: dict[str, Story] = {
    "nothing is read: the rail at the processor, not at the connector": (
        (), ("Not proven: rails at the chips",), ("Proven:",), "+5 V at U20 VCC, not at the"),
    "no first message and nothing read: nothing is right yet": (
        ("symptom dead",), (), ("Proven:",), "rail at the processor: U20 VCC"),
    "rails at the chips alone: clock and reset are not said to be right": (
        RAILS, ("Proven: rails at U20, M1 and M9.", "clock, reset"),
        ("Proven: clock", "and reset."), "the clock at U20 CLK"),
    "−5 V is missing at one memory chip: no chip is blamed": (
        (*RAILS[:3], "M1.V-5 -0.2"), ("Wrong: rails at the chips", "−200 mV"), ("Proven:",),
        "−5 V at its connector"),
    "a rail that is wrong at the connector too goes back to the supply": (
        ("U20.VCC 4.31", "failed +5 V"), ("Wrong: rails",), ("Proven",), "back to the supply"),
    "the rail falls with the machine, no chip read": (
        ("failed +12 V",), ("+12 V: wrong at the connector",), (), "Back to the supply"),
    "no clock at the processor: first the rail of the chip that makes it": (
        (*RAILS, "U20.CLK l"), ("No clock at U20 CLK",), ("M9 and clock",), "+5 V at U2 VCC"),
    "it runs where it is made: it is lost on the way": (
        (*RAILS, "U20.CLK d", "U2.VCC 5.0", "U2.OUT p"), ("lost between",), ("crystal",),
        "ohms from U2 OUT"),
    "its chip is fed and stands still: the crystal": (
        (*RAILS, "U20.CLK h", "U2.VCC 5.0", "U2.OUT h"), ("No clock",), ("U2 is bad",), "X1"),
    "2.3 V by a meter is no clock and no standstill": (
        (*RAILS, "U20.CLK 2.3"), ("2.3 V by a meter",), ("The clock runs", "No clock"),
        "Probe or scope on U20 CLK"),
    "0.1 V by a meter is no clock": (
        (*RAILS, "U20.CLK 0.1"), ("No clock at U20 CLK",), ("The clock runs",), "U2 VCC"),
    "4.773 MHz of 14.318 MHz is its third": (
        CLOCK, ("X1 by 3", "and clock."), ("no whole part",), "Watch reset at U20 RESET"),
    "5.1 MHz is no part of 14.318 MHz": (
        (*RAILS, "U20.CLK p 5.1M"), ("no whole part of X1",), ("X1 by",), "reset"),
    "reset stays high where high resets: what makes it": (
        (*CLOCK, "U20.RESET h"), ("Reset stays",), ("let go",), "power good at U3 PG"),
    "reset stays, its generator read: power good and its capacitor, a supply part": (
        (*CLOCK, "U20.RESET h", "U3.PG h", "U3.RESET h"), ("Reset stays",), (), "its capacitor"),
    "reset low where high resets: let go, but was it ever held": (
        (*CLOCK, "U20.RESET l"), ("let go at U20 RESET", "is not read"), ("Reset stays",),
        "while power comes"),
    "high, then low: reset is proven": (
        RESET, ("clock and reset.",), ("Reset stays",), "ready or wait at U20 READY"),
    "reset again and again": (
        (*CLOCK, "U20.RESET p"), ("again and again",), ("let go",), "power good"),
    "the processor waits": (
        (*RESET, "U20.READY l"), ("told to wait",), ("lets it run",), "can drive U20 READY"),
    "1.6 V by a meter at ready: no level, or a moving one": (
        (*RESET, "U20.READY 1.6"), ("1.6 V by a meter",), ("told to wait", "lets it run"),
        "Probe or scope on U20 READY"),
    "address lines still before reset was read: reset, not the processor": (
        (*CLOCK, "U20.A0 l"), ("Not proven before it: reset, wait and hold",), ("dead",),
        "reset at U20 RESET"),
    "all still and all before it right: halted or dead": (
        (*RUNS, "U20.A0 l", "U20.D0 h", "U20.SEL h"), ("halted or dead",), ("U20 is bad",),
        "known good"),
    "one data line stuck low: the chip, the one beside it, or a short": (
        (*RUNS, "U20.A0 p", "U8.CS p", "U20.D0 l"),
        ("U20, the chip beside it on the line, or a short",), ("U20 is bad",), "U20 D0 to ground"),
    "stuck, and 0.6 Ω to ground: a short, unplugged chip by chip": (
        (*RUNS, "U20.A0 p", "U8.CS p", "U20.D0 l", "U20.D0>GND 0.6"),
        ("0.6 Ω to ground", "a short on"),
        ("U20 is bad", "A chip holds"), "Unplug or lift U20"),
    "stuck, no short to ground: the rail is next": (
        (*RUNS, "U20.A0 p", "U8.CS p", "U20.D0 h", "U20.D0>GND 4k"), (), ("a short on the",),
        "U20 D0 to +5 V"),
    "stuck, no short at all: one of the two chips holds it": (
        (*RUNS, "U20.A0 p", "U8.CS p", "U20.D0 h", "U20.D0>GND 4k", "U20.D0>+5_V 6k"),
        ("a chip holds the line",), ("U20 is bad",), "look at the line again"),
    "mid-level: two outputs fight, or nothing drives it": (
        (*RUNS, "U20.A0 p", "U8.CS p", "U20.D0 m"), ("two outputs fight, or nothing",),
        ("stuck",), "ohms from U20 D0 to ground"),
    "mid-level, no short, and the chips on the line acquitted: a bridge is looked for": (
        (*RUNS, "U20.A0 p", "U8.CS p", "U20.D0 m", "U20.D0>GND 4k", "U20.D0>+5_V 6k",
         "act U20 tried in LW-020 works", "act U8 tried in LW-020 works",
         "act U30 tried in LW-020 works"),
        ("a chip holds the line, or leaves it",), ("U20 is bad",),
        "look for a bridge or a clipping"),
    "the clock's crystal and chip are acquitted: socket and output": (
        (*RAILS, "U20.CLK l", "U2.VCC 5.0", "U2.OUT l",
         "act X1 substituted proven in LW-020 stayed",
         "act U2 substituted proven in LW-020 stayed"), ("No clock",), ("U2 is bad",),
        "Neither X1 nor U2"),
    "power good reaches the generator, and it keeps reset: its capacitor, then itself": (
        (*CLOCK, "U20.RESET h", "U3.PG h", "U3.RESET h"), ("Reset stays",), ("U3 is bad",),
        "its capacitor"),
    "the ROM is never selected: what selects it": (
        (*RUNS, "U20.A0 p", "U8.CS h"), ("never selected",), ("U8 is bad",), "decoder"),
    "the ROM reads bit 3 high everywhere": (
        (*BUS, "rom bit3"), ("output 3, stuck",), ("holds what it should.",), "U8 again"),
    "the ROM is equal: what it holds is proven": (
        (*BUS, "rom equal"), ("U8 holds what it should.",), ("differ",), "strobe at M1 RAS"),
    "bit 3 of bank 0 low: its chip, and the exchange that proves it": (
        (*STROBED, *LOW, "memory bank 0 FF F7", "memory bank 1 FF FF"),
        ("M4: bit 3 of bank 0 reads low",), ("M4 is bad",), "Exchange M4 with M1 (bit 0)"),
    "bit 3 of bank 0, the other bank untested: that bank before a chip is pulled": (
        (*STROBED, "memory bank 0 FF F7", "memory bank 0 00 00"),
        ("M4: bit 3 of bank 0 reads low",), ("M4 is bad",), "Test bank 1 too"),
    "bit 3 by one pattern: the opposite one before anything": (
        (*STROBED, "memory bank 0 FF F7"), ("M4: bit 3 of bank 0 reads low",), ("M4 is bad",),
        "the opposite pattern"),
    "two bits that always read alike: their lines, not the chips": (
        (*STROBED, "memory bank 0 AA A2", "memory bank 0 55 45"),
        ("Bits 3 and 4 always read alike", "M4: bit 3", "M5: bit 4"), ("M4 is bad",),
        "Test bank 1 too"),
    "bit 3 in both banks, and one of the chips is acquitted: their line": (
        (*STROBED, *LOW, "memory bank 0 FF F7", "memory bank 1 FF F7",
         "act M4 substituted proven in LW-020 stayed"),
        ("Not M4, if there is one fault",), ("M4 is bad",), "the line of that bit"),
    "bit 3 in both banks: both chips stay named beside the buffer": (
        (*STROBED, *LOW, "memory bank 0 FF F7", "memory bank 1 FF F7"),
        ("M4: bit 3", "M12: bit 3", "the buffer or the line"), ("is bad.",), "across the banks"),
    "no test was read: memory is not said to be right": (
        STROBED, ("No memory test",), ("No bit differs",), "Run a memory test"),
    "FF alone tests no low": (
        (*STROBED, "memory bank 0 FF FF"), ("never written low",), ("moving and memory",),
        "opposite pattern"),
    "a spare from stock with which it stayed acquits nothing": (
        (*RUNS, "act U20 substituted stock stayed"), ("Nothing for sure", "not acquitted"),
        ("Not U20",), "Prove the spare"),
    "a known-good spare with which it stayed: not this one, if there is one fault": (
        (*RUNS, "act U20 substituted proven in LW-020 stayed"),
        ("Not U20, if there is one fault", "proven in LW-020"), ("is bad",), "U20 A0"),
    "a spare that cures: the old part, or its contact": (
        (*RUNS, "act U20 substituted proven in LW-020 gone"), ("The old U20, or its contact",),
        ("Nothing for sure", "U20 is bad"), "Put the old U20 back once"),
    "the old one put back brings it back": (
        (*RUNS, "act U20 substituted stock gone", "act U20 put back back"), ("U20 is bad",), (),
        "Fit a good one in place of U20"),
    "the old one put back, still gone: its contact": (
        (*RUNS, "act U20 substituted stock gone", "act U20 put back gone"), ("contact of U20",),
        ("U20 is bad",), "socket"),
    "exchanged, stayed: neither, if there is one fault": (
        (*RUNS, "act U20 exchanged U21 stayed"), ("Neither U20 nor U21, if there is one fault",),
        ("is bad",), "U20 A0"),
    "exchanged, moved": (
        (*RUNS, "act M4 exchanged M5 moved"), ("M4 is bad",), ("M5 is bad",), "place of M4"),
    "exchanged, gone: a contact, or the place": (
        (*RUNS, "act M4 exchanged M5 gone"), ("contact was made better, or the fault depends",),
        ("M4 is bad",), "back"),
    "removed, gone: it, or what it loads": (
        (*RUNS, "act U30 removed gone"), ("U30, or what it loads",), ("U30 is bad",), "another in"),
    "removed, stayed: not by it alone": (
        (*RUNS, "act U30 removed stayed"), ("Not by U30 alone",), ("U30 is bad",), "U20 A0"),
    "a spare that failed where a second one cured is a purchase that failed": (
        (*RUNS, "act U20 substituted CPU-1 stock stayed", "act U20 substituted CPU-2 stock gone"),
        ("CPU-1 was bad too, or sat badly: from stock",), ("CPU-2 was bad",), "back once"),
    "after rework its bridges come before the clock": (
        (*RAILS, "work done"), ("not looked over since",), (), "bridges, clippings, sockets"),
    "a bridge was found at the work": (
        (*RAILS, "U20.CLK l", "work solder bridge at U2"), ("solder bridge at U2",), (),
        "Clear it"),
    "the work was looked over and is clean: on with the chain": (
        ("work clean",), ("looked over: clean",), (), "+5 V at U20 VCC"),
    "a hot chip beside cool ones speaks for its bit": (
        (*STROBED, *LOW, "memory bank 0 FF F7", "memory bank 1 FF FF", "hot M4"),
        ("M4 runs hot",), ("M4 is bad",), "M4"),
    "garbage: the memory's rails first": (
        ("symptom garbage",), (), ("Proven",), "Every rail at a memory chip: M1"),
    "keyboard dead: the chip that reads it, not the clock": (
        ("symptom keyboard-dead",), (), ("Proven",), "U30 VCC"),
    "11.8 V at a data pin: joined to a rail": (
        (*RAILS, "U20.D0 11.8"), (), (), "joined"),
}  # fmt: skip


@pytest.mark.parametrize("story", STORIES.values(), ids=STORIES.keys())
def test_a_story_says_what_was_read_and_no_more(story: Story) -> None:
    observed, said, not_said, then = story
    told = Told(*observed)
    assert [text for text in said if text not in told.text] == [], told.text
    assert [text for text in not_said if text in told.text] == [], told.text
    assert then in told.next


def test_which_level_resets_is_asked_before_a_level_is_judged() -> None:
    told = Told(*CLOCK, "U20.RESET lh", active="")
    assert "Which level resets U20 is not said" in told.text
    assert told.next.startswith("Say which level resets U20")


def test_the_state_of_each_chip_follows_from_what_was_read_of_it() -> None:
    told = Told(*STROBED, "memory bank 0 FF F7", "act U30 tried in LW-020 works", "hot M7",
                "act M2 exchanged M3 moved")  # fmt: skip
    states = {
        ref: told.chips[ref].state.code for ref in ("U20", "M4", "U30", "M7", "M2", "M3", "U40")
    }
    assert states == {"U20": "part", "M4": "suspected", "U30": "cleared", "M7": "suspected",
                      "M2": "bad", "M3": "cleared", "U40": "unread"}  # fmt: skip


@pytest.mark.parametrize(
    ("words", "symptom"),
    [
        ("Runs, but the screen stays dark", Symptom.NO_PICTURE),
        ("memory error on the screen", Symptom.MEMORY),
        ("random characters on the screen", Symptom.GARBAGE),
        ("hangs after ten minutes", Symptom.HALTS),
        ("fan turns, but dead", Symptom.DEAD),
        ("no beep", Symptom.NO_BEEP),
        ("some keys do nothing", Symptom.KEYBOARD),
        ("RAM test fails", Symptom.MEMORY),
        ("the program changes by itself", None),
        ("drive B not found", Symptom.DRIVE),
        ("wavy picture, the sound hums", None),
        ("dead, the fuse is black", None),
        ("the driver transistor is hot", None),
        ("", None),
    ],
)
def test_a_complaint_s_own_words_may_mean_a_symptom_of_the_machine(
    words: str, symptom: Symptom | None
) -> None:
    assert symptom_said(words) is symptom


@pytest.mark.parametrize(
    ("name", "runs"),
    [("READY", "high"), ("RDY", "high"), ("/RDY", "low"), ("DTACK", "low"), ("/DTACK", "low"),
     ("/WAIT", "high"), ("WAIT", ""), ("HOLD", ""), ("/BUSRQ", "high"), ("/IRQ", "high")],
)  # fmt: skip
def test_the_level_that_lets_run_is_what_the_pins_name_says(name: str, runs: str) -> None:
    pin = named_pin(name)
    assert pin and pin.runs == runs


@pytest.mark.parametrize(
    ("words", "what"),
    [("earth wire, lid to base", "earth"), ("shields, two tabs", "shield"),
     ("green wire by the switch", "lead"), ("four screws", "screw"), ("minute cover", "cover")],
)  # fmt: skip
def test_what_came_off_goes_by_its_name_and_never_by_a_colour(words: str, what: str) -> None:
    assert loose_said(words).code == what
