"""What a part is made of between its pins: resistors, coils, capacitances and junctions."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import partial

from msgspec import Struct

from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.nodal import Capacitance, Coil, Element, Junction, NodalResistor
from hale_rail.core.simulate.truth import Truth

#: the two pins of a part that has no names for them
ONE, TWO = "1", "2"
#: ohms inside a regulator from input to output, output to ground and input to ground
_REGULATOR_OHM = (4700.0, 2600.0, 9000.0)
_CONTROLLER_OHM = 22e3

Pins = Mapping[str, str]
Between = tuple[str, str]


class PartModel(Struct, frozen=True):
    """What a kind of part is made of: how its elements are made, and the names of its pins.

    `across`: between which pins it is read where none are named, and between which it shorts where
    `shorts` says nothing else; `junctions` anode first, the first is what an open part has lost.
    """

    made: Callable[[Part, Truth, Pins], list[Element]]
    pins: tuple[str, ...] = (ONE, TWO)
    across: Between = (ONE, TWO)
    shorts: Between | None = None
    junctions: tuple[Between, ...] = ()
    ideality: float = 1.6


def elements(part: Part, true: Truth, pins: Pins) -> list[Element]:
    """The part between the nodes of its pins, as it truly is."""
    model = MODELS[part.kind.model]
    made = model.made(part, true, pins)
    if true.short_ohm is not None:
        first, second = model.shorts or model.across
        made.append(NodalResistor(pins[first], pins[second], true.short_ohm))
    return made


def _conductor(_: Part, true: Truth, pins: Pins) -> list[Element]:
    ohm = math.inf if true.is_open else true.ohm or 0.0
    return [] if math.isinf(ohm) else [NodalResistor(pins[ONE], pins[TWO], ohm)]


def _coil(_: Part, true: Truth, pins: Pins, henry: float) -> list[Element]:
    return [] if true.is_open else [Coil(pins[ONE], pins[TWO], true.ohm or 0.0, henry)]


def _capacitor(_: Part, true: Truth, pins: Pins) -> list[Element]:
    if true.is_open:
        return []
    leak = true.leak_ohm or math.inf
    return [Capacitance(pins[ONE], pins[TWO], true.farad or 0.0, true.esr_ohm or 0.0, leak)]


def _nothing(_: Part, __: Truth, ___: Pins) -> list[Element]:
    return []


def _with_junctions(part: Part, true: Truth, pins: Pins) -> list[Element]:
    model = MODELS[part.kind.model]
    lost = model.junctions[:1] if true.is_open else ()
    shorted = (model.shorts or model.across) if true.short_ohm is not None else None
    return [
        Junction(pins[a], pins[k], true.drop_v or 0.6, model.ideality)
        for a, k in model.junctions
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


def _of_two(anode: str, cathode: str, ideality: float = 1.6) -> PartModel:
    """A junction alone."""
    way = (anode, cathode)
    return PartModel(_with_junctions, way, way, junctions=(way,), ideality=ideality)


#: by the name that a kind's `model` gives
MODELS: dict[str, PartModel] = {
    # a meter finds nothing between its pins
    **dict.fromkeys(("nothing", "insulator", "load", "contacts", "chip"), PartModel(_nothing)),
    "conductor": PartModel(_conductor),
    "filter": PartModel(partial(_coil, henry=8e-3)),
    "choke": PartModel(partial(_coil, henry=40e-6)),
    "transformer": PartModel(partial(_coil, henry=1.5)),
    "capacitor": PartModel(_capacitor),
    **dict.fromkeys(("junction", "zener"), _of_two("A", "K")),
    # its law is nearer to the ideal one
    "schottky": _of_two("A", "K", ideality=1.08),
    "bridge": PartModel(
        _with_junctions,
        ("~1", "~2", "+", "-"),
        ("+", "-"),
        shorts=("~1", "+"),
        junctions=(("~1", "+"), ("~2", "+"), ("-", "~1"), ("-", "~2")),
    ),
    "transistor": PartModel(
        _with_junctions, ("B", "C", "E"), ("C", "E"), junctions=(("B", "E"), ("B", "C"))
    ),
    "mosfet": PartModel(_with_junctions, ("G", "D", "S"), ("D", "S"), junctions=(("S", "D"),)),
    "scr": PartModel(_with_junctions, ("A", "K", "G"), ("A", "K"), junctions=(("G", "K"),)),
    "optocoupler": PartModel(
        _with_junctions, ("A", "K", "C", "E"), ("C", "E"), junctions=(("A", "K"),)
    ),
    "regulator": PartModel(
        _regulator, ("IN", "OUT", "GND"), ("IN", "OUT"), junctions=(("OUT", "IN"),)
    ),
    "controller": PartModel(
        _controller, ("VCC", "GND"), ("VCC", "GND"), junctions=(("GND", "VCC"),)
    ),
}
