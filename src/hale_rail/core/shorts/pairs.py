"""Two parts shorted at once: tried when no single short explains the readings.

Both shorts join the nets, so the injected current divides between them by copper and by their own
ohms R1 and R2 (two-port solve): with kl the currents of one ampere in at the first part's pad and
out at the second's, ⟨x, y⟩ = Σ R·x·y, I the current through both,
i1 = (⟨kl, clamps − I·l⟩rail − ⟨kl, clamps + I·l⟩ground + R2·I) / (R1 + R2 + ⟨kl, kl⟩rail +
⟨kl, kl⟩ground), and a reading is that of a short at l alone less
i1·(⟨probes, kl⟩rail − ⟨probes, kl⟩ground + R2·probe through). The scale of the copper is taken to
leave the division as it is; segment errors are the mean of the two singles' (two approximations).
Source: docs/formulas.md, “Tracing a shorted rail”.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.arrays import Flags, np
from hale_rail.core.shorts.board import BoardPart
from hale_rail.core.shorts.board_model import (
    BoardModel,
    Kind,
    Loop,
    NetSide,
    Places,
    ShortHypothesis,
    TraceReading,
)
from hale_rail.core.shorts.evidence import LEADS, PRIOR_DEVIATION, PRIOR_MEAN, SCALE, SHORT
from hale_rail.core.shorts.flows import Array
from hale_rail.core.shorts.warmth import SLIP

#: ohms of a short that are tried, coarsely for every pair and finely for the best
_COARSE = np.array([0.02, 0.15, 0.6])
_FINE = np.array([0.003, 0.01, 0.03, 0.06, 0.1, 0.15, 0.22, 0.32, 0.45, 0.65, 0.9, 1.3])
_FINE_PAIRS, _SHOWN = 240, 12


class PairChance(Struct, frozen=True):
    """Two parts and the chance that they are the two, given that two are shorted."""

    parts: tuple[BoardPart, BoardPart]
    probability: float


def best_pairs(
    model: BoardModel, readings: Sequence[TraceReading], spread: Array
) -> tuple[PairChance, ...]:
    """The likeliest pairs of parts, best first.

    `spread`: covariance of the copper readings under each hypothesis of the model; `readings` in
    the order they were taken, drops, ohms and lifted legs.
    """
    held = [i for i, h in enumerate(model.held) if h.part is not None]
    if len(held) < 2:
        return ()
    first, second = np.triu_indices(len(held), 1)
    table = _Table(model, held, readings, spread)
    log = table.log_evidence(first, second, _COARSE, is_coarse=True)
    best = np.argsort(-log)[:_FINE_PAIRS]
    first, second = first[best], second[best]
    log = table.log_evidence(first, second, _FINE)
    chance = np.exp(log - log.max())
    chance /= chance.sum()
    order = np.argsort(-chance)[:_SHOWN]
    parts = [h.part for h in (model.held[i] for i in held) if h.part]
    return tuple(PairChance((parts[first[i]], parts[second[i]]), float(chance[i])) for i in order)


class _Table:
    """What all pairs have in common, so that they are weighed together."""

    def __init__(
        self,
        model: BoardModel,
        held: Sequence[int],
        readings: Sequence[TraceReading],
        spread: Array,
    ) -> None:
        self.parts: list[ShortHypothesis] = [model.held[i] for i in held]
        self.copper = [r for r in readings if r.is_of_copper]
        self.loops = [model.loop(r) for r in self.copper]
        self.nets = [
            _Products(model.rail, model.rail.place[held], self.loops),
            _Products(model.ground, model.ground.place[held], self.loops),
        ]
        self.values = np.array([r.value for r in self.copper])
        self.leads = np.array([float(r.has_leads) for r in self.copper])
        noise = np.diag(np.array([r.noise for r in self.copper]) ** 2)
        self.spread = spread[held] + noise
        self.lifted = _lifted_before(readings)
        self.log_prior = np.array([np.log(h.weight) for h in self.parts])
        self.touched = [(r.plus, r.value > 0) for r in readings if r.kind is Kind.LIFTED]

    def log_evidence(
        self, first: Places, second: Places, tried: Array, *, is_coarse: bool = False
    ) -> Array:
        """Log of prior times evidence of pairs, shape (pairs,); `tried` the ohms of each short.

        `is_coarse`: with the readings' errors taken as independent.
        """
        white = self._whitening(first, second, is_coarse)
        prior = -0.5 * ((tried - PRIOR_MEAN[SHORT]) / PRIOR_DEVIATION[SHORT]) ** 2
        prior += np.log(np.gradient(tried))
        log_evidence: Array = np.full(len(first), -np.inf)
        terms = [self._terms(at, first, second) for at in range(len(self.loops))]
        for i, one in enumerate(tried):
            for j, other in enumerate(tried):
                copper, fixed = _expected(terms, float(one), float(other))
                log = self._gaussian(white, copper, fixed)
                np.logaddexp(log_evidence, log + prior[i] + prior[j], out=log_evidence)
        scale = white if is_coarse else np.diagonal(white, axis1=1, axis2=2)
        log_evidence += np.sum(np.log(scale), axis=1)
        log_evidence += self.log_prior[first] + self.log_prior[second]
        return np.asarray(log_evidence + self._log_touch(first, second))

    def _terms(self, at: int, first: Places, second: Places) -> _Terms:
        """What of a reading does not depend on the shorts' ohms."""
        rail, ground = self.nets
        through = self.loops[at].amps_through
        lifted = self._lifted(at)
        is_turned = np.isin(second, lifted)
        k, on = np.where(is_turned, second, first), np.where(is_turned, first, second)
        return _Terms(
            self.loops[at],
            is_turned if is_turned.any() else None,
            np.isin(k, lifted) if lifted else None,
            rail.push(at, k, on, through) - ground.push(at, k, on, through),
            rail.between(k, on) + ground.between(k, on),
            rail.pull(at, k, on) - ground.pull(at, k, on),
            rail.alone(at, on) + ground.alone(at, on),
        )

    def _lifted(self, at: int) -> list[int]:
        """The parts that were lifted when a reading was taken; of a pair the second stays on."""
        return [i for i, h in enumerate(self.parts) if h.part and h.part.id in self.lifted[at]]

    def _whitening(self, first: Places, second: Places, is_coarse: bool) -> Array:
        """What makes the readings' errors independent and 1: matrices, or factors when coarse."""
        if is_coarse:
            own: Array = np.diagonal(self.spread, axis1=1, axis2=2)
            factors: Array = (0.5 * (own[first] + own[second])) ** -0.5
            return factors
        spread = 0.5 * (self.spread[first] + self.spread[second])
        whitening: Array = np.linalg.inv(np.linalg.cholesky(spread))
        return whitening

    def _gaussian(self, white: Array, copper: Array, fixed: Array) -> Array:
        """Log density of the readings, scale and leads integrated out (their cuts left off)."""

        def whitened(column: Array) -> Array:
            if white.ndim == 2:
                return white * column
            whitened: Array = (white @ np.broadcast_to(column, copper.shape)[:, :, None])[:, :, 0]
            return whitened

        rest = whitened(self.values - copper - fixed - self.leads * PRIOR_MEAN[LEADS])
        scale = whitened(copper * PRIOR_DEVIATION[SCALE])
        leads = whitened(self.leads * PRIOR_DEVIATION[LEADS])
        ss, ll, sl = _dot(scale, scale) + 1, _dot(leads, leads) + 1, _dot(scale, leads)
        rs, rl, rr = _dot(rest, scale), _dot(rest, leads), _dot(rest, rest)
        determinant = ss * ll - sl * sl
        explained = (ll * rs * rs - 2 * sl * rs * rl + ss * rl * rl) / determinant
        gaussian: Array = -0.5 * (rr - explained + np.log(determinant))
        return gaussian

    def _log_touch(self, first: Places, second: Places) -> Array:
        log_touch = np.zeros(len(first))
        seen: set[str] = set()
        for part_id, is_gone in self.touched:
            seen.add(part_id)
            off = np.array([bool(h.part and h.part.id in seen) for h in self.parts])
            is_clear = off[first] & off[second]
            log_touch += np.where(is_clear == is_gone, 0.0, np.log(SLIP))
        return log_touch


def _dot(one: Array, other: Array) -> Array:
    dot: Array = np.einsum("pi,pi->p", one, other)
    return dot


def _lifted_before(readings: Sequence[TraceReading]) -> list[frozenset[str]]:
    """For each drop and ohms, the parts that were lifted when it was taken."""
    lifted_before: list[frozenset[str]] = []
    lifted: frozenset[str] = frozenset()
    for reading in readings:
        if reading.kind is Kind.LIFTED:
            lifted |= {reading.plus}
        elif reading.is_of_copper:
            lifted_before.append(lifted)
    return lifted_before


class _Terms(Struct, frozen=True):
    """A reading of every pair k, on (the second part, or the first where the second is lifted).

    `is_turned` where the two changed places, `is_off` where k is lifted; None: nowhere.
    """

    loop: Loop
    is_turned: Flags | None
    is_off: Flags | None
    push: Array
    across: Array
    pull: Array
    alone: Array


def _expected(terms: Sequence[_Terms], one: float, other: float) -> tuple[Array, Array]:
    """What copper and what the shorts give of each reading, shapes (pairs, readings)."""
    copper = np.empty((len(terms[0].push), len(terms)))
    fixed = np.empty_like(copper)
    for at, term in enumerate(terms):
        through = term.loop.amps_through
        on: Array | float = other
        if term.is_turned is not None:
            on = np.where(term.is_turned, one, other)
        current = (term.push + on * through) / (one + other + term.across)
        if term.is_off is not None:
            current[term.is_off] = 0.0
        copper[:, at] = term.alone - current * term.pull
        fixed[:, at] = term.loop.probe_through * on * (through - current)
    return copper, fixed


class _Products:
    """⟨x, y⟩ of one net between parts' pads, probes and clamps."""

    def __init__(self, side: NetSide, pads: Places, loops: Sequence[Loop]) -> None:
        into = side.into[:, pads]
        weighted = into * side.ohm[:, None]
        probes = np.array([side.along(loop.probes, 1.0) for loop in loops]).reshape(len(loops), -1)
        clamps = np.array([side.along(loop.clamps, loop.amps) for loop in loops])
        clamps = clamps.reshape(len(loops), -1)
        self.sign = side.sign
        self.loops = loops
        self.of_parts = into.T @ weighted
        self.of_probes = probes @ weighted
        self.of_clamps = clamps @ weighted
        self.probe_clamp = (probes * side.ohm * clamps).sum(axis=1)

    def between(self, first: Places, second: Places) -> Array:
        """⟨kl, kl⟩: ohms from pad to pad."""
        own = self.of_parts.diagonal()
        between: Array = own[first] + own[second] - 2 * self.of_parts[first, second]
        return between

    def push(self, at: int, first: Places, second: Places, through: float) -> Array:
        """⟨kl, clamps ∓ I·l⟩: what drives current from the second part to the first."""
        clamps = self.of_clamps[at]
        drawn = self.of_parts[first, second] - self.of_parts[second, second]
        push: Array = clamps[first] - clamps[second] + self.sign * through * drawn
        return push

    def alone(self, at: int, second: Places) -> Array:
        """⟨probes, currents⟩ with a short at the second part alone."""
        loop = self.loops[at]
        own = self.of_parts[second, second]
        alone: Array = (
            self.probe_clamp[at]
            + self.sign * loop.amps_through * self.of_probes[at][second]
            + self.sign * loop.probe_through * self.of_clamps[at][second]
            + loop.probe_through * loop.amps_through * own
        )
        return alone

    def pull(self, at: int, first: Places, second: Places) -> Array:
        """⟨probes, kl⟩, the probes' current through the second part."""
        through = self.sign * self.loops[at].probe_through
        probes = self.of_probes[at]
        drawn = self.of_parts[second, first] - self.of_parts[second, second]
        pull: Array = probes[first] - probes[second] + through * drawn
        return pull
