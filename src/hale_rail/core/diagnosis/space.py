"""The hypotheses: nothing, one fault, or two of them, each with its weight beforehand.

Source: docs/formulas.md, “Where to look next”. All pairs are held as two arrays of places among the
faults, so that a fact's factor for all of them is one look-up.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from hale_rail.core.arrays import Flags, Floats, Indices, np
from hale_rail.core.diagnosis.faults import Fault

#: the faults that an old unit is expected to have beside the one that it came in with
EXPECTED = 0.25
#: weight of "nothing is wrong" against that: with a complaint, and without one
_NOTHING, _PREVENTIVE = 0.01, 1.0
#: where one fault stresses another of the same line, both are likelier than by chance
_STRESS = 2.0


class Space(Struct, frozen=True, eq=False, dict=True):
    """Places of the first and second fault of each hypothesis (the number of faults: none), and
    the natural logarithm of each weight; shapes (hypotheses,)."""

    first: Indices
    second: Indices
    log_weight: Floats
    count: int

    @cached_property
    def _forth(self) -> Indices:
        forth: Indices = self.first * (self.count + 1) + self.second
        return forth

    @cached_property
    def _back(self) -> Indices:
        back: Indices = self.second * (self.count + 1) + self.first
        return back

    def tables(self) -> Floats:
        """Two empty tables of all pairs of faults, none of them last, for factors to be added to:
        a pair stands in the first by its first fault, in the second by its second; shape
        (2, faults + 1, faults + 1)."""
        return np.zeros((2, self.count + 1, self.count + 1))

    def picked(self, tables: Floats) -> Floats:
        """What is in such tables for every hypothesis, shape (hypotheses,)."""
        picked: Floats = tables[0].ravel()[self._forth]
        picked += tables[1].ravel()[self._back]
        return picked


class Factor(Struct, frozen=True, eq=False):
    """What a fact says of all pairs: ln P(fact | pair) against none, for the faults that it tells.

    `places`: those faults; `block`: each of them with every other and with none (last); shapes
    (told,) and (told, faults + 1). A pair of which neither is told has nothing here. `beside`: the
    block without those pairs of which both are told, which would count twice.
    """

    places: Indices
    block: Floats
    beside: Floats

    def at(self, first: int, second: int) -> float:
        """The factor of one hypothesis."""
        for one, other in ((first, second), (second, first)):
            row = np.flatnonzero(self.places == one)
            if len(row):
                return float(self.block[row[0], other])
        return 0.0

    @property
    def most(self) -> float:
        """The most that any hypothesis has."""
        return max(0.0, float(self.block.max())) if len(self.places) else 0.0

    @property
    def spread(self) -> float:
        """How far hypotheses lie apart."""
        return self.most - min(0.0, float(self.block.min())) if len(self.places) else 0.0

    def add_to(self, tables: Floats, share: float) -> None:
        """Add it to the tables of a space."""
        tables[0][self.places] += share * self.block
        tables[1][self.places] += share * self.beside

    def of(self, space: Space) -> Floats:
        """It for every hypothesis, shape (hypotheses,)."""
        tables = space.tables()
        self.add_to(tables, 1.0)
        return space.picked(tables)


def mixed(a: Floats, b: Floats, up: Indices, down: Indices) -> Floats:
    """What two faults show of what each alone shows: the one of higher rank, of equal ones the
    mean. All are broadcast to one shape; `up` is the rank of `a`, `down` that of `b`."""
    mixed: Floats = np.where(up > down, a, np.where(down > up, b, (a + b) / 2))
    return mixed


def factor(likely: Floats, rank: Indices) -> Factor:
    """The factor of P(fact | fault), shape (faults + 1,) with none last.

    The fault further up the way of power hides the other; of two of one rank the mean.
    """
    places = np.flatnonzero(rank[:-1] > 0)
    shown = mixed(likely[places, None], likely[None, :], rank[places, None], rank[None, :])
    least = 1e-12
    block = np.log(np.maximum(shown, least)) - np.log(max(float(likely[-1]), least))
    beside = block.copy()
    beside[:, places] = 0.0
    return Factor(places, block, beside)


def space(faults: Sequence[Fault], beliefs: Mapping[int, float], *, preventive: bool) -> Space:
    """Every hypothesis over these faults; `beliefs`: factors by fault, by its place."""
    count = len(faults)
    old = np.array([not f.is_new for f in faults])
    rate = np.array([f.rate for f in faults])
    share = np.where(old, EXPECTED * rate / max(float(rate[old].sum()), 1e-9), rate)
    for place, factor in beliefs.items():
        share[place] *= factor
    rows, columns = np.nonzero(np.triu(_may_be_both(faults), 1))
    nothing = _PREVENTIVE if preventive else _NOTHING
    lines = _places([f.line for f in faults])
    stressed = np.where(lines[rows] == lines[columns], _STRESS, 1.0)
    only_new = np.where(old[rows] | old[columns], 1.0, nothing)
    singles = np.where(old, share, nothing * share)
    pairs = share[rows] * share[columns] * stressed * only_new
    weight = np.concatenate([[nothing], singles, pairs])
    first = np.concatenate([[count], np.arange(count), rows])
    second = np.concatenate([[count], np.full(count, count), columns])
    return Space(first, second, np.log(np.maximum(weight, 1e-300)), count)


def _places(words: Sequence[object]) -> Indices:
    """A number for each word, the same for the same."""
    known: dict[object, int] = {}
    return np.array([known.setdefault(word, len(known)) for word in words], dtype=np.intp)


def _may_be_both(faults: Sequence[Fault]) -> Flags:
    """Two states of one part are not both; a part is no second fault beside what it belongs to.

    Shape (faults, faults).
    """
    ids = sorted({i for f in faults for i in f.part_ids})
    column = {i: n for n, i in enumerate(ids)}
    has = np.zeros((len(faults), len(ids)))
    for row, fault in enumerate(faults):
        has[row, [column[i] for i in fault.part_ids]] = 1.0
    since = _places([f.since for f in faults])
    both: Flags = ~((has @ has.T > 0) & (since[:, None] == since[None, :]))
    return both
