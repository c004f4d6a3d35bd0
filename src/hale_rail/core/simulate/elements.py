"""What a part is made of between its pins: resistors, coils, capacitances and junctions."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.nodal import Capacitance, Coil, Element, Junction, NodalResistor
from hale_rail.core.simulate.truth import Truth

#: the two pins of a part that has no names for them
ONE, TWO = "1", "2"
#: the pins of each kind that has names for them
PINS = {
    "bridge": ("~1", "~2", "+", "-"), "diode": ("A", "K"), "schottky": ("A", "K"),
    "zener": ("A", "K"), "transistor": ("B", "C", "E"), "mosfet": ("G", "D", "S"),
    "scr": ("A", "K", "G"), "optocoupler": ("A", "K", "C", "E"), "regulator": ("IN", "OUT", "GND"),
    "controller": ("VCC", "GND"),
}  # fmt: skip
#: between which pins a part is read where none are named, and between which it shorts
ACROSS = {
    "bridge": ("+", "-"), "diode": ("A", "K"), "schottky": ("A", "K"), "zener": ("A", "K"),
    "transistor": ("C", "E"), "mosfet": ("D", "S"), "scr": ("A", "K"), "optocoupler": ("C", "E"),
    "regulator": ("IN", "OUT"), "controller": ("VCC", "GND"),
}  # fmt: skip
_SHORTS = ACROSS | {"bridge": ("~1", "+")}
#: junctions of each kind, anode first; the first is what an open part has lost
_JUNCTIONS = {
    "bridge": (("~1", "+"), ("~2", "+"), ("-", "~1"), ("-", "~2")),
    "diode": (("A", "K"),), "schottky": (("A", "K"),), "zener": (("A", "K"),),
    "transistor": (("B", "E"), ("B", "C")), "mosfet": (("S", "D"),), "scr": (("G", "K"),),
    "optocoupler": (("A", "K"),), "regulator": (("OUT", "IN"),), "controller": (("GND", "VCC"),),
}  # fmt: skip
#: ohms inside a regulator from input to output, output to ground and input to ground
_REGULATOR_OHM = (4700.0, 2600.0, 9000.0)
_CONTROLLER_OHM = 22e3
_FILTER_H, _CHOKE_H, _PRIMARY_H = 8e-3, 40e-6, 1.5
#: a Schottky's law is nearer to the ideal one
_IDEALITY = {"schottky": 1.08}

Pins = Mapping[str, str]


def elements(part: Part, true: Truth, pins: Pins) -> list[Element]:
    """The part between the nodes of its pins, as it truly is."""
    made = _BY_KIND.get(part.kind.code, _with_junctions)(part, true, pins)
    if true.short_ohm is not None:
        first, second = _SHORTS.get(part.kind.code, (ONE, TWO))
        made.append(NodalResistor(pins[first], pins[second], true.short_ohm))
    return made


def _conductor(_: Part, true: Truth, pins: Pins) -> list[Element]:
    ohm = math.inf if true.is_open else true.ohm or 0.0
    return [] if math.isinf(ohm) else [NodalResistor(pins[ONE], pins[TWO], ohm)]


def _choke(part: Part, true: Truth, pins: Pins) -> list[Element]:
    henry = _FILTER_H if part.kind.code == "filter" else _CHOKE_H
    return [] if true.is_open else [Coil(pins[ONE], pins[TWO], true.ohm or 0.0, henry)]


def _transformer(_: Part, true: Truth, pins: Pins) -> list[Element]:
    return [] if true.is_open else [Coil(pins[ONE], pins[TWO], true.ohm or 0.0, _PRIMARY_H)]


def _capacitor(_: Part, true: Truth, pins: Pins) -> list[Element]:
    if true.is_open:
        return []
    leak = true.leak_ohm or math.inf
    return [Capacitance(pins[ONE], pins[TWO], true.farad or 0.0, true.esr_ohm or 0.0, leak)]


def _nothing(_: Part, __: Truth, ___: Pins) -> list[Element]:
    return []


def _with_junctions(part: Part, true: Truth, pins: Pins) -> list[Element]:
    code = part.kind.code
    ways = _JUNCTIONS.get(code, ())
    lost = ways[:1] if true.is_open else ()
    shorted = _SHORTS.get(code) if true.short_ohm is not None else None
    ideality = _IDEALITY.get(code, 1.6)
    return [
        Junction(pins[a], pins[k], true.drop_v or 0.6, ideality)
        for a, k in ways
        if (a, k) not in lost and (a, k) != shorted
    ]


def _regulator(part: Part, true: Truth, pins: Pins) -> list[Element]:
    through, out, into = _REGULATOR_OHM
    made: list[Element] = [
        NodalResistor(pins["OUT"], pins["GND"], out),
        NodalResistor(pins["IN"], pins["GND"], into),
    ]
    if not true.is_open:
        made.append(NodalResistor(pins["IN"], pins["OUT"], through))
    return [*made, *_with_junctions(part, true, pins)]


def _controller(part: Part, true: Truth, pins: Pins) -> list[Element]:
    return [
        NodalResistor(pins["VCC"], pins["GND"], _CONTROLLER_OHM),
        *_with_junctions(part, true, pins),
    ]


_BY_KIND: dict[str, Callable[[Part, Truth, Pins], list[Element]]] = {
    "inlet": _conductor,
    "fuse": _conductor,
    "switch": _conductor,
    "thermistor": _conductor,
    "resistor": _conductor,
    "transformer": _transformer,
    "connector": _nothing,
    "board": _nothing,
    "tube": _nothing,
    "varistor": _nothing,
    "filter": _choke,
    "choke": _choke,
    "capacitor": _capacitor,
    "regulator": _regulator,
    "controller": _controller,
}
