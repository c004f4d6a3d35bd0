"""A rail's volts, its ripple and its ohms to ground, asked outside any case.

Sources: those of `hale_rail.core.rails.judge`, `hale_rail.core.ripple.analyse` and
`hale_rail.core.shorts.ground`.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.ask.answer import Answer, Circumstances, listed
from hale_rail.core.parts.verdicts import Action, Reason
from hale_rail.core.procedures import Condition, Understood
from hale_rail.core.quantities import Unit, show, times
from hale_rail.core.rails.judge import RailReading, RailVerdict, judge
from hale_rail.core.shorts.ground import GroundVerdict, judge_ohm
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.core.targets import Place

#: an oscilloscope's error as a share of what it shows, where it is not known
_SCOPE_ERROR = 0.03
_LOAD_TELLS = "This is at one load only: a rail is right when it is right under its full load."


class RailQuestion(Struct, frozen=True):
    """A rail's volts as read at a load; `says_load`: it was said."""

    rail: Rail
    read: Understood
    load: Condition
    place: Place = Place.NONE
    says_load: bool = True
    typed: str = ""

    def answer(self, given: Circumstances) -> Answer:
        """Against the rail's band at that load."""
        judged = judge(
            RailReading(
                self.rail, self.read.value, self.read.high, self.read.digit, self.load,
                place=self.place, ampere=self.read.figures.get("load_a"),
            ),
            given.tolerance,
        )  # fmt: skip
        low, high = judged.band_v
        reasons = [Reason("band", f"{judged.text}.")]
        if judged.verdict is RailVerdict.PASS:
            reasons.append(Reason("not-proven", _LOAD_TELLS))
        if judged.advice:
            reasons.append(Reason("advice", judged.advice))
        return Answer(
            listed(
                f"{self.rail.key} {self.read.echo}",
                self.load.words if self.says_load else "taken as loaded",
                self.place.words,
            ),
            judged.verdict.value,
            judged.verdict.shape,
            (Action.KEEP if judged.verdict is RailVerdict.PASS else Action.MEASURE).value,
            tuple(reasons),
            judged.advice if judged.is_pass_through else self._next(judged.verdict, judged.advice),
            self.read.echo,
            {"low_v": low, "high_v": high,
             "text": f"{show(low, Unit.VOLT, 4)} to {show(high, Unit.VOLT, 4)}"},
        )  # fmt: skip

    def _next(self, verdict: RailVerdict, advice: str) -> str:
        if advice:
            return advice
        if verdict is RailVerdict.PASS and self.place is not Place.FAR:
            return f"Read {self.rail.key} at the far end under load, then its ripple."
        if verdict is RailVerdict.PASS:
            return f"Read the ripple on {self.rail.key}."
        if self.place is not Place.SUPPLY:
            return (
                f"Read {self.rail.key} at the supply end at the same load: what is right there is "
                "lost in the harness."
            )
        return f"Read the ripple on {self.rail.key} at the same load, then its filter capacitors."


class RippleQuestion(Struct, frozen=True):
    """Ripple in volts p-p on a rail; `limit_v` None where the usual limit is meant."""

    rail: Rail
    read: Understood
    limit_v: float | None = None

    def answer(self, _: Circumstances) -> Answer:
        """Against its limit."""
        from hale_rail.core.ripple.analyse import usual_limit

        is_raw = self.rail.regulation is Regulation.RAW
        limit = self.limit_v or usual_limit(self.rail.nominal_v, is_raw=is_raw)
        usual = "10 % of nominal, raw" if is_raw else "1 % of nominal, 50 mV at least"
        source = "as given" if self.limit_v else f"the usual limit: {usual}"
        shown, most = show(self.read.value, Unit.VOLT), show(limit, Unit.VOLT)
        verdict = _against(self.read.value, limit)
        text = (
            f"{shown} p-p against {most} ({source}): {times(self.read.value / limit)} × the limit."
        )
        proves = "A figure alone does not say what makes it: mains, switching or spikes."
        probe = "A long ground lead makes spikes that are not there: short spring, 20 MHz limit."
        reasons = (
            Reason("limit", text),
            Reason("not-proven", proves),
            Reason("probe", probe),
        )
        return Answer(
            f"ripple {shown} p-p on {self.rail.key}",
            verdict.value,
            verdict.shape,
            (Action.KEEP if verdict is RailVerdict.PASS else Action.MEASURE).value,
            reasons,
            "Take two records, 20 ms and 5 µs a division: the ripple lab says what makes it."
            if verdict is not RailVerdict.PASS
            else "Read it again under full load.",
            shown,
            {"limit_v": limit, "text": f"at most {most} p-p"},
        )


def _against(volt: float, limit_v: float) -> RailVerdict:
    error = _SCOPE_ERROR * volt
    if volt > limit_v + error:
        return RailVerdict.FAIL
    return RailVerdict.MARGINAL if volt > limit_v - error else RailVerdict.PASS


class GroundQuestion(Struct, frozen=True):
    """Ohms from a rail to ground, cold, its connector on or off."""

    rail: Rail
    read: Understood
    is_attached: bool
    typed: str = ""

    def answer(self, _: Circumstances) -> Answer:
        """By rule, since no sheet or record of a like unit is at hand; the lower end counts."""
        judged = judge_ohm(
            self.read.value, self.is_attached, self.rail.nominal_v, is_ac=self.rail.is_ac
        )
        side = "attached" if self.is_attached else "isolated"
        is_good = judged.verdict is GroundVerdict.GOOD
        other = "isolated, its connector off" if self.is_attached else "attached"
        then = f"Read {self.rail.key} to ground {other}, and with the leads turned."
        proves = "Cold ohms show a short; they do not show what fails under power."
        return Answer(
            f"{self.rail.key} to ground {self.read.echo}, {side}",
            judged.verdict.value,
            judged.verdict.shape,
            (Action.KEEP if is_good else Action.MEASURE).value,
            (Reason("ground", judged.text), Reason("not-proven", proves)),
            then,
            self.read.echo,
            {"text": "1 Ω or more; a full logic board reads 5 to 100 Ω on +5 V"},
        )
