"""What the parts of one node are judged with, and what is then known of each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail.core.parts.bank_verdicts import BankJudgement
from hale_rail.core.parts.banks import Meter
from hale_rail.core.parts.decisions import Decision, DecisionKind
from hale_rail.core.parts.measured import NOTHING_BESIDE, Beside, Key, MeasuredValue, PartReadings
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.states import PartState, of_verdict
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict, conclude
from hale_rail.core.procedures import ESR, Condition, Procedure
from hale_rail.store.readings import Reading

_ON_PART = (Condition.IN_CIRCUIT, Condition.LIFTED)
USUAL_METER = Meter()
_MILDEST = (Verdict.GOOD, Verdict.UNPROVEN, Verdict.WORN, Verdict.FAILED)


class PartFacts(Struct, frozen=True):
    """A part with its state, the judgement, and what that follows from.

    `readings`: the standing ones of the part now fitted, oldest first; `seen`: codes of its newest
    look; `bank`: the judgement of its bank while it is read with it; `mates`: the bank's parts;
    `former`: the part that was replaced, as it was, read by itself.
    """

    part: Part
    state: PartState
    judgement: Judgement
    readings: tuple[Reading, ...]
    seen: tuple[str, ...] = ()
    decision: Decision | None = None
    bank: BankJudgement | None = None
    mates: tuple[Part, ...] = ()
    former: PartFacts | None = None

    @property
    def verdict_but_age(self) -> Verdict | None:
        """What was read and seen says, age left aside; None while nothing was."""
        if self.state in (PartState.UNSEEN, PartState.REPLACED):
            return None
        return self.judgement.verdict_but_age

    @property
    def is_fitted(self) -> bool:
        """True when the part was replaced."""
        return self.decision is not None and self.decision.kind is DecisionKind.FITTED

    @property
    def is_kept(self) -> bool:
        """True where nothing more is asked of it, proven or not: a winding that is whole."""
        return self.judgement.action is Action.KEEP

    @property
    def wants_lift(self) -> bool:
        """True while only a lifted leg would tell."""
        return self.judgement.action is Action.LIFT and self.state is PartState.UNPROVEN

    def latest(self, procedure: Procedure) -> Reading | None:
        """The newest standing reading of a procedure; a lifted one outranks one in circuit."""
        own = [r for r in self.readings if r.procedure is procedure]
        return max(own, key=lambda r: (r.condition is Condition.LIFTED, r.id), default=None)


class Fresh(Struct, frozen=True):
    """A fresh part's figures, farads and ohms, where they were read."""

    farad: float | None = None
    esr_ohm: float | None = None


class Node(Struct, frozen=True):
    """What the parts of one bank (or one part alone) are judged with.

    `ever`: standing readings by part, those of a part since replaced too; `now`: those of the part
    now fitted; `fitted`: the log id of a part's replacement; `fresh`: figures of new parts;
    `beside`: what the sheet has beside a capacitor; `seen_before`: what was seen at a part that was
    replaced since.
    """

    parts: tuple[Part, ...]
    ever: Mapping[int, tuple[Reading, ...]]
    now: Mapping[int, tuple[Reading, ...]]
    fitted: Mapping[int, int]
    seen: Mapping[int, tuple[str, ...]]
    decisions: Mapping[int, Decision]
    fresh: Mapping[int, Fresh]
    meters: Mapping[int, Meter]
    output_right: bool
    this_year: int
    unit_year: int | None = None
    rail_has_volts: bool = False
    beside: Mapping[int, Beside] = field(default_factory=dict)
    seen_before: Mapping[int, tuple[str, ...]] = field(default_factory=dict)

    def meter(self, reading: Reading | None) -> Meter:
        """The meter a reading was taken with."""
        if reading is None or reading.meter_id is None:
            return USUAL_METER
        return self.meters[reading.meter_id]


def part_readings(
    node: Node, part: Part, own: Sequence[Reading], *, is_new: bool = False
) -> PartReadings:
    """Readings in the form that a kind's judgement takes; what the meter's leads add is taken off.

    `is_new`: they are those of a part that was fitted in another's place.
    """
    values: dict[Key, MeasuredValue] = {}
    for condition in (None, Condition.IN_CIRCUIT, Condition.LIFTED):
        for reading in own:
            at = reading.condition if reading.condition in _ON_PART else None
            if at is condition:
                key = (reading.procedure.code, reading.target.pair)
                values[key] = _measured_value(node, reading)
    fresh = node.fresh[part.id]
    esr = next((r for r in reversed(own) if r.procedure is ESR), None)
    return PartReadings(
        values,
        node.seen.get(part.id, ()),
        node.output_right,
        node.this_year,
        fresh.farad,
        fresh.esr_ohm,
        node.meter(esr).esr_min_farad,
        node.unit_year,
        is_new=is_new,
        beside=node.beside.get(part.id, NOTHING_BESIDE),
        fitted=node.decisions[part.id].reason if is_new else "",
    )


def _measured_value(node: Node, reading: Reading) -> MeasuredValue:
    value = reading.value
    if reading.procedure is ESR:
        value = max(0.0, value - node.meter(reading).lead_ohm)
    is_lifted = reading.condition is Condition.LIFTED
    is_again = reading.supersedes is not None
    high = reading.high if reading.high != reading.value else None
    beeps = reading.typed.lower().startswith("beep")
    return MeasuredValue(value, is_lifted, reading.digit, reading.accuracy, is_again, high, beeps)


def judged(part: Part, readings: PartReadings) -> Judgement:
    """A part's judgement by its kind.

    Of a reading that jumps, or of which a bound is known, both ends are judged: what they do not
    agree on is unproven, and of two faults the milder holds.
    """
    ends = readings.ends
    if ends is None:
        return part.kind.judge(part, readings)
    low, high = (part.kind.judge(part, end) for end in ends)
    milder, harder = sorted((low, high), key=lambda one: _MILDEST.index(one.verdict))
    if milder.verdict is harder.verdict or _MILDEST.index(milder.verdict) > 1:
        return milder
    text = "One end of what was read is sound, the other is not."
    change = "Read the figure that the meter shows."
    reasons = [Reason("bound", text, Verdict.UNPROVEN, change, Action.MEASURE)]
    facts = [r for r in milder.reasons if r.argues is None]
    return conclude([*reasons, *facts], milder.expected_farad, milder.expected_esr_ohm)


def concluded(
    node: Node,
    part: Part,
    judgement: Judgement,
    *,
    has_readings: bool,
    bank: BankJudgement | None = None,
) -> PartFacts:
    """A part's facts: its state is the verdict, unless nothing was read or a new part stands."""
    state = of_verdict(judgement.verdict) if has_readings else PartState.UNSEEN
    decision = node.decisions.get(part.id)
    is_fitted = decision is not None and decision.kind is DecisionKind.FITTED
    if is_fitted and state in (PartState.UNSEEN, PartState.GOOD):
        state = PartState.REPLACED
    own = node.now[part.id]
    seen = node.seen.get(part.id, ())
    former = _former(node, part) if is_fitted else None
    return PartFacts(part, state, judgement, own, seen, decision, bank, node.parts, former)


def _former(node: Node, part: Part) -> PartFacts | None:
    """What stood there before the part was replaced, as it was read and seen; None for neither."""
    own = tuple(r for r in node.ever[part.id] if r.log_id <= node.fitted[part.id])
    seen = node.seen_before.get(part.id, ())
    if not own and not seen:
        return None
    judgement = judged(part, replace(part_readings(node, part, own), seen=seen))
    return PartFacts(part, of_verdict(judgement.verdict), judgement, own, seen)


def says_of_health(node: Node, part: Part, own: Sequence[Reading]) -> bool:
    """True when anything was read or seen that bears on how sound a part is."""
    return any(r.procedure.is_of_health for r in own) or bool(node.seen.get(part.id))
