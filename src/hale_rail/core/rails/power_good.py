"""The power-good line: low until the rails are in band, high 100 to 500 ms after.

Source: docs/formulas.md, “Rails”.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import RailVerdict

LEAST_S, MOST_S = 0.100, 0.500


class PowerGood(Struct, frozen=True):
    """What the line did: seconds after power until it went high, None where it stayed low."""

    verdict: RailVerdict
    text: str


def judge_power_good(after_s: float | None, *, rails_pass: bool) -> PowerGood:
    """Judge the line beside the rails; `rails_pass`: every rail read is inside its band."""
    if after_s is None:
        where = (
            "The rails are in band: the supply's own comparator or its delay"
            if rails_pass
            else "A rail is out of band, or the supply: the rails first"
        )
        return PowerGood(RailVerdict.FAIL, f"It stays low. {where}.")
    shown = show(after_s, Unit.SECOND, 3)
    if after_s < LEAST_S:
        text = f"High after {shown}: too soon, the board starts before its rails stand (100 ms)."
        return PowerGood(RailVerdict.FAIL, text)
    if after_s > MOST_S:
        text = f"High after {shown}: late (500 ms at most); the delay's capacitor or resistor."
        return PowerGood(RailVerdict.MARGINAL, text)
    return PowerGood(RailVerdict.PASS, f"High after {shown}, between 100 and 500 ms.")
