"""A bleed-down asked outside any case. Sources: those of `hale_rail.core.safety.bleeding`."""

from __future__ import annotations

import math

from msgspec import Struct

from hale_rail.core.ask.answer import MADE, Answer, Circumstances
from hale_rail.core.parts.verdicts import Reason
from hale_rail.core.quantities import Unit, joules, show, show_duration, show_exact
from hale_rail.core.safety.bleeding import PULSE_FACTOR, PULSE_S
from hale_rail.core.safety.discharge import Discharge, discharge


class BleedQuestion(Struct, frozen=True):
    """A store of so many farads at so many volts, bled through `ohm` where that is said."""

    farad: float
    volt: float
    ohm: float | None = None

    def answer(self, given: Circumstances) -> Answer:
        """What it holds, and what bleeds it; without a stock, the value that takes five seconds."""
        limit, volt = given.limit_volt, abs(self.volt)
        is_charged = volt > limit
        ohm = self.ohm
        if ohm is None and not given.stock and is_charged:
            ohm = _usual_ohm(self.farad, volt, limit)
        stock = given.stock if ohm is None and given.stock else None
        plan = discharge(self.farad, volt, ohm=ohm, limit_volt=limit, stock=stock)
        shown, most = show(volt, Unit.VOLT), show(limit, Unit.VOLT)
        word = "charged" if is_charged else "safe to touch"
        reasons = [Reason("energy", plan.cautions[0])]
        reasons += [Reason("caution", text) for text in plan.cautions[1:]]
        return Answer(
            f"{show_exact(self.farad, Unit.FARAD)} at {shown}, to {most}",
            word,
            "failed" if is_charged else "good",
            "bleed" if is_charged else "keep",
            (*_way(plan, most), *reasons),
            _next(plan, is_charged=is_charged, most=most),
            joules(plan.energy_j),
            {
                "energy_j": plan.energy_j, "tau_s": plan.tau_s, "time_s": plan.time_s,
                "peak_w": plan.peak_w, "ohms": plan.ohm,
                "watts": plan.watt if plan.watt else _watt(plan),
            },
        )  # fmt: skip


def _usual_ohm(farad: float, volt: float, limit_volt: float) -> float:
    """The largest made value that reaches the limit within the time of a pulse."""
    most = PULSE_S / (farad * math.log(volt / limit_volt))
    decade = 10.0 ** math.floor(math.log10(most))
    return max(
        (step * decade for step in MADE if step * decade <= most), default=MADE[-1] * decade / 10
    )


def _watt(plan: Discharge) -> float | None:
    """The rating that a wirewound resistor needs for the pulse, else its peak."""
    if plan.peak_w is None or plan.time_s is None:
        return None
    is_pulse = plan.time_s <= PULSE_S
    return plan.peak_w / PULSE_FACTOR if is_pulse else plan.peak_w


def _way(plan: Discharge, most: str) -> list[Reason]:
    """How long it takes through the resistor, and what that bears."""
    if plan.ohm is None or plan.time_s is None or plan.peak_w is None:
        return []
    text = (
        f"{show(plan.ohm, Unit.OHM)} reach {most} in {show_duration(plan.time_s)}; the peak is "
        f"{show(plan.peak_w, Unit.WATT)}."
    )
    return [Reason("resistor", text)]


def _next(plan: Discharge, *, is_charged: bool, most: str) -> str:
    if not is_charged:
        return "Read it again a few minutes later; below 5 V before an ohm or ESR meter goes on."
    through = f"through {show(plan.ohm, Unit.OHM)}" if plan.ohm else "through a power resistor"
    return f"Plug out. Bleed it {through}, then read again: at most {most} to touch."
