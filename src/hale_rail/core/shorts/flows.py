"""How current spreads in a net of copper.

Pads on a string or at its end are taken out one by one, exactly, by series and parallel rules that
add and never subtract: so a milliohm beside a teraohm keeps its digits. What is left (loops that
meet) is solved by one sparse factorisation. Currents come out, not potentials: a drop is then the
sum of R·(probe's current)·(injected current) over the segments, which loses nothing either.
Source: docs/formulas.md, “Tracing a shorted rail”; Laplacian of conductances, Kirchhoff's laws.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct

from hale_rail.core.arrays import Floats, Indices, np
from hale_rail.core.shorts.copper import Net

Array = Floats
#: right-hand sides that are solved together: more no longer fit the processor's cache
_AT_ONCE = 64


class _Edge:
    """What joins two nodes while others are taken out: segments, and strings of nodes taken out.

    `segments` as (number, sign, siemens) and `strings` as (place of its node in the order of
    taking out, sign, siemens); a sign of 1 where it runs from `u` to `v`.
    """

    def __init__(self, u: int, v: int) -> None:
        self.u = u
        self.v = v
        self.siemens = 0.0
        self.segments: list[tuple[int, float, float]] = []
        self.strings: list[tuple[int, float, float]] = []

    def other(self, node: int) -> int:
        return self.v if node == self.u else self.u

    def sign_from(self, node: int) -> float:
        return 1.0 if node == self.u else -1.0


class _TakenOut(Struct, frozen=True):
    """A node taken out: what it hung on, and what share of its current goes along each."""

    node: int
    edges: tuple[_Edge, ...]
    shares: tuple[float, ...]


class Flows:
    """Currents in the segments of one connected net, for unit currents in at its pads.

    Every current leaves at one same node; in a difference of two columns that node falls out.
    """

    def __init__(self, net: Net) -> None:
        self.net = net
        self.index: Mapping[str, int] = {pad.id: i for i, pad in enumerate(net.pads)}
        self.ohm: Array = np.array([s.ohm for s in net.segments])
        self._near: list[dict[int, _Edge]] = [{} for _ in net.pads]
        for number, segment in enumerate(net.segments):
            self._join(self.index[segment.a], self.index[segment.b], 1 / segment.ohm, number)
        self._order: list[_TakenOut] = []
        self._core = self._take_out()

    def _join(
        self, u: int, v: int, siemens: float, number: int | None = None, place: int = 0
    ) -> None:
        """Add a segment, or a string through a node taken out, from `u` to `v`."""
        if u == v:
            return
        edge = self._near[u].get(v)
        if edge is None:
            edge = self._near[u][v] = self._near[v][u] = _Edge(u, v)
        edge.siemens += siemens
        if number is not None:
            edge.segments.append((number, edge.sign_from(u), siemens))
        else:
            edge.strings.append((place, edge.sign_from(u), siemens))

    def _take_out(self) -> list[int]:
        """Take out every node with one or two neighbours; returns the nodes that are left."""
        left = dict.fromkeys(range(len(self._near)))
        ready = [n for n in left if len(self._near[n]) <= 2]
        while ready:
            node = ready.pop()
            if node not in left or len(self._near[node]) > 2 or len(left) == 1:
                continue
            del left[node]
            edges = tuple(self._near[node].values())
            total = sum(edge.siemens for edge in edges)
            shares = tuple(edge.siemens / total for edge in edges)
            near = [edge.other(node) for edge in edges]
            for other in near:
                del self._near[other][node]
            if len(edges) == 2:
                siemens = 1 / (1 / edges[0].siemens + 1 / edges[1].siemens)
                self._join(near[0], near[1], siemens, place=len(self._order))
            self._order.append(_TakenOut(node, edges, shares))
            ready += [n for n in near if len(self._near[n]) <= 2]
        return list(left)

    def into(self, pads: Sequence[str]) -> Array:
        """Currents from `a` to `b` of every segment (rows) for one ampere in at each pad (columns).

        Shape (segments, pads).
        """
        inside = np.zeros((len(self.index), len(pads)))
        inside[[self.index[pad] for pad in pads], range(len(pads))] = 1.0
        for out in self._order:
            for edge, share in zip(out.edges, out.shares, strict=True):
                inside[edge.other(out.node)] += share * inside[out.node]
        into = np.zeros((len(self.ohm), len(pads)))
        strings: dict[int, Array] = {}
        self._spread_core(inside, into, strings)
        for place in range(len(self._order) - 1, -1, -1):
            out = self._order[place]
            own = inside[out.node]
            through = strings.pop(place, None)
            for which, (edge, share) in enumerate(zip(out.edges, out.shares, strict=True)):
                along = share * own
                if through is not None:
                    along = along - through if which == 0 else along + through
                self._spread(edge, edge.sign_from(out.node) * along, into, strings)
        return into

    @staticmethod
    def _spread(edge: _Edge, current: Array, values: Array, strings: dict[int, Array]) -> None:
        """Share the current of an edge (from `u` to `v`) out among what it is made of."""
        for number, sign, siemens in edge.segments:
            values[number] = sign * (siemens / edge.siemens) * current
        for place, sign, siemens in edge.strings:
            strings[place] = sign * (siemens / edge.siemens) * current

    def _spread_core(self, inside: Array, values: Array, strings: dict[int, Array]) -> None:
        """Currents of the edges between the nodes that are left."""
        core = self._core
        if len(core) < 2:
            return
        place = {node: i for i, node in enumerate(core)}
        edges = list({id(e): e for node in core for e in self._near[node].values()}.values())
        u = np.array([place[e.u] for e in edges])
        v = np.array([place[e.v] for e in edges])
        siemens = np.array([e.siemens for e in edges])
        volts = np.zeros((len(core), inside.shape[1]))
        volts[1:] = _grounded(u, v, siemens, len(core))(inside[core[1:]])
        for edge, current in zip(edges, siemens[:, None] * (volts[u] - volts[v]), strict=True):
            self._spread(edge, current, values, strings)


def _grounded(u: Indices, v: Indices, siemens: Array, size: int) -> Callable[[Array], Array]:
    """The solver of a net whose first node is at zero volts: currents into the others to volts."""
    from scipy.sparse import coo_array
    from scipy.sparse.linalg import splu

    rows, columns = np.concatenate((u, v, u, v)), np.concatenate((v, u, u, v))
    values = np.concatenate((-siemens, -siemens, siemens, siemens))
    laplacian = coo_array((values, (rows, columns)), shape=(size, size)).tocsc()
    factors = splu(laplacian[1:, 1:], permc_spec="MMD_AT_PLUS_A", options={"SymmetricMode": True})

    def solve(inside: Array) -> Array:
        values = np.empty_like(inside)
        for start in range(0, inside.shape[1], _AT_ONCE):
            some = np.asfortranarray(inside[:, start : start + _AT_ONCE])
            values[:, start : start + _AT_ONCE] = factors.solve(some)
        return values

    return solve
