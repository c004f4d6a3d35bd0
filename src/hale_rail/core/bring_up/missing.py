"""What makes a rail that a source lacks: a regulator, a converter, an isolated supply stacked.

Source: docs/formulas.md, “Harness”. A linear regulator turns (Vin − Vout)·I into heat and
needs some volts of headroom.
"""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.core.quantities import Unit, show

#: volts that a linear regulator and a step-down converter want across them
LINEAR_V, DOWN_V = 2.0, 0.8
#: the heat that a small regulator gets rid of, and a converter's usual efficiency
MOST_HEAT_W, EFFICIENCY = 2.0, 0.8

#: a rail of the source: its volts, the amperes it has left, and whether it floats
Left = tuple[float, float, bool]


def advice(volt: float, amps: float, rails: Sequence[Left]) -> str:
    """What makes a rail of `volt` at `amps` from what a source has left, in a sentence."""
    if not volt:
        return "Name the source's ground, as rail 0, with its conductors."
    return _regulator(volt, amps, rails) or _down(volt, amps, rails) or _other(volt, amps, rails)


def ac_advice(volt: float, amps: float) -> str:
    """What makes a rail of alternating volts, in a sentence."""
    power = f" of {volt * amps:.2g} VA or more" if amps else ""
    return (
        f"{show(volt, Unit.VOLT)} AC: a direct-current source has none. Take it from a mains "
        f"transformer{power}, fused on its primary."
    )


def _higher(volt: float, rails: Sequence[Left], headroom_v: float) -> list[Left]:
    """Rails of the same sign with so many volts above it, the nearest first."""
    side = 1 if volt > 0 else -1
    higher = [rail for rail in rails if side * rail[0] >= abs(volt) + headroom_v]
    return sorted(higher, key=lambda rail: abs(rail[0]))


def _regulator(volt: float, amps: float, rails: Sequence[Left]) -> str:
    for rail_v, left, _ in _higher(volt, rails, LINEAR_V):
        heat = (abs(rail_v) - abs(volt)) * amps
        if amps <= left and heat <= MOST_HEAT_W:
            kind = "a negative" if volt < 0 else "a"
            return (
                f"{_volts(volt)} from {_volts(rail_v)} by {kind} linear regulator: "
                f"{show(heat, Unit.WATT, 2)} of heat at {show(amps, Unit.AMPERE, 2)}, which "
                f"{_volts(rail_v)} must give too."
            )
    return ""


def _down(volt: float, amps: float, rails: Sequence[Left]) -> str:
    for rail_v, left, _ in _higher(volt, rails, DOWN_V):
        if amps * abs(volt) / abs(rail_v) / EFFICIENCY <= left:
            heat = (abs(rail_v) - abs(volt)) * amps
            return (
                f"{_volts(volt)} from {_volts(rail_v)} by a step-down converter; a linear "
                f"regulator would turn {show(heat, Unit.WATT, 2)} into heat."
            )
    return ""


def _other(volt: float, amps: float, rails: Sequence[Left]) -> str:
    spare = next((r for r in rails if r[2] and abs(abs(r[0]) - abs(volt)) < 0.05 * abs(volt)), None)
    end = "its plus end to ground" if volt < 0 else "its minus end to ground"
    if spare and volt < 0:
        return f"{_volts(volt)} from the isolated {_volts(spare[0])}, {end}: only an isolated one."
    start = f"A converter that makes {_volts(volt)} at {show(amps, Unit.AMPERE, 2)}"
    inverting = " (an inverting or isolated one)" if volt < 0 else " (step-up)"
    return (
        f"{start}{inverting} from a rail of the source, or a single supply of "
        f"{show(abs(volt), Unit.VOLT)}, {end}: only an isolated one, else it shorts."
    )


def _volts(volt: float) -> str:
    return ("+" if volt > 0 else "") + show(volt, Unit.VOLT)
