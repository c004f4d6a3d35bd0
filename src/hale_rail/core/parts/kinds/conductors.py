"""Parts that only have to conduct: their judgement by a limit of ohms, shared by their modules."""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.parts.conduction import conducts_reason
from hale_rail.core.parts.kinds.common import concluded, looking_for, only_ohms
from hale_rail.core.parts.markings import Marking
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.taken import PartReadings
from hale_rail.core.parts.verdicts import Action, Judgement, Reason, Verdict
from hale_rail.core.procedures import OHMS, Condition

#: what ohms cannot tell of a winding
TURNS = Reason(
    "turns-unproven",
    "Whole; ohms never show that no turns are shorted.",
    Verdict.UNPROVEN,
    "A ring test or another part in its place says.",
    Action.KEEP,
)


def conductor(
    code: str,
    name: str,
    limit_ohm: float,
    look_for: str,
    letters: tuple[str, ...] = (),
    map_word: str = "",
    marking: type[Marking] = Marking,
    *,
    is_winding: bool = False,
) -> PartKind:
    """A kind that is good while it conducts with at most `limit_ohm` ohms.

    Ohms prove a winding whole, never that none of its turns are shorted.
    """

    def judge(_: Part, readings: PartReadings) -> Judgement:
        taken = readings.get(OHMS)
        reasons = [conducts_reason(taken, limit_ohm)] if taken else []
        if is_winding and reasons and reasons[0].argues is Verdict.GOOD:
            reasons = [replace(reasons[0], argues=None), TURNS]
        return concluded(reasons, readings)

    def expect(_: Part, __: Ask, ___: Condition) -> str:
        return f"below {limit_ohm:g} Ω"

    return PartKind(
        code=code,
        name=name,
        judge=judge,
        asks=only_ohms,
        look_for=looking_for(look_for),
        expect=expect,
        letters=letters,
        map_word=map_word,
        marking=marking,
    )
