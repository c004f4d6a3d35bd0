"""Where in a case what was asked outside it belongs: the parts and rails that it may be of."""

from __future__ import annotations

import math

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case.file import CaseFile
from hale_rail.case.words import show_reading
from hale_rail.core.ask.answer import Question
from hale_rail.core.ask.bleed import BleedQuestion
from hale_rail.core.ask.parts import ANY, PartQuestion
from hale_rail.core.ask.rails import GroundQuestion, RailQuestion, RippleQuestion
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import GROUND, STORE, VOLTS, Condition, Point
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import rail_target

#: values that differ by less than this share are one marking
_SAME = 0.01


class AskedPlace(Struct, frozen=True):
    """One place for what was asked: its name, its readings as typed, what was seen at the part.

    `stands`: the readings that those would replace, in words.
    """

    name: str
    readings: tuple[tuple[Point, str], ...]
    part: Part | None = None
    seen: tuple[str, ...] = ()
    stands: str = ""

    @property
    def key(self) -> str:
        """What a form calls it."""
        return str(self.part.id) if self.part else self.name


def places(case: CaseFile, question: Question) -> list[AskedPlace]:
    """Every place of a case that a question may be about; [] where the sheet has none."""
    return [replace(at, stands=_standing(case, at)) for at in _places(case, question)]


def _standing(case: CaseFile, at: AskedPlace) -> str:
    read = (case.rows.standing.get(point.key) for point, _ in at.readings)
    return ", ".join(show_reading(reading) for reading in read if reading)


def _places(case: CaseFile, question: Question) -> list[AskedPlace]:
    if isinstance(question, PartQuestion):
        return [_at_part(part, question) for part in _like(case, question)]
    if isinstance(question, BleedQuestion):
        return [
            AskedPlace(part.ref, ((part.point(STORE), f"{question.volt:g}"),), part)
            for part in case.sheet.stores
            if part.value and math.isclose(part.value, question.farad, rel_tol=_SAME)
        ]
    if isinstance(question, RailQuestion):
        at = rail_target(question.rail.key, question.place)
        return _at_rail(case, question.rail, Point(at, VOLTS, question.load), question.typed)
    if isinstance(question, GroundQuestion):
        side = Condition.ATTACHED if question.is_attached else Condition.ISOLATED
        point = Point(rail_target(question.rail.key), GROUND, side)
        return _at_rail(case, question.rail, point, question.typed)
    return []


def _at_rail(case: CaseFile, rail: Rail, point: Point, typed: str) -> list[AskedPlace]:
    return [AskedPlace(rail.key, ((point, typed),))] if case.sheet.rail(rail.key) else []


def _at_part(part: Part, question: PartQuestion) -> AskedPlace:
    readings = tuple(
        (part.point(r.procedure, _condition(r.procedure.conditions, question), r.pair), r.typed)
        for r in question.readings
    )
    return AskedPlace(part.ref, readings, part, question.seen)


def _condition(conditions: tuple[Condition, ...], question: PartQuestion) -> Condition:
    return question.condition if question.condition in conditions else conditions[0]


def _like(case: CaseFile, question: PartQuestion) -> list[Part]:
    """Parts of that designator, else of that kind, value and voltage."""
    asked = question.part
    named = [part for part in case.sheet.parts if part.ref == asked.ref != ANY]
    return named or [part for part in case.sheet.parts if _is_alike(part, asked)]


def _is_alike(part: Part, asked: Part) -> bool:
    if part.kind is not asked.kind:
        return False
    pairs = ((part.value, asked.value), (part.volt, asked.volt))
    return all(one is None or two is None or math.isclose(one, two, rel_tol=_SAME)
               for one, two in pairs) and not (asked.value and not part.value)  # fmt: skip


def why_nowhere(question: Question) -> str:
    """What to do with a question for which a case has no place."""
    if isinstance(question, RippleQuestion):
        return "Ripple goes into a case as a record: bring it into its ripple lab."
    return "Its sheet has no such part or rail: put it on the sheet in Intake first."
