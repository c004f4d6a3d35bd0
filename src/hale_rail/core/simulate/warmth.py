"""How warm the parts of a powered simulated unit get: watts by their volts and amperes.

Source: P = V·I and I²·R; °C above the room by a thermal resistance for the part's kind.
"""

from __future__ import annotations

from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.circuit import Circuit
from hale_rail.core.simulate.outcome import PowerOutcome, RunMode
from hale_rail.core.simulate.ripples import stage
from hale_rail.core.supply.sheet import Rail

#: °C a watt: on its heatsink, or in free air
_KELVIN_A_WATT = {
    "diode": 8.0, "schottky": 8.0, "bridge": 12.0, "regulator": 6.0, "transistor": 5.0,
    "mosfet": 5.0, "capacitor": 25.0, "choke": 15.0, "resistor": 60.0,
}  # fmt: skip
_MOST_KELVIN = 140.0
_FORWARD_V = {"schottky": 0.45, "diode": 0.85, "bridge": 1.8}
_HEADROOM, _SWITCH_LOSS = 0.5, 0.06
#: amperes of a supply that folds back into a short
_FOLDED_SHARE = 0.5


def watts(circuit: Circuit, part: Part, outcome: PowerOutcome) -> float:
    """What a part turns into heat, in watts."""
    true = circuit.true[part.id]
    rail = circuit.sheet.rail(part.line)
    if outcome.mode is RunMode.OFF:
        return 0.0
    if true.short_ohm is not None and rail is not None:
        ampere = _FOLDED_SHARE * (rail.load_max_a or 0.5)
        return ampere**2 * true.short_ohm
    if rail is None or rail.key not in outcome.rails:
        total = sum(abs(s.high_v) * s.ampere for s in outcome.rails.values())
        return _SWITCH_LOSS * total if part.kind.code in ("transistor", "mosfet") else 0.0
    return _on_rail(circuit, part, rail, outcome)


def _on_rail(circuit: Circuit, part: Part, rail: Rail, outcome: PowerOutcome) -> float:
    ampere = outcome.rails[rail.key].ampere
    code = part.kind.code
    if code in _FORWARD_V:
        return _FORWARD_V[code] * ampere
    if code == "regulator":
        return _HEADROOM * abs(rail.nominal_v) * ampere
    if code == "choke":
        return ampere**2 * (circuit.true[part.id].ohm or 0.0)
    if part.capacitor and part.role == "output-filter" and rail.regulation.is_switching:
        made = stage(circuit, rail)
        share = made.esr_ohm / max(circuit.true[part.id].esr_ohm or 1.0, 1e-4)
        current = made.delta_a / 12**0.5 * min(1.0, share)
        return current**2 * (circuit.true[part.id].esr_ohm or 0.0)
    return 0.0


def kelvin(circuit: Circuit, part: Part, outcome: PowerOutcome) -> float:
    """How much warmer than the room a part gets, in °C."""
    risen = watts(circuit, part, outcome) * _KELVIN_A_WATT.get(part.kind.code, 20.0)
    return round(min(_MOST_KELVIN, risen), 1)
