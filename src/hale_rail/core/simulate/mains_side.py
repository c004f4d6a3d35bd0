"""The mains side of a powered unit: what opens the way, blows the fuse, or keeps it from starting.

Sources: Ohm's and Joule's laws at the fuse (docs/formulas.md, “The simulated unit”). What a maker
might have built either way (silent or ticking under a short) is drawn by the seed.
"""

from __future__ import annotations

import math
import random
from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass

from msgspec.structs import replace

from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.circuit import Circuit
from hale_rail.core.simulate.faults import ADAPTER
from hale_rail.core.simulate.nodes import GROUND, SERIES
from hale_rail.core.simulate.outcome import AppliedLoad, PowerOutcome, RunMode
from hale_rail.core.simulate.ripples import MAINS_V
from hale_rail.core.supply.sheet import TRUNK, Topology

_MAINS_OHM, _USUAL_FUSE_A = 0.4, 2.0
#: times its rating from which a fuse vaporises: its glass turns black; below, a clean gap
_BLACK_AT = 10.0
#: a dry start-up capacitor holds too short below this share of its value
_HOLDS_SHARE = 0.6
_REFERENCE_SPREAD = 0.006
_DRIFT = {"low": (0.83, 0.88), "high": (1.12, 1.17)}
_LAMP_SHORT_V, _ADAPTER_V = 1.0, 9.0


@dataclass
class MainsSide(ABC):
    """One application of power: `limited` by a lamp or a bench supply, so that nothing is spent."""

    circuit: Circuit
    load: AppliedLoad
    limited: bool = False

    def __post_init__(self) -> None:
        self.sheet = self.circuit.sheet
        self.chance = random.Random(f"{self.circuit.seed}/powered")
        #: drawn at the start, so that no question changes another's answer
        self.is_ticking = self.chance.random() < 0.55
        self.starts_bare = self.chance.random() < 0.6
        self.reference = self.chance.gauss(0.0, _REFERENCE_SPREAD)
        self.habit = self.chance.random()
        self.drift = self.chance.uniform(*_DRIFT["high" if self.habit < 0.3 else "low"])
        self.spread = {r.key: self.chance.gauss(0.0, 1.0) for r in self.sheet.rails}

    @abstractmethod
    def outputs(self) -> PowerOutcome:
        """What the rails do once the supply starts."""

    def failure(self, part: Part) -> str:
        """How a part failed, in one word."""
        true = self.circuit.true[part.id]
        if true.short_ohm is not None:
            return "short"
        return "open" if true.is_open else "dead" if true.is_dead else ""

    def _trunk(self, *kinds: str, role: str = "") -> list[Part]:
        parts = self.sheet.on_line(TRUNK)
        return [p for p in parts if p.kind.code in kinds and (not role or p.role == role)]

    def any_failed(self, parts: Sequence[Part], how: str) -> bool:
        """True where one of the parts failed so."""
        return any(self.failure(p) == how for p in parts)

    @property
    def peak_v(self) -> float:
        """Volts of the mains' peak."""
        return (self.sheet.mains_v or MAINS_V) * math.sqrt(2)

    def before_bulk(self) -> PowerOutcome | None:
        """What stops on the way to the bulk capacitor, or None."""
        if self._is_cut_off():
            return PowerOutcome(RunMode.OFF)
        tripped = self._suppressor()
        if tripped:
            return tripped
        if self.sheet.topology is Topology.DC_FED:
            return self._adapter()
        hard = self._hard_shorts()
        if hard:
            return self._blow(hard)
        if self.circuit.fault and self.circuit.fault.how is FaultMode.TURNS:
            return self._turns()
        primary = self._trunk("transformer")
        if self.any_failed(primary, "open"):
            return PowerOutcome(RunMode.SILENT, bulk_v=self.held_v())
        return None

    def _is_cut_off(self) -> bool:
        way = [p for p in self.sheet.on_line(TRUNK) if p.kind.code in SERIES]
        if self.sheet.topology is Topology.DC_FED:
            way += self._trunk("diode", "schottky", "transistor", "mosfet", "regulator")
        is_dead = bool(self.circuit.fault and self.circuit.fault.where == ADAPTER)
        return is_dead or self.any_failed(way, "open")

    def _suppressor(self) -> PowerOutcome | None:
        """A short across the mains, before or behind the fuse."""
        before_bridge = [p for p in self._trunk("capacitor", "varistor") if _is_across(p)]
        failed = [p for p in before_bridge if self.failure(p) or self._leaks(p)]
        if not failed or self.failure(failed[0]) == "open":
            return None
        if self.limited:
            return PowerOutcome(RunMode.OFF)
        if self._leaks(failed[0]):
            running = self.control() or self.outputs()
            return replace(running, smokes=self.habit < 0.6, trips=self.habit >= 0.8)
        if self.habit < 0.4:
            return PowerOutcome(RunMode.OFF, smokes=True, blown=self._blown("blackened", failed[0]))
        behind_fuse = self._blown("blackened", failed[0])
        if behind_fuse and self.habit < 0.7:
            return PowerOutcome(RunMode.OFF, blown=behind_fuse)
        return PowerOutcome(RunMode.OFF, trips=True)

    def _leaks(self, part: Part) -> bool:
        return self.circuit.true[part.id].how is FaultMode.LEAKY

    def _blown(self, how: str, part: Part) -> str:
        """What the fuse looks like afterwards, where it is before the short."""
        parts = self.sheet.on_line(TRUNK)
        fuse = next((i for i, p in enumerate(parts) if p.kind.code == "fuse"), None)
        at = parts.index(part) if part in parts else len(parts)
        return how if fuse is not None and fuse < at and not self.limited else ""

    def _hard_shorts(self) -> list[Part]:
        """What makes the bulk supply a short: bridge, bulk, switch; raw filters of a linear one."""
        parts = self._trunk("bridge", "transistor", "mosfet")
        parts += [p for p in self._trunk("capacitor") if p.role == "bulk"]
        if self.sheet.topology is Topology.LINEAR:
            parts += [p for p in self.sheet.parts if p.kind.code == "bridge"]
            parts += [p for p in self.sheet.parts if p.role == "raw-filter"]
        return [p for p in parts if self.failure(p) == "short"]

    def _blow(self, shorts: Sequence[Part]) -> PowerOutcome:
        if self.limited:
            return PowerOutcome(RunMode.OFF, bulk_v=_LAMP_SHORT_V)
        fuse = next(iter(self._trunk("fuse")), None)
        rating = (fuse.value if fuse else None) or _USUAL_FUSE_A
        is_linear = self.sheet.topology is Topology.LINEAR
        peak = 10 * rating if is_linear else self.peak_v / self._way_ohm(shorts[0])
        # a transformer delivers only a few times its rating
        share = 0.5 if is_linear else 1.0
        is_black = share * peak / rating * self.chance.uniform(0.8, 1.5) > _BLACK_AT
        how = self._blown("blackened" if is_black else "clean-gap", shorts[0])
        return PowerOutcome(RunMode.OFF, blown=how, trips=not how)

    def _way_ohm(self, short: Part) -> float:
        """Ohms from the wall through the short and back."""
        way = [p for p in self.sheet.on_line(TRUNK) if p.kind.code in SERIES]
        ohm = sum(self.circuit.true[p.id].ohm or 0.0 for p in way)
        return _MAINS_OHM + ohm + (self.circuit.true[short.id].short_ohm or 0.0)

    def _turns(self) -> PowerOutcome:
        if self.sheet.topology is Topology.LINEAR:
            transformer = self._trunk("transformer")
            how = self._blown("clean-gap", transformer[0]) if self.habit < 0.75 else ""
            return PowerOutcome(RunMode.OFF, blown=how, smokes=not how)
        if self.habit < 0.15 and not self.limited:
            return PowerOutcome(RunMode.OFF, blown="clean-gap")
        mode = RunMode.HICCUP if self.is_ticking else RunMode.SILENT
        return PowerOutcome(mode, bulk_v=self.held_v())

    def _adapter(self) -> PowerOutcome | None:
        """A DC-fed unit: the adapter limits what a short can take."""
        parts = self._trunk("capacitor", "zener", "scr")
        parts += [p for p in self.sheet.parts if p.kind.code in ("transistor", "mosfet")]
        shorts = [p for p in parts if self.failure(p) == "short" and not self.is_pass(p)]
        if not shorts:
            return None
        blows = self.habit < 0.6 and bool(self._trunk("fuse")) and not self.limited
        return PowerOutcome(RunMode.OFF, blown="clean-gap" if blows else "")

    def is_pass(self, part: Part) -> bool:
        """True for a transistor in the way of power: shorted, it lets everything through."""
        nodes = self.circuit.wiring.pins[part.id].values()
        return GROUND not in nodes and part.kind.code in ("transistor", "mosfet")

    def held_v(self) -> float:
        """Volts on the mains side's stores while power is on."""
        if self.sheet.topology is Topology.DC_FED:
            return _ADAPTER_V
        return self.peak_v if self.sheet.topology.is_switching else 0.0

    def control(self) -> PowerOutcome | None:
        """What keeps a switching supply from starting, or None."""
        if not self.sheet.topology.is_switching:
            return None
        snubbers = self._trunk("capacitor", role="snubber")
        if self.any_failed(snubbers, "short"):
            blown = "blackened" if self.habit > 0.85 and not self.limited else ""
            return PowerOutcome(RunMode.OFF if blown else RunMode.SILENT, smokes=self.habit < 0.5,
                           blown=blown, bulk_v=0.0 if blown else self.held_v())  # fmt: skip
        if self._is_dead():
            return PowerOutcome(RunMode.SILENT, bulk_v=self.held_v())
        return self._start()

    def _is_dead(self) -> bool:
        starting = [p for p in self._trunk("resistor") if p.role == "start-up"]
        switches = self._trunk("transistor", "mosfet")
        coupling = self._trunk("capacitor", role="coupling")
        return (
            self.any_failed(starting, "open")
            or self.any_failed(self._trunk("controller"), "dead")
            or self.any_failed([*switches, *coupling], "open")
            or self.any_failed(coupling, "short")
        )

    def _start(self) -> PowerOutcome | None:
        """A start-up capacitor that holds too short: late, ticking, or never."""
        for part in self._trunk("capacitor", role="start-up"):
            true = self.circuit.true[part.id]
            holds = (true.farad or 0.0) / (part.value or 47e-6)
            if true.short_ohm is not None or holds <= 0:
                return PowerOutcome(RunMode.SILENT, bulk_v=self.held_v())
            if holds < _HOLDS_SHARE:
                mode = RunMode.LATE if self.habit < 0.45 else RunMode.SILENT
                mode = RunMode.HICCUP if 0.45 <= self.habit < 0.7 else mode
                running = self.outputs()
                if mode is RunMode.LATE and running.mode is RunMode.RUNS:
                    return replace(running, mode=RunMode.LATE)
                return PowerOutcome(mode, bulk_v=self.held_v())
        return None


def _is_across(part: Part) -> bool:
    """True for a part across the mains: a suppressor or a varistor."""
    return bool(part.safety_class) or part.role.startswith("suppressor") or not part.capacitor
