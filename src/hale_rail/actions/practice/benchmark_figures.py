"""How good the diagnosis is: hunts over many drawn units, and what came of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from msgspec import Struct

from hale_rail.actions.practice.diagnosis_benchmark import Hunt, hunt
from hale_rail.actions.practice.repair_benchmark import Repair, repair
from hale_rail.core.simulate.random_units import draw, draw_pair
from hale_rail.core.supply.sheet import Topology

_WORST = 12


class HuntOutcome(Struct, frozen=True):
    """One hunt with what it was drawn by."""

    topology: Topology
    seed: int
    hunt: Hunt


class HuntFigures(Struct, frozen=True):
    """What came of hunts: shares, means, and the hunts that went worst."""

    outcomes: tuple[HuntOutcome, ...]

    @property
    def hunts(self) -> int:
        """How many there were."""
        return len(self.outcomes)

    @property
    def right_first(self) -> float:
        """The share whose true fault came out first."""
        return self._mean(float(o.hunt.is_right) for o in self.outcomes)

    @property
    def mean_tests(self) -> float:
        """Tests a hunt."""
        return self._mean(float(len(o.hunt.path)) for o in self.outcomes)

    @property
    def mean_minutes(self) -> float:
        """Minutes a hunt."""
        return self._mean(o.hunt.minutes for o in self.outcomes)

    @property
    def unsafe_steps(self) -> int:
        """Steps that must not be."""
        return sum(o.hunt.unsafe for o in self.outcomes)

    @property
    def settled_wrong(self) -> int:
        """Hunts that were settled on what was not the fault."""
        return sum(o.hunt.is_settled and not o.hunt.is_right for o in self.outcomes)

    @property
    def by_topology(self) -> dict[str, tuple[int, int]]:
        """How many hunts of each topology, and how many were right."""
        result: dict[str, tuple[int, int]] = {}
        for o in self.outcomes:
            count, right = result.get(o.topology.code, (0, 0))
            result[o.topology.code] = (count + 1, right + o.hunt.is_right)
        return result

    @property
    def worst(self) -> tuple[HuntOutcome, ...]:
        """Those that were wrong, then those that took most tests."""
        ordered = sorted(self.outcomes, key=lambda o: (o.hunt.is_right, -len(o.hunt.path)))
        return tuple(ordered[:_WORST])

    @property
    def by_fault(self) -> dict[str, tuple[int, int]]:
        """How many hunts of each way to fail and kind of part, and how many were right."""
        result: dict[str, tuple[int, int]] = {}
        for outcome in self.outcomes:
            code = outcome.hunt.kind
            count, right = result.get(code, (0, 0))
            result[code] = (count + 1, right + outcome.hunt.is_right)
        return dict(sorted(result.items()))

    def _mean(self, values: Iterable[float]) -> float:
        return sum(values) / self.hunts if self.outcomes else 0.0


def measure(
    topologies: Sequence[Topology],
    seeds: Iterable[int],
    tell: Callable[[HuntOutcome], None] = lambda _: None,
) -> HuntFigures:
    """Hunt one drawn fault a seed, each topology in turn; `tell` hears of every one."""
    outcomes = []
    for place, seed in enumerate(seeds):
        topology = topologies[place % len(topologies)]
        drawn = draw(topology, seed)
        came = hunt(drawn.sheet, drawn.fault, drawn.seed)
        if came is not None:
            outcomes.append(HuntOutcome(topology, seed, came))
            tell(outcomes[-1])
    return HuntFigures(tuple(outcomes))


class Repairs(Struct, frozen=True):
    """What came of units that were repaired to the end, each a topology, a seed, what came."""

    outcomes: tuple[tuple[Topology, int, Repair], ...]

    @property
    def count(self) -> int:
        """How many there were."""
        return len(self.outcomes)

    def mean(self, of: Callable[[Repair], float]) -> float:
        """The mean of something over all."""
        return sum(of(r) for _, __, r in self.outcomes) / self.count if self.outcomes else 0.0


def measure_repairs(
    topologies: Sequence[Topology], seeds: Iterable[int], *, pairs: bool
) -> Repairs:
    """Repair one drawn unit a seed, with one fault or two, each topology in turn."""
    repairs = []
    for place, seed in enumerate(seeds):
        topology = topologies[place % len(topologies)]
        came = repair((draw_pair if pairs else draw)(topology, seed))
        if came is not None:
            repairs.append((topology, seed, came))
    return Repairs(tuple(repairs))
