"""What a simulated unit answers: every ask that READINGS.csv has columns for.

The value comes as a person would type it. The same unit, fault and seed give the same readings; a
row's noise depends on what is asked and how often it was, not on what else was asked.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from msgspec.structs import replace

from hale_rail.core.arrays import np
from hale_rail.core.errors import InputError
from hale_rail.core.simulate import meters
from hale_rail.core.simulate.appearance import SOUND, look
from hale_rail.core.simulate.board_questions import (
    BOARD_PROCEDURES,
    BoardBench,
    ask_board,
    check,
    is_pin,
)
from hale_rail.core.simulate.charge import Charge
from hale_rail.core.simulate.costs import LIFTED
from hale_rail.core.simulate.elements import ONE
from hale_rail.core.simulate.logic_board import LogicBoard
from hale_rail.core.simulate.meters import Meters, gains
from hale_rail.core.simulate.nodal import Network
from hale_rail.core.simulate.nodes import GROUND
from hale_rail.core.simulate.outcome import AppliedLoad, PowerOutcome, RunMode, at_place
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.ripples import Samples, output_wave
from hale_rail.core.simulate.unit import MAINS, OFF, POWERS, SimulatedUnit
from hale_rail.core.simulate.warmth import kelvin
from hale_rail.core.supply.sheet import Rail

#: seconds between rows that carry no time
ROW_S = 60.0
#: a record: 40 ms at half a microsecond behind a switching stage, 200 ms at 50 µs else
_FAST_S, _FAST_COUNT, _SLOW_S, _SLOW_COUNT = 5e-7, 80_000, 5e-5, 4_000
_SCOPE_V, _SCOPE_STEP_V = 0.001, 0.0005
#: what an optocoupler's output reads while its LED has some milliamperes
_CONDUCTING_OHM = 150.0
_LOADS = {load.value: load for load in AppliedLoad}
#: procedures whose reading is a record, not a value
WAVEFORM = "waveform"
_AT_RAILS, _LIVE = (
    ("volts", "ground", "inject", WAVEFORM), ("volts", "signal", "memory", WAVEFORM)
)  # fmt: skip


class Bench:
    """A simulated unit and the meters it is read with."""

    def __init__(self, unit: SimulatedUnit) -> None:
        self.unit, self.circuit = unit, unit.circuit
        self._board: LogicBoard | None = None
        self.meters = Meters(gains(unit.seed))
        self._asked = Counter[SimulatedQuestion]()
        self._touched: tuple[SimulatedQuestion, float] | None = None

    @property
    def board(self) -> BoardBench:
        """The board behind the supply, with the fault that it still has."""
        fault = self.circuit.fault
        if self._board is None or self._board.given is not fault:
            self._board = LogicBoard(self.unit.sheet, fault, self.unit.seed)
        return BoardBench(self.unit, self._board)

    def answer(self, question: SimulatedQuestion) -> str:
        """The value as it would be typed; raises InputError for what cannot be asked."""
        asking = _PROCEDURES.get(question.procedure)
        is_of_board = question.procedure in BOARD_PROCEDURES or is_pin(question)
        if asking is None and not is_of_board:
            known = " ".join((*_PROCEDURES, *BOARD_PROCEDURES))
            raise InputError(f"“{question.procedure[:40]}” cannot be asked of a unit: {known} can")
        self._check(question)
        if asking is None or is_of_board:
            return ask_board(self.board, question, self.turn(question))
        return asking(self, question, self.turn(question))

    def turn(self, question: SimulatedQuestion) -> random.Random:
        """Let the time pass to a question and give it its own chance; raises InputError."""
        at_s = self.unit.at_s + ROW_S if question.at_s is None else question.at_s
        if at_s < self.unit.at_s:
            raise InputError("it is earlier than the row before: rows are in order of time")
        self.unit.wait(at_s)
        key = replace(question, at_s=None)
        if self._touched is None or self._touched[0] != key:
            self._touched = (key, at_s)
        self._asked[key] += 1
        return random.Random(f"{self.unit.seed}/{key.drawn_by}/{self._asked[key]}")

    def remember(self, question: SimulatedQuestion) -> None:
        """Count a question that was asked before, so that the next one has its own chance."""
        self._asked[replace(question, at_s=None)] += 1

    def _check(self, question: SimulatedQuestion) -> None:
        """Refuse a target that there is not, before time passes."""
        if question.procedure in BOARD_PROCEDURES or is_pin(question):
            check(self.board, question)
        elif question.procedure in _AT_RAILS:
            self.unit.rail(question.target)
        elif question.procedure != "power":
            self.unit.part(question.target)

    def _between(self, question: SimulatedQuestion) -> tuple[Network, str, str]:
        """The network of a question at a part, and the nodes of its probes; raises InputError."""
        part = self.unit.part(question.target)
        if question.condition == LIFTED:
            network, pins = self.circuit.alone(part)
        else:
            network, pins = self.circuit.network(), self.circuit.wiring.pins[part.id]
        if question.pair:
            between = tuple(pins.get(pin, "") for pin in question.pair)
            if not all(between):
                known = " ".join(pins) if ONE not in pins else "none"
                raise InputError(
                    f"{question.target} has no pins {question.pair[0]} and {question.pair[1]}: "
                    f"it has {known}"
                )
            return network, between[0], between[1]
        nodes = self.circuit.nodes(part, pins)
        if nodes is None:
            raise InputError(f"nothing is read between the pins of {question.target} so")
        return network, *nodes

    def _is_charged(
        self, question: SimulatedQuestion, network: Network, plus: str, minus: str
    ) -> bool:
        if question.condition == LIFTED:
            charge = self.unit.charges.get(self.unit.part(question.target).id, Charge())
            return abs(charge.volt) > meters.CHARGED_V
        if self.unit.power != OFF:
            return True
        return abs(self.unit.charged_v(network, plus, minus)) > meters.CHARGED_V

    def _on_s(self, question: SimulatedQuestion) -> float:
        """How long the meter has charged what it reads: as long as its probes stayed there."""
        key = replace(question, at_s=None)
        since = self._touched[1] if self._touched and self._touched[0] == key else self.unit.at_s
        return self.unit.at_s - since + meters.SETTLE_S

    def ohms(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """Ohms between pins."""
        network, plus, minus = self._between(question)
        if self._is_charged(question, network, plus, minus):
            return meters.OVERLOAD
        shown = self.meters.ohms(network, plus, minus, rng, self._on_s(question))
        return meters.ohms_text(shown)

    def junction(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """Volts that a junction drops."""
        if question.pair is None:
            raise InputError("a junction is read between two pins: name the pair, such as B>E")
        network, plus, minus = self._between(question)
        if self._is_charged(question, network, plus, minus):
            return meters.OVERLOAD
        return meters.junction_text(self.meters.junction(network, plus, minus, rng))

    def transfer(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """Ohms of an optocoupler's output while its LED is fed."""
        part = self.unit.part(question.target)
        if part.kind.code != "optocoupler":
            raise InputError(f"{question.target} is not an optocoupler")
        true = self.circuit.true[part.id]
        if true.short_ohm is not None:
            return meters.ohms_text(meters.significant(true.short_ohm, 3))
        if true.is_open or true.is_dead:
            return meters.OVER
        return meters.ohms_text(meters.significant(_CONDUCTING_OHM * rng.uniform(0.8, 1.25), 3))

    def _of_capacitor(self, question: SimulatedQuestion) -> tuple[Network, str, str]:
        part = self.unit.part(question.target)
        if part.capacitor is None:
            raise InputError(f"{question.target} is not a capacitor")
        return self._between(replace(question, pair=None))

    def farads(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """C, of a part or of what is on its node."""
        network, plus, minus = self._of_capacitor(question)
        if self._is_charged(question, network, plus, minus):
            return meters.OVERLOAD
        return meters.farads_text(self.meters.capacitance(network, plus, minus, rng))

    def esr(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """ESR at 100 kHz."""
        network, plus, minus = self._of_capacitor(question)
        if self._is_charged(question, network, plus, minus):
            return meters.OVERLOAD
        return meters.ohms_text(self.meters.esr(network, plus, minus, rng))

    def leak(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """Leakage at rated volts."""
        part = self.unit.part(question.target)
        if part.capacitor is None:
            raise InputError(f"{question.target} is not a capacitor")
        if question.condition != LIFTED:
            raise InputError("leakage is read at rated volts with a leg lifted")
        true = self.circuit.true[part.id]
        ampere = math.inf if true.short_ohm is not None else true.leak_a or 0.0
        return meters.amps_text(self.meters.leakage(ampere, rng))

    def _to_ground(self, question: SimulatedQuestion) -> tuple[Network, str, str]:
        rail = self.unit.rail(question.target)
        side, _, turned = question.condition.partition("-")
        if side not in ("attached", "isolated"):
            raise InputError("a rail to ground is read attached or isolated")
        network = self.circuit.network(attached=side == "attached")
        node = self.circuit.wiring.output[rail.key]
        is_turned = (rail.nominal_v < 0) != bool(turned)
        return (network, GROUND, node) if is_turned else (network, node, GROUND)

    def ground(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """A rail to ground."""
        network, plus, minus = self._to_ground(question)
        if self._is_charged(question, network, plus, minus):
            return meters.OVERLOAD
        # whoever reads a rail waits until its bank is full: a minute
        return meters.ohms_text(self.meters.ohms(network, plus, minus, rng, ROW_S))

    def inject(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """A low injection."""
        network, plus, minus = self._to_ground(question)
        if self._is_charged(question, network, plus, minus):
            return meters.OVERLOAD
        volt, ampere = self.meters.injection(network, plus, minus, rng)
        return f"{volt:.3f} V {1e3 * ampere:.4g} mA"

    def store(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """Volts held."""
        part = self.unit.part(question.target)
        if part.id not in self.unit.charges:
            raise InputError(f"{question.target} holds no charge that is modelled")
        # volts held are read plus to plus, whichever side of ground the rail lies
        volt = self.unit.charges[part.id].volt * self.unit.sign(part)
        return meters.volts_text(self.meters.volts(volt, rng))

    @contextmanager
    def powered_for(self, question: SimulatedQuestion) -> Iterator[None]:
        """Power from the mains for a live reading alone, where nobody has put it on."""
        was_off = self.unit.power == OFF and question.procedure in _LIVE
        if was_off:
            self.unit.switch(MAINS, _LOADS.get(question.condition, AppliedLoad.MACHINE))
        try:
            yield
        finally:
            if was_off:
                self.unit.switch(OFF)

    def _running(self, question: SimulatedQuestion) -> tuple[Rail, PowerOutcome]:
        """The unit under the asked load; unplugged it is off."""
        rail = self.unit.rail(question.target)
        load = _LOADS.get(question.condition)
        if load is None:
            raise InputError(f"volts are read at {', '.join(_LOADS)}")
        return rail, self.unit.switch(self.unit.power, load) or PowerOutcome(RunMode.OFF)

    def left_v(self, rail: Rail) -> float:
        """Volts that the stores leave on a rail while power is off."""
        node = self.circuit.wiring.output[rail.key]
        return self.unit.charged_v(self.circuit.network(), node, GROUND)

    def volts(self, question: SimulatedQuestion, rng: random.Random) -> str:
        """A rail's volts."""
        rail, outcome = self._running(question)
        if self.unit.power == OFF:
            return meters.volts_text(self.meters.volts(self.left_v(rail), rng))
        state = outcome.rails.get(rail.key)
        if state is None:
            return self._not_running(rail, outcome, rng)
        state = at_place(self.circuit, rail.key, state, question.place)
        low = meters.volts_text(self.meters.volts(state.low_v, rng))
        high = meters.volts_text(self.meters.volts(state.high_v, rng))
        return low if state.low_v == state.high_v or low == high else f"{low}..{high}"

    def _not_running(self, rail: Rail, outcome: PowerOutcome, rng: random.Random) -> str:
        if outcome.mode is RunMode.HICCUP:
            return f"0.00..{0.25 * rail.nominal_v * rng.uniform(0.8, 1.2):.2f}"
        return meters.volts_text(self.meters.volts(0.001 * rng.random(), rng))

    def wave(self, question: SimulatedQuestion, rng: random.Random) -> tuple[Samples, float]:
        """A record of a rail's filter bank: volts, and seconds between them; raises InputError."""
        rail, outcome = self._running(question)
        state = outcome.rails.get(rail.key)
        is_fast = rail.regulation.is_switching
        step, count = (_FAST_S, _FAST_COUNT) if is_fast else (_SLOW_S, _SLOW_COUNT)
        volt = np.zeros(count)
        if state:
            volt = output_wave(self.circuit, rail, state.ampere, state.high_v, step, count)
        noise = np.random.default_rng(rng.getrandbits(32)).normal(0.0, _SCOPE_V, count)
        return np.round((volt + noise) / _SCOPE_STEP_V) * _SCOPE_STEP_V, step

    def warm(self, question: SimulatedQuestion, _: random.Random) -> str:
        """°C above the room."""
        outcome = self.unit.powering(AppliedLoad.MACHINE, limited=False)
        return f"{kelvin(self.circuit, self.unit.part(question.target), outcome):g}"

    def look(self, question: SimulatedQuestion, _: random.Random) -> str:
        """What the eye finds."""
        part = self.unit.part(question.target)
        if part.id in self.unit.seen:
            return self.unit.seen[part.id]
        if self.unit.times[part.id]:
            return SOUND
        name, true = self.unit.name_of[part.id], self.circuit.true[part.id]
        fault = true.fault or self.unit.fault
        return ";".join(look(part, name, true, self.unit.sheet, fault, self.unit.seed))

    def power(self, question: SimulatedQuestion, _: random.Random) -> str:
        """Power applied or removed."""
        value = question.value.strip().lower()
        if value not in POWERS:
            raise InputError(f"power is {', '.join(POWERS)}, not “{question.value[:40]}”")
        self.unit.switch(value)
        return value

    def replaced(self, question: SimulatedQuestion, _: random.Random) -> str:
        """A new part."""
        if not question.value.strip():
            raise InputError("say what was fitted")
        self.unit.replace(self.unit.part(question.target))
        return question.value


def answers(procedure: str) -> bool:
    """True for a procedure that a simulated unit is asked by."""
    return procedure in _PROCEDURES or procedure in BOARD_PROCEDURES


Asking = Callable[[Bench, SimulatedQuestion, random.Random], str]
_PROCEDURES: dict[str, Asking] = {
    "c": Bench.farads,
    "esr": Bench.esr,
    "leak": Bench.leak,
    "ohms": Bench.ohms,
    "diode": Bench.junction,
    "transfer": Bench.transfer,
    "volts": Bench.volts,
    "ground": Bench.ground,
    "inject": Bench.inject,
    "store": Bench.store,
    "warm": Bench.warm,
    "look": Bench.look,
    "power": Bench.power,
    "replaced": Bench.replaced,
}
