"""A pasted list held against a unit's sheet: what it would add and correct."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence, Set

from msgspec import Struct, field
from msgspec.structs import asdict, replace

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.kinds import (
    board,
    bridge,
    choke,
    connector,
    diode,
    line_filter,
    mosfet,
    schottky,
    scr,
    transistor,
    zener,
)
from hale_rail.core.parts.markings import JointMarking
from hale_rail.core.parts.part import Part
from hale_rail.core.quantities import show_exact
from hale_rail.core.supply.sheet import TRUNK, Rail, Sheet
from hale_rail.formats.units.parts_text import ParsedLine, line_words, read_parts


class Take(Coded):
    """What becomes of a part that the list has elsewhere than the sheet."""

    LIST = ("list", "as the list has it")
    SHEET = ("sheet", "where the sheet has it")
    BESIDE = ("beside", "both: a second one beside the sheet's")


TAKES = {take.code: take for take in Take}


class Clash(Struct, frozen=True):
    """A part that the list has on another line than the sheet: where the sheet has it, and what is
    taken.
    """

    ref: str
    sheet_line: str
    list_line: str
    take: Take


class Preview(Struct, frozen=True):
    """A pasted list as understood against a sheet: per line, and what it would change.

    `clashes` by the index of the answered line; `unnamed`: the sheet's parts that no line names,
    `unnamed_rails` its rails that neither a line nor a part of one names.
    """

    lines: tuple[ParsedLine, ...]
    parts: tuple[Part, ...]
    replaced: frozenset[int]
    clashes: Mapping[int, Clash] = field(default_factory=dict)
    unnamed: tuple[Part, ...] = ()
    unnamed_rails: tuple[Rail, ...] = ()

    @property
    def rails(self) -> list[Rail]:
        """Rails the list names: new ones, or the unit's own corrected; the last word counts."""
        return list({line.rail.key: line.rail for line in self.lines if line.rail}.values())

    @property
    def problems(self) -> list[ParsedLine]:
        """The lines that could not be understood."""
        return [line for line in self.lines if line.problem]


def merged(sheet: Sheet, text: str, takes: Mapping[str, Take] | None = None) -> Preview:
    """A list taken into a sheet: new parts are added, known ones corrected.

    A line that the list names outranks the sheet's; `takes`, by designator, says otherwise.
    """
    known = {p.ref.upper(): p for p in sheet.parts}
    used: set[int] = set()
    shown: list[ParsedLine] = []
    parts: list[Part] = []
    clashes: dict[int, Clash] = {}
    for line in read_parts(text, sheet.rails):
        if line.part is None:
            shown.append(line)
            continue
        old = known.get(line.part.ref)
        old = None if old and old.id in used else old
        clash = _clash(old, line, takes or {})
        is_moved = clash is None or clash.take is Take.LIST
        against = contradiction(old, line) if old and is_moved else ""
        if clash:
            clashes[len(shown)] = clash
        if old and against:
            used.add(old.id)
            note = f"nothing is taken from the sheet's {old.ref}{_marked(old)}: {against}"
            part = _in_its_place(sheet, old, line.part, len(parts))
            shown.append(replace(line, part=part, notes=(*line.notes, note)))
            parts.append(part)
            continue
        corrected = _merge(old, line.part, line.assumed.keys()) if old else line.part
        part = _merged_part(sheet, corrected, line.part, clash, len(parts))
        shown.append(replace(line, part=part))
        if old and part.id == old.id:
            used.add(old.id)
            shown[-1] = _in_place(shown[-1], old)
        parts.append(part)
    unnamed = tuple(p for p in sheet.parts if p.id not in used and p.kind not in _JOINTS)
    named = {line.rail.key for line in shown if line.rail} | {part.line for part in parts}
    rails = tuple(rail for rail in sheet.rails if rail.key not in named)
    return Preview(tuple(shown), tuple(parts), frozenset(used), clashes, unnamed, rails)


def contradiction(old: Part, line: ParsedLine) -> str:
    """Why a line's part cannot be the sheet's of that designator, "" where it can."""
    new = line.part
    if new is None:
        return ""
    if new.kind is not old.kind and (line.says_kind or new.kind not in _LIKE.get(old.kind, ())):
        return f"it is a {old.kind.name}"
    if new.value and old.value and not 1 / _TENFOLD < new.value / old.value < _TENFOLD:
        return "the value is ten times off, or more"
    if line.says_line and (new.line == TRUNK) is not (old.line == TRUNK):
        return "it stands on the other side"
    return ""


#: values further apart than this are not two spellings of one
_TENFOLD = 10.0
_JOINTS = (connector.KIND, board.KIND)
#: kinds whose designators have the same letters, so that a list need not tell them apart
_LIKE = {
    schottky.KIND: (diode.KIND,), zener.KIND: (diode.KIND,), mosfet.KIND: (transistor.KIND,),
    scr.KIND: (transistor.KIND,), bridge.KIND: (diode.KIND,), line_filter.KIND: (choke.KIND,),
}  # fmt: skip


def _in_its_place(sheet: Sheet, old: Part, new: Part, count: int) -> Part:
    """A part of the list that takes nothing of the sheet's but, on the same line, its place."""
    if new.line == old.line:
        return replace(new, order=old.order)
    return _placed(sheet, new, count)


def _in_place(line: ParsedLine, old: Part) -> ParsedLine:
    """A line that corrects a part of the sheet: what it does not say stands as the sheet has it."""
    note = f"in place of the sheet's {old.ref}{_marked(old)}"
    assumed = {} if old.family else {k: v for k, v in line.assumed.items() if k != "line"}
    return replace(line, notes=(*line.notes, note), assumed=assumed)


def _clash(old: Part | None, line: ParsedLine, takes: Mapping[str, Take]) -> Clash | None:
    """Where the list names another line than the sheet has the part on."""
    new = line.part
    if old is None or new is None or not line.says_line or new.line == old.line:
        return None
    take = takes.get(new.ref, Take.LIST)
    return Clash(new.ref, line_words(old.line), line_words(new.line), take)


def _merged_part(sheet: Sheet, corrected: Part, new: Part, clash: Clash | None, count: int) -> Part:
    """The part that a line comes to: the sheet's corrected, moved where the list has it, or new."""
    if corrected is new or (clash and clash.take is Take.BESIDE):
        return _placed(sheet, new, count)
    if clash and clash.take is Take.LIST:
        moved = replace(
            corrected, line=new.line, is_primary=new.is_primary, bank=new.bank, board=""
        )
        return _placed(sheet, moved, count)
    return corrected


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


def with_parts(
    sheet: Sheet, preview: Preview, dropped: Collection[str] = (), lost_rails: Collection[str] = ()
) -> Sheet:
    """The sheet after a pasted list is taken into it.

    `dropped`: designators of the sheet's parts that the unit lacks; `lost_rails`: keys of its rails
    that the unit lacks, whose parts go too.
    """
    lost = {rail.key for rail in preview.unnamed_rails if rail.key in lost_rails}
    named = {rail.key: rail for rail in preview.rails}
    rails = [named.pop(rail.key, rail) for rail in sheet.rails if rail.key not in lost]
    rails += named.values()
    joints = {p.id: p for p in joined(sheet, preview.rails)}
    gone = {p.id for p in preview.unnamed if p.ref in dropped or p.line in lost} | preview.replaced
    kept = [joints.get(p.id, p) for p in sheet.parts if p.id not in gone]
    kept = [_without(part, lost) for part in kept]
    return replace(sheet, rails=tuple(rails), parts=(*kept, *preview.parts))


def _without(part: Part, lost: Set[str]) -> Part:
    """A connector or board without the rails that the unit lacks."""
    if lost.isdisjoint(part.rails):
        return part
    return replace(part, marking=JointMarking(tuple(k for k in part.rails if k not in lost)))


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


def _merge(old: Part, new: Part, assumed: Set[str]) -> Part:
    """The sheet's part with what the list says of it; it keeps its place and kind.

    What was only assumed does not outrank what the sheet has.
    """
    fields = asdict(new.marking)
    named = {
        name: value
        for name, value in fields.items()
        if value and not (name in assumed and getattr(old.marking, name, None))
    }
    own = old.marking.__struct_fields__
    marking = replace(old.marking, **{k: v for k, v in named.items() if k in own})
    return replace(
        old,
        marking=marking,
        role=new.role or old.role,
        bank=new.bank or old.bank,
        year=new.year or old.year,
        note=new.note or old.note,
        is_primary=old.is_primary,
    )


def _placed(sheet: Sheet, part: Part, count: int) -> Part:
    """A new part behind the others of its line."""
    places = [p.order for p in sheet.on_line(part.line) if not p.board]
    return replace(part, order=max(places, default=0) + 10 + count)
