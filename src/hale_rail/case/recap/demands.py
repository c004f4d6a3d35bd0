"""The facet of demands: what each position asks of its new part, by the sheet and as corrected."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from msgspec.structs import replace

from hale_rail import clock
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.recap.ratings import ratings_of
from hale_rail.case.recap.recap import others, positions
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import regulator
from hale_rail.core.parts.part import Part
from hale_rail.core.quantities import Unit
from hale_rail.core.recap.demand import Position, RecapPolicy, is_replaced
from hale_rail.core.recap.needs import ROLES, Needs, usual_role
from hale_rail.core.recap.rated_parts import WARES, AnyNeeds, RatedNeeds
from hale_rail.core.supply.roles import role_by_place
from hale_rail.core.supply.sheet import TRUNK
from hale_rail.formats.units.part_fields import (
    celsius,
    millimetres,
    quantity,
    read_grade,
    read_mount,
)
from hale_rail.store.rework import RECAP_NOTES

#: fields of a position that a person corrects, with what they are called
ASKED = (
    ("mount", "Mounting"),
    ("pitch_mm", "Pitch, mm"),
    ("max_diameter_mm", "Greatest diameter, mm"),
    ("max_height_mm", "Greatest height, mm"),
    ("temp_c", "At least °C"),
    ("esr_max_ohm", "ESR at most, Ω"),
    ("ripple_a", "Ripple current, A"),
    ("grade", "Grade"),
)
#: of the can that stands, or stood, there: for the drawing alone
OLD_CAN = (
    ("old_diameter_mm", "Old can, diameter mm"),
    ("old_height_mm", "Old can, height mm"),
)
#: how each field is read from what was typed; raises InputError
READ: Mapping[str, Callable[[Mapping[str, str], str], Any]] = {
    "mount": lambda typed, name: read_mount(typed.get(name, "")),
    "grade": lambda typed, name: read_grade(typed.get(name, "")),
    "temp_c": lambda typed, _: celsius(typed),
    "esr_max_ohm": lambda typed, name: quantity(typed, name, Unit.OHM),
    "ripple_a": lambda typed, name: quantity(typed, name, Unit.AMPERE),
    **dict.fromkeys(
        ("pitch_mm", "max_diameter_mm", "max_height_mm", "old_diameter_mm", "old_height_mm"),
        millimetres,
    ),
}
_DONE = (DecisionKind.FITTED, DecisionKind.LEFT_OUT)


def needs_id(case: CaseFile, part: Part) -> str:
    """A position's name over all cases."""
    return f"{case.number}/{part.id}"


def needs_of(case: CaseFile, part: Part) -> AnyNeeds | None:
    """What a position asks; None for a board, and while a capacitor's value is not known."""
    if not part.kind.rules:
        return capacitor_needs(case, part)
    note = case.rows.newest(RECAP_NOTES).get(part.id)
    sku = note.body.get("sku", "") if note else ""
    ware = WARES[part.kind.code]
    return RatedNeeds(needs_id(case, part), part.ref, ware, ratings_of(case, part), sku=sku)


def capacitor_needs(case: CaseFile, part: Part) -> Needs | None:
    """What a capacitor's position asks; None while its value or family is not known."""
    marked = part.capacitor
    if marked is None or not marked.farad or marked.family is None:
        return None
    rail = case.sheet.rail(part.line)
    note = case.rows.newest(RECAP_NOTES).get(part.id)
    body: Mapping[str, Any] = note.body if note else {}
    role = body.get("role") or part.role or station_role(case, part)
    known = role in ROLES
    bank = f"{case.number}/{part.line}/{part.board}/{part.bank}" if part.bank else ""
    usual = usual_role(marked.family, marked.safety_class)
    needs = Needs(
        needs_id(case, part),
        part.ref,
        ROLES[role] if known else usual,
        marked.family,
        marked.farad,
        marked.volt,
        marked.safety_class,
        rail_v=rail.nominal_v if rail else None,
        bank=bank,
        is_role_assumed=not known,
        prefers_aluminium=prefers_aluminium(case),
        sku=body.get("sku", ""),
        is_primary=bool(part.is_primary),
    )
    capacitor_needs = {name: READ[name](body, name) or None for name, _ in ASKED}
    return replace(needs, **capacitor_needs | {"grade": capacitor_needs["grade"] or marked.grade})


def named(case: CaseFile, part: Part) -> str:
    """What a person named to be bought for a part by hand, or ""."""
    note = case.rows.newest(RECAP_NOTES).get(part.id)
    return str(note.body.get("named", "")) if note else ""


def prefers_aluminium(case: CaseFile) -> bool:
    """True where tantalums of this case are replaced by aluminium where the rules allow it."""
    note = case.rows.newest(RECAP_NOTES).get("")
    return bool(note and note.body.get("tantalum") == "aluminium")


def is_open(position: Position) -> bool:
    """True for a position where no new part is fitted and that is not left out on purpose."""
    return not (position.decision and position.decision.kind in _DONE)


def to_buy(case: CaseFile, school: RecapPolicy) -> list[AnyNeeds]:
    """What the positions ask that a school replaces and that are still to be done.

    What a person named to be bought by hand is not bought twice.
    """
    year = clock.this_year()
    wanted = [
        needs_of(case, position.part)
        for position in positions(case)
        if is_open(position) and is_replaced(position, school, year)
    ]
    besides = [
        needs_of(case, other.part)
        for line in others(case)
        for other in line.others
        if line.kind.rules and not other.is_fitted and not named(case, other.part)
    ]
    return [needs for needs in (*wanted, *besides) if needs]


@facet
def own_demand(case: CaseFile) -> tuple[AnyNeeds, ...]:
    """What is to be bought by the case's own school."""
    return tuple(to_buy(case, case.school))


def station_role(case: CaseFile, part: Part) -> str:
    """The role that its replacement is judged by: of a can before its rail's regulator, raw filter.

    Tantalum and ceramic on a rail decouple it; "" for film, whose place does not tell.
    """
    if part.family in (Family.TANTALUM, Family.CERAMIC) and part.line != TRUNK:
        return "decoupling"
    if part.family is None or not (part.family.is_wet or part.safety_class):
        return ""
    station_role = role_by_place(case.sheet.topology, part)
    behind = [p for p in case.sheet.on_line(part.line) if p.order > part.order]
    if station_role == "output-filter" and any(p.kind is regulator.KIND for p in behind):
        return "raw-filter"
    return station_role
