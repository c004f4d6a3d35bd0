"""A part asked outside any case: judged by what was read, or what a new one shows.

Sources: those of each kind's judgement; what may replace it by `hale_rail.core.recap.substitutes`.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from msgspec import Struct

from hale_rail.core.ask.answer import MADE, Answer, Circumstances, listed
from hale_rail.core.errors import InputError
from hale_rail.core.parts.bank_verdicts import judge_bank, judge_member
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.capacitors import Capacitor, ratio_verdict
from hale_rail.core.parts.families import Family, capacitance_limits, leakage_limit_a
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict
from hale_rail.core.procedures import CAPACITANCE, ESR, Condition, Procedure, Understood
from hale_rail.core.quantities import Unit, show, show_exact
from hale_rail.core.recap.needs import Role
from hale_rail.core.recap.substitutes import CAPACITANCE as MAY_BE
from hale_rail.core.recap.substitutes import CLASSES, ESR_HIGH, ESR_LOW, VOLT_MUCH
from hale_rail.core.targets import Pair

_HIDES = Reason(
    "not-proven",
    "In circuit a low ESR proves the part only where it is alone on its node: a neighbour's low "
    "ESR hides a bad one.",
    change="Lift one leg to be sure.",
)


#: the designator of a part that was asked without one
ANY = "?"


class PartReading(Struct, frozen=True):
    """One reading: how it was taken, what was understood and typed, across which pins."""

    procedure: Procedure
    meant: Understood
    typed: str
    pair: Pair | None = None

    @property
    def words(self) -> str:
        """The reading as one says it."""
        pins = f" {self.pair.words}" if self.pair else ""
        return f"{self.procedure.short}{pins} {self.meant.echo}"


class PartQuestion(Struct, frozen=True):
    """A part as marked, what was read of it and seen at it; `count` like ones in parallel.

    `assumed`: what the words left open and how it was taken; `says_where`: the condition was said.
    """

    part: Part
    readings: tuple[PartReading, ...]
    seen: tuple[str, ...]
    condition: Condition
    count: int = 1
    assumed: tuple[str, ...] = ()
    says_where: bool = False

    def answer(self, given: Circumstances) -> Answer:
        """The judgement of its kind; of a part that nothing was read of, what a new one shows."""
        judgement = self._judgement(given)
        reasons = list(judgement.reasons)
        is_good = judgement.verdict is Verdict.GOOD
        in_circuit = self.condition is Condition.IN_CIRCUIT
        is_by_esr = any(r.procedure is ESR for r in self.readings)
        if is_good and in_circuit and is_by_esr and self.count == 1:
            reasons.append(_HIDES)
        elif is_good and self._other_figure:
            reasons.append(self._other_figure)
        if not self.readings and not self.seen:
            reasons = [Reason("nothing-read", "Nothing was read: this is what a new one shows.")]
        expected = self._expected(judgement)
        if not self.readings and self.part.capacitor:
            reasons.append(Reason("replace", str(expected["replace"])))
        elif not is_good and self.part.kind.advice(self.part):
            reasons.append(Reason("advice", self.part.kind.advice(self.part)))
        return Answer(
            self.words,
            judgement.verdict.value,
            judgement.verdict.shape,
            judgement.action.value,
            tuple(reasons),
            self._next(judgement, reasons),
            ", ".join(r.meant.echo for r in self.readings),
            expected,
        )

    def _judgement(self, given: Circumstances) -> Judgement:
        is_lifted = self.condition is Condition.LIFTED
        values = {
            (r.procedure.code, r.pair): MeasuredValue(
                r.meant.value, is_lifted, r.meant.digit, r.procedure.accuracy,
                high=r.meant.high if r.meant.high != r.meant.value else None,
            )
            for r in self.readings
        }  # fmt: skip
        known = PartReadings(values, self.seen, this_year=given.this_year)
        if self.count > 1 and not is_lifted and self.part.capacitor:
            cap = capacitor.capacitor(self.part)
            caps = [(f"C{place + 1}", cap) for place in range(self.count)]
            bank = judge_bank(caps, capacitor.cap_readings(known), Meter()).judgement
            return judge_member(bank, cap, self.seen, given.this_year)
        return self.part.kind.judge(self.part, known)

    @property
    def _other_figure(self) -> Reason | None:
        """Of C and ESR the one that was not read, where both tell."""
        taken = [r.procedure for r in self.readings]
        if not (self.part.capacitor and capacitor.has_esr(self.part)):
            return None
        other = next((p for p in (ESR, CAPACITANCE) if p not in taken), None)
        if other is None:
            return None
        known = CAPACITANCE if other is ESR else ESR
        text = f"{known.short} alone says nothing of its {other.short}."
        return Reason("not-proven", text, change=f"Read its {other.short} too.")

    @property
    def words(self) -> str:
        """The question as it was taken."""
        where = self.condition.words if self.readings else ""
        if self.readings and not self.says_where:
            where += " (say lifted if it was)"
        return listed(
            self.marked, *(r.words for r in self.readings), where,
            *(f"seen {code.replace('-', ' ')}" for code in self.seen), *self.assumed,
        )  # fmt: skip

    @property
    def marked(self) -> str:
        """What is printed on it."""
        part, marked = self.part, self.part.capacitor
        if marked and marked.farad and marked.family:
            volt = f"{marked.volt:g}\u00a0V" if marked.volt else "rating not known"
            times = f"{self.count} × " if self.count > 1 else ""
            name = marked.family.label
            return f"{times}{show_exact(marked.farad, Unit.FARAD)} {volt} {name}".rstrip() + (
                f" {marked.safety_class}" if marked.safety_class else ""
            )
        unit = part.kind.value_unit
        value = show_exact(part.value, unit) if part.value is not None and unit else ""
        return " ".join(word for word in (part.kind.name, value, part.note) if word)

    def _expected(self, judgement: Judgement) -> Mapping[str, float | str | None]:
        """What a sound one shows, and what may take its place."""
        part = self.part
        if not part.capacitor or not part.value or part.family is None:
            words = [
                f"{ask.procedure.short}{' ' + ask.pair.words if ask.pair else ''} "
                f"{part.kind.expect(part, ask, self.condition)}"
                for ask in part.kind.asks(part)
                if part.kind.expect(part, ask, self.condition)
            ]
            return {"text": "; ".join(words)}
        cap = capacitor.capacitor(part)
        typical = cap.expected_esr()
        leak = leakage_limit_a(cap.family, cap.farad, cap.volt) if cap.volt else None
        return {
            "esr_ohm": judgement.expected_esr_ohm or (typical.ohm if typical else None),
            "good_esr_ohm": cap.good_esr_ohm if capacitor.has_esr(part) else None,
            "cap_f": judgement.expected_farad or cap.nominal_farad,
            "leak_a": leak,
            "text": _new_words(part, cap, leak),
            "replace": _replace_words(part, cap),
        }

    def _next(self, judgement: Judgement, reasons: list[Reason]) -> str:
        """What to read next: what would change the verdict, else what the action asks."""
        if not self.readings and not self.seen:
            return self._first_reading()
        if judgement.action in (Action.LIFT, Action.MEASURE):
            change = next((r.change for r in reasons if r.change), "")
            lift = "Lift one leg and read it again."
            return change or (lift if judgement.action is Action.LIFT else self._first_reading())
        if judgement.action is Action.REPLACE:
            return "Replace it; read the new one before it is fitted."
        hidden = next((r.change for r in reasons if r.code == "not-proven" and r.change), "")
        return hidden or "Nothing more is needed at this part: go on to the next."

    def _first_reading(self) -> str:
        taken = {(r.procedure, r.pair) for r in self.readings}
        ask = next(
            (a for a in self.part.kind.asks(self.part) if (a.procedure, a.pair) not in taken), None
        )
        if ask is None:
            return "Lift one leg and read it again."
        pins = f", {ask.pair.words}" if ask.pair else ""
        words = self.part.kind.expect(self.part, ask, self.condition)
        return f"Read its {ask.procedure.label}{pins}" + (f": {words}." if words else ".")


def _new_words(part: Part, cap: Capacitor, leak: float | None) -> str:
    """What a new one of this value shows."""
    low = cap.nominal_farad * (1 - cap.tolerance_low)
    high = cap.nominal_farad * (1 + cap.tolerance_high)
    words = [f"C {show(low, Unit.FARAD)} to {show(high, Unit.FARAD)}"]
    typical = cap.expected_esr()
    if typical and capacitor.has_esr(part):
        good = show(cap.good_esr_ohm or 0.0, Unit.OHM)
        words.append(f"ESR about {show(typical.ohm, Unit.OHM)}, good to {good}")
    if leak:
        words.append(f"leakage below {show(leak, Unit.AMPERE)} after two minutes")
    if cap.family.insulates:
        words.append("lifted 10 MΩ or more")
    return "; ".join(words)


def _replace_words(part: Part, cap: Capacitor) -> str:
    """What may take its place, by the rules of substitution."""
    if cap.family.is_suppressor:
        may = ", ".join(CLASSES.get(part.safety_class or "X2", ("X2",)))
        low, high = MAY_BE[Role.SUPPRESSOR_X]
        span = _span(cap.farad, low, high)
        return f"An approved film part of class {may}, {span}, for at least its rated volts."
    if cap.family.insulates:
        share = MAY_BE[Role.COUPLING][0]
        volts = f"; {cap.volt:g}\u00a0V or more" if cap.volt else ""
        return f"{_span(cap.farad, share, share)} of the same family{volts}."
    filters = _span(cap.farad, *MAY_BE[Role.OUTPUT_FILTER])
    bulk = show(cap.farad * (1 + MAY_BE[Role.BULK][1]), Unit.FARAD)
    exact = 100 * MAY_BE[Role.TIMING][0]
    words = [f"{filters} as an output filter, up to {bulk} as bulk, ±{exact:.0f} % where it times"]
    if cap.volt:
        most = f", up to {VOLT_MUCH * cap.volt:g}\u00a0V" if cap.family.is_wet else ""
        words.append(f"{cap.volt:g}\u00a0V or more{most}")
    if cap.family is Family.TANTALUM:
        words.append("at twice the rail's volts or more, or aluminium of the same value")
    if cap.family.is_wet:
        words.append("105 °C")
    typical = cap.expected_esr()
    if typical and capacitor.has_esr(part):
        least, most = (show(share * typical.ohm, Unit.OHM) for share in (ESR_LOW, ESR_HIGH))
        words.append(f"ESR {least} to {most}")
    return f"{'; '.join(words)}."


def _span(farad: float, low: float, high: float) -> str:
    return f"{show(farad * (1 - low), Unit.FARAD)} to {show(farad * (1 + high), Unit.FARAD)}"


class UnmarkedQuestion(Struct, frozen=True):
    """What was read of a capacitor whose marked value was not said."""

    readings: tuple[PartReading, ...]
    condition: Condition

    def answer(self, _: Circumstances) -> Answer:
        """Of farads: which made values they would be good, worn or failed of.

        Nothing is proven without a value. Raises InputError for readings that say less than that.
        """
        if [one.procedure for one in self.readings] != [CAPACITANCE]:
            raise InputError("Of what? Write the part in front: 2200u 10V esr 0.08.")
        read = self.readings[0].meant
        if not 0 < read.value < math.inf:
            raise InputError(
                f"C {read.echo} fits no value. Write the part in front: 2200u 10V C OL."
            )
        grades: dict[Verdict, list[str]] = {}
        limits = capacitance_limits(Family.ALUMINIUM)
        for farad in _made_near(read.value):
            verdict = ratio_verdict(1 - read.value / farad, limits)
            grades.setdefault(verdict, []).append(show(farad, Unit.FARAD))
        said = "; ".join(f"{verdict.value} of {', '.join(of)}" for verdict, of in grades.items())
        is_lifted = self.condition is Condition.LIFTED
        where = "lifted" if is_lifted else "in circuit, where neighbours may add"
        text = f"{read.echo} {where}: {said}, if it is aluminium."
        return Answer(
            f"{CAPACITANCE.label} {read.echo}, {self.condition.words}, no value marked",
            Verdict.UNPROVEN.value,
            Verdict.UNPROVEN.shape,
            Action.MEASURE.value,
            (Reason("no-value", text, change="Say what is marked on it."),),
            "Write what is marked on it in front: 2200u 10V C 1650u lifted.",
            read.echo,
            {"text": said},
        )


def _made_near(farad: float) -> list[float]:
    """Made values of which this could be what is left: from its own size to some half more."""
    decade = math.floor(math.log10(farad)) if farad > 0 else 0
    made = [step * 10.0**power for power in (decade - 1, decade, decade + 1) for step in MADE]
    return [value for value in made if farad / 1.15 <= value <= 1.6 * farad]
