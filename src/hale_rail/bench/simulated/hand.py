"""The hand at the simulated bench: it puts probes where it is told, and the plug in or out.

Time at the bench is the time that passes; one lock for all instruments.
"""

from __future__ import annotations

import math
import random
import threading
import time
from collections.abc import Callable
from typing import Protocol

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.procedures import by_code
from hale_rail.core.ranges import read_span
from hale_rail.core.simulate.nodes import GROUND
from hale_rail.core.simulate.outcome import AppliedLoad
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.questions import WAVEFORM, Bench
from hale_rail.core.simulate.unit import OFF, SimulatedUnit

_LOADS = tuple(load.value for load in AppliedLoad)
_SIDES = ("attached", "isolated", "attached-reversed", "isolated-reversed")
_NOTHING_V = 2e-4
_LEAST_A = 1e-9


class ProbePlace(Struct, frozen=True):
    """Where the probes of an instrument are: a part and its pair, or a rail and its condition."""

    target: str
    condition: str
    place: str
    pair: tuple[str, str] | None
    is_rail: bool


class SupplyOutput(Protocol):
    """A supply's output."""

    volt: float
    ampere: float
    is_on: bool


class Hand:
    """One bench: a unit, and the probes of every instrument on it."""

    def __init__(self, unit: SimulatedUnit, clock: Callable[[], float] = time.monotonic) -> None:
        self.unit, self.bench = unit, Bench(unit)
        self.lock = threading.RLock()
        self._clock, self._begun = clock, clock()
        self._chance = random.Random(f"{unit.seed}/instruments")  # noqa: S311

    def _pass_time(self) -> float:
        now = self._clock() - self._begun
        self.unit.wait(max(self.unit.at_s, now))
        return self.unit.at_s

    def power(self, what: str) -> None:
        """The plug: mains, bench or off; raises InputError."""
        self.bench.answer(SimulatedQuestion("", "power", value=what, at_s=self._pass_time()))

    def hold(self, target: str, condition: str, pair: str) -> ProbePlace:
        """Put probes somewhere; raises InputError where there is no such place."""
        state, _, place = condition.lower().partition("@")
        if state not in ("", "in-circuit", "lifted", *_LOADS, *_SIDES):
            raise InputError(f"there is no condition {state}")
        is_rail = self._is_rail(target)
        held = ProbePlace(target, state, place, _ends(pair), is_rail)
        if held.pair:
            self.bench.answer(self._question(replace(held, condition="in-circuit"), "ohms"))
        return held

    def _is_rail(self, target: str) -> bool:
        """True for a rail, False for a part; raises InputError for neither."""
        try:
            self.unit.rail(target)
        except InputError:
            self.unit.part(target)
            return False
        return True

    def _question(self, held: ProbePlace, procedure: str) -> SimulatedQuestion:
        return SimulatedQuestion(
            held.target, procedure, held.condition, held.place, held.pair, at_s=self._pass_time()
        )

    def read(self, held: ProbePlace | None, procedure: str) -> float:
        """A figure (SI) of a procedure where the probes are; infinite over range.

        Raises InputError where it cannot be read there.
        """
        if procedure == "volts":
            return self._volts(held)
        if held is None:
            return math.inf
        if procedure == "ohms-4":
            return max(0.0, self.read(held, "ohms") - self.bench.meters.gain.lead_ohm)
        if held.is_rail and procedure == "ohms":
            side = held.condition if held.condition in _SIDES else "isolated"
            held, procedure = replace(held, condition=side), "ground"
        elif held.condition not in ("in-circuit", "lifted"):
            held = replace(held, condition="in-circuit")
        return _figure(self.bench.answer(self._question(held, procedure)), procedure)

    def _volts(self, held: ProbePlace | None) -> float:
        """Volts: of a rail while power is on, else what stores hold; nothing on loose probes."""
        if held is None:
            return self._chance.uniform(-_NOTHING_V, _NOTHING_V)
        if held.is_rail:
            return self._rail_volts(held)
        part = self.unit.part(held.target)
        if part.id in self.unit.charges and held.pair is None:
            return _figure(self.bench.answer(self._question(held, "store")), "store")
        return self._chance.uniform(-_NOTHING_V, _NOTHING_V)

    def _rail_volts(self, held: ProbePlace) -> float:
        if self.unit.power != OFF:
            load = held.condition if held.condition in _LOADS else AppliedLoad.MACHINE.value
            loaded = replace(held, condition=load, pair=None)
            return _figure(self.bench.answer(self._question(loaded, "volts")), "volts")
        self._pass_time()
        return self.bench.left_v(self.unit.rail(held.target))

    def drawn(self, held: ProbePlace | None, output: SupplyOutput) -> tuple[float, float]:
        """Volts and amperes of a supply at a rail; none while its output is off."""
        if not output.is_on:
            return 0.0, 0.0
        if held is None or not held.is_rail:
            return output.volt, 0.0
        rail = self.unit.rail(held.target)
        network = self.unit.circuit.network(attached=held.condition.startswith("attached"))
        node = self.unit.circuit.wiring.output[rail.key]
        ends = (GROUND, node) if rail.nominal_v < 0 else (node, GROUND)
        return network.fed(*ends, output.volt, max(output.ampere, _LEAST_A), _LEAST_A)

    def record(self, held: ProbePlace | None) -> str:
        """A scope's record as CSV of seconds and volts; a flat line where nothing is powered."""
        if held is None or not held.is_rail or self.unit.power == OFF:
            rows = (f"{n * 5e-5:.7e},{self._chance.gauss(0, 0.001):.4f}" for n in range(2000))
            return "\n".join(rows) + "\n"
        load = held.condition if held.condition in _LOADS else AppliedLoad.MACHINE.value
        question = self._question(replace(held, condition=load), WAVEFORM)
        volt, step = self.bench.wave(question, self.bench.turn(question))
        return "\n".join(f"{n * step:.7e},{v:.4f}" for n, v in enumerate(volt.tolist())) + "\n"


def _ends(pair: str) -> tuple[str, str] | None:
    """Two pins such as `B>E`; raises InputError."""
    if not pair:
        return None
    plus, arrow, minus = (text.strip().upper() for text in pair.partition(">"))
    if not plus or not arrow or not minus:
        raise InputError("a pair is two pins, such as B>E")
    return plus, minus


def _figure(text: str, procedure: str) -> float:
    """A value as typed, as a figure (SI); infinite over range; of a jumping one the larger end."""
    known = by_code(procedure)
    if known is None:
        raise InputError(f"{procedure} is not a reading")
    ends = read_span(text, known.unit)
    return max(ends.value, ends.high, key=abs)
