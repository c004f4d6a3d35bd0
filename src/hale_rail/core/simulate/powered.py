"""The rails of a powered unit: fold-back, least load, cross-regulation, drop-out, current limit.

Sources: the loads of the open formats and stated habits of supplies (docs/formulas.md, “The
simulated unit”).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from msgspec.structs import replace

from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.simulate.circuit import dummy_a, machine_a, most_a
from hale_rail.core.simulate.faults import FEEDBACK, UNIT
from hale_rail.core.simulate.mains_side import MainsSide
from hale_rail.core.simulate.nodes import GROUND, RECTIFIERS, SERIES
from hale_rail.core.simulate.outcome import RAW_SHARE, AppliedLoad, PowerOutcome, RailState, RunMode
from hale_rail.core.simulate.rail_line import rectifies
from hale_rail.core.simulate.ripples import rail_ripple
from hale_rail.core.supply.sheet import Rail, Regulation

#: a current limit over the largest load, and what a board that draws too much draws
_LIMIT, _OVERLOADED = 1.3, 2.4
#: a rail's ohms below this share of volts by most amperes are a short to a regulator
_SHORT_SHARE = 0.3
_LINEAR_SPREAD, _AUXILIARY_SPREAD = 0.010, 0.015
#: what an auxiliary rises to, and what a rail jumps by, without the main loop's load
_UNLOADED, _BARE_JUMP = 1.12, 0.08
_TESTING_A, _TESTING_V = 1e-3, 1.0
_BURNS_ABOVE = 1.3


@dataclass
class Powering(MainsSide):
    """One application of power to a unit, its rails included."""

    def outcome(self) -> PowerOutcome:
        """What happens."""
        outcome = self.before_bulk() or self.control() or self.outputs()
        return replace(outcome, destroyed=(*outcome.destroyed, *self._taken_along(outcome)))

    def amperes(self, rail: Rail) -> float:
        """What is drawn of a rail that is right."""
        if self.load is AppliedLoad.NONE:
            return 0.0
        if self.load is AppliedLoad.DUMMY:
            return dummy_a(rail)
        fault = self.circuit.fault
        if fault and fault.where == UNIT and rail.regulation is Regulation.MAIN:
            return 0.0
        drawn = machine_a(rail)
        return drawn * (_OVERLOADED if self.circuit.is_failing(rail, FaultMode.OVERLOAD) else 1.0)

    def _is_shorted(self, rail: Rail) -> bool:
        return self._reads_short(rail, self.circuit.wiring.output[rail.key])

    def _is_shorted_before(self, rail: Rail) -> bool:
        """The rail's own rectifier or filter shorted before its regulator: the stage feels it."""
        source = self.circuit.wiring.source[rail.key]
        return rectifies(self.sheet, rail) and self._reads_short(rail, source)

    def _reads_short(self, rail: Rail, node: str) -> bool:
        network = self.circuit.network(attached=self.load is AppliedLoad.MACHINE)
        plus, minus = (GROUND, node) if rail.nominal_v < 0 else (node, GROUND)
        ohm = network.drop(plus, minus, _TESTING_A, _TESTING_V) / _TESTING_A
        return ohm < max(1.0, _SHORT_SHARE * abs(rail.nominal_v) / most_a(rail))

    def outputs(self) -> PowerOutcome:
        """What the rails do once the supply starts."""
        rails = self.sheet.rails
        shorted = {r.key for r in rails if self._is_shorted(r)}
        if self.sheet.topology.is_switching and self._stops(shorted):
            mode = RunMode.HICCUP if self.is_ticking else RunMode.SILENT
            return PowerOutcome(mode, bulk_v=self.held_v())
        optocoupler = self._optocoupler()
        if optocoupler == "off":
            return PowerOutcome(RunMode.SILENT, bulk_v=self.held_v())
        states = {r.key: self._state(r, shorted, optocoupler) for r in rails}
        ripples = {r.key: rail_ripple(self.circuit, r, states[r.key].ampere) for r in rails}
        return PowerOutcome(RunMode.RUNS, states, bulk_v=self.held_v(), ripples=ripples)

    def _stops(self, shorted: set[str]) -> bool:
        """The stage itself folds back: a rail of its own shorted or drawn too much from, its loop
        blind for an open rectifier, or no least load where it needs one to start."""
        own = [r for r in self.sheet.rails if r.regulation.is_switching]
        too_much = any(self.amperes(r) > _LIMIT * most_a(r) for r in own)
        blind = self.main is not None and self._is_broken(self.main)
        bare = self.is_bare and not self.starts_bare
        before = any(self._is_shorted_before(rail) for rail in self.sheet.rails)
        return too_much or blind or bare or before or any(r.key in shorted for r in own)

    @property
    def main(self) -> Rail | None:
        """The rail that the loop regulates."""
        return next((r for r in self.sheet.rails if r.regulation is Regulation.MAIN), None)

    @property
    def is_bare(self) -> bool:
        """True while the main loop has not its least load."""
        main = self.main
        return main is not None and bool(main.load_min_a) and self.amperes(main) == 0.0

    def _is_broken(self, rail: Rail) -> bool:
        """Something in the way of a rail is open; of two rectifiers both would have to be."""
        way = [p for p in self.sheet.on_line(rail.key) if not p.board]
        rectifiers = [p for p in way if p.kind.code in RECTIFIERS]
        others = [p for p in way if p.kind.code in (*SERIES, "regulator")]
        dead = self.any_failed(others, "open") or self.any_failed(others, "dead")
        lost = [p for p in rectifiers if self.failure(p) == "open" and p.kind.code != "bridge"]
        return dead or bool(lost and len(lost) == len(rectifiers))

    def _optocoupler(self) -> str:
        parts = [p for p in self.sheet.parts if p.kind.code == "optocoupler"]
        if not (self.any_failed(parts, "open") or self.any_failed(parts, "short")):
            return ""
        return "high" if self.habit < 0.5 else "low" if self.habit < 0.83 else "off"

    def _share(self, rail: Rail, optocoupler: str) -> float:
        """A rail's volts against its nominal while it regulates."""
        share = 1 + self.reference
        fault = self.circuit.fault
        drifts = optocoupler or (fault and fault.where == FEEDBACK and self._drifts(rail))
        if drifts:
            share *= {"high": 1.18, "low": 0.85}.get(optocoupler, self.drift)
        spread = {Regulation.LINEAR: _LINEAR_SPREAD, Regulation.AUXILIARY: _AUXILIARY_SPREAD}
        share *= 1 + spread.get(rail.regulation, 0.0) * max(-2.0, min(2.0, self.spread[rail.key]))
        if rail.regulation is Regulation.AUXILIARY and (self.is_bare or not self.amperes(rail)):
            share *= _UNLOADED
        return share

    def _drifts(self, rail: Rail) -> bool:
        if self.sheet.topology.is_switching:
            return rail.regulation is not Regulation.LINEAR
        return rail.key == self.sheet.rails[0].key

    def _state(self, rail: Rail, shorted: set[str], optocoupler: str) -> RailState:
        nominal, drawn = rail.nominal_v, self.amperes(rail)
        feeding = self.circuit.wiring.source_of.get(rail.key, "")
        fed = self.sheet.rail(feeding)
        if self._is_broken(rail) or (fed and (self._is_broken(fed) or feeding in shorted)):
            return RailState(0.004 * nominal, 0.004 * nominal, 0.0)
        if rail.key in shorted:
            held = min(0.05 * abs(nominal), 0.4)
            return RailState(math.copysign(held, nominal), math.copysign(held, nominal),
                             _LIMIT * most_a(rail))  # fmt: skip
        if self._passes_raw(rail):
            raw = nominal * RAW_SHARE
            return RailState(raw, raw, drawn)
        share = self._share(rail, optocoupler) * self._sag(rail)
        if drawn > _LIMIT * most_a(rail):
            share *= _LIMIT * most_a(rail) / drawn
        jumping = self._jumps(rail)
        return RailState(nominal * share * (1 - jumping), nominal * share, drawn)

    def _passes_raw(self, rail: Rail) -> bool:
        way = [p for p in self.sheet.on_line(rail.key) if not p.board]
        passing = [p for p in way if p.kind.code == "regulator" or self.is_pass(p)]
        return self.any_failed(passing, "short")

    def _sag(self, rail: Rail) -> float:
        """What a worn-out raw supply takes from a rail under load; a raw rail is such a supply."""
        if rail.regulation is Regulation.RAW:
            return rail_ripple(self.circuit, rail, self.amperes(rail)).sag
        if self.load is not AppliedLoad.MACHINE:
            return 1.0
        ripple = rail_ripple(self.circuit, rail, machine_a(rail))
        return ripple.sag

    def _jumps(self, rail: Rail) -> float:
        """The share by which a rail's reading moves."""
        if self.is_bare and rail.regulation.is_switching:
            return _BARE_JUMP
        ripple = rail_ripple(self.circuit, rail, self.amperes(rail))
        return 0.02 if ripple.peak_to_peak_v > 2.0 * ripple.limit_v else 0.0

    def _taken_along(self, outcome: PowerOutcome) -> list[tuple[str, str]]:
        """What power into a fault destroys beside the fuse: each a designator and how it looks."""
        if self.limited or self.load is not AppliedLoad.MACHINE:
            return []
        taken_along: list[tuple[str, str]] = []
        for rail in self.sheet.rails:
            state = outcome.rails.get(rail.key)
            if state and abs(state.high_v) > _BURNS_ABOVE * abs(rail.nominal_v):
                boards = [p for p in self.sheet.parts if p.kind.code == "board"]
                taken_along += [(p.ref, "burnt") for p in boards if rail.key in p.rails]
            if rail.is_stiff and self._is_shorted(rail):
                taken_along += [(p.ref, "burnt") for p in self.sheet.on_line(rail.key)
                          if self.failure(p) == "short" and p.capacitor]  # fmt: skip
        return taken_along
