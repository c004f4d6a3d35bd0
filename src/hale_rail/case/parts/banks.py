"""Judges the parts of one node: one alone by its kind, a bank of capacitors together.

In circuit a reading is taken across the whole bank; a member that was lifted is read by itself, and
what is read after that across the rest is the rest's.
"""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.case.parts.nodes import (
    USUAL_METER,
    Node,
    PartFacts,
    concluded,
    judged,
    part_readings,
    says_of_health,
)
from hale_rail.core.parts.bank_verdicts import BankJudgement, judge_bank, judge_member
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.capacitors import Capacitor
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.procedures import CAPACITANCE, ESR, Condition
from hale_rail.store.readings import Reading


def judge_node(node: Node) -> list[PartFacts]:
    """Facts of every part of a node."""
    if len(node.parts) == 1 or not all(_is_judged(p) for p in node.parts):
        return [_alone(node, part, node.now[part.id]) for part in node.parts]
    return _JudgedBank(node).judged()


def _is_judged(part: Part) -> bool:
    return part.kind is capacitor.KIND and capacitor.is_judged(part)


def _alone(node: Node, part: Part, own: Sequence[Reading]) -> PartFacts:
    judgement = judged(part, part_readings(node, part, own, is_new=part.id in node.fitted))
    is_told = judgement.verdict in (Verdict.GOOD, Verdict.FAILED)
    has_readings = says_of_health(node, part, own) or is_told
    return concluded(node, part, judgement, has_readings=has_readings)


def _was_lifted(own: Sequence[Reading]) -> bool:
    return any(r.condition is Condition.LIFTED for r in own)


def _in_circuit(own: Sequence[Reading]) -> list[Reading]:
    return [r for r in own if r.condition is Condition.IN_CIRCUIT]


class _JudgedBank:
    """A bank: who took part in its newest reading, which readings speak for it, and the verdict."""

    def __init__(self, node: Node) -> None:
        self.node = node
        self.members = self._still_in()
        self.speaking = self._across()
        self.bank = self._judge() if len(self.members) > 1 else None

    def judged(self) -> list[PartFacts]:
        """Facts of every part of the bank."""
        return [self._member(part) for part in self.node.parts]

    def _still_in(self) -> list[Part]:
        """Members that took part in the bank's newest in-circuit reading.

        A member read lifted before that reading is taken to have been lifted still.
        """
        node = self.node
        across = [r.id for p in node.parts for r in _in_circuit(node.ever[p.id])]
        newest = max(across, default=0)
        stayed = []
        for part in node.parts:
            lifted = [r.id for r in node.now[part.id] if r.condition is Condition.LIFTED]
            if not lifted or min(lifted) > newest:
                stayed.append(part)
        return stayed

    def _across(self) -> list[Reading]:
        """Readings across the members, since the others were lifted and since a part was changed.

        While there are none since a change, the older ones still speak for those not changed.
        """
        node = self.node
        out = [node.now[p.id] for p in node.parts if p not in self.members]
        since = max(
            (min(r.id for r in own if r.condition is Condition.LIFTED) for own in out), default=0
        )
        across = [r for p in self.members for r in _in_circuit(node.ever[p.id]) if r.id > since]
        across.sort(key=lambda reading: reading.id)
        for at in sorted((node.fitted.get(p.id, 0) for p in self.members), reverse=True):
            later = [r for r in across if r.log_id > at]
            if later:
                return later
        return across

    def _judge(self) -> BankJudgement:
        first = self.members[0]
        readings = capacitor.cap_readings(part_readings(self.node, first, self.speaking))
        caps = [(p.ref, self._cap(p)) for p in self.members]
        has_volts = self.node.rail_has_volts
        return judge_bank(caps, readings, self._meter(), rail_has_volts=has_volts)

    def _cap(self, part: Part) -> Capacitor:
        fresh = self.node.fresh[part.id]
        return capacitor.capacitor(part, fresh.farad, fresh.esr_ohm)

    def _meter(self) -> Meter:
        """The meters that the bank's newest C and ESR were read with, as one."""
        newest = {r.procedure.code: r for r in self.speaking}
        cap, esr = newest.get(CAPACITANCE.code), newest.get(ESR.code)
        cap_meter, esr_meter = self.node.meter(cap), self.node.meter(esr)
        return Meter(
            cap_hz=cap_meter.cap_hz,
            esr_hz=esr_meter.esr_hz,
            cap_share=cap.accuracy.share if cap else USUAL_METER.cap_share,
            esr_share=esr.accuracy.share if esr else USUAL_METER.esr_share,
            esr_ohm=esr.accuracy.fixed if esr else USUAL_METER.esr_ohm,
            lead_ohm=esr_meter.lead_ohm,
            esr_min_farad=esr_meter.esr_min_farad,
        )

    def _member(self, part: Part) -> PartFacts:
        node = self.node
        bank = self.bank if self._is_spoken_for(part) else None
        own = node.now[part.id]
        left = self.speaking if self.members == [part] else []
        alone = [r for r in own if r.condition is not Condition.IN_CIRCUIT or r in left]
        if bank:
            seen = node.seen.get(part.id, ())
            judgement = judge_member(
                bank.judgement,
                capacitor.capacitor(part),
                seen,
                node.this_year,
                node.unit_year,
            )
        else:
            judgement = part.kind.judge(
                part, part_readings(node, part, alone, is_new=part.id in node.fitted)
            )
        has_readings = says_of_health(node, part, alone) or bool(bank and self.speaking)
        has_readings |= judgement.verdict is Verdict.GOOD
        return concluded(node, part, judgement, has_readings=has_readings, bank=bank)

    def _is_spoken_for(self, part: Part) -> bool:
        """True when the readings across the bank are this part's too."""
        node = self.node
        if part not in self.members or _was_lifted(node.now[part.id]):
            return False
        return not self.speaking or self.speaking[-1].log_id > node.fitted.get(part.id, 0)
