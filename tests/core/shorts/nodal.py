"""An independent reckoning of a shorted rail: rail, ground and short as one net, solved at once."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hale_rail.core.shorts.board import IDEAL_GROUND, Board, BoardPart
from hale_rail.core.shorts.copper import CopperSegment, Net, Pad


@dataclass(frozen=True)
class Short:
    """What joins rail and ground: two pads and ohms."""

    rail_pad: str
    ground_pad: str
    ohm: float


def volts(
    board: Board, shorts: Sequence[Short], clamps: tuple[str, str], amps: float
) -> dict[str, float]:
    """Volts of every pad, dense and in one solve, for a current in and out at two pads."""
    nodes = [p.id for p in (*board.rail.pads, *board.ground_net.pads)]
    index = {node: i for i, node in enumerate(nodes)}
    laplacian = np.zeros((len(nodes), len(nodes)))
    copper = (*board.rail.segments, *board.ground_net.segments)
    joined = [(s.a, s.b, s.ohm) for s in copper]
    joined += [(s.rail_pad, s.ground_pad, s.ohm) for s in shorts]
    for a, b, ohm in joined:
        i, j = index[a], index[b]
        laplacian[i, i] += 1 / ohm
        laplacian[j, j] += 1 / ohm
        laplacian[i, j] -= 1 / ohm
        laplacian[j, i] -= 1 / ohm
    current = np.zeros(len(nodes))
    current[index[clamps[0]]] += amps
    current[index[clamps[1]]] -= amps
    found = np.zeros(len(nodes))
    found[1:] = np.linalg.solve(laplacian[1:, 1:], current[1:])
    return dict(zip(nodes, found.tolist(), strict=True))


def random_net(rng: random.Random, prefix: str, size: int) -> Net:
    """A connected net with loops and parallel segments, 1 to 100 mΩ each."""
    pads = tuple(Pad(f"{prefix}{i}", rng.uniform(0, 100), rng.uniform(0, 80)) for i in range(size))
    segments = [
        CopperSegment(f"{prefix}{i}", f"{prefix}{rng.randrange(i)}", rng.uniform(1e-3, 0.1))
        for i in range(1, size)
    ]
    for _ in range(rng.randrange(size)):
        a, b = rng.sample(range(size), 2)
        segments.append(CopperSegment(f"{prefix}{a}", f"{prefix}{b}", rng.uniform(1e-3, 0.1)))
    return Net(pads, tuple(segments))


def random_board(
    rng: random.Random, *, is_ideal: bool = False, size: int = 8, parts: int = 5
) -> Board:
    """A board with parts of several families between two random nets."""
    rail = random_net(rng, "r", rng.randint(2, size))
    ground = None if is_ideal else random_net(rng, "g", rng.randint(2, size))
    grounds = [IDEAL_GROUND] if ground is None else [p.id for p in ground.pads]
    return Board(
        rail,
        ground,
        tuple(
            BoardPart(
                f"u{i}",
                "C9",
                rng.choice(("tantalum", "ceramic", "ic")),
                rng.choice(rail.pads).id,
                rng.choice(grounds),
            )
            for i in range(parts)
        ),
    )


def line(
    count: int, ohm: float = 0.005, family: str = "tantalum", tolerance: float = 0.05
) -> Board:
    """Pads p0, p1, … in a row, a part at each but the first, the ground ideal."""
    pads = tuple(Pad(f"p{i}", 10.0 * i, 0.0) for i in range(count))
    segments = tuple(CopperSegment(f"p{i}", f"p{i + 1}", ohm) for i in range(count - 1))
    parts = tuple(
        BoardPart(f"C{i}", f"C{i}", "tantalum", f"p{i}", IDEAL_GROUND) for i in range(1, count)
    )
    return Board(Net(pads, segments), None, parts, tolerance)
