"""Parts that only have to conduct: their judgement by a limit of ohms, shared by their modules."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from msgspec.structs import replace

from hale_rail.core.parts.conduction import conducts_reason
from hale_rail.core.parts.families import LEADS_MATTER_OHM, LEADS_OHM
from hale_rail.core.parts.kinds.common import concluded, looking_for, only_ohms
from hale_rail.core.parts.markings import Marking, WindingMarking
from hale_rail.core.parts.measured import MeasuredValue, PartReadings
from hale_rail.core.parts.modes import FaultMode, never
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.ratings import TYPE_ALONE, Rule
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict
from hale_rail.core.procedures import OHMS, Condition
from hale_rail.core.quantities import Unit, show

#: share of the sheet's ohms that a winding may be off
STATED_SHARE = 0.25
#: what ohms cannot tell of a winding
TURNS = Reason(
    "turns-unproven",
    "Whole; ohms never show that no turns are shorted.",
    Verdict.UNPROVEN,
    "A ring test or another part in its place says.",
    Action.KEEP,
)
#: the code of what is asked back until it is read again
ASKED_BACK = "open-asked"


def stated_ohms(part: Part) -> tuple[float, ...]:
    """The ohms of a part's windings that the sheet states."""
    marking = part.marking
    return tuple(w.ohm for w in marking.windings) if isinstance(marking, WindingMarking) else ()


def _against_sheet(value: MeasuredValue, stated: Sequence[float]) -> list[Reason]:
    """A winding's ohms against the nearest that the sheet states; off by a quarter is told."""
    nearest = min(stated, key=lambda ohm: abs(math.log(max(value.value, 1e-3) / ohm)))
    text = f"{show(value.value, Unit.OHM)} against {show(nearest, Unit.OHM)} on the sheet"
    error = value.error(OHMS) + (LEADS_OHM[1] if value.value < LEADS_MATTER_OHM else 0.0)
    off = abs(value.value - nearest)
    if off - error <= STATED_SHARE * nearest:
        return [Reason("as-stated", f"{text}: whole."), TURNS]
    text = f"{text}: off by {100 * off / nearest:.0f} %"
    if value.value > nearest:
        change = "Look at its joints and leads, read again."
        return [Reason("winding-high", f"{text}.", Verdict.WORN, change)]
    change = "A path beside it, or shorted turns: lift a leg, or ring it."
    return [Reason("winding-low", f"{text}.", Verdict.UNPROVEN, change, Action.MEASURE)]


def conductor(
    code: str,
    name: str,
    limit_ohm: float,
    look_for: str,
    letters: tuple[str, ...] = (),
    map_word: str = "",
    marking: type[Marking] = Marking,
    rules: tuple[Rule, ...] = TYPE_ALONE,
    fails: Callable[[Part], tuple[FaultMode, ...]] = never,
    *,
    model: str = "conductor",
    is_winding: bool = False,
    ask_if_open: str = "",
) -> PartKind:
    """A kind that is good while it conducts with at most `limit_ohm` ohms.

    Ohms prove a winding whole, never that none of its turns are shorted. `ask_if_open`: what is
    asked back of one that reads open, until it is read again.
    """

    def judge(part: Part, readings: PartReadings) -> Judgement:
        value = readings.get(OHMS)
        stated = stated_ohms(part)
        if value and stated and not math.isinf(value.value):
            return concluded(_against_sheet(value, stated), readings)
        reasons = [conducts_reason(value, limit_ohm)] if value else []
        if value and ask_if_open and reasons[0].code == "open" and not value.again:
            text = reasons[0].text
            reasons = [Reason(ASKED_BACK, text, Verdict.UNPROVEN, ask_if_open, Action.MEASURE)]
        if is_winding and reasons and reasons[0].argues is Verdict.GOOD:
            reasons = [replace(reasons[0], argues=None), TURNS]
        return concluded(reasons, readings)

    def expect(part: Part, _: Ask, __: Condition) -> str:
        stated = stated_ohms(part)
        if stated:
            return f"{' or '.join(show(ohm, Unit.OHM) for ohm in stated)}, as the sheet states"
        return f"below {limit_ohm:g} Ω"

    return PartKind(
        code=code,
        name=name,
        model=model,
        judge=judge,
        asks=only_ohms,
        look_for=looking_for(look_for),
        expect=expect,
        letters=letters,
        map_word=map_word,
        marking=marking,
        rules=rules,
        fails=fails,
    )
