"""What the sheet has in parallel to a capacitor: the rest of its node, and a bleeder in its case.

Source: parallel on the sheet is parallel, lettered bank or not. Between two parts that power
passes, the capacitors of a rail stand from one node to ground.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

from hale_rail.core.parts.banks import ESR_SPREAD_TYPICAL
from hale_rail.core.parts.families import Grade, typical_esr
from hale_rail.core.parts.kinds import capacitor, resistor
from hale_rail.core.parts.measured import Beside
from hale_rail.core.parts.part import Part

#: the frequency that ESR meters read at
_ESR_HZ = 100e3
#: roles of capacitors that do not stand from their rail to ground
_ELSEWHERE = ("timing", "coupling", "snubber", "start-up", "suppressor-x", "suppressor-y")


def beside(rail_lines: Iterable[Sequence[Part]], parts: Sequence[Part]) -> dict[int, Beside]:
    """What is beside each capacitor that has something beside it, by its id.

    `rail_lines`: the parts of each rail in the order power passes them; `parts`: the whole sheet's.
    """
    bleeders = {p.bleeder_for: p.value for p in parts if p.kind is resistor.KIND}
    rest: dict[int, float] = {}
    for line in rail_lines:
        for node in _nodes(line):
            rest.update(_rest(node))
    return {
        part.id: Beside(rest.get(part.id), bleeders.get(part.ref))
        for part in parts
        if part.kind is capacitor.KIND and (part.id in rest or bleeders.get(part.ref))
    }


def _nodes(line: Iterable[Part]) -> list[list[Part]]:
    """The capacitors of a rail's line, those between the same two series parts together."""
    nodes: list[list[Part]] = [[]]
    for part in line:
        if part.kind.is_series and not part.board:
            nodes.append([])
        elif part.kind is capacitor.KIND and part.role not in _ELSEWHERE and not part.board:
            nodes[-1].append(part)
    return nodes


def _rest(node: list[Part]) -> dict[int, float]:
    """The least ohms of a node without one part, or without its bank, for each of its parts."""
    siemens = {part.id: 1 / _least_ohm(part) for part in node if part.value}
    rest = {}
    for part in node:
        others = [p for p in node if p is not part and not (p.bank and p.bank == part.bank)]
        total = sum(siemens.get(p.id, 0.0) for p in others)
        if total:
            rest[part.id] = 1 / total
    return rest


def _least_ohm(part: Part) -> float:
    """The least impedance of a sound one to an ESR meter."""
    farad = part.value or 0.0
    family = part.family
    typical = typical_esr(family, farad, part.volt, Grade.LOW) if family else None
    least = typical.ohm * ESR_SPREAD_TYPICAL[0] if typical else 0.0
    return math.hypot(least, 1 / (2 * math.pi * _ESR_HZ * farad))
