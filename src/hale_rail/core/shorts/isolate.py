"""Which assembly holds the short: the tree of what hangs on a rail, and what to detach next.

In parallel things add as conductances, so a reading with a set attached is the sum over the set. A
hypothesis is a set of shorted items (none, one or two); it is weighed by how well conductances that
fit it (a short at least, a sound item at most so much) can give the readings.
Source: docs/formulas.md, “Find the assembly”.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Iterator, Mapping, Sequence
from enum import Enum
from itertools import combinations

from msgspec import Struct

from hale_rail.core.arrays import np
from hale_rail.core.quantities import Unit, show
from hale_rail.core.shorts.board import SETTLED
from hale_rail.core.shorts.flows import Array
from hale_rail.core.shorts.ground import SHORT_OHM
from hale_rail.core.shorts.tree import OPEN_S, SetReading, Tree

#: a short conducts, a sound item at most this share of it
_SOUND_SHARE = 0.2
#: two shorts against one, and none at all, before anything is read
_TWO_WEIGHT, _NONE_WEIGHT = 0.01, 1e-3
#: minutes of one reading
READING_MINUTES = 0.5
#: fewer bits than this are nothing
_NOTHING = 0.01
#: detaching that tells less is weighed against plugging in again
_LITTLE = 0.1
#: ways to detach that are compared at most
_MOST_WAYS = 4000
_ROUNDS = 60
#: χ² of a set that reads short while a hypothesis has no short in it
_LOW_WITHOUT = 30.0


class SearchState(Enum):
    """The state of the search."""

    OPEN = "open"
    FOUND = "found"
    NONE = "none"


class Move(Struct, frozen=True):
    """What to detach and reattach before the next reading, the bits it tells and its minutes.

    What hangs on a detached item goes with it; what is reattached is named one by one.
    """

    detach: tuple[str, ...]
    reattach: tuple[str, ...]
    bits: float
    minutes: float


class Isolation(Struct, frozen=True):
    """What the readings say: each item's chance of holding a short, and its own ohms if known.

    `shorted` are the items that are settled; `own` holds inf where an item is known to be open;
    `is_torn`: no two shorts explain the readings, so something changed between them.
    """

    tree: Tree
    chance: Mapping[str, float]
    own: Mapping[str, float]
    finding: SearchState
    shorted: tuple[str, ...]
    next: Move | None
    attached: frozenset[str]
    readings: tuple[SetReading, ...]
    is_torn: bool


def isolate(tree: Tree, readings: Sequence[SetReading]) -> Isolation:
    """Weigh which items hold the short by the readings, in the order they were taken."""
    usable = tuple(readings)
    sets, chance, misfit = _posterior(tree, usable)
    holds = {
        item.id: float(sum(c for s, c in zip(sets, chance, strict=True) if item.id in s))
        for item in tree.items
    }
    attached = usable[-1].attached if usable else tree.held_up(tree.by_id)
    shorted = tuple(item.id for item in tree.items if holds[item.id] >= SETTLED)
    none = float(sum(c for s, c in zip(sets, chance, strict=True) if not s))
    finding = SearchState.NONE if none >= SETTLED else SearchState.OPEN
    best = sets[int(chance.argmax())]
    is_torn = misfit > _TORN_CHI2
    if is_torn:
        finding = SearchState.OPEN
    elif shorted and set(shorted) == set(best) and float(chance.max()) >= _MAIN:
        finding = SearchState.FOUND if _is_rest_free(tree, usable, shorted) else SearchState.OPEN
    known = frozenset(shorted)
    move = None
    if finding is SearchState.OPEN:
        move = _next_move(tree, sets, chance, attached, known) or _proving(tree, attached, known)
    return Isolation(
        tree, holds, _own_ohms(tree, usable), finding, shorted, move, attached, usable, is_torn
    )


def _is_rest_free(tree: Tree, readings: Sequence[SetReading], shorted: Sequence[str]) -> bool:
    """True once the rail was read free of a short with the found items detached.

    The supply itself cannot be detached: it is found once it reads low with nothing on it.
    """
    result = set(shorted)
    if tree.root.id in result:
        return any(r.is_low and r.attached == {tree.root.id} for r in readings)
    return any(r.is_free and not r.attached & result for r in readings)


def _proving(tree: Tree, attached: frozenset[str], shorted: frozenset[str]) -> Move | None:
    """Detach what is found, to read the rest: below the limit another short stays."""
    off = [i.id for i in tree.items if i.id in shorted & attached and i.id != tree.root.id]
    if tree.root.id in shorted:
        off = [i.id for i in tree.children[tree.root.id] if i.id in attached]
    if not off:
        return None
    minutes = READING_MINUTES + sum(tree.by_id[i].minutes for i in off)
    return Move(tuple(off), (), 0.0, minutes)


#: the likeliest set must be this likely for the search to end
_MAIN = 0.9
#: readings further than this from every hypothesis contradict each other
_TORN_CHI2 = 30.0


def _posterior(
    tree: Tree, readings: Sequence[SetReading]
) -> tuple[list[frozenset[str]], Array, float]:
    """Sets of shorted items, their chances, and χ² of the one that fits best."""
    total = sum(item.weight for item in tree.items)
    share = {item.id: item.weight / total for item in tree.items}
    sets = [frozenset[str]()]
    prior = [_NONE_WEIGHT]
    for item in tree.items:
        sets.append(frozenset((item.id,)))
        prior.append(share[item.id])
    for one, other in combinations(tree.items, 2):
        sets.append(frozenset((one.id, other.id)))
        prior.append(_TWO_WEIGHT * 2 * share[one.id] * share[other.id])
    if not readings:
        prior[0] = 0.0
    chi2 = _Fitted(tree, readings).of(sets)
    weight = np.array(prior) * np.exp(-0.5 * (chi2 - chi2.min()))
    if not weight.sum() > 0:
        weight = np.array(prior)
    return sets, weight / weight.sum(), float(chi2.min())


class _Fitted:
    """How far the readings are from what conductances of a hypothesis can give."""

    def __init__(self, tree: Tree, readings: Sequence[SetReading]) -> None:
        self.ids = [item.id for item in tree.items]
        self.siemens = np.array([r.siemens for r in readings])
        self.least_siemens = np.array([r.least_siemens for r in readings])
        self.error = np.array([r.error for r in readings])
        self.is_low = np.array([r.is_low for r in readings], dtype=bool)
        self.inside = np.array(
            [[float(i in r.attached) for i in self.ids] for r in readings]
        ).reshape(len(readings), len(self.ids))
        told = [r.siemens for r in readings if r.high_ohm is None]
        most = max(told, default=0.0)
        #: what makes a short: 1 Ω, or half of the worst reading where that is a weaker one
        self.least = min(1 / SHORT_OHM, 0.5 * most) if most > _SOUND_SHARE else 1 / SHORT_OHM

    def of(self, sets: Sequence[frozenset[str]]) -> Array:
        """χ² at the best conductances within each hypothesis's bounds, shape (sets,)."""
        shorted = np.array([[i in s for i in self.ids] for s in sets])
        low = np.where(shorted, self.least, 0.0)
        high = np.where(shorted, 1e4, _SOUND_SHARE * self.least)
        weights = self.inside / self.error[:, None]
        values = low.copy()
        rest = self._rest(values @ self.inside.T)
        square = np.maximum((weights**2).sum(axis=0), 1e-300)
        for _ in range(_ROUNDS):
            for at in range(len(self.ids)):
                step = rest @ weights[:, at] / square[at]
                new = np.clip(values[:, at] + step, low[:, at], high[:, at])
                rest -= np.outer(new - values[:, at], weights[:, at])
                values[:, at] = new
            rest = self._rest(values @ self.inside.T)  # bounds give where they are not reached
        chi2: Array = np.sum(rest**2, axis=1) + self._unexplained(shorted)
        return chi2

    def _rest(self, siemens: Array) -> Array:
        """What the readings leave of the sums, in errors, shape (sets, readings); 0 in bounds."""
        wanted = np.clip(siemens, self.least_siemens, self.siemens)
        rest: Array = (wanted - siemens) / self.error
        return rest

    def _unexplained(self, shorted: Array) -> Array:
        """What a low reading with no short in its set weighs against a hypothesis."""
        has_short = shorted.astype(float) @ self.inside.T > 0
        weighs: Array = _LOW_WITHOUT * np.sum(self.is_low & ~has_short, axis=1)
        return weighs


def _own_ohms(tree: Tree, readings: Sequence[SetReading]) -> dict[str, float]:
    """Each item's own ohms where successive readings, or readings of few, tell them.

    An item's conductance is the least-squares solution where the readings settle it; one that is
    lost in the error of larger ones is not told.
    """
    if not readings:
        return {}
    ids = [item.id for item in tree.items]
    inside = np.array([[float(i in r.attached) for i in ids] for r in readings])
    error = np.array([r.error for r in readings])
    white = inside / error[:, None]
    inverse = np.linalg.pinv(white)
    siemens = inverse @ (np.array([r.siemens for r in readings]) / error)
    is_told = np.abs(inverse @ white - np.eye(len(ids))).max(axis=1) < 1e-6
    deviation = np.sqrt((inverse**2).sum(axis=1))
    own_ohms = {}
    for at, item_id in enumerate(ids):
        if not is_told[at]:
            continue
        if siemens[at] > _TOLD * deviation[at]:
            own_ohms[item_id] = float(1 / siemens[at])
        elif deviation[at] <= 2 * OPEN_S:
            own_ohms[item_id] = math.inf
    return own_ohms


#: a conductance counts when it is so many times its error
_TOLD = 2.0


def _next_move(
    tree: Tree,
    sets: Sequence[frozenset[str]],
    chance: Array,
    attached: frozenset[str],
    known: frozenset[str],
) -> Move | None:
    """The change that tells most a minute; plugging in again only where detaching tells little.

    `known`: the shorts that are settled; what is asked is where another is.
    """
    best: dict[bool, Move] = {}
    for is_replug in (False, True):
        for wanted in _ways(tree, attached, is_replug):
            move = _move(tree, sets, chance, attached, wanted, known)
            if move.bits >= _NOTHING and (
                is_replug not in best or _rate(move) > _rate(best[is_replug])
            ):
                best[is_replug] = move
        if is_replug in best and best[is_replug].bits >= _LITTLE:
            return best[is_replug]
    return max(best.values(), key=_rate, default=None)


def _rate(move: Move) -> tuple[float, int]:
    return round(move.bits / move.minutes, 9), -len(move.detach) - len(move.reattach)


def _ways(tree: Tree, attached: frozenset[str], is_replug: bool) -> Iterator[frozenset[str]]:
    """Sets to read next, the fewest changes first: by detaching alone, or by plugging in too."""
    queue = deque([attached])
    seen = {attached}
    while queue and len(seen) < _MOST_WAYS:
        now = queue.popleft()
        if now != attached:
            yield now
        changed = [now - tree.below(i) for i in sorted(now - {tree.root.id})]
        if is_replug:
            changed += [now | {i.id} for i in tree.items if i.id not in now and i.parent in now]
        for other in changed:
            if other not in seen:
                seen.add(other)
                queue.append(other)


def _move(
    tree: Tree,
    sets: Sequence[frozenset[str]],
    chance: Array,
    attached: frozenset[str],
    wanted: frozenset[str],
    known: frozenset[str],
) -> Move:
    """The change to a set, the bits of “the short is in it” and the minutes."""
    in_it = float(sum(c for s, c in zip(sets, chance, strict=True) if (s - known) & wanted))
    bits = 0.0
    if 0 < in_it < 1:
        bits = -in_it * math.log2(in_it) - (1 - in_it) * math.log2(1 - in_it)
    off = attached - wanted
    detach = tuple(i.id for i in tree.items if i.id in off and i.parent not in off)
    reattach = tuple(i.id for i in tree.items if i.id in wanted - attached)
    minutes = READING_MINUTES + sum(tree.by_id[i].minutes for i in (*detach, *reattach))
    return Move(detach, reattach, bits, minutes)


def verdict(isolation: Isolation) -> str:
    """What the readings say, in a sentence or two."""
    names = {item.id: item.name for item in isolation.tree.items}
    if isolation.is_torn:
        text = "These readings contradict each other: something changed between them."
        return f"{text} Read {isolation.tree.rail} again with the same attached."
    if isolation.finding is SearchState.NONE:
        read = show(isolation.readings[-1].ohm, Unit.OHM)
        return f"No short is there now: {isolation.tree.rail} reads {read}. Note what changed."
    if isolation.finding is SearchState.FOUND:
        places = " and ".join(_place(isolation, item_id) for item_id in isolation.shorted)
        text = f"The short is in {places}."
        if isolation.tree.root.id in isolation.shorted:
            text += " Look at its output diode, its crowbar and its own capacitors."
        return text
    known = ""
    if isolation.shorted:
        holders = " and ".join(names[i] for i in isolation.shorted)
        known = f"{holders} hold a short each. " if len(isolation.shorted) > 1 else (
            f"{holders} holds a short. ")  # fmt: skip
    if isolation.next is None:
        return f"{known}Nothing more can be told by detaching."
    steps = " and ".join(_steps(isolation, isolation.next))
    why = "" if isolation.next.bits or not known else "Whether the rest is free is not read yet: "
    text = f"{steps}, then read {isolation.tree.rail} again."
    is_more = known and isolation.next.bits
    known += "Another short is still there. " if is_more else ""
    return f"{known}{why}{text}" if why else f"{known}{text[0].upper()}{text[1:]}"


def _steps(isolation: Isolation, move: Move) -> list[str]:
    """The changes in words; what is plugged in again comes without what hung on it."""
    names = {item.id: item.name for item in isolation.tree.items}
    bare = [
        child.name
        for item_id in move.reattach
        for child in isolation.tree.children[item_id]
        if child.id not in move.reattach
    ]
    without = f" without {', '.join(bare)}" if bare else ""
    steps = []
    if move.reattach:
        steps.append(f"plug in {', '.join(names[i] for i in move.reattach)}{without}")
    if move.detach:
        steps.append(f"detach {', '.join(names[i] for i in move.detach)}")
    return steps


def _place(isolation: Isolation, item_id: str) -> str:
    ohm = isolation.own.get(item_id, math.inf)
    name = isolation.tree.by_id[item_id].name
    return name if math.isinf(ohm) else f"{name} ({show(ohm, Unit.OHM, 2)})"
