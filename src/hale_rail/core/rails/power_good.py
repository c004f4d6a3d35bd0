"""The power-good line: low until the rails are in band, high 100 to 500 ms after.

Source: docs/formulas.md, “Rails”.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailVerdict

LEAST_S, MOST_S = 0.100, 0.500
#: logic levels: at most low, at least high
LOW_V, HIGH_V = 0.8, 2.4


class PowerGood(Struct, frozen=True):
    """What the line did: seconds after power until it went high, None where it stayed low."""

    verdict: RailVerdict
    text: str


def judge_power_good(
    after_s: float | None, volt: float | None = None, *, rails_pass: bool
) -> PowerGood:
    """Judge the line beside the rails, by its delay and its volts, where they were read.

    Neither: it stays low. `rails_pass`: every rail read is inside its band.
    """
    level = f"{show(volt, Unit.VOLT)}: " if volt is not None else ""
    if volt is not None and LOW_V < volt < HIGH_V:
        text = f"{level}neither low (at most {LOW_V:g} V) nor high (at least {HIGH_V:g} V)."
        return PowerGood(RailVerdict.FAIL, f"{text} Its pull-up, or what holds it down.")
    if after_s is None and volt is not None and volt >= HIGH_V:
        return PowerGood(RailVerdict.NOT_JUDGED, f"{level}high. Its delay was not read.")
    if after_s is None or (volt is not None and volt <= LOW_V):
        where = (
            "The rails are in band: the supply's own comparator or its delay"
            if rails_pass
            else "A rail is out of band, or the supply: the rails first"
        )
        return PowerGood(RailVerdict.FAIL, f"{level}{'it' if level else 'It'} stays low. {where}.")
    shown = show(after_s, Unit.SECOND, 3)
    if after_s < LEAST_S:
        text = f"High after {shown}: too soon, the board starts before its rails stand (100 ms)."
        return PowerGood(RailVerdict.FAIL, text)
    if after_s > MOST_S:
        text = f"High after {shown}: late (500 ms at most); the delay's capacitor or resistor."
        return PowerGood(RailVerdict.MARGINAL, text)
    return PowerGood(RailVerdict.PASS, f"High after {shown}, between 100 and 500 ms.")
