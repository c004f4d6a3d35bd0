"""The plan of first power: what limits the current, the steps from the smallest configuration on,
what loads each rail, what is watched, and when power is removed at once.

Source: docs/formulas.md, “First power”.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.kinds import board
from hale_rail.core.power.dummies import COLD_SHARE
from hale_rail.core.procedures import Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import Tolerance, band, overvoltage
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology

#: what a supply gives of what it takes, by topology
EFFICIENCY = {
    Topology.FLYBACK: 0.70,
    Topology.HALF_BRIDGE: 0.70,
    Topology.LINEAR: 0.45,
    Topology.DC_FED: 0.60,
}
#: incandescent lamps that are sold, watts
LAMPS_W = (25.0, 40.0, 60.0, 75.0, 100.0, 150.0, 200.0, 300.0, 500.0)
#: a bench supply's limit as a multiple of the expected draw
BENCH_MARGIN = 1.2
#: dummy loads as shares of full load: usual, least, most
USUAL_SHARE, LEAST_SHARE, MOST_SHARE = 0.15, 0.10, 0.20


class Limiter(Coded):
    """What limits the current at first power."""

    LAMP = ("lamp", "series lamp")
    BENCH = ("bench", "bench supply with a limit")
    VARIAC = ("variac", "variac")


LIMITERS = {limiter.code: limiter for limiter in Limiter}


class StopCondition(Coded):
    """A stop condition that the person sees, hears or smells."""

    LAMP_BRIGHT = ("lamp-bright", "The lamp burns steady bright")
    CURRENT_LIMIT = ("current-limit", "The current is at the limit")
    SMELL = ("smell", "It smells hot")
    SMOKE = ("smoke", "Smoke")
    BANG = ("bang", "A bang")
    NOISE = ("noise", "It ticks, buzzes or arcs")
    LAMP_HALF = ("lamp-half", "The lamp stays half bright")
    FUSE = ("fuse-blew", "The fuse blew")
    BREAKER = ("breaker", "The breaker tripped")
    GIVES_UP = ("gives-up", "It starts and stays off")
    NOTHING = ("nothing", "Nothing happens")


STOPS = {stop.code: stop for stop in StopCondition}
#: stops at which a part failed: they ask which one, and earlier cold readings are taken again
BURNS = {
    StopCondition.SMOKE.code: "burnt",
    StopCondition.BANG.code: "vented",
    StopCondition.SMELL.code: "smell",
}
OUTDATES = frozenset((*BURNS, StopCondition.FUSE.code, StopCondition.BREAKER.code))
#: what is likely when power is removed, by the code of a stop condition or of a pattern
LIKELY = {
    "lamp-bright": "A short before the switching stage (bridge, bulk capacitor, switch), or a rail "
    "that is shorted. Read the primary side and every rail to ground, cold.",
    "current-limit": "A rail that is shorted, or a part fitted the wrong way round. Every rail to "
    "ground, cold, before power comes again.",
    "smell": "A resistor or a winding that carries too much. Touch nothing: look for what is "
    "discoloured once it is dead.",
    "smoke": "A reversed or leaky electrolytic or tantalum, or a paper suppressor: that one burns "
    "until the plug is out, the switch does not help. Ventilate; do not breathe it.",
    "bang": "An electrolytic or tantalum fitted the wrong way round or past its volts, or a "
    "semiconductor. Find it by eye, and read what feeds it and what it feeds.",
    "lamp-half": "More than a start draws: a rail half shorted, a reversed part, or a load that is "
    "too large for the lamp. Read every rail to ground, cold.",
    "fuse-blew": "A hard short: bridge, switching transistor, bulk capacitor. Find it before a "
    "second fuse is spent.",
    "breaker": "Before the supply's own fuse: inlet, filter, a suppressor across the line, or a Y "
    "capacitor to earth where the breaker is of the residual-current kind.",
    "gives-up": "A protection that latches: over-voltage, a crowbar, an overload; or a start-up "
    "supply that runs out.",
    "nothing": "No power in: lead, fuse, switch, thermistor; or a start-up resistor that is open, "
    "or a supply that waits for its load or its remote line.",
    "noise": "A supply that starts and gives up (overload, a dry start-up capacitor), or a spark "
    "where something is loose.",
    "over-voltage": "The loop is open: feedback, reference or trimmer; or a regulator has passed "
    "its input through. Every part on that rail is suspect.",
    "minus5-missing": "−5 V no longer has a rectifier, filter or regulator, or has no dummy. "
    "Three-rail memory must not see +12 V without it.",
    "guard-missing": "The rail that guards the other has no rectifier, filter or regulator any "
    "more, or no dummy.",
    "gross": "The rail runs away: it has no load, or its regulation is gone.",
}  # fmt: skip


class Limit(Struct, frozen=True):
    """What limits the current: how it is set, what a sound unit shows; `refused` why it is none.

    `lamp_w` the lamp to take, with ohms hot and cold; `bench_a` the bench supply's limit.
    """

    limiter: Limiter
    setting: str
    expect: tuple[str, ...]
    refused: str = ""
    lamp_w: float | None = None
    hot_ohm: float | None = None
    cold_ohm: float | None = None
    bench_a: float | None = None


class PlanStep(Struct, frozen=True):
    """One configuration: what is powered, through what, and at which load its rails are read."""

    key: str
    name: str
    load: Condition
    is_limited: bool
    boards: tuple[str, ...] = ()


class Watched(Struct, frozen=True):
    """A rail on the watch list: its band in volts at the step's load, and where power goes off at
    once."""

    rail: Rail
    band_v: tuple[float, float]
    off_at_v: float


def input_watts(sheet: Sheet) -> float | None:
    """What the supply takes at full load, from the rails' loads; None where none is known."""
    given = sum(abs(r.nominal_v) * (r.load_max_a or 0.0) for r in sheet.rails)
    return given / EFFICIENCY[sheet.topology] if given else None


def usual_limiter(topology: Topology) -> Limiter:
    """A bench supply for machines fed with DC, else the series lamp."""
    return Limiter.BENCH if topology is Topology.DC_FED else Limiter.LAMP


def limit(
    sheet: Sheet, limiter: Limiter, mains_v: float, draw_a: float | None, input_w: float | None
) -> Limit:
    """How a limiter is set for a unit.

    `mains_v` of the workshop; `draw_a` the expected draw at a bench supply; `input_w` at full load.
    """
    if limiter is Limiter.BENCH:
        return _bench(draw_a)
    if limiter is Limiter.VARIAC:
        return _variac(sheet)
    if sheet.topology is Topology.DC_FED:
        text = "This unit is fed with DC: a bench supply with a limit, no lamp."
        return Limit(limiter, "", (), text)
    return _lamp(mains_v, input_w)


def _lamp(mains_v: float, input_w: float | None) -> Limit:
    if not input_w:
        setting = (
            "A lamp of the supply's input power, up to twice it; its rails' loads are unknown."
        )
        return Limit(Limiter.LAMP, setting, _LAMP_SHOWS)
    each = next((w for w in LAMPS_W if w >= input_w), LAMPS_W[-1])
    count = math.ceil(input_w / each)
    lamp = count * each
    hot = mains_v * mains_v / lamp
    several = f"{count} side by side of " if count > 1 else ""
    others = f"{show(input_w, Unit.WATT, 2)} to {show(2 * input_w, Unit.WATT, 2)} will do"
    why = "the smallest sold" if lamp > 2 * input_w else others
    setting = (
        f"{several}{show(each, Unit.WATT)}, incandescent ({why}): {show(hot, Unit.OHM, 2)} hot, "
        f"about {show(COLD_SHARE * hot, Unit.OHM, 2)} cold"
    )
    return Limit(
        Limiter.LAMP, setting, _LAMP_SHOWS, lamp_w=lamp, hot_ohm=hot, cold_ohm=COLD_SHARE * hot
    )


_LAMP_SHOWS = (
    "A flash, then dim or dark: good.",
    "Steady bright: a short. Pull the plug.",
    "Pulsing: the supply tries and gives up.",
)


def _bench(draw_a: float | None) -> Limit:
    if not draw_a:
        return Limit(
            Limiter.BENCH, "A limit of 1.2 times the expected draw: say what it draws.", ()
        )
    most = BENCH_MARGIN * draw_a
    setting = (
        f"Limit {show(most, Unit.AMPERE, 3)}: 1.2 times the {show(draw_a, Unit.AMPERE, 3)} expected"
    )
    expect = (
        f"About {show(draw_a, Unit.AMPERE, 2)} or less on dummies: good.",
        "At the limit, volts sagging: a short or a part the wrong way round. Off.",
    )
    return Limit(Limiter.BENCH, setting, expect, bench_a=most)


def _variac(sheet: Sheet) -> Limit:
    if sheet.topology is not Topology.LINEAR:
        text = (
            "Linear supplies only: a switching supply at half mains draws more, not less, and may "
            "not start."
            if sheet.topology.is_switching
            else "Linear supplies on the mains only."
        )
        return Limit(Limiter.VARIAC, "", (), text)
    expect = (
        "Raw volts rise with the mains; the regulator holds from about two thirds on.",
        "Current that rises faster than the volts: back to nothing, a short.",
    )
    return Limit(
        Limiter.VARIAC, "From nothing up, a quarter a minute, watching the current", expect
    )


def steps(sheet: Sheet) -> tuple[PlanStep, ...]:
    """The smallest configuration first: supply alone on dummies, main board, board by board.

    Where supply and board are one there is no supply alone: limiter, whole, each further board.
    """
    if sheet.is_self_loaded:
        return _self_loaded(sheet)
    steps = [
        PlanStep("limited", "Supply alone, limited", Condition.DUMMY, True),
        PlanStep("alone", "Supply alone, on the mains", Condition.DUMMY, False),
    ]
    if sheet.topology is Topology.DC_FED:
        steps[1] = PlanStep("alone", "Supply alone, at full current", Condition.DUMMY, False)
    attached: tuple[str, ...] = ()
    for part in _boards(sheet):
        attached = (*attached, part)
        name = f"With {part}" if len(attached) == 1 else f"And {part}"
        steps.append(PlanStep(f"board-{len(attached)}", name, Condition.MACHINE, False, attached))
    return tuple(steps)


def _self_loaded(sheet: Sheet) -> tuple[PlanStep, ...]:
    """The steps of a unit that is its own load."""
    steps = [
        PlanStep("limited", "The unit, limited", Condition.MACHINE, True),
        PlanStep("whole", "The unit, whole", Condition.MACHINE, False),
    ]
    further = _boards(sheet)[1:]
    for count, part in enumerate(further, start=1):
        attached = tuple(further[:count])
        steps.append(PlanStep(f"board-{count}", f"And {part}", Condition.MACHINE, False, attached))
    return tuple(steps)


def _boards(sheet: Sheet) -> list[str]:
    """The boards, the one that takes most rails first: that is the main one."""
    parts = [p for p in sheet.parts if p.kind is board.KIND]
    return [p.ref for p in sorted(parts, key=lambda p: (-len(p.rails), p.order))]


def wanted_amps(rail: Rail, share: float) -> float | None:
    """The dummy that a rail needs: the sheet's minimum, else a share of full load, else None."""
    if rail.load_min_a:
        return rail.load_min_a
    return share * rail.load_max_a if rail.load_max_a else None


def watch_list(rails: Sequence[Rail], tolerance: Tolerance, load: Condition) -> list[Watched]:
    """Each rail with its limits at a load."""
    return [Watched(rail, band(rail, tolerance, load), off_at(rail, load)) for rail in rails]


def off_at(rail: Rail, load: Condition) -> float:
    """The volts at which power is removed at once: +10 % of a logic rail, else +20 % under load and
    +25 % without."""
    return rail.nominal_v * (1 + overvoltage(rail, load))


def stop_words(limiter: Limiter) -> list[StopCondition]:
    """The stop conditions that the person tells, those that the limiter can show."""
    lamps = (StopCondition.LAMP_BRIGHT, StopCondition.LAMP_HALF)
    hidden = (StopCondition.CURRENT_LIMIT,) if limiter is Limiter.LAMP else lamps
    return [stop for stop in StopCondition if stop not in hidden]


def expected_draw(sheet: Sheet, supply_v: float | None) -> float | None:
    """What a machine fed with DC draws at full load from so many volts, in amperes.

    A linear rail draws what it gives; a converter V·I/(η·V_in).
    """
    if not supply_v:
        return None
    total = 0.0
    for rail in sheet.rails:
        amps = rail.load_max_a or 0.0
        if rail.regulation is Regulation.LINEAR and rail.nominal_v > 0:
            total += amps
        else:
            total += abs(rail.nominal_v) * amps / (EFFICIENCY[Topology.FLYBACK] * supply_v)
    return total or None
