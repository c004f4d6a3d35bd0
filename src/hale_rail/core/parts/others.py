"""Judges parts that are no capacitors, from their resistance and junction drops.

Source: docs/formulas.md, “Other parts”. In circuit a low reading proves only that the node is low.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from hale_rail.core.parts.capacitors import Taken
from hale_rail.core.parts.families import SHORT_OHM
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict, conclude
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.sheet import Kind, Station

#: forward drop in volts of a sound junction
JUNCTION_V = {
    Kind.BRIDGE: (0.40, 0.75),
    Kind.DIODE: (0.35, 0.75),
    Kind.SCHOTTKY: (0.12, 0.40),
    Kind.TRANSISTOR: (0.45, 0.75),
    Kind.MOSFET: (0.35, 0.75),
}
#: a fast diode's; one of unknown kind is judged by the band of both, silicon's 0.45–0.75 V among it
FAST, FAST_V = "fast", (0.35, 0.65)
#: the most a part that should conduct may read, in ohms
CONDUCTS_OHM = {
    Kind.FUSE: 1.0,
    Kind.SWITCH: 1.0,
    Kind.FILTER: 5.0,
    Kind.CHOKE: 5.0,
    Kind.TRANSFORMER: 500.0,
}
#: kinds that nothing is measured at here
LOOKED_AT_ONLY = (Kind.INLET, Kind.CONNECTOR, Kind.BOARD)
#: what a finding argues; those not named are noted only
SEEN_ARGUES = {
    **dict.fromkeys(
        ("burnt", "crack", "blackened", "clean-gap", "perished", "no-earth", "bulge", "leak"),
        Verdict.FAILED,
    ),
    **dict.fromkeys(("joint", "discoloured", "corroded", "battery-leak", "craze"), Verdict.WORN),
}
#: a bridge's junctions, as one says them: the lead from, the lead to, in its conducting way
JUNCTIONS = ("AC1 to +", "AC2 to +", "− to AC1", "− to AC2")
#: the pairs of pins read one way and the other; those in `BLOCKING` block both ways
PAIRS = {
    Kind.BRIDGE: JUNCTIONS,
    Kind.TRANSISTOR: ("B–E", "B–C", "C–E"),
    Kind.MOSFET: ("D–S", "G–S", "G–D"),
}
BLOCKING = ("C–E", "G–S", "G–D")
#: the pair that a resistor inside may bridge, its ohms, and the drop below which it is a short
BASE = "B–E"
BASE_OHM = (20.0, 60.0)
BASE_SHORT_V = 0.010
BASE_OPEN_QUESTION = "base-both-ways"
_ALL_SOUND = {
    Kind.BRIDGE: "All four junctions conduct one way and block the other.",
    Kind.TRANSISTOR: "B–E and B–C conduct one way, C–E blocks.",
    Kind.MOSFET: "The body diode conducts one way, the gate is insulated.",
}
#: two thirds of the 3.6 V that most backup batteries are
BATTERY_FLAT_V = 2.4
SMALL_FUSE_A, SMALL_FUSE_OHM = 0.5, 5.0
THERMISTOR_OHM = (2.0, 50.0)
#: where ohms are read at a part of more than two pins
ACROSS = {
    Kind.BRIDGE: "+ to −",
    Kind.TRANSISTOR: "C–E",
    Kind.MOSFET: "D–S",
    Kind.REGULATOR: "input to output",
}


@dataclass(frozen=True)
class PartReadings:
    """What was read: ohms, and the junction's drop forward and reversed in volts (inf for OL)."""

    ohm: Taken | None = None
    forward: Taken | None = None
    reverse: Taken | None = None
    visual: tuple[str, ...] = ()
    #: a regulator's rail was read inside its band under load
    output_right: bool = False
    #: a bridge's junctions by name: (forward, reversed)
    junctions: Mapping[str, tuple[Taken | None, Taken | None]] = field(default_factory=dict)
    #: ohms across a transistor's base and emitter
    base_ohm: Taken | None = None
    #: volts of a board's backup battery
    battery: Taken | None = None


def conducts_limit(station: Station) -> float | None:
    """The most ohms a part in the power's way may show, or None where that is not asked."""
    if station.kind is Kind.FUSE and station.value and station.value <= SMALL_FUSE_A:
        return SMALL_FUSE_OHM
    return CONDUCTS_OHM.get(station.kind)


def judge_part(station: Station, readings: PartReadings) -> Judgement:
    """Judge a fuse, thermistor, junction, regulator, resistor or winding."""
    reasons = _ohm(station, readings.ohm) if readings.ohm else []
    if station.kind in PAIRS:
        reasons += _pairs(station, readings.junctions, readings.base_ohm)
    elif station.kind in JUNCTION_V and (readings.forward or readings.reverse):
        reasons += _junction(station, readings.forward, readings.reverse)
    if station.kind is Kind.REGULATOR and readings.output_right:
        text = "Its rail reads inside the band under load."
        reasons.append(Reason("output-right", text, Verdict.GOOD))
    if readings.battery is not None:
        reasons.append(_battery(readings.battery.value))
    reasons += _seen(station, readings.visual)
    if not reasons:
        reasons = [Reason("not-measured", "Nothing has been read yet.")]
    return conclude(reasons)


def _battery(volt: float) -> Reason:
    """A backup battery: flat ones leak onto the board."""
    text = f"Backup battery {show(volt, Unit.VOLT)}"
    if volt < BATTERY_FLAT_V:
        text += f": below {BATTERY_FLAT_V:g} V, flat. Flat ones leak: take it out."
        return Reason("battery-flat", text, Verdict.WORN)
    return Reason("battery-holds", f"{text}: it holds. Any crust on it, and it comes out.")


def _seen(station: Station, codes: Sequence[str]) -> list[Reason]:
    """What the eye found; sound looks alone prove nothing of a part that can be measured."""
    reasons = []
    for name in codes:
        verdict = SEEN_ARGUES.get(name)
        if name == "none" and station.kind in LOOKED_AT_ONLY:
            verdict = Verdict.GOOD
        text = f"Seen: {name.replace('-', ' ')}." if name != "none" else "Looks sound."
        reasons.append(Reason(f"seen-{name}", text, verdict))
    return reasons


def _pairs(
    station: Station,
    junctions: Mapping[str, tuple[Taken | None, Taken | None]],
    base_ohm: Taken | None = None,
) -> list[Reason]:
    """Each pair of pins by itself; the worst of them names the part's fault."""
    reasons, sound, names = [], 0, PAIRS[station.kind]
    for name in names:
        pair = junctions.get(name, (None, None))
        state = junction_state(station, *pair, name)
        if state.code == "both-ways" and station.kind is Kind.TRANSISTOR and name == BASE:
            state = _base(state, pair, base_ohm)
        sound += state.argues is Verdict.GOOD
        if state.argues in (Verdict.FAILED, Verdict.UNPROVEN):
            text = f"{name}: {state.text[:1].lower()}{state.text[1:]}"
            if state.code == "junction-open" and station.kind is Kind.BRIDGE:
                text = f"{name} is open both ways: a missing diode, half-wave."
            reasons.append(replace(state, text=text))
    if sound == len(names):
        reasons.append(Reason("junctions", _ALL_SOUND[station.kind], Verdict.GOOD))
    elif junctions:
        reasons.append(Reason("junctions-read", f"{sound} of {len(names)} pairs read sound."))
    return reasons


def junction_state(
    station: Station, forward: Taken | None, reverse: Taken | None, name: str = ""
) -> Reason:
    """What one pair's two readings say; argues nothing while one is missing."""
    if forward is None and reverse is None:
        return Reason("unread", "Not read.")
    if name in BLOCKING:
        return _blocking(name, forward, reverse)
    return _junction(station, forward, reverse)[0]


def _base(
    both_ways: Reason, pair: tuple[Taken | None, Taken | None], base_ohm: Taken | None
) -> Reason:
    """Base and emitter that conduct both ways: a resistor inside, or a short."""
    if base_ohm is None:
        if both_ways.argues is not Verdict.FAILED or max(t.value for t in pair if t) < BASE_SHORT_V:
            return both_ways
        return Reason(
            BASE_OPEN_QUESTION, "Conducts both ways, lifted: a resistor inside, or a short.",
            Verdict.UNPROVEN, f"Read {BASE} in ohms.",
        )  # fmt: skip
    low, high = BASE_OHM
    text = f"{show(base_ohm.value, Unit.OHM)} both ways"
    if not base_ohm.lifted:
        return both_ways
    if low <= base_ohm.value <= high:
        return Reason("base-resistor", f"{text}: a resistor inside.", Verdict.GOOD)
    return Reason("both-ways", f"{text}, lifted: shorted or leaking.", Verdict.FAILED)


def _blocking(name: str, forward: Taken | None, reverse: Taken | None) -> Reason:
    """A pair that blocks both ways; C–E may show one drop one way where a damper is inside."""
    if forward is None or reverse is None:
        return Reason("one-way", "Only one way was read.", change="Turn the leads.")
    conducts = [t for t in (forward, reverse) if not math.isinf(t.value)]
    if not conducts:
        return Reason("blocks", "Blocks both ways.", Verdict.GOOD)
    low, high = JUNCTION_V[Kind.DIODE]
    if name == "C–E" and len(conducts) == 1 and low <= conducts[0].value <= high:
        return Reason("damper", "One drop one way: a damper diode inside.", Verdict.GOOD)
    if all(t.lifted for t in conducts):
        return Reason("conducts", "Conducts, lifted: shorted.", Verdict.FAILED)
    text = "Conducts in circuit: a parallel path may do that."
    return Reason("conducts", text, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def _ohm(station: Station, taken: Taken) -> list[Reason]:
    text = show(taken.value, Unit.OHM)
    limit = conducts_limit(station)
    if limit is not None:
        if taken.value <= limit:
            return [Reason("conducts", f"{text}: conducts (below {limit:g} Ω).", Verdict.GOOD)]
        if math.isinf(taken.value):
            return [Reason("open", f"{text}: open.", Verdict.FAILED, _open_hint(station))]
        return [Reason("high", f"{text}: above {limit:g} Ω.", Verdict.WORN, "Clean, read again.")]
    if station.kind is Kind.THERMISTOR:
        return [_thermistor(station, taken, text)]
    if station.kind is Kind.RESISTOR and station.value:
        return [_resistor(station, taken, text)]
    if station.kind in ACROSS or station.kind in JUNCTION_V:
        return [_not_short(station, taken, text)]
    return [Reason("noted", f"{text}: noted.")]


def _open_hint(station: Station) -> str:
    if station.kind is not Kind.FUSE:
        return ""
    return (
        "A clean gap is an overload; a blackened or silvered tube is a hard short: find it before "
        "a second fuse is spent."
    )


def _thermistor(station: Station, taken: Taken, text: str) -> Reason:
    if math.isinf(taken.value):
        return Reason("open", f"{text}: open.", Verdict.FAILED)
    low, high = THERMISTOR_OHM
    if station.value:
        low, high = 0.75 * station.value, 1.25 * station.value
    sound = f"cold it reads {low:.3g} to {high:.3g} Ω"
    if low <= taken.value <= high:
        return Reason("cold-value", f"{text}: {sound}.", Verdict.GOOD)
    if taken.value < low:
        change = "Let it cool, or lift one leg."
        return Reason("cold-low", f"{text}: {sound}.", Verdict.UNPROVEN, change, Action.MEASURE)
    return Reason("cold-high", f"{text}: {sound}.", Verdict.WORN)


def _resistor(station: Station, taken: Taken, text: str) -> Reason:
    nominal = station.value or 0.0
    low_share, high_share = station.tolerance or (0.05, 0.05)
    low, high = nominal * (1 - low_share), nominal * (1 + high_share)
    band = f"{show(low, Unit.OHM)} to {show(high, Unit.OHM)}"
    if taken.value > high:
        change = "" if taken.lifted else "Lifted, it can only read more."
        return Reason("drifted", f"{text}: above {band}, drifted or open.", Verdict.FAILED, change)
    if taken.value >= low:
        verdict = Verdict.GOOD if taken.lifted else Verdict.UNPROVEN
        return Reason("in-tolerance", f"{text}: within {band}.", verdict, action=Action.LIFT)
    if taken.lifted:
        return Reason("drifted", f"{text}: below {band}.", Verdict.FAILED)
    text = f"{text} in circuit: below {band}, but a parallel path may do that."
    return Reason("parallel-path", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)


def _not_short(station: Station, taken: Taken, text: str) -> Reason:
    pair = ACROSS.get(station.kind, "across it")
    if taken.value >= SHORT_OHM:
        return Reason("no-short", f"{text} {pair}: no short (below {SHORT_OHM:g} Ω is one).")
    if taken.lifted:
        return Reason("shorted", f"{text} {pair}, lifted: shorted.", Verdict.FAILED)
    text = f"{text} {pair} in circuit, below 1 Ω: a short on this node, perhaps not this part."
    return Reason("short-on-node", text, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def junction_band(station: Station) -> tuple[float, float]:
    """Forward drop in volts of a sound junction; a diode marked as fast drops less."""
    if station.kind is Kind.DIODE and station.role == FAST:
        return FAST_V
    return JUNCTION_V[station.kind]


def _junction(station: Station, forward: Taken | None, reverse: Taken | None) -> list[Reason]:
    low, high = junction_band(station)
    turned = ""
    if forward and reverse and math.isinf(forward.value):
        if math.isinf(reverse.value):
            return [Reason("junction-open", "OL both ways: open.", Verdict.FAILED)]
        forward, reverse, turned = reverse, forward, " (leads turned)"
    if forward and reverse and not math.isinf(reverse.value):
        if forward.lifted and reverse.lifted:
            return [Reason("both-ways", "Conducts both ways, lifted: shorted.", Verdict.FAILED)]
        text = "Conducts both ways in circuit: a parallel path may do that."
        return [Reason("both-ways", text, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)]
    if forward is None:
        return [Reason("one-way", "Only the reversed way was read.", change="Turn the leads.")]
    text = f"{show(forward.value, Unit.VOLT)} forward{turned} (sound: {low:g} to {high:g} V)"
    if reverse is None:
        return [Reason("one-way", f"{text}, the other way not read.", change="Turn the leads.")]
    text += ", OL reversed."
    if low <= forward.value <= high:
        return [Reason("junction", text, Verdict.GOOD)]
    if forward.lifted and forward.value > high:
        return [Reason("junction-high", text, Verdict.WORN, "A cracked joint reads like that.")]
    if forward.lifted:
        change = "Read its type: a Schottky drops less."
        return [Reason("junction-low", text, Verdict.UNPROVEN, change)]
    return [Reason("junction-off", text, Verdict.UNPROVEN, "Lift it.", Action.LIFT)]
