"""Judges a bank: capacitors that share a node and are read together, in circuit.

Source: exact admittance arithmetic of `hale_rail.core.parts.banks`; a bank below the sum of its
members' lower tolerances has lost capacitance; otherwise, while “one member open” is not excluded,
it is unproven, and the fewest legs to lift are said.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hale_rail.core.parts import banks
from hale_rail.core.parts import families as fam
from hale_rail.core.parts.banks import Hypothesis, Member, Meter
from hale_rail.core.parts.capacitors import Capacitor, Readings, age, look, ratio_verdict
from hale_rail.core.parts.taken import Taken
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict, conclude
from hale_rail.core.quantities import Unit, show

#: a loss below this share of one part is not said in members
_WORTH_SAYING = 0.05


@dataclass(frozen=True)
class BankJudgement:
    """A bank's judgement, its single-fault states, and the legs to lift (0: none needed)."""

    judgement: Judgement
    states: tuple[Hypothesis, ...]
    legs: int
    #: place among the members of the leg to lift first
    lift_first: int = 0

    @property
    def grouped(self) -> list[tuple[tuple[str, ...], Hypothesis]]:
        """The states, those that show the same together: whose they are, and one of them."""
        groups: dict[Hypothesis, list[str]] = {}
        for state in self.states:
            groups.setdefault(replace(state, member=""), []).append(state.member)
        return [(tuple(filter(None, names)), state) for state, names in groups.items()]


def member(name: str, cap: Capacitor) -> Member:
    """A capacitor as the bank arithmetic wants it."""
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
    caps: Sequence[tuple[str, Capacitor]], readings: Readings, meter: Meter
) -> BankJudgement:
    """Judge two or more capacitors by what was read across them together, in circuit.

    What the eye saw is each member's own: `judge_member` adds it.
    """
    members = [member(name, cap) for name, cap in caps]
    cap_f, esr_ohm = banks.expected(members, meter)
    good_ohm = _limits(caps).good * esr_ohm if esr_ohm else None
    if not readings.is_measured:
        unread = [Reason("not-measured", "Nothing has been read yet.")]
        return BankJudgement(conclude(unread, cap_f, esr_ohm, good_ohm), (), 0)
    farad = readings.farad
    states = banks.hypotheses(
        members,
        meter,
        farad.value if farad else None,
        readings.esr.value if readings.esr else None,
        farad.digit if farad else 0.0,
    )
    reasons = _short(readings)
    reasons += _lost(members, caps[0][1].family, farad, meter) if farad else []
    reasons += _esr(caps, readings.esr, esr_ohm) if readings.esr and esr_ohm else []
    legs = lift_first = 0
    if not any(r.argues in (Verdict.FAILED, Verdict.WORN) for r in reasons):
        reasons += _hidden(states, readings)
        legs = banks.legs_to_lift(members, meter)
        if any(r.argues is Verdict.GOOD for r in reasons):
            legs = lift_first = 0
        else:
            lift = banks.best_lift(members, meter)
            lift_first = lift.index
            reasons.append(_lift(legs, len(members), members[lift.index].name, lift))
    judgement = conclude(reasons, cap_f, esr_ohm, good_ohm)
    return BankJudgement(judgement, tuple(states), legs, lift_first)


def judge_member(
    bank: Judgement, cap: Capacitor, visual: tuple[str, ...], this_year: int
) -> Judgement:
    """One member: what was read across the bank, with its own looks and age."""
    reasons = [*bank.reasons, *look(cap, Readings(visual=visual))]
    reasons += age(cap, reasons, this_year)
    return conclude(reasons, bank.expected_farad, bank.expected_esr_ohm, bank.good_esr_ohm)


def _short(readings: Readings) -> list[Reason]:
    taken = readings.ohm
    if taken is None or taken.value >= fam.SHORT_OHM:
        return []
    text = f"{show(taken.value, Unit.OHM)} across the bank, below 1 Ω: a short on this node."
    change = "Lift one leg at a time; the one that takes the short away is it."
    return [Reason("short-on-node", text, Verdict.UNPROVEN, change, Action.LIFT)]


def _lost(
    members: Sequence[Member], family: fam.Family, taken: Taken, meter: Meter
) -> list[Reason]:
    """A loss that no tolerance explains, said in members."""
    if math.isinf(taken.value):
        text = "The capacitance meter shows over-range across the bank: shorted or leaking."
        return [Reason("cap-over", text, Verdict.UNPROVEN, "Read its resistance.")]
    total = sum(m.farad for m in members)
    missing, count = banks.lost_members(members, taken.value)
    short_by = (
        f"{len(members)} parts of {show(total, Unit.FARAD, 4)} in all read "
        f"{show(taken.value, Unit.FARAD, 4)}: "
    )
    if count >= _WORTH_SAYING:
        short_by += (
            f"short by {show(missing, Unit.FARAD)}, as if {count:.1f} of a part were missing"
        )
    else:
        short_by += "next to nothing is missing from the sum"
    floor = banks.lowest_sound(members, meter)
    if taken.value >= floor:
        return [Reason("bank-sum", short_by + ".")]
    worn = fam.capacitance_limits(family).worn
    verdict = Verdict.FAILED if missing / total > worn else Verdict.WORN
    text = f"{short_by}; below the {show(floor, Unit.FARAD, 4)} their tolerances allow, so "
    text += "capacitance is proven lost."
    return [Reason("bank-lost", text, verdict, "Lifting one leg at a time tells whose.")]


def _limits(caps: Sequence[tuple[str, Capacitor]]) -> fam.Limits:
    """Multiples of the expected ESR: the narrower ones once every member has a fresh figure."""
    is_fresh = all(cap.fresh_esr_ohm for _, cap in caps)
    return fam.ESR_FRESH if is_fresh else fam.ESR_TYPICAL


def _esr(
    caps: Sequence[tuple[str, Capacitor]], taken: Taken | None, expected_ohm: float
) -> list[Reason]:
    if taken is None:
        return []
    if math.isinf(taken.value):
        return [Reason("esr-open", "ESR over-range across the bank: open.", Verdict.FAILED)]
    limits = _limits(caps)
    ratio = taken.value / expected_ohm
    text = (
        f"ESR {show(taken.value, Unit.OHM)} across the bank: {ratio:.2g} × the "
        f"{show(expected_ohm, Unit.OHM)} of {len(caps)} new parts together "
        f"(good to {limits.good:g} ×, worn to {limits.worn:g} ×)."
    )
    verdict = ratio_verdict(ratio, limits)
    if verdict is Verdict.GOOD:
        return [Reason("bank-esr", text)]
    change = "Lifting one leg at a time tells whose."
    return [Reason(f"esr-{verdict.value}", text, verdict, change)]


def _hidden(states: Sequence[Hypothesis], readings: Readings) -> list[Reason]:
    """Which single faults the readings exclude, and which they leave possible."""
    if readings.farad is None and readings.esr is None:
        return []
    left: dict[str, list[str]] = {"open": [], "dried": [], "shorted": []}
    for state in states:
        if state.member and not state.excluded:
            left[state.kind].append(state.member)
    reasons = []
    if left["open"]:
        text = f"One member open is not excluded ({_names(left['open'])}): the others hide it."
        reasons.append(Reason("open-hidden", text, Verdict.UNPROVEN, action=Action.LIFT))
    elif left["shorted"]:
        text = "A shorted member is not excluded."
        change = "Read the resistance or the capacitance of the bank."
        reasons.append(Reason("short-hidden", text, Verdict.UNPROVEN, change))
    else:
        text = "No member can be open: the sum of the others, at the top of their tolerance, "
        text += "would not reach this reading."
        reasons.append(Reason("open-excluded", text, Verdict.GOOD))
    if left["dried"]:
        text = f"A member at half its capacitance is not excluded ({_names(left['dried'])})."
        reasons.append(Reason("dried-hidden", text, change="Lifting one leg would tell."))
    return reasons


def _lift(legs: int, size: int, first: str, lift: banks.Lift) -> Reason:
    text = (
        f"Lift {legs} leg{'s' if legs > 1 else ''} of {size}, {first} first: it settles "
        f"{lift.settled} of {lift.hidden} states. Read each lifted part by itself and the rest "
        "together."
    )
    return Reason("legs-to-lift", text)


def _names(names: Sequence[str]) -> str:
    return "any of them" if len(names) > 3 else " or ".join(names)
