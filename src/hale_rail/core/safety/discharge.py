"""Plans a bleed-down: energy, time, power, and the resistor to take.

Sources: those of `hale_rail.core.safety.bleeding`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety import bleeding
from hale_rail.core.safety.bleeding import Resistor


@dataclass(frozen=True)
class Discharge:
    """What bleeding a store takes; None where nothing given tells it."""

    energy_j: float
    tau_s: float | None
    time_s: float | None
    peak_w: float | None
    ohm: float | None
    watt: float | None
    why: str
    cautions: tuple[str, ...]

    def to_json(self) -> dict[str, object]:
        """The command's JSON contract."""
        resistor = None
        if self.ohm is not None:
            resistor = {"ohms": self.ohm, "watts": self.watt, "why": self.why}
        return {
            "energy_j": self.energy_j,
            "tau_s": self.tau_s,
            "time_s": self.time_s,
            "peak_w": self.peak_w,
            "resistor": resistor,
            "cautions": list(self.cautions),
        }


def discharge(
    farad: float,
    volt: float,
    *,
    ohm: float | None = None,
    limit_volt: float = bleeding.TOUCH_LIMIT_V,
    stock: Sequence[Resistor] = (),
    readings: Sequence[tuple[float, float]] = (),
) -> Discharge:
    """Plan a bleed: through `ohm`, else the stock's best, else as the readings show it falling."""
    bleeding.check_store(farad, volt, limit_volt)
    energy, cautions = bleeding.stored_energy(farad, volt), bleeding.cautions(farad, volt)
    tau = time_s = peak = watt = None
    why = ""
    if ohm is not None:
        this = bleeding.bleed(farad, volt, ohm, limit_volt)
        tau, time_s, peak = this.tau_s, this.time_s, this.peak_w
        watt, why = None, f"as given; its rating must bear a peak of {show(peak, Unit.WATT)}"
        cautions.append(_rating_caution(this))
    elif stock:
        proposal = bleeding.propose(farad, volt, stock, limit_volt)
        if proposal is None:
            cautions.append("No resistor of the stock bears this: bleed through lamps in series, "
                            "or several resistors.")  # fmt: skip
        else:
            ohm, watt, why = proposal.resistor.ohm, proposal.resistor.watt, proposal.why
            tau, time_s = proposal.bleed.tau_s, proposal.bleed.time_s
            peak = proposal.bleed.peak_w
    if readings:
        tau = bleeding.self_discharge_tau(readings)
        last = max(readings, key=lambda reading: reading[0])
        time_s = bleeding.time_to(last[1], limit_volt, tau)
        if ohm is not None:
            cautions.append(bleeding.bleeder_text(tau, ohm * farad))
    return Discharge(energy, tau, time_s, peak, ohm, watt, why, tuple(cautions))


def _rating_caution(this: bleeding.Bleed) -> str:
    short = this.time_s <= bleeding.PULSE_S
    needed = this.peak_w / bleeding.PULSE_FACTOR if short else this.peak_w
    kind = "wirewound resistor" if short else "resistor"
    return f"Peak {show(this.peak_w, Unit.WATT)}: a {kind} of {show(needed, Unit.WATT)} or more."
