"""How good the diagnosis is: hunts over many drawn units, and what came of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from msgspec import Struct

from hale_rail.actions.hunting import Hunt, hunt
from hale_rail.core.simulate.drawn import draw
from hale_rail.core.supply.sheet import Topology

#: what is aimed at
RIGHT_SHARE, MOST_MEAN_TESTS = 0.95, 6.5
_WORST = 12


class Outcome(Struct, frozen=True):
    """One hunt with what it was drawn by."""

    topology: Topology
    seed: int
    hunt: Hunt


class Figures(Struct, frozen=True):
    """What came of hunts: shares, means, and the hunts that went worst."""

    outcomes: tuple[Outcome, ...]

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
    def worst(self) -> tuple[Outcome, ...]:
        """Those that were wrong, then those that took most tests."""
        ordered = sorted(self.outcomes, key=lambda o: (o.hunt.is_right, -len(o.hunt.path)))
        return tuple(ordered[:_WORST])

    @property
    def by_fault(self) -> dict[str, tuple[int, int]]:
        """How many hunts of each way to fail and kind of part, and how many were right."""
        found: dict[str, tuple[int, int]] = {}
        for outcome in self.outcomes:
            code = outcome.hunt.kind
            count, right = found.get(code, (0, 0))
            found[code] = (count + 1, right + outcome.hunt.is_right)
        return dict(sorted(found.items()))

    def _mean(self, values: Iterable[float]) -> float:
        return sum(values) / self.hunts if self.outcomes else 0.0


def measure(
    topologies: Sequence[Topology],
    seeds: Iterable[int],
    tell: Callable[[Outcome], None] = lambda _: None,
) -> Figures:
    """Hunt one drawn fault a seed, each topology in turn; `tell` hears of every one."""
    found = []
    for place, seed in enumerate(seeds):
        topology = topologies[place % len(topologies)]
        drawn = draw(topology, seed)
        came = hunt(drawn.sheet, drawn.fault, drawn.seed)
        if came is not None:
            found.append(Outcome(topology, seed, came))
            tell(found[-1])
    return Figures(tuple(found))
