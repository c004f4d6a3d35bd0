"""What hangs behind the supply, the way to it, joints, and what goes wrong together."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks.block import Block, UnitSheet
from hale_rail.core.diagnosis.blocks.outputs import shorted
from hale_rail.core.diagnosis.effects import (
    CLEAN,
    DEAD,
    FOLDED,
    HICCUP,
    LATCHED,
    LATE,
    MISSING,
    NOISE,
    OWN_RAIL,
    RIGHT,
    SAGS,
    Effect,
)
from hale_rail.core.diagnosis.faults import AGED, RECAP, UNIT, Fault
from hale_rail.core.parts.modes import FaultMode

_JUMPS = (0.12, 0.18, 0.69, 0.01)


def board(unit: UnitSheet, fault: Fault) -> Effect | None:
    """A short or a thirst behind the connector: gone on dummy loads; a board faulty by itself."""
    behind = fault.part is not None and bool(fault.part.board) and fault.part.kind.code != "board"
    if not fault.has("board") and not behind:
        return None
    if behind and fault.mode is FaultMode.DRY:
        board = {"resets": 0.05, "ripple": 0.03}
        return Effect(
            "board-dry", "a dry decoupler on a board", NOISE, symptoms=board, in_machine=True
        )
    if fault.mode is FaultMode.SHORT:
        effect = shorted(unit, fault, "board-short", "a short on the board")
        board = {**effect.symptoms, "no-load-only": 0.35, "smoke": 0.12, "dead-whole": 0.05}
        regimes = dict(effect.regimes)
        return Effect(
            "board-short", effect.because, effect.rank, regimes, effect.rails, symptoms=board,
            in_machine=True,
        )  # fmt: skip
    if fault.mode is FaultMode.OVERLOAD:
        because = "something behind the connector draws too much: on dummy loads it is gone"
        regimes = {HICCUP: 0.28, DEAD: 0.14, CLEAN: 0.02} if unit.is_switched(fault.line) else {}
        rails = {fault.line: (0.05, 0.6, 0.34, 0.01)}
        if unit.is_main(fault.line):
            # the loop pushes for its main rail, and the others rise with it
            rails |= {
                r.key: (0.01, 0.2, 0.49, 0.3)
                for r in unit.sheet.rails
                if r.key != fault.line and r.regulation.is_switching
            }
        return Effect(
            "overload", because, FOLDED, regimes, rails,
            symptoms={"no-load-only": 0.55, "rails-low": 0.15, "warm": 0.1, "resets": 0.1,
                  "protection": 0.1}, in_machine=True, slow=0.2 if regimes else 0.4, jumps=0.12,
        )  # fmt: skip
    if fault.mode is FaultMode.FAULTY:
        because = "the supply is right: the fault is in the machine itself"
        board = {"machine-dead": 0.75, "resets": 0.45, "drops-out": 0.05}
        return Effect("board-faulty", because, NOISE, {}, symptoms=board, in_machine=True)
    return None


def contact(unit: UnitSheet, fault: Fault) -> Effect | None:
    """A worn contact loses volts on the way to the board; an open one ends a rail there."""
    if fault.has("relay") and fault.mode is FaultMode.WORN:
        because = "worn contacts of a relay open now and then"
        rails = {fault.line: _JUMPS} if unit.sheet.rail(fault.line) else {}
        contact = {"drops-out": 0.4, "rail-missing": 0.25, "resets": 0.1, "crackle": 0.1}
        return Effect(
            "relay-worn", because, NOISE, {DEAD: 0.05}, rails, symptoms=contact, jumps=0.4
        )
    if not fault.has("connector") or fault.mode is FaultMode.JOINT:
        return None
    keys = (fault.part.rails if fault.part else ()) or tuple(r.key for r in unit.sheet.rails)
    if fault.mode is FaultMode.OPEN:
        because = "an open contact ends its rail at the board, not at the supply"
        return Effect(
            "contact-open",
            because,
            NOISE,
            {},
            {},
            symptoms={"machine-dead": 0.5, "rail-missing": 0.2, "low-at-board": 0.3},
            in_machine=True,
            far=keys,
        )
    because = "a worn contact loses volts on the way to the board"
    contact = {"low-at-board": 0.72, "warm": 0.14, "resets": 0.2, "machine-dead": 0.05,
            "crackle": 0.03, "power-good-low": 0.03}  # fmt: skip
    return Effect(
        "contact", because, NOISE, symptoms=contact, warm=0.2, in_machine=True, far=keys, jumps=0.15
    )


def joint(unit: UnitSheet, fault: Fault) -> Effect | None:
    """A cracked joint opens and closes with warmth and with a push."""
    if fault.mode is not FaultMode.JOINT:
        return None
    on_main = unit.is_main(fault.line)
    rails = {fault.line: _JUMPS} if unit.sheet.rail(fault.line) else {}
    every = RIGHT if rails else (0.05, 0.08, 0.86, 0.01)
    because = "a cracked joint opens as it warms or is pushed"
    return Effect(
        "joint", because, NOISE,
        {DEAD: 0.05, HICCUP: 0.02 if on_main else 0.005, LATE: 0.02}, rails, every,
        symptoms={"warm": 0.45, "crackle": 0.25, "drops-out": 0.4, "resets": 0.15,
              "rail-missing": 0.05, "low-at-board": 0.02, "second-try": 0.04},
        warm=0.85, jumps=0.35,
    )  # fmt: skip


def no_load(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Without its least load a loop blips, stays off, or lets the auxiliaries rise."""
    if fault.ref != UNIT:
        return None
    rails = {r.key: (0.01, 0.1, 0.49, 0.4) for r in unit.sheet.rails if r.regulation.is_switching}
    because = "a loop without its minimum load stops, blips or lets its rails rise"
    return Effect(
        "no-load", because, FOLDED, {DEAD: 0.22, HICCUP: 0.18}, rails,
        symptoms={"overvoltage": 0.5, "rails-low": 0.15, "resets": 0.02}, in_machine=True,
        jumps=0.55,
    )  # fmt: skip


def aged(unit: UnitSheet, fault: Fault) -> Effect | None:
    """Everything wet is dry: hum, ripple, a late start, a supply that gives up warm."""
    if fault.ref != AGED:
        return None
    because = "electrolytics that dried out together let hum and switching through"
    if not unit.sheet.topology.is_switching:
        return Effect(
            "aged", because, NOISE, {}, {}, SAGS, slow=0.85,
            symptoms={"ripple": 0.5, "rails-low": 0.2, "warm": 0.1, "no-load-only": 0.1},
        )  # fmt: skip
    aged = {"ripple": 0.35, "warm": 0.2, "second-try": 0.2, "resets": 0.2, "drops-out": 0.15,
            "squeals": 0.15, "no-load-only": 0.1, "power-good-low": 0.1}  # fmt: skip
    return Effect(
        "aged", because, NOISE, {LATE: 0.2, HICCUP: 0.15, DEAD: 0.1}, {}, SAGS, slow=0.3,
        fast=0.6, symptoms=aged, warm=0.5,
    )  # fmt: skip


def recapped_wrongly(_: UnitSheet, fault: Fault) -> Effect | None:
    """A part reversed, wrong or badly soldered by whoever worked on it before."""
    if fault.ref != RECAP:
        return None
    because = "a part that an earlier repair turned round, left out or soldered badly"
    return Effect(
        "recapped-wrongly", because, NOISE, {DEAD: 0.25, HICCUP: 0.15, CLEAN: 0.1, LATCHED: 0.05},
        {}, SAGS, slow=0.1, fast=0.2,
        symptoms={"after-recap": 0.9, "smoke": 0.15, "rail-missing": 0.1, "ripple": 0.1},
    )  # fmt: skip


def ends_its_rail(_: UnitSheet, fault: Fault) -> Effect | None:
    """What is left on a rail's way: open it ends the rail."""
    if fault.mode is not FaultMode.OPEN or not fault.is_on_rail:
        return None
    because = "its own rail alone ends there"
    ends_its_rail = {"rail-missing": 0.6}
    return Effect(
        "way-open",
        because,
        OWN_RAIL,
        {LATCHED: 0.01},
        {fault.line: MISSING},
        symptoms=ends_its_rail,
    )


BLOCK: Block = (recapped_wrongly, aged, no_load, joint, board, contact)
LAST: Block = (ends_its_rail,)
