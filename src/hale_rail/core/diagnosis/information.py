"""What a test is worth: the bits that it tells of what to repair, for its minutes.

Source: docs/formulas.md, “Where to look next”. I(R; result) = H(result) − Σ P(R)·H(result | R),
over results as the model tells them apart, R what would be repaired.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.arrays import Floats, Indices, np
from hale_rail.core.diagnosis.inference import Weighed
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.diagnosis.space import mixed
from hale_rail.core.diagnosis.views import View
from hale_rail.core.parts.part import Part

#: hypotheses that are weighed for a test's worth: the likeliest with this share, at most so many
_SHARE, _MOST = 0.998, 1500
#: a class other than the usual one is told where it comes at least so often
_TOLD = 0.08
_NOISE = 0.01
#: what numbers of rows of classes are made with, wrapping round
_BASE, _STEP = 6364136223846793005, 1442695040888963407


#: minutes until probes, loads or a lamp are where a test wants them
SETTING_UP = 1.0


class Ranked(Struct, frozen=True):
    """A test with what it is expected to tell now: bits, and minutes as far as it is open.

    `parts`: those of its parts that are still to be read.
    """

    test: BenchTest
    bits: float
    minutes: float
    parts: tuple[Part, ...] = ()

    @property
    def bits_per_minute(self) -> float:
        """What the test tells for the time that it takes, its setting up included."""
        return self.bits / (self.minutes + SETTING_UP)


class Outlook(Struct, frozen=True, eq=False):
    """The likeliest hypotheses, those together of which the same would be repaired: the places of
    both faults, chances, and where each repair begins."""

    first: Indices
    second: Indices
    chances: Floats
    starts: Indices


def outlook(weighed: Weighed) -> Outlook:
    """The hypotheses that matter; faults that are gone stand as none."""
    order = np.argsort(-weighed.chances)[:_MOST]
    total = np.cumsum(weighed.chances[order])
    kept = order[: int(np.searchsorted(total, _SHARE)) + 1]
    space, (first, second) = weighed.model.space, weighed.active
    none = space.count
    kept = kept[np.argsort(weighed.repairs[kept], kind="stable")]
    _, starts = np.unique(weighed.repairs[kept], return_index=True)
    chances = weighed.chances[kept]
    return Outlook(
        np.where(first[kept], space.first[kept], none),
        np.where(second[kept], space.second[kept], none),
        chances / chances.sum(),
        starts,
    )


def signature(views: Sequence[View]) -> View:
    """One view over several points of the same classes: faults that show alike at all of them are
    one class."""
    ranks = np.stack([view.ranks for view in views])
    points, count = ranks.shape
    usual = np.array([view.rows[-1].argmax() for view in views])
    at, fault = np.nonzero(ranks > 0)
    others = np.stack([view.rows for view in views])[at, fault]
    others[np.arange(len(at)), usual[at]] = 0.0
    chance = others.max(axis=1)
    is_told = chance > _TOLD
    told = np.zeros((points, count), dtype=np.int64)
    told[at, fault] = np.where(is_told, others.argmax(axis=1) + 1, 0)
    best = np.zeros(count)
    np.maximum.at(best, fault, np.where(is_told, chance, 0.0))
    # a number for each fault's row of classes, 0 for the usual at every point; it wraps round
    code = _STEP * np.multiply.accumulate(np.full(points, _BASE)) @ told
    known = np.unique(code[code != 0])
    places = np.where(code != 0, np.searchsorted(known, code) + 1, 0)
    classes = int(places.max()) + 1
    chances = np.where(places > 0, best, 1.0)
    rows = np.full((count, classes), _NOISE / classes)
    rows[np.arange(count), places] += chances * (1 - _NOISE)
    rows[:, 0] += np.where(places > 0, (1 - chances) * (1 - _NOISE), 0.0)
    return View([str(n) for n in range(classes)], rows, ranks.max(axis=0))


def bits(view: View, seen: Outlook) -> float:
    """What a view is expected to tell of what to repair, in bits."""
    a, b = view.rows[seen.first], view.rows[seen.second]
    rows = mixed(a, b, view.ranks[seen.first, None], view.ranks[seen.second, None])
    joint = rows * seen.chances[:, None]
    by_repair = np.add.reduceat(joint, seen.starts, axis=0)
    weight = by_repair.sum(axis=1)
    inner = by_repair / np.maximum(weight, 1e-300)[:, None]
    return max(0.0, _entropy(joint.sum(axis=0)) - float((weight * _entropies(inner)).sum()))


def _entropy(shares: Floats) -> float:
    kept = shares[shares > 0]
    return float(-(kept * np.log2(kept)).sum())


def _entropies(rows: Floats) -> Floats:
    safe = np.where(rows > 0, rows, 1.0)
    entropies: Floats = -(rows * np.log2(safe)).sum(axis=1)
    return entropies
