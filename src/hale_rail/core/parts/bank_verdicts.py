"""Judges a bank: capacitors that share a node and are read together, in circuit.

Source: exact admittance arithmetic of `hale_rail.core.parts.banks`; a bank below the sum of its
members' lower tolerances has lost capacitance; otherwise, while “one member open” is not excluded,
it is unproven, and the fewest legs to lift are said.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.parts import banks
from hale_rail.core.parts import families as fam
from hale_rail.core.parts.banks import BankState, Member, Meter
from hale_rail.core.parts.capacitor_verdicts import is_too_good, near_limit, too_good
from hale_rail.core.parts.capacitors import Capacitor, Readings, age, look, ratio_verdict
from hale_rail.core.parts.conduction import is_short, may_be_short
from hale_rail.core.parts.families import TypicalEsr
from hale_rail.core.parts.measured import MeasuredValue
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict, conclude
from hale_rail.core.procedures import ESR
from hale_rail.core.quantities import Unit, show, times

#: a loss below this share of one part is not told as a number of parts
_WORTH_SAYING = 0.05
#: share of the nominal sum from which a bank may be good
GOOD_SHARE = 0.9
#: the most parts that share a bank
MOST_MEMBERS = 64


class BankJudgement(Struct, frozen=True):
    """A bank's judgement, its single-fault states, and the legs to lift (0: none needed)."""

    judgement: Judgement
    states: tuple[BankState, ...]
    legs: int
    #: place among the members of the leg to lift first
    lift_first: int = 0

    @property
    def grouped(self) -> list[tuple[tuple[str, ...], BankState]]:
        """The states, those that show the same together: whose they are, and one of them."""
        groups: dict[BankState, list[str]] = {}
        for state in self.states:
            groups.setdefault(replace(state, member=""), []).append(state.member)
        return [(tuple(filter(None, names)), state) for state, names in groups.items()]


def member(name: str, cap: Capacitor) -> Member:
    """A capacitor in the form that the bank arithmetic takes."""
    typical = cap.expected_esr()
    spread = banks.ESR_SPREAD_FRESH if cap.fresh_esr_ohm else banks.ESR_SPREAD_TYPICAL
    return Member(
        name,
        cap.fresh_farad or cap.farad,
        typical.ohm if typical else None,
        cap.tolerance_low,
        cap.tolerance_high,
        spread,
    )


def judge_bank(
    caps: Sequence[tuple[str, Capacitor]],
    readings: Readings,
    meter: Meter,
    *,
    rail_has_volts: bool = False,
) -> BankJudgement:
    """Judge two or more capacitors by what was read across them together, in circuit.

    Good only when C and ESR were read, an open member is excluded by C, C is at least nine tenths
    of the nominal sum and ESR at most twice the bank's typical. `rail_has_volts`: volts stood on
    their line, which no short allows. What the eye saw is each member's own: `judge_member` adds
    it.
    """
    if len(caps) > MOST_MEMBERS:
        text = f"{len(caps)} parts in one bank: no reading tells so many apart."
        change = f"Divide it on the sheet: at most {MOST_MEMBERS} parts share a bank."
        reason = Reason("bank-too-large", text, Verdict.UNPROVEN, change)
        return BankJudgement(conclude([reason]), (), 0)
    members = [member(name, cap) for name, cap in caps]
    cap_f, esr_ohm = banks.expected(members, meter)
    good_ohm = _limits(caps).good * esr_ohm if esr_ohm else None
    if not readings.is_measured:
        unread = [Reason("not-measured", "Nothing has been read yet.")]
        return BankJudgement(conclude(unread, cap_f, esr_ohm, good_ohm), (), 0)
    bank = _Bank(caps, members, meter, readings, esr_ohm, rail_has_volts)
    reasons = bank.reasons()
    legs = lift_first = 0
    if any(r.action is Action.LIFT for r in reasons) and not _is_proven(reasons):
        legs = banks.legs_to_lift(members, meter)
        lift = banks.best_lift(members, meter)
        lift_first = lift.index
        reasons.append(_lift(legs, len(members), members[lift.index].name, lift))
    judgement = conclude(reasons, cap_f, esr_ohm, good_ohm)
    return BankJudgement(judgement, tuple(bank.states), legs, lift_first)


def _is_proven(reasons: Sequence[Reason]) -> bool:
    return any(r.argues in (Verdict.FAILED, Verdict.WORN) for r in reasons)


class _Bank:
    """The members, what was read across them, and what each reading argues."""

    def __init__(
        self,
        caps: Sequence[tuple[str, Capacitor]],
        members: Sequence[Member],
        meter: Meter,
        readings: Readings,
        esr_ohm: float | None,
        rail_has_volts: bool,
    ) -> None:
        self.caps = caps
        self.members = members
        self.meter = meter
        self.readings = readings
        self.esr_ohm = esr_ohm
        ohm = readings.ohm
        is_whole = ohm is not None and not is_short(ohm) and not may_be_short(ohm)
        farad, esr = readings.farad, readings.esr
        self.states = banks.hypotheses(
            members,
            meter,
            farad.value if farad else None,
            esr.value if esr else None,
            farad.digit if farad else 0.0,
            has_no_short=is_whole or rail_has_volts,
        )

    def reasons(self) -> list[Reason]:
        """What each reading argues, then what stays hidden."""
        reasons = _short(self.readings)
        reasons += self._lost() if self.readings.farad else []
        reasons += self._esr() if self.readings.esr else []
        if not _is_proven(reasons):
            reasons += self._hidden()
        return reasons

    def _lost(self) -> list[Reason]:
        """A loss that no tolerance explains, said in members."""
        value = self.readings.farad
        if value is None:
            return []
        if math.isinf(value.value):
            text = "The capacitance meter shows over-range across the bank: shorted or leaking."
            return [Reason("cap-over", text, Verdict.UNPROVEN, "Read its resistance.")]
        total = sum(m.farad for m in self.members)
        missing, text = self._missing(value.value, total)
        floor = banks.lowest_sound(self.members, self.meter)
        error = self.meter.cap_error(value.value, value.digit)
        if value.value + error >= floor:
            return self._not_lost(value, text, floor, total)
        worn = max(cap.loss_limits.worn for _, cap in self.caps)
        verdict = Verdict.FAILED if missing / total > worn else Verdict.WORN
        text = f"{text}; below the {show(floor, Unit.FARAD, 4)} their tolerances allow by more "
        text += "than the meter's error, so capacitance is proven lost."
        return [Reason("bank-lost", text, verdict, "Lifting one leg at a time tells whose.")]

    def _missing(self, farad: float, total: float) -> tuple[float, str]:
        missing, count = banks.lost_members(self.members, farad)
        text = f"{len(self.members)} parts of {show(total, Unit.FARAD, 4)} in all read "
        text += f"{show(farad, Unit.FARAD, 4)}: "
        if count < _WORTH_SAYING:
            return missing, text + "next to nothing is missing from the sum"
        text += f"short by {show(missing, Unit.FARAD)}, as if {count:.1f} of a part were missing"
        return missing, text

    def _not_lost(
        self, value: MeasuredValue, text: str, floor: float, total: float
    ) -> list[Reason]:
        reasons = [Reason("bank-sum", text + ".")]
        nominal = self.states[0]
        if value.value < GOOD_SHARE * total:
            not_lost = (
                f"Below nine tenths of the sum, not yet below {show(floor, Unit.FARAD, 4)} by "
            )
            not_lost += "more than the meter's error: neither sound nor proven lost."
            reasons.append(Reason("bank-low", not_lost, Verdict.UNPROVEN, action=Action.LIFT))
        elif nominal.is_by_farad:
            not_lost = "More than their tolerances allow: it may be leakage that reads."
            change = "Read its resistance."
            reasons.append(Reason("bank-high", not_lost, Verdict.UNPROVEN, change, Action.MEASURE))
        return reasons

    def _esr(self) -> list[Reason]:
        value = self.readings.esr
        if value is None:
            return []
        if math.isinf(value.value):
            return [Reason("esr-open", "ESR over-range across the bank: open.", Verdict.FAILED)]
        has_no_short = self.states[-1].excluded
        if is_too_good(value, self.esr_ohm) and not has_no_short:
            typical = TypicalEsr(self.esr_ohm, False) if self.esr_ohm else None
            return [too_good(value, typical)]
        if self.esr_ohm is None:
            return [Reason("esr-no-figure", "No typical ESR is known for this bank.")]
        limits = _limits(self.caps)
        ratio = value.value / self.esr_ohm
        text = (
            f"ESR {show(value.value, Unit.OHM)} across the bank: {times(ratio)} × the "
            f"{show(self.esr_ohm, Unit.OHM)} of {len(self.caps)} new parts together "
            f"(good to {limits.good:g} ×, worn to {limits.worn:g} ×)."
        )
        verdict = ratio_verdict(ratio, limits)
        near = near_limit(
            ratio, value.error(ESR) / self.esr_ohm, (limits.good, limits.worn), "ratio"
        )
        if verdict is Verdict.GOOD:
            return [Reason("bank-esr", text), *near]
        change = "Lifting one leg at a time tells whose."
        return [Reason(f"esr-{verdict.value}", text, verdict, change), *near]

    def _hidden(self) -> list[Reason]:
        """Which single faults the readings exclude, and which they leave possible."""
        if self.readings.farad is None:
            text = "Only the capacitance of the bank tells that no member is open."
            change = "Read its capacitance."
            return [Reason("cap-unread", text, Verdict.UNPROVEN, change, Action.MEASURE)]
        left: dict[str, list[str]] = {"open": [], "dried": [], "shorted": []}
        for state in self.states:
            if state.member and not state.excluded:
                left[state.kind].append(state.member)
        reasons = []
        if left["open"]:
            names = _names(left["open"])
            text = f"One member open is not excluded ({names}): the others hide it."
            reasons.append(Reason("open-hidden", text, Verdict.UNPROVEN, action=Action.LIFT))
        else:
            text = "No member can be open: the sum of the others, at the top of their tolerance, "
            text += "would not reach this reading."
            reasons.append(self._open_excluded(text))
        if left["dried"]:
            names = _names(left["dried"])
            text = f"A member at half its capacitance is not excluded ({names})."
            reasons.append(Reason("dried-hidden", text, change="Lifting one leg would tell."))
        return reasons

    def _open_excluded(self, text: str) -> Reason:
        """Good, once ESR was read beside it; a bank of unknown ESR is good by C."""
        if self.readings.esr is None and self.esr_ohm is not None:
            change = "Read its ESR."
            return Reason("open-excluded", text, Verdict.UNPROVEN, change, Action.MEASURE)
        return Reason("open-excluded", text, Verdict.GOOD)


def judge_member(
    bank: Judgement,
    cap: Capacitor,
    visual: tuple[str, ...],
    this_year: int,
    unit_year: int | None = None,
) -> Judgement:
    """One member: what was read across the bank, with its own looks and age."""
    reasons = [*bank.reasons, *look(cap, Readings(visual=visual))]
    reasons += age(cap, reasons, this_year, unit_year)
    return conclude(reasons, bank.expected_farad, bank.expected_esr_ohm, bank.good_esr_ohm)


def _short(readings: Readings) -> list[Reason]:
    value = readings.ohm
    if value is not None and may_be_short(value):
        text = f"{show(value.value, Unit.OHM)} across the bank: with leads of 0.2 to 0.5 Ω it may "
        text += "be below 1 Ω."
        change = "Null the leads and read again."
        return [Reason("maybe-short", text, Verdict.UNPROVEN, change, Action.MEASURE)]
    if value is None or not is_short(value):
        return []
    text = f"{show(value.value, Unit.OHM)} across the bank, below 1 Ω: a short on this node."
    change = "Lift one leg at a time; the one that takes the short away is it."
    return [Reason("short-on-node", text, Verdict.UNPROVEN, change, Action.LIFT)]


def _limits(caps: Sequence[tuple[str, Capacitor]]) -> fam.Limits:
    """Multiples of the expected ESR: the narrower ones once every member has a fresh figure."""
    is_fresh = all(cap.fresh_esr_ohm for _, cap in caps)
    return fam.ESR_FRESH if is_fresh else fam.ESR_TYPICAL


def _lift(legs: int, size: int, first: str, lift: banks.Lift) -> Reason:
    text = (
        f"Lift {legs} leg{'s' if legs > 1 else ''} of {size}, {first} first: it settles "
        f"{lift.settled} of {lift.hidden} states. Read each lifted part by itself and the rest "
        "together."
    )
    return Reason("legs-to-lift", text)


def _names(names: Sequence[str]) -> str:
    return "any of them" if len(names) > 3 else " or ".join(names)
