"""Networks solved by nodal analysis: what lies between two nodes, for direct current and small AC.

Sources: Kirchhoff's current law at every node. Direct current: resistors and junctions
I = Is·(exp(V/(n·Vt)) − 1), by Newton's method on the network's co-content, which is convex, so that
a step that does not lower it is halved. AC: complex admittances at one frequency, junctions at
their slope for no bias. Capacitors carry no direct current but their leakage.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from hale_rail.core.arrays import Complexes, Floats, np

Reals = Floats
#: kT/q at 25 °C, in volts
THERMAL_V = 0.025693
#: no wire or winding of a unit is below this
LEAST_OHM = 1e-4
#: what insulation leaks at least: it keeps a node behind a blocking junction in place
_INSULATION_S = 1e-11
#: above this exponent a junction is taken as straight: its slope stays that of the bend
_STEEPEST = 60.0
#: n·Vt of a source's own limit are this part of its volts
_LIMIT_BENDS = 40.0
_MOST_STEPS, _SHORTEST = 150, 1e-9
#: a step below this share of the volts ends the search; a smaller fall of the sum is rounding
_ENOUGH, _ROUNDING = 1e-7, 1e-11
#: precision of a source's current, as a share
_HALVED_TO = 1e-9


class NodalResistor(Struct, frozen=True):
    """Ohms between two nodes; infinite: nothing."""

    a: str
    b: str
    ohm: float

    def admittance(self, _: float) -> complex:
        """Siemens at any frequency."""
        return 1 / max(self.ohm, LEAST_OHM)


class Coil(Struct, frozen=True):
    """A winding: its ohms and henries in series."""

    a: str
    b: str
    ohm: float
    henry: float

    def admittance(self, omega: float) -> complex:
        """Siemens at an angular frequency."""
        return 1 / complex(max(self.ohm, LEAST_OHM), omega * self.henry)


class Capacitance(Struct, frozen=True):
    """Farads with their ESR in series, and the ohms of their leakage beside both."""

    a: str
    b: str
    farad: float
    esr_ohm: float
    leak_ohm: float = math.inf

    def admittance(self, omega: float) -> complex:
        """Siemens at an angular frequency."""
        leak = 1 / self.leak_ohm
        if self.farad <= 0 or omega <= 0:
            return leak
        return leak + 1 / complex(self.esr_ohm, -1 / (omega * self.farad))


class Junction(Struct, frozen=True):
    """A junction from anode `a` to cathode `b` that drops `drop_v` at a milliampere.

    `ideality` is n of its law. Source: Shockley's equation.
    """

    a: str
    b: str
    drop_v: float
    ideality: float = 1.6

    @property
    def scale_v(self) -> float:
        """n·Vt: volts for e times the current."""
        return self.ideality * THERMAL_V

    @property
    def saturation_a(self) -> float:
        """Is, so that a milliampere drops `drop_v`."""
        return 1e-3 / math.expm1(self.drop_v / self.scale_v)

    def admittance(self, _: float) -> complex:
        """The slope without bias, in siemens."""
        return self.saturation_a / self.scale_v


Element = NodalResistor | Coil | Capacitance | Junction


def _component(elements: Sequence[Element], start: str) -> list[Element]:
    """The elements that hang together with a node."""
    near: dict[str, list[Element]] = {}
    for element in elements:
        near.setdefault(element.a, []).append(element)
        near.setdefault(element.b, []).append(element)
    known, resistors, ahead = {start}, dict[int, Element](), [start]
    while ahead:
        for element in near.get(ahead.pop(), ()):
            resistors[id(element)] = element
            for node in (element.a, element.b):
                if node not in known:
                    known.add(node)
                    ahead.append(node)
    return list(resistors.values())


class Network:
    """Elements between named nodes. What does not conduct direct current is left out for it."""

    def __init__(self, elements: Iterable[Element]) -> None:
        self.elements = tuple(e for e in elements if e.a != e.b)
        self._known: dict[str, _Direct | None] = {}

    def impedance(self, plus: str, minus: str, hz: float) -> complex:
        """Z between two nodes at a frequency, in ohms; infinite where nothing joins them."""
        if plus == minus:
            return 0j
        omega = 2 * math.pi * hz
        part = _component([e for e in self.elements if e.admittance(omega) != 0], minus)
        places = _places(part, minus)
        if plus not in places:
            return complex(math.inf)
        matrix: Complexes = np.zeros((len(places), len(places)), complex)
        for element in part:
            _stamp(matrix, places, element.a, element.b, element.admittance(omega))
        drive: Complexes = np.zeros(len(places), complex)
        drive[places[plus]] = 1.0
        return complex(np.linalg.solve(matrix, drive)[places[plus]])

    def drop(self, plus: str, minus: str, ampere: float, most_v: float = math.inf) -> float:
        """Volts between two nodes while a direct current flows in at one and out at the other.

        A source that gives `most_v` at the most stops there. Infinite where nothing can flow.
        """
        if plus == minus:
            return 0.0
        direct = self._direct(minus)
        if direct is None or plus not in direct.places:
            return math.inf
        return float(direct.solve({plus: ampere}, plus, most_v)[direct.places[plus]])

    def fed(
        self, plus: str, minus: str, volt: float, most_a: float, least_a: float
    ) -> tuple[float, float]:
        """Volts and amperes of a source of so many volts that gives from `least_a` to `most_a`.

        The current is halved in on by its logarithm, since a junction's bends by decades.
        """

        def drop(ampere: float) -> float:
            return self.drop(plus, minus, ampere, 2 * volt + 1)

        low, high = least_a, most_a
        if drop(high) <= volt:
            return drop(high), high
        while high > low * (1 + _HALVED_TO):
            middle = math.sqrt(low * high)
            low, high = (low, middle) if drop(middle) > volt else (middle, high)
        return volt, high

    def volts(self, drive: Mapping[str, float], ground: str) -> dict[str, float]:
        """Volts of each node against the ground, with currents driven in at nodes.

        Nodes that do not hang together with the ground are left out.
        """
        direct = self._direct(ground)
        if direct is None:
            return {ground: 0.0}
        solved = direct.solve(drive)
        volts = {node: float(solved[at]) for node, at in direct.places.items()}
        return volts | {ground: 0.0}

    def _direct(self, ground: str) -> _Direct | None:
        if ground not in self._known:
            part = _component([e for e in self.elements if e.admittance(0.0) != 0], ground)
            self._known[ground] = _Direct(part, ground) if part else None
        return self._known[ground]


def _places(elements: Sequence[Element], ground: str) -> dict[str, int]:
    nodes = dict.fromkeys(n for e in elements for n in (e.a, e.b) if n != ground)
    return {node: place for place, node in enumerate(nodes)}


def _stamp(
    matrix: Reals | Complexes, places: Mapping[str, int], a: str, b: str, siemens: complex
) -> None:
    """Add a conductance between two nodes; the ground has no row."""
    i, j = places.get(a), places.get(b)
    if i is not None:
        matrix[i, i] += siemens
    if j is not None:
        matrix[j, j] += siemens
    if i is not None and j is not None:
        matrix[i, j] -= siemens
        matrix[j, i] -= siemens


class _Direct:
    """One connected network for direct current, its ground at no volts.

    `across` has a row a junction: 1 at its anode's node, −1 at its cathode's.
    """

    def __init__(self, elements: Sequence[Element], ground: str) -> None:
        self.places = _places(elements, ground)
        count = len(self.places)
        self.linear: Reals = np.zeros((count, count))
        junctions = [e for e in elements if isinstance(e, Junction)]
        for element in elements:
            siemens = element.admittance(0.0).real
            if isinstance(element, Junction):
                siemens = _INSULATION_S
            _stamp(self.linear, self.places, element.a, element.b, siemens)
        self.across: Reals = np.zeros((len(junctions), count))
        for row, junction in enumerate(junctions):
            for node, sign in ((junction.a, 1.0), (junction.b, -1.0)):
                if node in self.places:
                    self.across[row, self.places[node]] = sign
        self.scale: Reals = np.array([e.scale_v for e in junctions])
        self.saturation: Reals = np.array([e.saturation_a for e in junctions])

    def solve(
        self, drive: Mapping[str, float], source: str = "", most_v: float = math.inf
    ) -> Reals:
        """Volts of the nodes while these currents flow in at them and out at the ground."""
        currents: Reals = np.zeros(len(self.linear))
        for node, ampere in drive.items():
            if node in self.places:
                currents[self.places[node]] += ampere
        bent = _Bent(self.linear, self.across, self.scale, self.saturation, currents)
        if math.isfinite(most_v):
            bent = bent.limited(self.places[source], most_v, float(np.abs(currents).max()))
        return bent.solve()


class _Bent(Struct, frozen=True):
    """The equations of a network with its junctions, for one drive."""

    linear: Reals
    across: Reals
    scale: Reals
    saturation: Reals
    drive: Reals

    def limited(self, at: int, most_v: float, ampere: float) -> _Bent:
        """With a source that takes its own current back above `most_v`: one more junction."""
        row: Reals = np.zeros((1, len(self.linear)))
        row[0, at] = 1.0
        return _Bent(
            self.linear,
            np.vstack([self.across, row]),
            np.append(self.scale, most_v / _LIMIT_BENDS),
            np.append(self.saturation, ampere * math.exp(-_LIMIT_BENDS)),
            self.drive,
        )

    def solve(self) -> Reals:
        """Newton's steps, each halved until the co-content falls."""
        volts: Reals = np.zeros(len(self.linear))
        if not len(self.scale):
            return np.asarray(np.linalg.solve(self.linear, self.drive))
        for _ in range(_MOST_STEPS):
            residual, slope = self._at(volts)
            step: Reals = np.asarray(np.linalg.solve(slope, residual), float)
            if np.abs(step).max() < _ENOUGH * (1e-3 + np.abs(volts).max()):
                return volts - step
            volts = self._lowered(volts, step, float(residual @ step))
        return volts

    def _lowered(self, volts: Reals, step: Reals, promised: float) -> Reals:
        """The step, shortened until the co-content falls by a part of what its slope promises.

        Where the fall is lost in rounding, the whole step is right.
        """
        before, share = self._content(volts), 1.0
        if promised < _ROUNDING * abs(before):
            return volts - step
        while share > _SHORTEST:
            if self._content(volts - share * step) <= before - 1e-4 * share * promised:
                break
            share /= 2
        return volts - share * step

    def _at(self, volts: Reals) -> tuple[Reals, Reals]:
        """Currents that are left over at the nodes, and their slope."""
        over = self.across @ volts / self.scale
        bent = np.minimum(over, _STEEPEST)
        rise = np.exp(bent)
        current = self.saturation * (rise * (1 + over - bent) - 1)
        residual = self.linear @ volts - self.drive + self.across.T @ current
        siemens = self.saturation * rise / self.scale
        slope = self.linear + self.across.T @ (siemens[:, None] * self.across)
        return residual, slope

    def _content(self, volts: Reals) -> float:
        """The co-content: its gradient are the currents left over."""
        over = self.across @ volts / self.scale
        bent = np.minimum(over, _STEEPEST)
        beyond = over - bent
        area = np.exp(bent) * (1 + beyond + beyond**2 / 2) - over
        stored = float((self.saturation * self.scale * area).sum())
        return 0.5 * float(volts @ self.linear @ volts) + stored - float(self.drive @ volts)
