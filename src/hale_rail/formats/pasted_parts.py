"""A pasted list held against a unit's sheet: what it would add and correct."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

from hale_rail.core.parts.kinds import board, connector
from hale_rail.core.parts.markings import JointMarking
from hale_rail.core.parts.part import Part
from hale_rail.core.quantities import show_exact
from hale_rail.core.supply.sheet import Rail, Sheet
from hale_rail.formats.parts_text import ParsedLine, read_parts


@dataclass(frozen=True)
class Preview:
    """A pasted list as understood against a sheet: per line, and what it would change."""

    lines: tuple[ParsedLine, ...]
    parts: tuple[Part, ...]
    replaced: frozenset[int]

    @property
    def rails(self) -> list[Rail]:
        """Rails the list names: new ones, or the unit's own corrected; the last word counts."""
        return list({line.rail.key: line.rail for line in self.lines if line.rail}.values())

    @property
    def problems(self) -> list[ParsedLine]:
        """The lines that could not be understood."""
        return [line for line in self.lines if line.problem]


def merged(sheet: Sheet, text: str) -> Preview:
    """A list taken into a sheet: new parts are added, known ones corrected in their place."""
    known = {p.ref.upper(): p for p in sheet.parts}
    used: set[int] = set()
    shown: list[ParsedLine] = []
    taken: list[Part] = []
    for line in read_parts(text, sheet.rails):
        part = line.part
        if part is None:
            shown.append(line)
            continue
        old = known.get(part.ref)
        notes = line.notes
        if old and old.id not in used:
            used.add(old.id)
            notes = (*notes, f"in place of the sheet's {old.ref}{_marked(old)}")
            part = _merge(old, part)
        else:
            part = _placed(sheet, part, len(taken))
        shown.append(replace(line, part=part, notes=notes))
        taken.append(part)
    return Preview(tuple(shown), tuple(taken), frozenset(used))


def beside(sheet: Sheet, text: str) -> Preview:
    """A list whose parts all stand beside the sheet's own."""
    known = {p.ref.upper() for p in sheet.parts}
    shown: list[ParsedLine] = []
    added: list[Part] = []
    for line in read_parts(text, sheet.rails):
        if line.part is None:
            shown.append(line)
            continue
        part = _placed(sheet, line.part, len(added))
        notes = line.notes
        if part.ref in known:
            notes = (*notes, f"a second {part.ref}: the sheet has one already")
        shown.append(replace(line, part=part, notes=notes))
        added.append(part)
    return Preview(tuple(shown), tuple(added), frozenset())


def with_parts(sheet: Sheet, found: Preview) -> Sheet:
    """The sheet after a pasted list is taken into it."""
    named = {rail.key: rail for rail in found.rails}
    rails = [named.pop(rail.key, rail) for rail in sheet.rails] + list(named.values())
    joints = {p.id: p for p in joined(sheet, found.rails)}
    kept = [joints.get(p.id, p) for p in sheet.parts if p.id not in found.replaced]
    return replace(sheet, rails=tuple(rails), parts=(*kept, *found.parts))


def joined(sheet: Sheet, rails: Sequence[Rail]) -> list[Part]:
    """The last connector and the board behind it, carrying the new rails too."""
    new = tuple(rail.key for rail in rails if sheet.rail(rail.key) is None)
    connectors = [p for p in sheet.parts if p.kind is connector.KIND]
    if not new or not connectors:
        return []
    last = max(connectors, key=lambda p: (p.order, p.id))
    boards = [p for p in sheet.parts if p.kind is board.KIND and p.board == last.ref]
    return [replace(p, marking=JointMarking((*p.rails, *new))) for p in (last, *boards)]


def _marked(part: Part) -> str:
    if not part.capacitor or not part.value or not part.kind.value_unit:
        return ""
    volt = f" {part.volt:g} V" if part.volt else ""
    return f", {show_exact(part.value, part.kind.value_unit)}{volt}"


def _merge(old: Part, new: Part) -> Part:
    """The sheet's part with what the list says of it; it keeps its place and kind."""
    said = {f.name: getattr(new.marking, f.name) for f in fields(new.marking)}
    named = {name: value for name, value in said.items() if value}
    own = {f.name for f in fields(old.marking)}
    marking = replace(old.marking, **{k: v for k, v in named.items() if k in own})
    return replace(
        old,
        marking=marking,
        role=new.role or old.role,
        bank=new.bank or old.bank,
        year=new.year or old.year,
        note=new.note or old.note,
    )


def _placed(sheet: Sheet, part: Part, count: int) -> Part:
    """A new part behind the others of its line."""
    places = [p.order for p in sheet.on_line(part.line) if not p.board]
    return replace(part, order=max(places, default=0) + 10 + count)
