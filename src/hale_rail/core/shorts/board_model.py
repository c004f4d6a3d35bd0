"""A reading of the short trace, and what every hypothesis says that it should be."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from enum import Enum

from msgspec import Struct

from hale_rail.core.arrays import Indices, np
from hale_rail.core.shorts.board import ELSEWHERE_SHARE, Board, BoardPart
from hale_rail.core.shorts.copper import Net
from hale_rail.core.shorts.flows import Array, Flows

Places = Indices
#: uncertainty of a contact: volts of a drop, ohms with four wires and with two
_CONTACT_V, _CONTACT_4_OHM, _CONTACT_2_OHM = 1e-4, 5e-3, 50e-3
#: the weight of a part that is told never to short
_NEVER = 1e-300
#: pads that are looked at together, so that what is held at once stays small
_PADS_AT_ONCE = 128


class Kind(Enum):
    """What is read; the values are those of the files."""

    DROP = "drop"
    OHMS = "ohms"
    WARM = "warm"
    LIFTED = "lifted"


class TraceReading(Struct, frozen=True):
    """A reading: V of a drop, Ω, °C above ambient (a rank with `is_rank`), 1 gone and 0 remains.

    `plus` and `minus` are the probes' pads, or `plus` a part's id; `amps` go in at `inject` and
    out at `drain`. `is_nulled`: the leads' own ohms were taken off. `line`: where it is in its
    file; `again`: it was taken before at this place, and this one took that one's place.
    """

    kind: Kind
    plus: str
    minus: str = ""
    inject: str = ""
    drain: str = ""
    amps: float = 1.0
    value: float = 0.0
    resolution: float = 0.0
    wires: int = 2
    is_nulled: bool = False
    is_rank: bool = False
    line: int = 0
    again: bool = False

    @property
    def is_of_copper(self) -> bool:
        """True for a drop and for ohms."""
        return self.kind in (Kind.DROP, Kind.OHMS)

    @property
    def has_leads(self) -> bool:
        """True for ohms that hold the leads' own."""
        return self.kind is Kind.OHMS and self.wires == 2 and not self.is_nulled

    @property
    def noise(self) -> float:
        """Standard deviation of what meter and contact add, in V or Ω."""
        contact = _CONTACT_V
        if self.kind is Kind.OHMS:
            contact = _CONTACT_4_OHM if self.wires == 4 else _CONTACT_2_OHM
        return math.hypot(self.resolution / math.sqrt(12), contact)


class ShortHypothesis(Struct, frozen=True):
    """A short from a rail pad to a ground pad: a part's, or at a pad where no part is to blame."""

    rail_pad: str
    ground_pad: str
    weight: float
    part: BoardPart | None = None


def hypotheses(board: Board) -> tuple[ShortHypothesis, ...]:
    """Every part, and every rail pad; relative weights, nothing read yet."""
    parts = [
        ShortHypothesis(p.rail_pad, p.ground_pad, max(p.prior, _NEVER), p) for p in board.parts
    ]
    pads = board.rail.probed
    lightest = min((p.prior for p in board.parts if p.prior > 0), default=1.0)
    each = ELSEWHERE_SHARE * lightest / max(len(pads), 1)
    return (*parts, *(ShortHypothesis(p.id, board.nearest_ground(p), each) for p in pads))


class Predicted(Struct, frozen=True):
    """What readings should be under each hypothesis.

    `drop`: what the copper alone gives, shape (hypotheses, readings), in V or Ω; `across`: how a
    short's own ohms come in, shape (readings,); `leads`: 1 where the leads' ohms come in;
    `spread`: covariance of the segments' errors, shape (hypotheses, readings, readings), or their
    variances alone, shape (hypotheses, readings).
    """

    drop: Array
    across: Array
    leads: Array
    spread: Array


class BoardModel:
    """A board's nets solved once for the pads that are asked about."""

    def __init__(
        self, board: Board, held: Sequence[ShortHypothesis], pads: Iterable[str] = ()
    ) -> None:
        self.board = board
        self.held = tuple(held)
        wanted = set(pads)
        error = board.segment_tolerance
        self.rail = NetSide(board.rail, -1.0, [h.rail_pad for h in held], wanted, error)
        self.ground = NetSide(board.ground_net, 1.0, [h.ground_pad for h in held], wanted, error)

    def predict(
        self,
        readings: Sequence[TraceReading],
        among: Places | None = None,
        *,
        jointly: bool = True,
    ) -> Predicted:
        """What drops and ohms should be under the hypotheses, all or those at the places `among`.

        `jointly`: with the covariance of the readings, not their variances alone.
        """
        loops = [self.loop(r) for r in readings]
        which = np.arange(len(self.held)) if among is None else among
        rail, rail_spread = self.rail.predict(loops, which, jointly)
        ground, ground_spread = self.ground.predict(loops, which, jointly)
        return Predicted(
            rail + ground,
            np.array([loop.probe_through * loop.amps_through for loop in loops]),
            np.array([float(r.has_leads) for r in readings]),
            rail_spread + ground_spread,
        )

    def loop(self, reading: TraceReading) -> Loop:
        """The currents of a reading before a short is put in."""
        inject, drain = reading.inject or reading.plus, reading.drain or reading.minus
        amps = reading.amps if reading.kind is Kind.DROP else 1.0
        through = [float(self.board.is_rail(x)) for x in (reading.plus, reading.minus)]
        driven = [float(self.board.is_rail(x)) for x in (inject, drain)]
        return Loop(
            (reading.plus, reading.minus),
            (inject, drain),
            amps,
            through[0] - through[1],
            amps * (driven[0] - driven[1]),
        )


class Loop(Struct, frozen=True):
    """Probes and clamps, plus first; how much of the probes' ampere goes through the short, and how
    much of what is injected (1 from rail to ground, −1 back, 0 where both stand on one net).
    """

    probes: tuple[str, str]
    clamps: tuple[str, str]
    amps: float
    probe_through: float
    amps_through: float


class NetSide:
    """One net, solved for its pads that are asked about.

    `sign` −1 where the short's current leaves the net, 1 where it comes in; `into` the currents of
    one ampere into each pad that is solved, shape (segments, pads), `column` where each is.
    """

    def __init__(
        self,
        net: Net,
        sign: float,
        shorted: Sequence[str],
        pads: Iterable[str],
        tolerance: float,
    ) -> None:
        self.net = net
        self.sign = sign
        self.flows = Flows(net)
        self.ohm = self.flows.ohm
        self.deviation = tolerance * self.ohm
        self.column: dict[str, int] = {}
        self.into = np.empty((len(self.ohm), 0))
        self.solve((*shorted, *pads))
        #: the column of each hypothesis's pad
        self.place = np.array([self.column[pad] for pad in shorted], dtype=int)

    def solve(self, pads: Iterable[str]) -> None:
        """Solve for more pads; those of another net are passed over."""
        wanted = dict.fromkeys(pads)
        more = [pad for pad in wanted if pad in self.net.by_id and pad not in self.column]
        if more:
            self.column |= {pad: len(self.column) + i for i, pad in enumerate(more)}
            self.into = np.concatenate((self.into, self.flows.into(more)), axis=1)

    def along(self, ends: tuple[str, str], amps: float) -> Array:
        """Currents of the segments for `amps` in at the first end and out at the second.

        An end on the other net counts for nothing here.
        """
        along = np.zeros(len(self.ohm))
        for pad, sign in zip(ends, (amps, -amps), strict=True):
            if pad in self.column:
                along += sign * self.into[:, self.column[pad]]
        return along

    def predict(self, loops: Sequence[Loop], which: Places, jointly: bool) -> tuple[Array, Array]:
        """Each reading's share of this net, and its segments' covariance, for some hypotheses.

        Shapes (hypotheses, readings) and (hypotheses, readings, readings), or (hypotheses,
        readings) when not `jointly`. A reading is Σ R·(probe's ampere)·(injected current), and
        changes by the same product times a segment's error.
        """
        columns, back = np.unique(self.place[which], return_inverse=True)
        count = len(loops)
        drop = np.zeros((len(columns), count))
        spread = np.zeros((len(columns), count, *((count,) if jointly else ())))
        probe = [self.along(loop.probes, 1.0) for loop in loops]
        driven = [self.along(loop.clamps, loop.amps) for loop in loops]
        for start in range(0, len(columns), _PADS_AT_ONCE):
            pads = slice(start, min(start + _PADS_AT_ONCE, len(columns)))
            short = self.sign * self.into[:, columns[pads]].T
            product = np.empty((short.shape[0], count, len(self.ohm)))
            for i, loop in enumerate(loops):
                product[:, i] = _put(probe[i], loop.probe_through, short)
                product[:, i] *= _put(driven[i], loop.amps_through, short)
            drop[pads] = product @ self.ohm
            product *= self.deviation
            if jointly:
                spread[pads] = product @ product.transpose(0, 2, 1)
            else:
                spread[pads] = np.einsum("kie,kie->ki", product, product)
        return drop[back], spread[back]


def _put(current: Array, through: float, short: Array) -> Array:
    """A current of the segments with what goes through the short taken off."""
    return current + through * short if through else current
