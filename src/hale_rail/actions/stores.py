"""The stores of a case: what each holds, how it falls, and how to bleed it."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.actions.dossier import Dossier
from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety import bleeding
from hale_rail.core.safety.bleeding import METER_LIMIT_V, Proposal, Resistor
from hale_rail.core.safety.energy import StoreState
from hale_rail.core.supply.points import Point, Quantity
from hale_rail.core.supply.sheet import Sheet, Station

BLEEDER = "bleeder"


@dataclass(frozen=True)
class Clock:
    """One store with its own clock.

    `volt` the last reading, `at` its moment (epoch), `tau_s` the self-discharge told by two
    readings (None before), `wait_s` from the last reading to the touch limit by itself; `energy_j`
    held at the last reading, or at the rated voltage while unread.
    """

    station: Station
    state: StoreState
    is_safe: bool
    energy_j: float
    felt: str
    tau_s: float | None
    wait_s: float | None
    meter_wait_s: float | None
    bleeder_text: str
    proposal: Proposal | None
    proposal_meter_s: float | None
    point_key: str

    @property
    def volt(self) -> float | None:
        return self.state.volt


def clocks(dossier: Dossier, stock: list[Resistor]) -> list[Clock]:
    """Every store the sheet lists, in the order power reaches them."""
    by_id = {state.store: state for state in dossier.energy.stores}
    return [
        _clock(dossier.sheet, station, by_id[str(station.id)], dossier.limit_volt, stock)
        for station in dossier.sheet.stores
    ]


def _clock(
    sheet: Sheet, station: Station, state: StoreState, limit: float, stock: list[Resistor]
) -> Clock:
    farad = station.value or 0.0
    volt = abs(state.volt) if state.volt is not None else station.volt or 0.0
    energy = bleeding.stored_energy(farad, volt)
    tau = _measured_tau(state)
    has_volts = state.volt is not None and volt > 0
    proposal = bleeding.propose(farad, volt, stock, limit) if farad and volt > limit else None
    meter_s = None
    if proposal:
        meter_s = bleeding.time_to(volt, METER_LIMIT_V, proposal.bleed.tau_s)
    return Clock(
        station=station,
        state=state,
        is_safe=state.is_below(limit),
        energy_j=energy,
        felt=bleeding.felt(energy),
        tau_s=tau,
        wait_s=bleeding.time_to(volt, limit, tau) if tau and has_volts else None,
        meter_wait_s=bleeding.time_to(volt, METER_LIMIT_V, tau) if tau and has_volts else None,
        bleeder_text=_bleeder_text(sheet, station, tau),
        proposal=proposal,
        proposal_meter_s=meter_s,
        point_key=Point(Quantity.STORE, station.id).key,
    )


def _measured_tau(state: StoreState) -> float | None:
    """RC from the last two readings, when they fall; a bleed in between would show as faster."""
    if not state.earlier or state.at is None or not state.volt:
        return None
    (t1, v1), (t2, v2) = state.earlier[-1], (state.at, state.volt)
    if t2 <= t1 or abs(v2) >= abs(v1) or v2 == 0:
        return None
    return bleeding.self_discharge_tau([(t1, v1), (t2, v2)])


def _bleeder_text(sheet: Sheet, station: Station, tau: float | None) -> str:
    """The fitted bleeder's health; the sheet lists bleeders in the order of their stores."""
    bleeders = [s for s in sheet.on_line(station.line) if s.role == BLEEDER and s.value]
    beside = [s.id for s in sheet.stores if s.line == station.line]
    place = beside.index(station.id)
    fitted = bleeders[place] if place < len(bleeders) else None
    if fitted is None or fitted.value is None or not station.value:
        return ""
    expected = fitted.value * station.value
    if tau is None:
        ohms = show(fitted.value, Unit.OHM)
        return f"Bleeder {fitted.ref}, {ohms}: RC {show(expected, Unit.SECOND)} when it is sound."
    return bleeding.bleeder_text(tau, expected)
