"""Every way to join one to three resistors of a stock into a load for a rail."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain

from msgspec import Struct

from hale_rail.core.arrays import Floats, Indices, np

#: a resistor carries at most this share of its rating
DERATED = 0.5
_EPSILON = 1e-9
#: how parts are joined: `series-parallel` two in series beside one, `parallel-series` one in series
#: with two side by side; in both the odd one stands first
NAMES = ("single", "series", "parallel", "series-parallel", "parallel-series")


class Piece(Struct, frozen=True):
    """A kind of resistor in the stock: ohms, rated watts and volts, and how many there are."""

    ohms: float
    watts: float
    max_volts: float
    qty: int = 1


class Candidates(Struct, frozen=True, eq=False):
    """Loads for one rail, the nearest first, each (n,) by column.

    `error` |I/I_wanted − 1|; `kinds` indexes into the stock, −1 for none, (n, 3); `heat` watts of
    each part, (n, 3); `arrangement` indexes into NAMES. `is_hot`: some that came near were too hot.
    """

    error: Floats
    ohms: Floats
    kinds: Indices
    heat: Floats
    arrangement: Indices
    is_hot: bool

    def __len__(self) -> int:
        return len(self.error)

    def describe(self, pick: int) -> tuple[str, list[int], list[float]]:
        """One load: how it is joined, its parts' indexes into the stock, and their watts."""
        kinds = [int(kind) for kind in self.kinds[pick] if kind >= 0]
        heats = [float(heat) for heat in self.heat[pick][: len(kinds)]]
        return NAMES[int(self.arrangement[pick])], kinds, heats


def candidates(volt: float, amps: float, stock: Sequence[Piece], within: float) -> Candidates:
    """Every load for a rail of `volt` that comes within a share of `amps`, the nearest first.

    Of loads of the same resistors only the nearest is kept, and of equally near ones that with the
    fewest parts.
    """
    ohms = np.array([piece.ohms for piece in stock])
    watts = np.array([piece.watts for piece in stock]) * DERATED
    volts = np.array([piece.max_volts for piece in stock])
    quantity = np.array([piece.qty for piece in stock], dtype=np.intp)
    candidates, is_hot = [], False
    for arrangement, kinds in _ways(quantity):
        total, across = _joined(arrangement, ohms[kinds], volt)
        heat = across * across / ohms[kinds]
        error = np.abs(volt / total / amps - 1)
        is_near = error <= within + _EPSILON
        is_borne = (heat <= watts[kinds] * (1 + _EPSILON)).all(axis=1)
        is_borne &= (across <= volts[kinds] * (1 + _EPSILON)).all(axis=1)
        is_hot = is_hot or bool((is_near & ~is_borne).any())
        kept = is_near & is_borne
        candidates.append((arrangement, kinds[kept], error[kept], total[kept], heat[kept]))
    return _sorted(candidates, is_hot)


def _ways(quantity: Indices) -> Iterator[tuple[int, Indices]]:
    """(arrangement, indexes of its parts (n, k)), no resistor more often than it is there."""
    there = np.flatnonzero(quantity > 0)
    if not len(there):
        return
    yield 0, there[:, None]
    size = len(there)
    one, two = np.triu_indices(size)
    pairs = np.stack((there[one], there[two]), axis=1)
    pairs = pairs[(one != two) | (quantity[there[one]] >= 2)]
    yield 1, pairs
    yield 2, pairs
    threes = _threes(there, pairs, quantity)
    for arrangement in (1, 2):
        yield arrangement, threes
    for odd in range(3):
        turned = threes[:, [odd, *(i for i in range(3) if i != odd)]]
        for arrangement in (3, 4):
            yield arrangement, turned


def _threes(there: Indices, pairs: Indices, quantity: Indices) -> Indices:
    """Every set of three, each once, in the stock's order."""
    sets = [
        np.column_stack((np.full(np.count_nonzero(pairs[:, 0] >= first), first),
                         pairs[pairs[:, 0] >= first]))
        for first in there
    ]  # fmt: skip
    every = np.concatenate(sets) if sets else np.empty((0, 3), dtype=np.intp)
    one, two, three = every.T
    times = 1 + (two == one).astype(int) + (three == one)
    also = 1 + (three == two).astype(int)
    kept = (times <= quantity[one]) & (also <= quantity[two])
    out: Indices = every[kept]
    return out


def _joined(arrangement: int, ohms: Floats, volt: float) -> tuple[Floats, Floats]:
    """Ohms in all (n,), and the volts across each part (n, k)."""
    name = NAMES[arrangement]
    if name in ("single", "parallel"):
        total = 1 / (1 / ohms).sum(axis=1)
        return total, np.full_like(ohms, volt)
    if name == "series":
        total = ohms.sum(axis=1)
        return total, volt * ohms / total[:, None]
    odd, rest = ohms[:, 0], ohms[:, 1:]
    if name == "series-parallel":
        chained = rest.sum(axis=1)
        total = 1 / (1 / odd + 1 / chained)
        return total, np.column_stack((np.full(len(odd), volt), volt * rest / chained[:, None]))
    beside = 1 / (1 / rest).sum(axis=1)
    total = odd + beside
    low = volt * beside / total
    return total, np.column_stack((volt * odd / total, low, low))


_Found = tuple[int, Indices, Floats, Floats, Floats]


def _sorted(result: Sequence[_Found], is_hot: bool) -> Candidates:
    def column(values: Floats | Indices, fill: float) -> Floats:
        out = np.full((len(values), 3), fill)
        out[:, : values.shape[1]] = values
        return out

    count = sum(len(error) for _, __, error, ___, ____ in result)
    if not count:
        none = np.empty(0)
        return Candidates(
            none, none, np.empty((0, 3), dtype=np.intp), np.empty((0, 3)),
            np.empty(0, dtype=np.intp), is_hot,
        )  # fmt: skip
    kinds = np.concatenate([column(k, -1) for _, k, *_ in result]).astype(np.intp)
    heat = np.concatenate([column(h, 0.0) for *_, h in result])
    error = np.concatenate([e for _, __, e, *_ in result])
    ohms = np.concatenate([o for _, __, ___, o, ____ in result])
    arrangement = np.fromiter(
        chain.from_iterable([a] * len(e) for a, _, e, *_ in result), dtype=np.intp, count=count
    )
    parts = (kinds >= 0).sum(axis=1)
    order = np.lexsort((np.arange(count), parts, np.round(error, 12)))
    same = np.sort(kinds[order], axis=1)
    _, first = np.unique(same, axis=0, return_index=True)
    kept = order[np.sort(first)]
    return Candidates(error[kept], ohms[kept], kinds[kept], heat[kept], arrangement[kept], is_hot)
