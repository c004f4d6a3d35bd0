"""The facet of grounds: every rail's ohms to ground, cold, both ways round, and low injections."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import partial

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.void_readings import void
from hale_rail.core.parts.kinds import connector
from hale_rail.core.procedures import GROUND, INJECT, Condition, span_text
from hale_rail.core.quantities import Unit
from hale_rail.core.shorts.ground import (
    LEAKY_OHM,
    GroundJudgement,
    GroundVerdict,
    both_ends,
    judge_injection,
    judge_ohm,
    polarity_text,
    which_side,
    worse,
)
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Place
from hale_rail.store.readings import Reading

#: connector on or off, attached first since nothing is unplugged for it
SIDES = (Condition.ATTACHED, Condition.ISOLATED)
REVERSED = {
    Condition.ATTACHED: Condition.ATTACHED_REVERSED,
    Condition.ISOLATED: Condition.ISOLATED_REVERSED,
}
LOW = (GroundVerdict.SHORT, GroundVerdict.SUSPICIOUS)


class GroundFacts(Struct, frozen=True):
    """A rail to ground on one side: ohms both ways round, and the judgement of the usual one."""

    usual: Reading | None
    reversed: Reading | None
    judgement: GroundJudgement | None

    @property
    def is_low(self) -> bool:
        """True when it reads short or suspicious."""
        return self.judgement is not None and self.judgement.verdict in LOW

    @property
    def ohm(self) -> float:
        """The ohms that are judged; inf while nothing is read."""
        judged = self.usual or self.reversed
        return judged.value if judged else math.inf


class RailGround(Struct, frozen=True):
    """A rail with its ohms to ground and low injections by side, and the connector it leaves by."""

    rail: Rail
    sides: Mapping[Condition, GroundFacts]
    injections: Mapping[Condition, tuple[Reading, GroundJudgement]]
    connector: str = ""

    @property
    def side_text(self) -> str:
        """Which side of the connector a short is on, once both sides are read."""
        attached, isolated = (self.sides[side] for side in SIDES)
        if attached.judgement is None or isolated.judgement is None:
            return ""
        return which_side(
            (isolated.ohm, isolated.judgement.verdict),
            (attached.ohm, attached.judgement.verdict),
            self.connector,
        )

    @property
    def polarity_text(self) -> str:
        """What both polarities of a low reading say, attached before isolated."""
        for side in SIDES:
            facts = self.sides[side]
            is_good = facts.judgement and facts.judgement.verdict is GroundVerdict.GOOD
            if facts.judgement and not is_good and facts.usual and facts.reversed:
                return polarity_text(facts.usual.value, facts.reversed.value)
        return ""


@facet
def grounds(case: CaseFile) -> tuple[RailGround, ...]:
    """Every rail in drawing order."""
    rows = case.rows
    grounds = []
    for rail in case.sheet.rails:
        known = rows.of_rail.get(rail.key, ())
        own = tuple(r for r in known if r.id not in void(case)) if void(case) else known
        given = (rows.sheet_version, own, rows.records)
        grounds.append(case.keep(("ground", rail.key), given, partial(_rail, case, rail, own)))
    return tuple(grounds)


@facet
def shorted_rails(case: CaseFile) -> frozenset[str]:
    """Keys of the rails that read short to ground, attached or isolated."""
    return frozenset(
        ground.rail.key
        for ground in grounds(case)
        for facts in ground.sides.values()
        if facts.judgement and facts.judgement.verdict is GroundVerdict.SHORT
    )


def _rail(case: CaseFile, rail: Rail, own: Sequence[Reading]) -> RailGround:
    here = [r for r in own if r.target.place is Place.NONE]
    ohms = {r.condition: r for r in here if r.procedure is GROUND}
    injected = {r.condition: r for r in here if r.procedure is INJECT}
    return RailGround(
        rail,
        {side: _side(case, rail, side, ohms) for side in SIDES},
        {side: (r, _injection(r)) for side, r in injected.items()},
        next(
            (p.ref for p in case.sheet.parts if p.kind is connector.KIND and rail.key in p.rails),
            "",
        ),
    )


def _side(
    case: CaseFile, rail: Rail, side: Condition, ohms: Mapping[Condition, Reading]
) -> GroundFacts:
    usual, turned = ohms.get(side), ohms.get(REVERSED[side])
    judged = usual or turned
    if judged is None:
        return GroundFacts(None, None, None)
    judgement = judge_reading(case, rail, judged)
    if usual and turned and turned.high < LEAKY_OHM:
        judgement = worse(judgement, judge_reading(case, rail, turned))
    return GroundFacts(usual, turned, judgement)


def judge_reading(case: CaseFile, rail: Rail, read: Reading) -> GroundJudgement:
    """One reading to ground by itself; of a jumping one both ends."""
    side = next(s for s in SIDES if read.condition in (s, REVERSED[s]))
    record = record_ohm(case, rail.key, read.condition, read.taken_at)
    low, high = (
        judge_ohm(
            ohm, side is Condition.ATTACHED, rail.nominal_v, record, sheet_ohm(rail, side),
            rail.load_max_a, is_ac=rail.is_ac,
        )
        for ohm in (read.value, read.high)
    )  # fmt: skip
    if read.value == read.high:
        return low
    return both_ends(low, high, span_text(read.value, read.high, Unit.OHM))


def sheet_ohm(rail: Rail, condition: Condition) -> float | None:
    """What the sheet expects of a rail to ground, in ohms."""
    is_attached = condition in (Condition.ATTACHED, Condition.ATTACHED_REVERSED)
    return rail.ohm_attached if is_attached else rail.ohm_isolated


def record_ohm(
    case: CaseFile, rail: str, condition: Condition, read_at: str | None = None
) -> float | None:
    """What the newest like unit read there, in ohms.

    For a reading only records that stood when it was taken count: a unit handed back later does not
    judge it again.
    """
    record_ohm = [
        record.ohm
        for record in case.rows.records
        if record.rail == rail
        and record.condition == condition.code
        and (read_at is None or record.made_at <= read_at)
    ]
    return record_ohm[-1] if record_ohm else None


def _injection(reading: Reading) -> GroundJudgement:
    return judge_injection(reading.figures["volt"], reading.figures["ampere"])
