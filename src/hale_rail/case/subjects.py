"""What a procedure must know of its target: marked and nominal values, and what is expected."""

from __future__ import annotations

from hale_rail.case.behind.subjects import (
    behind_name,
    behind_subject,
    is_behind,
    is_known_behind,
)
from hale_rail.case.bring_up.pins import is_known_pin, is_pin, pin_subject
from hale_rail.case.file import CaseFile
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.recap.rework import NEW, expected_new
from hale_rail.case.safety.energy import energy
from hale_rail.case.shorts.grounds import record_ohm, sheet_ohm
from hale_rail.case.shorts.probes import board_subject, is_drawn, is_on_board
from hale_rail.case.shorts.suspects import suspects_of
from hale_rail.core.parts.part import Ask, Part
from hale_rail.core.procedures import CAPACITANCE, ESR, SPOT, Condition, Point, Subject
from hale_rail.core.procedures.boards import board_words
from hale_rail.core.procedures.bring_up import machine_words
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import band
from hale_rail.core.targets import TargetKind
from hale_rail.errors import InputError, NotFoundError


def check_point(case: CaseFile, point: Point) -> None:
    """See that a point can be read at this unit.

    Raises NotFoundError for no such part or rail, InputError for what cannot be read there.
    """
    part = case.sheet.part(point.part_id)
    if point.target.kind in (TargetKind.PART, TargetKind.PAIR):
        if part is None:
            raise NotFoundError("There is no such part or rail on this unit.")
        is_spot = point.procedure is SPOT and part in suspects_of(case, part.line)
        if not is_spot and Ask(point.procedure, point.target.pair) not in part.all_asks:
            raise InputError(f"{part.ref} has no {point.procedure.label} to read.")
    if point.target.kind is TargetKind.RAIL and case.sheet.rail(point.target.rail) is None:
        raise NotFoundError("There is no such part or rail on this unit.")
    if is_on_board(point) and not is_drawn(case, point.target):
        raise NotFoundError("That is not on any map of this unit.")
    is_known = is_known_behind if is_behind(point) else is_known_pin
    if is_pin(point) and not is_known(case, point):
        raise NotFoundError("That pin is no longer on any list of this case.")


def checked_subject(case: CaseFile, point: Point) -> Subject:
    """The subject of a point that can be read at this unit; raises what `check_point` does."""
    check_point(case, point)
    return subject_of(case, point)


def subject_of(case: CaseFile, point: Point) -> Subject:
    """All that is known of a point's target, as far as it is known."""
    limit = energy(case).limit_volt
    part = case.sheet.part(point.part_id)
    if is_behind(point):
        return behind_subject(case, point, limit)
    if part:
        return _of_part(case, part, point, limit)
    if is_on_board(point):
        return board_subject(case, point, limit)
    if is_pin(point):
        return pin_subject(case, point, limit)
    rail = case.sheet.rail(point.target.rail)
    if rail is None:
        return Subject(point.target.plus or point.target.code, limit_v=limit)
    return Subject(
        rail.key,
        nominal_v=rail.nominal_v,
        limit_v=limit,
        band_v=band(rail, case.tolerance),
        record_ohm=record_ohm(case, rail.key, point.condition),
        sheet_ohm=sheet_ohm(rail, point.condition),
        is_ac=rail.is_ac,
    )


def _of_part(case: CaseFile, part: Part, point: Point, limit: float) -> Subject:
    ask = Ask(point.procedure, point.target.pair)
    if point.procedure in NEW:
        words = expected_new(case, part, point.procedure)
    else:
        words = part.kind.expect(part, ask, point.condition)
    facts = parts(case)[part.id]
    if not facts.bank or point.condition is Condition.IN_CIRCUIT:
        words = _judged_words(facts, point) or words
    marked = part.capacitor
    return Subject(
        part.ref,
        rated_v=part.volt,
        marked_farad=marked.farad if marked else None,
        limit_v=limit,
        part_words=words,
    )


def _judged_words(facts: PartFacts, point: Point) -> str:
    """What the part, or its whole bank, shows when it is sound, by what it is judged with."""
    judgement = facts.judgement
    if point.procedure is ESR and judgement.good_esr_ohm:
        return f"below {show(judgement.good_esr_ohm, Unit.OHM)}"
    if point.procedure is CAPACITANCE and judgement.expected_farad:
        return f"about {show(judgement.expected_farad, Unit.FARAD, 4)}"
    return ""


def point_words(case: CaseFile, point: Point) -> str:
    """A point as one says it: `C14, lifted, ESR`."""
    part = case.sheet.part(point.part_id)
    target = point.target
    if is_behind(point):
        return f"{behind_name(case, point)}, {point.procedure.label}"
    name = part.ref if part else target.rail or board_words(target) or machine_words(target)
    pair = point.target.pair
    words = (name, point.condition.words, pair.words if pair else "", point.procedure.label)
    return ", ".join(word for word in words if word)
