"""Reads parts lists the way people keep them: notes, one part a line, or rows of a spreadsheet.

`C12 2200u 10V +5 out bank A`, `C3 X2 100n 275 paper`, tab- or comma-separated too. Every line is
answered: understood (with what was assumed) or a problem; words not understood stay in the note.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Mapping, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import by_letters, connector
from hale_rail.core.parts.markings import JointMarking
from hale_rail.core.parts.part import Part
from hale_rail.core.quantities import Unit, show_exact, tidy
from hale_rail.core.supply.sheet import TRUNK, Rail
from hale_rail.formats.units.chip_words import dealt, role_of, say_chip
from hale_rail.formats.units.part_refs import read_refs
from hale_rail.formats.units.part_words import ReadPart, rail_number, read_words
from hale_rail.formats.units.rails_text import WORD, read_rail, say_rail

MAX_LINES = 400
_HEADER = {"ref", "id", "designator", "part", "value", "voltage", "volts", "v", "family", "type",
           "rail", "bank", "note", "notes", "class", "year", "qty", "c", "capacitance"}  # fmt: skip
_REF_COLUMNS = ("ref", "designator", "part", "id")
#: columns whose cell means something only beside its name
_SPOKEN = {"bank": "bank", "qty": "qty"}
_UNITS = {"pf", "nf", "uf", "mf", "mfd", "f", "v", "vdc", "vac", "ohm", "ohms", "Ω", "a", "ma",
          "hz", "khz", "mhz"}  # fmt: skip
#: a unit written out, with its prefix
_WRITTEN_UNIT = re.compile(
    r"(?:pico|nano|micro|milli|kilo?|mega?)?(?:farads?|ohms?|volts?|amps?|amperes?)", re.IGNORECASE
)
#: a row of these alone is a spreadsheet's empty one
_EMPTY_ROW = re.compile(r'[\s,;|"\ufeff]*')
_REF = re.compile(r"([A-Za-z]{1,3})(\d{0,4}[A-Za-z]?)")


class ParsedLine(Struct, frozen=True):
    """One line of the list: its part or rail, or the problem.

    `notes` say how it was understood, `assumed` what was taken for granted, by what of the part.
    """

    number: int
    text: str
    part: Part | None
    notes: tuple[str, ...] = ()
    problem: str = ""
    is_header: bool = False
    rail: Rail | None = None
    #: whether the line names where its part stands
    says_line: bool = False
    assumed: Mapping[str, str] = field(default_factory=dict)
    #: whether a word says what kind it is, not its letters alone
    says_kind: bool = False

    @property
    def told(self) -> tuple[str, ...]:
        """What is said beside the part."""
        return (*self.assumed.values(), *self.notes)

    @property
    def understood(self) -> str:
        """The part or rail in a sentence, for the preview."""
        if self.part:
            return _say_part(self.part)
        return say_rail(self.rail) if self.rail else ""


def _say_part(part: Part) -> str:
    unit = part.kind.value_unit
    words = [part.ref, "" if part.capacitor else part.kind.name]
    words.append(show_exact(part.value, unit) if unit and part.value else "")
    words += [f"{part.volt:g}\u00a0V" if part.volt else "", part.safety_class]
    words += [part.family.label if part.family else "", _role(part)]
    if part.tolerance:
        words.append(f"−{100 * part.tolerance[0]:g}/+{100 * part.tolerance[1]:g} %")
    words.append(str(part.year) if part.year else "")
    lines = dict.fromkeys([line_words(part.line), *getattr(part.marking, "rails", ())])
    on = " and ".join(filter(None, lines))
    words.append(f"on {on}" if on else "")
    words.append(f"bank {part.bank}" if part.bank else "")
    words += say_chip(part)
    words.append(f"“{part.note}”" if part.note else "")
    return " ".join(word for word in words if word)


def _role(part: Part) -> str:
    role = role_of(part) if part.chip else None
    return role.words if role else part.role.replace("-", " ")


def line_words(line: str) -> str:
    """A part's line, in words."""
    return "the primary side" if line == TRUNK else line


def read_parts(text: str, rails: Sequence[Rail]) -> list[ParsedLine]:
    """Read a pasted list against a unit's rails; raises InputError only when it is far too long.

    The list's own rails are known to all of its lines; a line of several designators is answered
    once for each.
    """
    lines = text.splitlines()
    if len(lines) > MAX_LINES:
        raise InputError(f"{len(lines)} lines; paste at most {MAX_LINES} at a time.")
    parsed: list[ParsedLine] = []
    columns: _Columns | None = None
    rails = _with_own(lines, rails)
    for number, line in enumerate(lines, start=1):
        if _EMPTY_ROW.fullmatch(line):
            continue
        columns = columns if parsed else _columns(line.strip())
        if columns and not parsed:
            note = "a heading; not a part"
            parsed.append(ParsedLine(number, line.strip(), None, (note,), is_header=True))
        else:
            words = columns.as_notes(line) if columns else line.strip()
            parsed_lines = _read_line(number, words, rails)
            parsed += [replace(one, text=line.strip()) for one in parsed_lines]
    return _mark_repeats(parsed)


def _with_own(lines: Sequence[str], rails: Sequence[Rail]) -> Sequence[Rail]:
    """The unit's rails with those that the list names, wherever it does."""
    for line in lines:
        tokens = split_words(line) if line.strip().lower().startswith(WORD) else [""]
        if tokens[0].lower() == WORD:
            try:
                rail = read_rail(tokens[1:], rails)
            except InputError:
                continue
            rails = [r for r in rails if r.key != rail.key] + [rail]
    return rails


def read_marking(old: Part, text: str, rails: Sequence[Rail]) -> Part:
    """One part's marking in the words of notes; its kind is the sheet's, which knows it.

    Raises InputError for what cannot be, or a word that means nothing.
    """
    part = read_words(old.ref, old.kind, split_words(text) if text.strip() else [], rails).part
    if part.note:
        raise InputError(f"“{part.note}” is not understood: leave it out.")
    return part


class _Columns(Struct, frozen=True):
    """A spreadsheet's heading: its columns' names and what is between its cells."""

    names: tuple[str, ...]
    delimiter: str

    def as_notes(self, line: str) -> str:
        """A row as one would write it in notes: the designator first, the bank by its word."""
        cells = [cell.strip() for cell in next(csv.reader([line], delimiter=self.delimiter), [])]
        if len(cells) > len(self.names):
            return line.strip()
        ref, words = "", []
        for name, cell in zip(self.names, cells, strict=False):
            if name in _REF_COLUMNS and not ref:
                ref = cell
            elif cell:
                words.append(f"{_SPOKEN[name]} {cell}" if name in _SPOKEN else cell)
        return " ".join([ref, *words]).strip() or line.strip()


def _columns(line: str) -> _Columns | None:
    """The heading of a spreadsheet, or None where the first line is a part already."""
    tokens = split_words(line)
    if len(tokens) < 2 or not all(token.lower() in _HEADER for token in tokens):
        return None
    delimiter = max("\t,;", key=line.count)
    if delimiter not in line:
        return _Columns(tuple(token.lower() for token in tokens), "\t")
    return _Columns(tuple(cell.strip().lower() for cell in line.split(delimiter)), delimiter)


def _read_line(number: int, line: str, rails: Sequence[Rail]) -> list[ParsedLine]:
    """One answer a part that the line names."""
    tokens = split_words(line)
    try:
        if tokens[0].lower() == WORD:
            return [ParsedLine(number, line, None, rail=read_rail(tokens[1:], rails))]
        several = read_refs(line)
        if several:
            words = split_words(several.rest) if several.rest else []
            parts = [_read_part(ref, words, rails) for ref in several.refs]
            whole = dealt([read.part for read in parts])
            parts = [replace(read, part=part) for read, part in zip(parts, whole, strict=True)]
            if several.is_certain or not _needs_value(parts[0].part):
                note = f"one of {len(parts)} in this line"
                return [_answer(number, line, one, note) for one in parts]
        parts = [_read_part(tokens[0], tokens[1:], rails)]
    except InputError as error:
        return [ParsedLine(number, line, None, problem=str(error))]
    return [_answer(number, line, parts[0])]


def _answer(number: int, line: str, read: ReadPart, *notes: str) -> ParsedLine:
    return ParsedLine(
        number,
        line,
        read.part,
        (*read.notes, *notes),
        says_line=read.says_line,
        assumed=read.assumed,
        says_kind=read.says_kind,
    )


def _needs_value(part: Part) -> bool:
    """True where what looked like a second designator was the first one's value: `R1,R47`."""
    return part.kind.value_unit is Unit.OHM and part.value is None


def _read_part(ref: str, words: Sequence[str], rails: Sequence[Rail]) -> ReadPart:
    match = _REF.fullmatch(ref)
    kind = by_letters(match[1]) if match else None
    if kind is None and re.match(r"[+−-]\d", ref):
        raise InputError(f"A rail of its own is written with the word: “rail {ref} 2A”.")
    if kind is None:
        raise InputError(f"“{ref}” is not a designator like C12, R3, F1, D5, Q1, U2, L1 or T1.")
    read = read_words(ref, kind, words, rails)
    return _as_joint(read, words, rails) if read.part.kind is connector.KIND else read


def _as_joint(read: ReadPart, words: Sequence[str], rails: Sequence[Rail]) -> ReadPart:
    """A connector stands on no line: it carries the rails that its words name."""
    known = {rail_number(rail.key): rail.key for rail in rails}
    named = (rail_number(word) for word in words if word[0] in "+-")
    carried = tuple(dict.fromkeys(known[number] for number in named if number in known))
    part = replace(read.part, line="", is_primary=False, marking=JointMarking(carried))
    return replace(read, part=part, says_line=True, assumed={})


def split_words(line: str) -> list[str]:
    """Split at tabs, semicolons, commas of a spreadsheet, and spaces; join `2200 uF`."""
    clean = line.replace("\t", "  ").replace(";", " ")
    if "," in (clean.split() or [""])[0]:
        clean = clean.replace(",", " ")
    clean = re.sub(r",(?=\s)", " ", clean)
    joined: list[str] = []
    for word in tidy(clean).replace('"', "").split(" "):
        is_bare = bool(joined) and re.fullmatch(r"[+-]?[\d.,]+", joined[-1])
        if is_bare and (word.lower() in _UNITS or _WRITTEN_UNIT.fullmatch(word)):
            joined[-1] += word
        elif word:
            joined.append(word)
    return joined or [line]


def _mark_repeats(parsed: list[ParsedLine]) -> list[ParsedLine]:
    """Say where a designator is listed twice; both are kept, since drawings do that."""
    seen: dict[str, int] = {}
    marked = []
    for line in parsed:
        first = seen.setdefault(line.part.ref, line.number) if line.part else line.number
        if line.part and first != line.number:
            note = f"{line.part.ref} is in line {first} too; both are kept"
            marked.append(replace(line, notes=(*line.notes, note)))
        else:
            marked.append(line)
    return marked
