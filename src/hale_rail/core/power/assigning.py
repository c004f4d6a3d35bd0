"""Gives each rail one of its loads so that no resistor is used twice, at the least sum of errors.

Exact. Where the rails' own best loads fit together they are the answer; else one rail that is short
of resistors tries its loads in turn, as long as the sum can still be lower. Where that takes too
many tries (many rails, few resistors), the same is solved as a mixed-integer model.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Sequence

from hale_rail.core.arrays import Floats, np
from hale_rail.core.power.arrangements import Candidates

#: rails unmet, sum of errors
Cost = tuple[int, float]
_EPSILON = 1e-12
#: attempts before the model takes over
_MOST_TRIES = 2000
#: errors are scaled so that the solver's own tolerance does not matter
_SCALE = 1e4


def assign(
    options: Sequence[Candidates], quantity: Sequence[int], alike: Sequence[Hashable]
) -> list[int | None]:
    """The index of each rail's load, None for a rail that gets none.

    `alike`: rails of equal keys have the same loads, so that they need not be tried in every order.
    """
    search = _Search(options, list(quantity), list(alike))
    try:
        search.run({}, set(range(len(options))))
    except _TooManyError:
        return _by_model(options, quantity, search.cost)
    return [search.best.get(rail) for rail in range(len(options))]


def _by_model(
    options: Sequence[Candidates], quantity: Sequence[int], known: Cost
) -> list[int | None]:
    """One load a rail, no resistor more often than it is there: first the fewest rails unmet.

    `known`: the cost of a choice that was found; a load that alone costs more than it could save is
    left out.
    """
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_matrix

    best = [float(load.error[0]) if len(load) else 0.0 for load in options]
    fewest = sum(not len(load) for load in options)
    spare = known[1] - sum(best) if known[0] == fewest else np.inf
    columns = [
        (rail, index)
        for rail, load in enumerate(options)
        for index in np.flatnonzero(load.error <= best[rail] + spare + _EPSILON).tolist()
    ]
    rails = len(options)
    if not columns:
        return [None] * rails
    rows, places = [], []
    for place, (rail, index) in enumerate(columns):
        for kind in [k for k in options[rail].kinds[index].tolist() if k >= 0]:
            rows.append(rails + kind)
            places.append(place)
        rows.append(rail)
        places.append(place)
    uses = csr_matrix((np.ones(len(rows)), (rows, places)), (rails + len(quantity), len(columns)))
    most = np.concatenate((np.ones(rails), np.array(quantity, dtype=float)))
    limits = [LinearConstraint(uses, -np.inf, most)]
    whole = np.ones(len(columns))
    errors = np.array([options[rail].error[index] for rail, index in columns])

    def solved(cost: Floats, among: list[LinearConstraint]) -> Floats:
        solved = milp(
            cost, constraints=among, integrality=whole, bounds=Bounds(0, 1),
            options={"mip_rel_gap": 0.0},
        )  # fmt: skip
        out: Floats = np.round(solved.x)
        return out

    met = float(solved(-whole, limits).sum())
    # of equally many rails, those that lie nearest
    chosen = solved(_SCALE * errors, [*limits, LinearConstraint(whole[None, :], met, rails)])
    picks: list[int | None] = [None] * rails
    for place in np.flatnonzero(chosen > 0.5).tolist():
        rail, index = columns[place]
        picks[rail] = index
    return picks


class _TooManyError(Exception):
    """The search has tried as often as it may."""


class _Search:
    def __init__(
        self, options: Sequence[Candidates], quantity: list[int], alike: list[Hashable]
    ) -> None:
        self._options = options
        self._left = quantity
        self._alike = alike
        self.best: dict[int, int | None] = {}
        self.cost: Cost = (len(options) + 1, 0.0)
        self._tries = 0

    def _first_fitting(self, rail: int, start: int = 0) -> int | None:
        left = self._left
        for index in range(start, len(self._options[rail])):
            if all(left[kind] >= n for kind, n in self._uses(rail, index).items()):
                return index
        return None

    def _uses(self, rail: int, index: int) -> Counter[int]:
        """How many of each kind of resistor a load is made of."""
        return Counter(kind for kind in self._options[rail].kinds[index].tolist() if kind >= 0)

    def _error(self, rail: int, index: int) -> float:
        return float(self._options[rail].error[index])

    def _is_lower(self, cost: Cost) -> bool:
        return cost[0] < self.cost[0] or (
            cost[0] == self.cost[0] and cost[1] < self.cost[1] - _EPSILON
        )

    def run(self, chosen: dict[int, int | None], open_rails: set[int]) -> None:
        """Try what is open, given what is chosen."""
        self._tries += 1
        if self._tries > _MOST_TRIES:
            raise _TooManyError
        picks = {rail: self._first_fitting(rail) for rail in sorted(open_rails)}
        decided = list(chosen.items()) + list(picks.items())
        bound = self._cost_of(decided)
        if not self._is_lower(bound):
            return
        short = self._short_of(picks)
        if not short:
            self.cost, self.best = bound, dict(decided)
            return
        rail = min(short, key=lambda r: (len(self._options[r]), r))
        base = self._cost_of([item for item in decided if item[0] != rail])
        index = self._least_index(rail, chosen)
        while (load := self._first_fitting(rail, index)) is not None:
            error = self._error(rail, load)
            if not self._is_lower((base[0], base[1] + error)):
                break
            self._take(rail, load, 1)
            self.run({**chosen, rail: load}, open_rails - {rail})
            self._take(rail, load, -1)
            index = load + 1
        self.run({**chosen, rail: None}, open_rails - {rail})

    def _least_index(self, rail: int, chosen: dict[int, int | None]) -> int:
        """Of rails that are alike a later one takes no nearer load than one decided before it."""
        before = [
            index
            for other, index in chosen.items()
            if index is not None and self._alike[other] == self._alike[rail]
        ]
        return max(before, default=0)

    def _take(self, rail: int, index: int, times: int) -> None:
        for kind, n in self._uses(rail, index).items():
            self._left[kind] -= n * times

    def _cost_of(self, decided: Sequence[tuple[int, int | None]]) -> Cost:
        unmet = sum(index is None for _, index in decided)
        return unmet, sum(self._error(rail, i) for rail, i in decided if i is not None)

    def _short_of(self, picks: dict[int, int | None]) -> list[int]:
        """Rails whose best loads want resistors of which there are not enough for all."""
        wanted: Counter[int] = Counter()
        for rail, index in picks.items():
            if index is not None:
                wanted.update(self._uses(rail, index))
        scarce = {kind for kind, n in wanted.items() if n > self._left[kind]}
        return [
            rail
            for rail, index in picks.items()
            if index is not None and scarce & self._uses(rail, index).keys()
        ]
