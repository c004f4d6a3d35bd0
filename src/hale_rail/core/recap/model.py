"""A mixed-integer linear model that is built variable by variable, and its solution by HiGHS."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from msgspec import Struct, field

Terms = Mapping[int, float]
#: a gap below this is rounding error
_NO_GAP = 1e-9


class Solution(Struct, frozen=True):
    """Values by variable, their cost, and `gap`, the proven distance from the best, as a share."""

    values: Sequence[float]
    cost: float
    gap: float

    def gap_without(self, part: float) -> float:
        """The gap as a share of the cost less a part of it that is not money."""
        rest = self.cost - part
        return self.gap * self.cost / rest if rest > 0 else self.gap

    def whole(self, variable: int) -> int:
        """A variable's value as the whole number that it is."""
        return round(self.values[variable])


class LinearModel(Struct):
    """Variables with cost and bounds, and rows of linear constraints."""

    costs: list[float] = field(default_factory=list)
    lows: list[float] = field(default_factory=list)
    highs: list[float] = field(default_factory=list)
    wholes: list[int] = field(default_factory=list)
    rows: list[tuple[Terms, float, float]] = field(default_factory=list)

    def variable(self, cost: float = 0.0, high: float = math.inf, *, whole: bool = True) -> int:
        """A variable from 0 to `high`, by its number."""
        self.costs.append(cost)
        self.lows.append(0.0)
        self.highs.append(high)
        self.wholes.append(int(whole))
        return len(self.costs) - 1

    def row(self, terms: Terms, low: float = -math.inf, high: float = math.inf) -> None:
        """A constraint: low ≤ Σ factor · variable ≤ high."""
        self.rows.append((terms, low, high))

    def solve(self, time_limit_s: float, rel_gap: float = 0.0) -> Solution | None:
        """The least cost, or None where there is no solution (or none was found in time)."""
        from scipy.optimize import Bounds, LinearConstraint, milp
        from scipy.sparse import csr_array

        at = [(r, v, f) for r, (terms, _, __) in enumerate(self.rows) for v, f in terms.items()]
        shape = (len(self.rows), len(self.costs))
        cells = ([f for *_, f in at], ([r for r, *_ in at], [v for _, v, _ in at]))
        lows, highs = ([row[side] for row in self.rows] for side in (1, 2))
        result = milp(
            self.costs,
            integrality=self.wholes,
            bounds=Bounds(self.lows, self.highs),
            constraints=LinearConstraint(csr_array(cells, shape=shape), lows, highs),
            options={"time_limit": time_limit_s, "mip_rel_gap": rel_gap},
        )
        if result.x is None:
            return None
        gap = result.mip_gap if result.mip_gap is not None else 0.0
        return Solution(list(result.x), float(result.fun), gap if gap > _NO_GAP else 0.0)
