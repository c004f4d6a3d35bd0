"""Plays short traces on simulated boards: readings needed beside walking every pad, and the time.

`python traces.py [--boards N]`: boards with random copper, segment errors and a meter's noise; how
often the true part is settled, the mean number of readings, the pads a walk would have to read, and
the bound that information sets (bits of the priors by the most bits that one reading told). Then
2000 pads and 400 parts: one answer with its next probe, beside one sparse solve a hypothesis in the
same run.
"""

from __future__ import annotations

import argparse
import math
import random
import time

import numpy as np
from msgspec.structs import replace
from scipy.sparse import coo_array
from scipy.sparse.linalg import spsolve

from hale_rail.core.shorts.board import IDEAL_GROUND, SETTLED, Board, BoardPart
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.copper import CopperSegment, Net, Pad, copper_ohm
from hale_rail.core.shorts.next_probe import next_probe
from hale_rail.core.shorts.trace import trace

_MOST_READINGS = 25


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--boards", type=int, default=30)
    boards = asked.parse_args().boards
    for size, parts in ((20, 12), (60, 40), (200, 120), (400, 200)):
        play(boards, size, parts)
    clock()


def make(rng: random.Random, size: int, count: int, *, is_ideal: bool = True) -> Board:
    """A rail that branches over a board, a few loops, parts on a random choice of pads."""
    pads = [Pad("p0", 0.0, 0.0)]
    segments = []
    for i in range(1, size):
        near = rng.choice(pads[-12:])
        step = rng.uniform(5, 20)
        angle = rng.uniform(-1.2, 1.2)
        x, y = near.x + step * math.cos(angle), near.y + step * math.sin(angle)
        pads.append(Pad(f"p{i}", x, y))
        ohm = copper_ohm(step, rng.choice((0.6, 1.0, 2.0)))
        segments.append(CopperSegment(near.id, f"p{i}", ohm))
    for _ in range(size // 20):
        a, b = rng.sample(pads, 2)
        segments.append(
            CopperSegment(a.id, b.id, copper_ohm(math.dist((a.x, a.y), (b.x, b.y)), 1.0))
        )
    ground = None
    if not is_ideal:
        ground = Net(
            tuple(Pad(f"g{p.id}", p.x, p.y) for p in pads),
            tuple(CopperSegment(f"g{s.a}", f"g{s.b}", s.ohm / 3) for s in segments),
        )
    made = [
        BoardPart(
            f"u{i}", "C", rng.choice(("tantalum", "tantalum", "ceramic")), pad.id,
            f"g{pad.id}" if ground else IDEAL_GROUND,
        )
        for i, pad in enumerate(rng.choices(pads[1:], k=count))
    ]  # fmt: skip
    return Board(Net(tuple(pads), tuple(segments)), ground, tuple(made))


def real(rng: random.Random, board: Board) -> Board:
    """The board as it was etched: another scale, and each segment a little off."""
    scale = rng.gauss(1, 0.15)

    def etched(net: Net) -> Net:
        segments = (replace(s, ohm=s.ohm * scale * rng.gauss(1, 0.05)) for s in net.segments)
        return Net(net.pads, tuple(segments))

    return replace(board, rail=etched(board.rail), ground=board.ground and etched(board.ground))


class Solved:
    """Rail, ground and short as one net, solved again for each reading."""

    def __init__(self, board: Board, part: BoardPart, ohm: float) -> None:
        nodes = [p.id for p in (*board.rail.pads, *board.ground_net.pads)]
        self.index = {node: i for i, node in enumerate(nodes)}
        copper = (*board.rail.segments, *board.ground_net.segments)
        joined = [*((s.a, s.b, s.ohm) for s in copper), (part.rail_pad, part.ground_pad, ohm)]
        a = np.array([self.index[x] for x, _, _ in joined])
        b = np.array([self.index[y] for _, y, _ in joined])
        g = np.array([1 / r for _, _, r in joined])
        rows, columns = np.concatenate((a, b, a, b)), np.concatenate((b, a, a, b))
        values = np.concatenate((-g, -g, g, g))
        size = len(nodes)
        self.laplacian = coo_array((values, (rows, columns)), shape=(size, size)).tocsc()[1:, 1:]

    def volts(self, reading: TraceReading) -> float:
        current = np.zeros(len(self.index))
        current[self.index[reading.inject or reading.plus]] += reading.amps
        current[self.index[reading.drain or reading.minus]] -= reading.amps
        volts = np.concatenate(([0.0], spsolve(self.laplacian, current[1:])))
        return float(volts[self.index[reading.plus]] - volts[self.index[reading.minus]])


def play(boards: int, size: int, parts: int) -> None:
    readings, found, wrong, bound = [], 0, 0, []
    for seed in range(boards):
        rng = random.Random(f"{size}/{seed}")
        board = make(rng, size, parts, is_ideal=seed % 3 > 0)
        weights = [p.prior for p in board.parts]
        true = rng.choices(board.parts, weights)[0]
        solved = Solved(real(rng, board), true, abs(rng.gauss(0.2, 0.3)) + 0.002)
        taken: list[TraceReading] = []
        most = 0.0
        state = trace(board, taken)
        while (proposal := next_probe(state)) and len(taken) < _MOST_READINGS:
            taken.append(answered(rng, solved, proposal.reading, true))
            most = max(most, proposal.bits)
            state = trace(board, taken)
        leading, chance = state.candidates[0]
        found += leading == true and chance >= SETTLED
        wrong += leading != true and chance >= SETTLED
        readings.append(len(taken))
        share = [w / sum(weights) for w in weights]
        bound.append(-sum(s * math.log2(s) for s in share) / most)
    print(
        f"{size:4d} pads {parts:3d} parts: settled on the true part {found} of {boards}, wrongly"
        f" {wrong}; readings mean {sum(readings) / boards:.1f}, most {max(readings)}; a walk over"
        f" every pad {size}; bound by information {sum(bound) / boards:.1f}"
    )


def answered(
    rng: random.Random, solved: Solved, reading: TraceReading, true: BoardPart
) -> TraceReading:
    """The reading with what a meter shows."""
    if reading.kind is Kind.LIFTED:
        return replace(reading, value=float(reading.plus == true.id))
    volts = solved.volts(reading)
    if reading.kind is Kind.OHMS:
        return replace(reading, value=round(volts + 0.2 + rng.gauss(0, 0.03), 1))
    return replace(reading, value=round(volts + rng.gauss(0, 8e-5), 4))


def clock() -> None:
    rng = random.Random(1)
    board = make(rng, 2000, 400)
    true = board.parts[37]
    solved = Solved(real(rng, board), true, 0.2)
    taken: list[TraceReading] = []
    seconds = []
    for _ in range(4):
        start = time.perf_counter()
        proposal = next_probe(trace(board, taken))
        seconds.append(time.perf_counter() - start)
        if proposal is None:
            break
        taken.append(answered(rng, solved, proposal.reading, true))
    start = time.perf_counter()
    for part in board.parts:
        Solved(board, part, 0.2).volts(taken[0])
    each = time.perf_counter() - start
    print(
        f"2000 pads, 400 parts: answers with next probe in {', '.join(f'{s:.2f}' for s in seconds)}"
        f" s; one sparse solve a hypothesis, for one reading: {each:.2f} s;"
        f" ratio {each / (sum(seconds) / len(seconds)):.1f}"
    )


if __name__ == "__main__":
    main()
