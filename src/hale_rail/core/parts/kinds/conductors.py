"""Parts that only have to conduct: their judgement by a limit of ohms, shared by their modules."""

from __future__ import annotations

from hale_rail.core.parts.conduction import conducts_reason
from hale_rail.core.parts.kinds.common import concluded, looking_for, only_ohms
from hale_rail.core.parts.markings import Marking
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.parts.taken import PartReadings
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import OHMS, Condition


def conductor(
    code: str,
    name: str,
    limit_ohm: float,
    look_for: str,
    letters: tuple[str, ...] = (),
    map_word: str = "",
    marking: type[Marking] = Marking,
) -> PartKind:
    """A kind that is good while it conducts with at most `limit_ohm` ohms."""

    def judge(_: Part, readings: PartReadings) -> Judgement:
        taken = readings.get(OHMS)
        return concluded([conducts_reason(taken, limit_ohm)] if taken else [], readings)

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
