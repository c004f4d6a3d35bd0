"""Dummy loads from the resistors at hand, found exactly; or the next E12 value where none are.

Source: docs/formulas.md, “Dummy loads”. A ready-made load, or one to three resistors, each at no
more than half of its rating and within its volts; each is used once. As few rails unmet as can be,
then the least sum of |I/I_wanted − 1|.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.power.arrangements import Candidates, Piece, candidates
from hale_rail.core.power.assigning import assign
from hale_rail.core.power.ready_loads import LoadKind, ReadyLoad, with_ready
from hale_rail.core.quantities import Unit, show

E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
#: ratings that are sold, watts
RATINGS = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 7.0, 10.0, 15.0, 20.0, 25.0, 50.0, 100.0, 200.0, 300.0)
#: a load that misses its current by more than this is not offered
WITHIN = 0.30


class Wanted(Struct, frozen=True):
    """A rail that needs a load: its volts, with sign, and the amperes wanted."""

    rail_v: float
    amps: float


class LoadPart(Struct, frozen=True):
    """A resistor of a load: ohms, rated watts, the watts that it turns into heat.

    `name`: of a load that is ready-made, with its volts by its amperes as its watts; `cold_a`: what
    a lamp draws before it is warm.
    """

    ohms: float
    watts: float
    dissipates_w: float
    name: str = ""
    cold_a: float | None = None


class DummyLoad(Struct, frozen=True):
    """What loads one rail: amperes drawn, ohms in all, how the parts are joined, the parts."""

    wanted: Wanted
    amps: float
    ohms: float
    arrangement: str
    parts: tuple[LoadPart, ...]

    @property
    def heat_w(self) -> float:
        """The heat of all its parts."""
        return sum(part.dissipates_w for part in self.parts)


class Dummies(Struct, frozen=True):
    """The loads, rail by rail in the order asked, and rails that get none with the reason."""

    loads: tuple[DummyLoad, ...]
    unmet: tuple[tuple[Wanted, str], ...]

    @property
    def total_w(self) -> float:
        """The heat of all loads."""
        return sum(load.heat_w for load in self.loads)


#: no load for no rail
NO_DUMMIES = Dummies((), ())


def dummies(
    rails: Sequence[Wanted],
    stock: Sequence[Piece] | None = None,
    ready: Sequence[ReadyLoad] = (),
) -> Dummies:
    """The loads for rails from ready-made ones and a stock of resistors.

    Where `stock` is None, what no ready-made load serves gets the next value of the E12 series.
    Raises InputError for a rail of 0 V or no current.
    """
    for wanted in rails:
        if not wanted.rail_v or not wanted.amps > 0:
            raise InputError("A dummy load needs a rail's volts, not 0, and a current above 0.")
    if stock is None and not ready:
        return Dummies(tuple(_bought(wanted) for wanted in rails), ())
    pieces = stock or ()
    alike = [(w.rail_v if ready else abs(w.rail_v), w.amps) for w in rails]
    known = {key: _options(*key, pieces, ready) for key in set(alike)}
    candidates = [known[key] for key in alike]
    counts = [*(piece.qty for piece in pieces), *(load.qty for load in ready)]
    chosen = assign(candidates, counts, alike)
    loads, unmet = [], []
    for wanted, options, pick in zip(rails, candidates, chosen, strict=True):
        if pick is not None:
            loads.append(_load(wanted, options, pick, pieces, ready))
        elif stock is None:
            loads.append(_bought(wanted))
        else:
            unmet.append((wanted, _why(wanted, options, stock)))
    return Dummies(tuple(loads), tuple(unmet))


def _bought(wanted: Wanted) -> DummyLoad:
    """The nearest E12 value by ratio, and the rating to buy: twice what it turns into heat."""
    volt = abs(wanted.rail_v)
    exact = volt / wanted.amps
    decade = 10 ** math.floor(math.log10(exact))
    values = [value * decade * step for step in (0.1, 1.0, 10.0) for value in E12]
    ohms = float(f"{min(values, key=lambda ohm: abs(math.log(ohm / exact))):.3g}")
    heat = volt * volt / ohms
    watts = next((w for w in RATINGS if w >= 2 * heat), math.ceil(2 * heat / 100) * 100.0)
    return DummyLoad(wanted, volt / ohms, ohms, "single", (LoadPart(ohms, watts, heat),))


def _options(
    rail_v: float, amps: float, stock: Sequence[Piece], ready: Sequence[ReadyLoad]
) -> Candidates:
    of_resistors = candidates(abs(rail_v), amps, stock, WITHIN)
    return with_ready(of_resistors, rail_v, amps, ready, len(stock), WITHIN)


def _load(
    wanted: Wanted,
    options: Candidates,
    pick: int,
    stock: Sequence[Piece],
    ready: Sequence[ReadyLoad],
) -> DummyLoad:
    arrangement, kinds, heats = options.describe(pick)
    parts = tuple(
        LoadPart(stock[kind].ohms, stock[kind].watts, heat)
        if kind < len(stock)
        else _ready_part(wanted, ready[kind - len(stock)], heat)
        for kind, heat in zip(kinds, heats, strict=True)
    )
    ohms = float(options.ohms[pick])
    return DummyLoad(wanted, abs(wanted.rail_v) / ohms, ohms, arrangement, parts)


def _ready_part(wanted: Wanted, load: ReadyLoad, heat: float) -> LoadPart:
    hot_a = heat / abs(wanted.rail_v)
    cold_a = hot_a / COLD_SHARE if load.kind is LoadKind.LAMP else None
    return LoadPart(abs(wanted.rail_v) / hot_a, load.volt * load.ampere, heat, load.name, cold_a)


def _why(wanted: Wanted, options: Candidates, stock: Sequence[Piece]) -> str:
    """Why a rail gets no load."""
    if not any(piece.qty > 0 for piece in stock):
        return "the stock is empty"
    if len(options):
        return "the resistors that would do are needed for other rails"
    ohms = show(abs(wanted.rail_v) / wanted.amps, Unit.OHM, 3)
    heat = show(abs(wanted.rail_v) * wanted.amps, Unit.WATT, 3)
    text = f"no set of one to three resistors comes within 30 % of {ohms} "
    text += f"and bears {heat} at half its rating"
    return text if not options.is_hot else f"{text}: those that come near get too hot"


class LampLoad(Struct, frozen=True):
    """A lamp as a load: amperes hot and cold at the rail's volts, and ohms cold."""

    hot_a: float
    cold_a: float
    cold_ohm: float


#: a tungsten filament's cold resistance as a share of the hot one's
COLD_SHARE = 0.1
#: a lamp's current goes with its volts to this power: the filament cools as the volts fall
_LAMP_POWER = 0.55


def lamp_load(rail_v: float, lamp_v: float, lamp_w: float) -> LampLoad:
    """A lamp of `lamp_v` and `lamp_w` across a rail; raises InputError for what cannot be.

    Source: cold filament about a tenth of hot; current of an incandescent lamp as V to 0.55.
    """
    if not (lamp_v > 0 and lamp_w > 0) or not rail_v:
        raise InputError("A lamp needs its volts and its watts, above 0.")
    if abs(rail_v) > 1.1 * lamp_v:
        raise InputError(
            f"A {show(lamp_v, Unit.VOLT)} lamp burns out across {show(abs(rail_v), Unit.VOLT)}."
        )
    hot = lamp_w / lamp_v * (abs(rail_v) / lamp_v) ** _LAMP_POWER
    cold = COLD_SHARE * lamp_v * lamp_v / lamp_w
    return LampLoad(hot, abs(rail_v) / cold, cold)
