"""Which reading tells the most about the part, less what it costs to take.

The expected information of a reading is the entropy of its mixture over the hypotheses less the
mean entropy under each. To rank readings a lower bound by pairs of hypotheses serves (Kolchinsky
and Tracey, 2017, with Bhattacharyya distances); what is told of the chosen one is integrated by
Gauss-Hermite. Errors of segments are taken as new ones (a stated approximation).
Source: docs/formulas.md, “Tracing a shorted rail”.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.arrays import np
from hale_rail.core.shorts.board import SETTLED, Board, BoardPart
from hale_rail.core.shorts.board_model import Kind, Places, TraceReading
from hale_rail.core.shorts.copper import Net, Pad
from hale_rail.core.shorts.distrust import of_the_map
from hale_rail.core.shorts.evidence import LEADS, PRIOR_DEVIATION, PRIOR_MEAN, SCALE, SHORT
from hale_rail.core.shorts.flows import Array
from hale_rail.core.shorts.trace import Trace

#: bits that a move of a probe and of a clamp, and the soldering of a lifted leg, must be worth
_PROBE_BITS, _CLAMP_BITS, _LIFT_BITS = 0.05, 0.25, 0.5
#: bits that a first clamp away from a connector must be worth
_FIRST_CLAMP_BITS = 1.0
#: fewer bits than this are no information
_NOTHING = 1e-3
_LIGHT = 1e-4
#: of many hypotheses the heaviest and a fair sample of the rest stand for all
_HEAVIEST, _SAMPLED = 50, 90
#: pads that a search keeps, readings that are weighed exactly, other places for the clamps
_KEPT, _WEIGHED, _MORE_CLAMPS = 5, 24, 3
#: so many hypotheses that fewer readings are weighed exactly
_MANY = 100
#: bits that a reading with the clamps where they are must tell for no other place to be tried
_ENOUGH = 0.5
#: currents a bench supply is set to, in A, and the volts it is limited to
_AMPS = (2.0, 1.0, 0.5, 0.2, 0.1, 0.05)
_LIMIT_V = 0.5
_USUAL_V = 1e-4
#: share of a drop that segments' errors come to, in a first look
_SEGMENT_SHARE = 0.03
_NODES, _WEIGHTS = np.polynomial.hermite_e.hermegauss(15)


class ProbeProposal(Struct, frozen=True):
    """A reading to take next: what is read (its value is empty), and the bits that it tells.

    `expected` is the span of what the likely hypotheses say, in V or Ω, None for a lifted leg.
    """

    reading: TraceReading
    bits: float
    expected: tuple[float, float] | None = None


def next_probe(trace: Trace) -> ProbeProposal | None:
    """The reading to take next; None when a part or a place is settled, or nothing can be told."""
    if trace.doubt.readings:
        reading = of_the_map(trace.board, trace.doubt, trace.readings)
        return ProbeProposal(reading, 1.0) if reading else None
    if trace.is_misfit:
        return _lift_of_pair(trace)
    leading = trace.candidates[0] if trace.candidates else None
    if leading and leading[1] >= SETTLED:
        return None
    if trace.elsewhere >= SETTLED or (leading is None and len(trace.places) < 2):
        return None
    lift = _lift(trace, leading) if leading else None
    probe = _best_probe(_Scope(trace))
    if probe and (lift is None or probe[1] >= lift[1]):
        return probe[0]
    return lift[0] if lift else None


def _lift_of_pair(trace: Trace) -> ProbeProposal | None:
    """With two shorts: the part that most of the likely pairs have."""
    chance: dict[str, float] = {}
    for pair in trace.pairs:
        for part in pair.parts:
            chance[part.id] = chance.get(part.id, 0.0) + pair.probability
    lifted = {r.plus for r in trace.readings if r.kind is Kind.LIFTED}
    open_still = {part: share for part, share in chance.items() if part not in lifted}
    if not open_still:
        return None
    best = max(open_still, key=lambda part: open_still[part])
    return ProbeProposal(TraceReading(Kind.LIFTED, best), _entropy_of(min(open_still[best], 0.5)))


def _lift(trace: Trace, leading: tuple[BoardPart, float]) -> tuple[ProbeProposal, float] | None:
    """The leading part's leg lifted, and its worth."""
    part, chance = leading
    bits = _entropy_of(chance)
    if bits < _NOTHING:
        return None
    same = sum(c for p, c in trace.candidates if _pads(p) == _pads(part))
    # what stands on the same two pads cannot be told apart by probes
    cost = 0.0 if same >= SETTLED else _LIFT_BITS
    return ProbeProposal(TraceReading(Kind.LIFTED, part.id), bits), bits - cost


def _pads(part: BoardPart) -> tuple[str, str]:
    return part.rail_pad, part.ground_pad


def _entropy_of(chance: float) -> float:
    """Bits of a yes or no."""
    if not 0 < chance < 1:
        return 0.0
    return -chance * math.log2(chance) - (1 - chance) * math.log2(1 - chance)


class Clamps(Struct, frozen=True):
    """Where the current goes in and out."""

    inject: str
    drain: str


class _Scope:
    """The hypotheses that count, and what they expect."""

    def __init__(self, trace: Trace) -> None:
        self.trace = trace
        self.board = trace.board
        order, chance = _stand_for_all(trace.chance)
        self.which: Places = order
        self.chance: Array = chance
        count = len(order)
        self.mean = np.tile(PRIOR_MEAN, (count, 1))
        self.covariance = np.tile(np.diag(PRIOR_DEVIATION**2), (count, 1, 1))
        if trace.agreement is not None:
            self.mean = trace.agreement.evidence.mean[order]
            self.covariance = trace.agreement.evidence.covariance[order]
        copper = trace.copper
        self.last = copper[-1] if copper else None
        self.read = {_key(r) for r in copper}
        drops = [r for r in copper if r.kind is Kind.DROP]
        self.resolution = drops[-1].resolution if drops else _USUAL_V
        self.clamps = Clamps(drops[-1].inject, drops[-1].drain) if drops else None
        self.model = trace.model
        degree = Counter(pad for s in trace.board.rail.segments for pad in (s.a, s.b))
        self.ends = {
            pad.id
            for pad in trace.board.rail.probed
            if degree[pad.id] == 1 and pad.id not in trace.board.at_pad
        }
        self.amps = drops[-1].amps if drops else _amps_for(trace.short_ohm.value)

    def expect(self, readings: Sequence[TraceReading]) -> tuple[Array, Array]:
        """Mean and variance of readings under each hypothesis, shapes (hypotheses, readings)."""
        pads = [p for r in readings for p in (r.plus, r.minus, r.inject, r.drain)]
        for side in (self.model.rail, self.model.ground):
            side.solve(pads)
        predicted = self.model.predict(readings, self.which, jointly=False)
        shape = predicted.drop.shape
        design = np.empty((*shape, 3))
        design[:, :, SCALE] = predicted.drop
        design[:, :, SHORT] = predicted.across
        design[:, :, LEADS] = predicted.leads
        mean = np.einsum("hrc,hc->hr", design, self.mean)
        variance = np.einsum("hrc,hcd,hrd->hr", design, self.covariance, design)
        variance += predicted.spread + np.array([r.noise for r in readings]) ** 2
        return mean, variance

    def cost(self, reading: TraceReading) -> float:
        """Bits that the moves of leads must be worth, from where they are now.

        The first clamp belongs on a connector, where nothing need be soldered.
        """
        if self.last is None:
            return 0.0 if reading.inject in self.ends or not self.ends else _FIRST_CLAMP_BITS
        moved = {reading.plus, reading.minus} - {self.last.plus, self.last.minus}
        cost = _PROBE_BITS * len(moved)
        if reading.kind is Kind.OHMS:
            return cost + _CLAMP_BITS * (self.last.kind is not Kind.OHMS)
        now = {self.clamps.inject, self.clamps.drain} if self.clamps else set()
        return cost + _CLAMP_BITS * len({reading.inject, reading.drain} - now)

    @property
    def scale(self) -> float:
        """The copper's scale as it is known."""
        return float(self.chance @ self.mean[:, SCALE])


def _stand_for_all(chance: Array) -> tuple[Places, Array]:
    """Hypotheses that count, and their chances; of many each sampled one represents its like."""
    order = np.argsort(-chance, kind="stable")
    order = order[chance[order] > _LIGHT * chance[order[0]]]
    rest = order[_HEAVIEST:]
    if len(rest) > _SAMPLED:
        picked = rest[:: math.ceil(len(rest) / _SAMPLED)]
        share = chance[rest].sum() / chance[picked].sum()
        order = np.concatenate((order[:_HEAVIEST], picked))
        weight = np.concatenate((chance[order[:_HEAVIEST]], chance[picked] * share))
    else:
        weight = chance[order]
    return order, weight / weight.sum()


def _amps_for(ohm: float) -> float:
    """A current that the limit of volts allows through the short as it is known."""
    return next((amps for amps in _AMPS if amps * ohm <= _LIMIT_V), _AMPS[-1])


def _key(reading: TraceReading) -> tuple[object, ...]:
    probes = frozenset((reading.plus, reading.minus))
    return reading.kind, probes, frozenset((reading.inject, reading.drain))


def _best_probe(scope: _Scope) -> tuple[ProbeProposal, float] | None:
    """The best drop or ohms, and its worth."""
    best: tuple[ProbeProposal, float] | None = None
    for clamps in _clamp_places(scope):
        tried = [r for r in _candidates(scope, clamps) if _key(r) not in scope.read]
        proposals = _weigh(scope, tried)
        if proposals and (best is None or proposals[1] > best[1]):
            best = proposals
        if best and clamps == scope.clamps and best[0].bits >= _ENOUGH:
            break
    if best is None:
        return None
    proposal, worth = best
    exact = replace(proposal, bits=_bits_exact(scope, proposal.reading))
    return exact, worth + exact.bits - proposal.bits


def _clamp_places(scope: _Scope) -> Iterator[Clamps]:
    """Where the clamps are, then other places: ends of copper without parts, as connectors are."""
    if scope.clamps:
        yield scope.clamps
    board = scope.board
    free = [pad for pad in board.rail.probed if pad.id not in board.at_pad]
    ends = [pad for pad in free if pad.id in scope.ends]
    others = [pad for pad in free or board.rail.probed if pad.id not in scope.ends]
    places = [*_spread_out(ends), *_spread_out(others)]
    for pad in places[:_MORE_CLAMPS]:
        clamps = Clamps(pad.id, _drain_near(board, pad))
        if clamps != scope.clamps:
            yield clamps


def _spread_out(pads: Sequence[Pad]) -> list[Pad]:
    """Pads so that each is far from those before it; as they come where they are not drawn."""
    if not pads or any(p.x is None or p.y is None for p in pads):
        return list(pads)
    at = np.array([(p.x, p.y) for p in pads], dtype=float)
    chosen = [0]
    far = np.full(len(pads), np.inf)
    while len(chosen) < min(_MORE_CLAMPS, len(pads)):
        far = np.minimum(far, np.hypot(*(at - at[chosen[-1]]).T))
        chosen.append(int(far.argmax()))
    return [pads[i] for i in chosen]


def _drain_near(board: Board, pad: Pad) -> str:
    """The ground pad for the other clamp: without a part where there is one, else the nearest."""
    free = [p for p in board.ground_net.probed if p.id not in board.at_pad]
    if not free or pad.x is None or pad.y is None:
        return free[0].id if free else board.nearest_ground(pad)
    x, y = pad.x, pad.y
    drawn = [p for p in free if p.x is not None and p.y is not None]
    near = min(drawn, key=lambda p: math.hypot((p.x or 0) - x, (p.y or 0) - y), default=free[0])
    return near.id


def _candidates(scope: _Scope, clamps: Clamps) -> list[TraceReading]:
    """Drops that seem to tell most with the current in and out at these pads, and ohms across."""
    board = scope.board
    blank = TraceReading(
        Kind.DROP, "", "", clamps.inject, clamps.drain, scope.amps, resolution=scope.resolution
    )
    readings: list[TraceReading] = []
    for is_rail in (True, False):
        pads, volts = _volts(scope, clamps, is_rail)
        starts = [p for p in (clamps.inject, clamps.drain) if p in pads]
        if len(pads) > 1:
            readings += [
                replace(blank, plus=plus, minus=minus)
                for plus, minus in _telling_pairs(scope, pads, volts, starts)
            ]
    rail = list(dict.fromkeys(r.plus for r in readings if board.is_rail(r.plus)))[:_KEPT]
    ohms = [
        TraceReading(Kind.OHMS, pad, clamps.drain, wires=2, resolution=0.1)
        for pad in rail
        if not board.is_rail(clamps.drain)
    ]
    return [*readings[: _WEIGHED if len(scope.which) < _MANY else _WEIGHED // 3], *ohms]


def _volts(scope: _Scope, clamps: Clamps, is_rail: bool) -> tuple[dict[str, int], Array]:
    """Volts along a net for one ampere: its pads' rows, and shape (pads, hypotheses).

    Under every hypothesis they are relative to the net's first pad, which drops do not notice.
    """
    side = scope.model.rail if is_rail else scope.model.ground
    through = float(scope.board.is_rail(clamps.inject)) - float(scope.board.is_rail(clamps.drain))
    side.solve((clamps.inject, clamps.drain))
    columns = side.place[scope.which]
    current = side.along((clamps.inject, clamps.drain), 1.0)[:, None]
    current = current + side.sign * through * side.into[:, columns]
    rows = {pad.id: i for i, pad in enumerate(side.net.pads) if pad.id not in side.net.helpers}
    return rows, _potentials(side.net, side.ohm, current)


def _potentials(net: Net, ohm: Array, current: Array) -> Array:
    """Volts of each pad from the currents, walked along a tree of segments from the first pad."""
    index = {pad.id: i for i, pad in enumerate(net.pads)}
    near: list[list[tuple[int, int, float]]] = [[] for _ in net.pads]
    for number, segment in enumerate(net.segments):
        a, b = index[segment.a], index[segment.b]
        near[a].append((b, number, -1.0))
        near[b].append((a, number, 1.0))
    volts = np.zeros((len(net.pads), current.shape[1]))
    seen = {0}
    edge = [0]
    while edge:
        here = edge.pop()
        for there, number, sign in near[here]:
            if there not in seen:
                seen.add(there)
                volts[there] = volts[here] + sign * ohm[number] * current[number]
                edge.append(there)
    return volts


def _telling_pairs(
    scope: _Scope, rows: dict[str, int], volts: Array, starts: Sequence[str]
) -> list[tuple[str, str]]:
    """Pairs of pads whose drop varies most over the hypotheses against its noise.

    From each start the best pads opposite, then from each of those the best opposite it.
    """
    pads = list(rows)
    table = volts[[rows[pad] for pad in pads]] * scope.amps * scope.scale
    noise = TraceReading(Kind.DROP, "", resolution=scope.resolution).noise
    ratios: dict[tuple[str, str], float] = {}
    from_here = [pads.index(start) for start in starts] or [int(table.var(axis=1).argmax())]
    for _ in range(2):
        opposite: list[int] = []
        for here in dict.fromkeys(from_here):
            drop = table[here] - table
            mean = drop @ scope.chance
            spread = (drop - mean[:, None]) ** 2 @ scope.chance
            ratio = spread / (noise**2 + (_SEGMENT_SHARE * mean) ** 2)
            best = [int(i) for i in np.argsort(-ratio)[:_KEPT] if int(i) != here]
            ratios |= {_along(pads[here], pads[i], float(mean[i])): float(ratio[i]) for i in best}
            opposite += best
        from_here = opposite
    return sorted(ratios, key=lambda pair: -ratios[pair])


def _along(here: str, there: str, drop: float) -> tuple[str, str]:
    """The two pads so that the drop is positive, plus first."""
    return (here, there) if drop >= 0 else (there, here)


def _weigh(scope: _Scope, tried: Sequence[TraceReading]) -> tuple[ProbeProposal, float] | None:
    """The best of some readings, and its worth: what it tells less what it costs."""
    if not tried:
        return None
    mean, variance = scope.expect(tried)
    each = zip(mean.T, variance.T, strict=True)
    bits = np.array([_bits_bound(scope.chance, m, v) for m, v in each])
    worth = bits - [scope.cost(reading) for reading in tried]
    best = int(worth.argmax())
    if bits[best] < _NOTHING:
        return None
    likely = scope.chance > 0.01 * scope.chance.max()
    span = mean[likely, best]
    proposal = ProbeProposal(tried[best], float(bits[best]), (float(span.min()), float(span.max())))
    return proposal, float(worth[best])


def _bits_bound(chance: Array, mean: Array, variance: Array) -> float:
    """A lower bound of the information in bits, by pairs of hypotheses."""
    both = variance[:, None] + variance
    far = 0.25 * (mean[:, None] - mean) ** 2 / both
    far += 0.5 * np.log(both / (2 * np.sqrt(variance[:, None] * variance)))
    return float(-(chance @ np.log2(np.exp(-far) @ chance)))


def _bits_exact(scope: _Scope, reading: TraceReading) -> float:
    """The information of one reading in bits, integrated over what it may show."""
    mean, variance = (values[:, 0] for values in scope.expect([reading]))
    deviation = np.sqrt(variance)
    shown = mean[:, None] + deviation[:, None] * _NODES
    off = (shown[:, :, None] - mean) / deviation
    density = np.exp(-0.5 * off**2) / deviation
    mixture = np.log2(density @ scope.chance)
    own = np.log2(np.exp(-0.5 * _NODES**2) / deviation[:, None])
    told = (own - mixture) @ (_WEIGHTS / _WEIGHTS.sum())
    return max(float(scope.chance @ told), 0.0)
