"""Plans a bleed-down: energy, time, power, and the resistor to take.

Sources: those of `hale_rail.core.safety.bleeding`.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.quantities import Unit, show
from hale_rail.core.safety import bleeding
from hale_rail.core.safety.bleeding import PowerResistor


class Discharge(Struct, frozen=True):
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


class _Way(Struct, frozen=True):
    """How a store is bled: the plan's figures, all None where nothing tells."""

    tau_s: float | None = None
    time_s: float | None = None
    peak_w: float | None = None
    ohm: float | None = None
    watt: float | None = None
    why: str = ""
    caution: str = ""


def discharge(
    farad: float,
    volt: float,
    *,
    ohm: float | None = None,
    limit_volt: float = bleeding.TOUCH_LIMIT_V,
    stock: Sequence[PowerResistor] | None = None,
    readings: Sequence[tuple[float, float]] = (),
    fitted_ohm: float | None = None,
) -> Discharge:
    """Plan a bleed: through `ohm`, else the stock's best (None: no stock is at hand).

    With timed `readings` the wait follows from the RC that they show, not from the resistor; and
    whether the fitted bleeder works is told where `fitted_ohm` names it. Raises InputError for
    readings that are not a discharge.
    """
    bleeding.check_store(farad, volt, limit_volt)
    energy, cautions = bleeding.stored_energy(farad, volt), bleeding.cautions(farad, volt)
    way = _way(farad, volt, ohm, limit_volt, stock)
    tau, time_s = way.tau_s, way.time_s
    if way.caution:
        cautions.append(way.caution)
    if readings:
        bleeding.check_decay(readings)
        tau = bleeding.self_discharge_tau(readings)
        last = max(readings, key=lambda reading: reading[0])
        time_s = bleeding.time_to(last[1], limit_volt, tau)
    if fitted_ohm is not None:
        expected = fitted_ohm * farad
        discharge = f"RC {show(expected, Unit.SECOND)} when the fitted bleeder is sound; two timed "
        discharge += "readings tell."
        cautions.append(bleeding.bleeder_text(tau, expected) if readings and tau else discharge)
    return Discharge(energy, tau, time_s, way.peak_w, way.ohm, way.watt, way.why, tuple(cautions))


def _way(
    farad: float,
    volt: float,
    ohm: float | None,
    limit_volt: float,
    stock: Sequence[PowerResistor] | None,
) -> _Way:
    if ohm is not None:
        this = bleeding.bleed(farad, volt, ohm, limit_volt)
        why = f"as given; its rating must bear a peak of {show(this.peak_w, Unit.WATT)}"
        caution = _rating_caution(this)
        return _Way(this.tau_s, this.time_s, this.peak_w, ohm, None, why, caution)
    if stock is None:
        return _Way()
    if abs(volt) <= limit_volt:
        shown = show(limit_volt, Unit.VOLT)
        return _Way(time_s=0.0, caution=f"At or below {shown} already: nothing to bleed to it.")
    if not stock:
        return _Way(caution="The stock of power resistors is empty.")
    best = bleeding.propose(farad, volt, stock, limit_volt)
    if best is None:
        return _Way(
            caution="No resistor of the stock bears this: bleed through lamps in series, or "
            "several resistors."
        )
    bleed, resistor = best.bleed, best.resistor
    return _Way(bleed.tau_s, bleed.time_s, bleed.peak_w, resistor.ohm, resistor.watt, best.why)


def _rating_caution(this: bleeding.Bleed) -> str:
    short = this.time_s <= bleeding.PULSE_S
    needed = this.peak_w / bleeding.PULSE_FACTOR if short else this.peak_w
    kind = "wirewound resistor" if short else "resistor"
    return f"Peak {show(this.peak_w, Unit.WATT)}: a {kind} of {show(needed, Unit.WATT)} or more."
