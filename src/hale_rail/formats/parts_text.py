"""Reads parts lists the way people keep them: notes, one part a line, or rows of a spreadsheet.

`C12 2200u 10V +5 out bank A`, `C3 X2 100n 275 paper`, tab- or comma-separated too. Every line is
answered: understood (with what was assumed) or a problem; words not understood stay in the note.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.quantities import Unit, read, show_exact, tidy
from hale_rail.core.supply.sheet import TRUNK, Kind, Rail, Station
from hale_rail.formats.fields import tolerance
from hale_rail.formats.rails_text import WORD, read_rail, say_rail

MAX_LINES = 400
_KINDS = {
    "C": Kind.CAPACITOR, "CX": Kind.CAPACITOR, "CY": Kind.CAPACITOR, "F": Kind.FUSE,
    "R": Kind.RESISTOR, "D": Kind.DIODE, "BR": Kind.BRIDGE, "DB": Kind.BRIDGE,
    "Q": Kind.TRANSISTOR, "TR": Kind.TRANSISTOR, "U": Kind.REGULATOR, "IC": Kind.REGULATOR,
    "VR": Kind.REGULATOR, "L": Kind.CHOKE, "T": Kind.TRANSFORMER, "RT": Kind.THERMISTOR,
    "NTC": Kind.THERMISTOR, "TH": Kind.THERMISTOR, "S": Kind.SWITCH, "SW": Kind.SWITCH,
}  # fmt: skip
_FAMILIES = {
    "paper": Family.SUPPRESSION_PAPER, "film": Family.FILM, "polyester": Family.FILM,
    "mkt": Family.FILM, "mkp": Family.FILM, "tant": Family.TANTALUM, "tantalum": Family.TANTALUM,
    "alu": Family.ALUMINIUM, "aluminium": Family.ALUMINIUM, "aluminum": Family.ALUMINIUM,
    "elco": Family.ALUMINIUM, "electrolytic": Family.ALUMINIUM, "elec": Family.ALUMINIUM,
    "ceramic": Family.CERAMIC, "cer": Family.CERAMIC, "disc": Family.CERAMIC,
    "polymer": Family.POLYMER, "bipolar": Family.ALUMINIUM_BIPOLAR, "np": Family.ALUMINIUM_BIPOLAR,
}  # fmt: skip
_ROLES = {"out": "output-filter", "output": "output-filter", "bulk": "bulk", "raw": "raw-filter",
          "start": "start-up", "startup": "start-up", "start-up": "start-up", "timing": "timing",
          "coupling": "coupling", "decoupling": "decoupling", "snubber": "snubber",
          "fast": "fast"}  # fmt: skip
_HEADER = {"ref", "id", "designator", "part", "value", "voltage", "volts", "v", "family", "type",
           "rail", "bank", "note", "notes", "class", "year", "qty", "c", "capacitance"}  # fmt: skip
_REF_COLUMNS = ("ref", "designator", "part", "id")
#: columns whose cell means something only beside its name
_SPOKEN = {"bank": "bank", "qty": "qty"}
_UNITS = {"pf", "nf", "uf", "mf", "mfd", "f", "v", "vdc", "vac", "ohm", "ohms", "Ω", "a", "ma"}
_REF = re.compile(r"([A-Za-z]{1,3})(\d{0,4}[A-Za-z]?)")


@dataclass(frozen=True)
class ParsedLine:
    """One line of the list: its part or rail, or the problem; `notes` say what was assumed."""

    number: int
    text: str
    station: Station | None
    notes: tuple[str, ...] = ()
    problem: str = ""
    is_header: bool = False
    rail: Rail | None = None

    @property
    def understood(self) -> str:
        """The part or rail in a sentence, for the preview."""
        s = self.station
        if s is None:
            return say_rail(self.rail) if self.rail else ""
        words = [s.ref, s.kind.value if s.kind is not Kind.CAPACITOR else ""]
        unit = {Kind.CAPACITOR: Unit.FARAD, Kind.RESISTOR: Unit.OHM, Kind.THERMISTOR: Unit.OHM,
                Kind.FUSE: Unit.AMPERE}.get(s.kind)  # fmt: skip
        if unit and s.value:
            words.append(show_exact(s.value, unit))
        words += [f"{s.volt:g}\u00a0V" if s.volt else "", s.safety_class]
        words += [s.family.label if s.family else "", s.role.replace("-", " ")]
        words.append(
            f"−{100 * s.tolerance[0]:g}/+{100 * s.tolerance[1]:g} %" if s.tolerance else ""
        )
        words.append(str(s.year) if s.year else "")
        words.append(f"on {'the primary side' if s.line == TRUNK else s.line}")
        words.append(f"bank {s.bank}" if s.bank else "")
        words.append(f"“{s.note}”" if s.note else "")
        return " ".join(word for word in words if word)


def read_parts(text: str, rails: Sequence[Rail]) -> list[ParsedLine]:
    """Read a pasted list against a unit's rails; raises InputError only when it is far too long."""
    lines = text.splitlines()
    if len(lines) > MAX_LINES:
        raise InputError(f"{len(lines)} lines; paste at most {MAX_LINES} at a time.")
    parsed: list[ParsedLine] = []
    columns: _Columns | None = None
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        columns = columns if parsed else _columns(line.strip())
        if columns and not parsed:
            note = "a heading; not a part"
            parsed.append(ParsedLine(number, line.strip(), None, (note,), is_header=True))
        else:
            words = columns.as_notes(line) if columns else line.strip()
            found = replace(_read_line(number, words, rails), text=line.strip())
            if found.rail:
                rails = [r for r in rails if r.key != found.rail.key] + [found.rail]
            parsed.append(found)
    return _mark_repeats(parsed)


def read_marking(old: Station, text: str, rails: Sequence[Rail]) -> Station:
    """One part's marking in the words of notes; its kind is the sheet's, which knows it.

    Raises InputError for what cannot be, or a word that means nothing.
    """
    station, _ = _Reader(old.ref, old.kind, rails).read(_tokens(text) if text.strip() else [])
    if station.note:
        raise InputError(f"“{station.note}” is not understood: leave it out.")
    return station


def write_part(station: Station) -> str:
    """A station's marking as one would write it in notes, without designator and remark.

    `read_parts` understands it back, but for a role that notes have no word for.
    """
    words = []
    if station.value is not None:
        scale, letter = {Kind.CAPACITOR: (1e6, "u"), Kind.FUSE: (1.0, "A")}.get(
            station.kind, (1.0, "R")
        )
        words.append(f"{station.value * scale:.12g}{letter}")
    words.append(f"{station.volt:g}V" if station.volt else "")
    words.append(station.safety_class)
    if station.family and station.family is not Family.SUPPRESSION_FILM:
        words.append(next(word for word, f in _FAMILIES.items() if f is station.family))
    words.append(next((word for word, role in _ROLES.items() if role == station.role), ""))
    words.append("main" if station.line == TRUNK else station.line.replace(" V", ""))
    words.append(f"bank {station.bank}" if station.bank else "")
    if station.tolerance:
        low, high = station.tolerance
        words.append(f"-{100 * low:g}/+{100 * high:g}%")
    words.append("low-esr" if station.grade is Grade.LOW else "")
    words.append(str(station.year) if station.year and station.value is not None else "")
    words.append("store" if station.is_store else "")
    return " ".join(word for word in words if word)


def speaks_role(role: str) -> bool:
    """True where notes have a word for a role."""
    return role in _ROLES.values()


@dataclass(frozen=True)
class _Columns:
    """A spreadsheet's heading: its columns' names and what stands between its cells."""

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
    tokens = _tokens(line)
    if len(tokens) < 2 or not all(token.lower() in _HEADER for token in tokens):
        return None
    delimiter = max("\t,;", key=line.count)
    if delimiter not in line:
        return _Columns(tuple(token.lower() for token in tokens), "\t")
    return _Columns(tuple(cell.strip().lower() for cell in line.split(delimiter)), delimiter)


def _read_line(number: int, line: str, rails: Sequence[Rail]) -> ParsedLine:
    tokens = _tokens(line)
    if tokens[0].lower() == WORD:
        try:
            return ParsedLine(number, line, None, rail=read_rail(tokens[1:], rails))
        except InputError as error:
            return ParsedLine(number, line, None, problem=str(error))
    match = _REF.fullmatch(tokens[0])
    kind = _KINDS.get(match[1].upper()) if match else None
    if kind is None:
        problem = f"“{tokens[0]}” is not a designator like C12, R3, F1, D5, Q1, U2, L1 or T1."
        return ParsedLine(number, line, None, problem=problem)
    try:
        station, notes = _Reader(tokens[0], kind, rails).read(tokens[1:])
    except InputError as error:
        return ParsedLine(number, line, None, problem=str(error))
    return ParsedLine(number, line, station, notes)


def _tokens(line: str) -> list[str]:
    """Split at tabs, semicolons, commas of a spreadsheet, and spaces; join `2200 uF`."""
    clean = line.replace("\t", "  ").replace(";", " ")
    if "," in clean.split()[0]:
        clean = clean.replace(",", " ")
    clean = re.sub(r",(?=\s)", " ", clean)
    joined: list[str] = []
    for word in tidy(clean).replace('"', "").split(" "):
        is_unit = word.lower() in _UNITS and joined and re.fullmatch(r"[+-]?[\d.,]+", joined[-1])
        if is_unit:
            joined[-1] += word
        elif word:
            joined.append(word)
    return joined or [line]


class _Reader:
    """Collects what the words of one line say about a part."""

    def __init__(self, ref: str, kind: Kind, rails: Sequence[Rail]) -> None:
        self.ref = ref.upper()
        self.kind = kind
        self.rails = {_rail_number(rail.key): rail.key for rail in rails}
        self.value: float | None = None
        self.volt: float | None = None
        self.family: Family | None = None
        self.line = ""
        self.fields: dict[str, object] = {}
        self.rest: list[str] = []
        self.notes: list[str] = []

    def read(self, tokens: list[str]) -> tuple[Station, tuple[str, ...]]:
        words = iter(_split_slashes(tokens))
        for word in words:
            if word.lower() == "bank":
                self.fields["bank"] = next(words, "")
            elif not self._take(word):
                self.rest.append(word)
        self._check()
        station = Station(
            0, self.ref, self.kind, self.line or TRUNK, 0, self.value, self.volt, self.family,
            note=" ".join(self.rest),
        )  # fmt: skip
        return replace(station, **self.fields), tuple(self.notes)  # type: ignore[arg-type]

    def _take(self, word: str) -> bool:
        """Use one word; False when it means nothing to a parts list."""
        lower = word.lower()
        if word.upper() in ("X1", "X2", "Y1", "Y2") and self.kind is Kind.CAPACITOR:
            self.fields["safety_class"] = word.upper()
        elif lower in _FAMILIES and self.kind is Kind.CAPACITOR:
            self.family = _FAMILIES[lower]
        elif lower in _ROLES:
            self.fields["role"] = _ROLES[lower]
        elif lower in ("main", "primary", "mains"):
            self.line = TRUNK
        elif lower == "store":
            self.fields["is_store"] = True
        elif lower in ("low-esr", "lowesr", "low-z", "lowz", "low-impedance"):
            self.fields["grade"] = Grade.LOW
        elif word.endswith("%"):
            self.fields["tolerance"] = tolerance(word)
        elif word[0] in "+-" and _rail_number(word) in self.rails:
            self.line = self.rails[_rail_number(word)]
        else:
            return self._take_number(word)
        return True

    def _take_number(self, word: str) -> bool:
        if re.fullmatch(r"(19[5-9]\d|20[0-3]\d)", word) and self.value is not None:
            self.fields["year"] = int(word)
            return True
        if not re.match(r"[\d.,]|[RrpnuµVv]\d", word):
            if word[0] in "+-" and word[1:2].isdigit():
                have = ", ".join(self.rails.values())
                raise InputError(f"There is no rail {word} on this unit; it has {have}.")
            return False
        unit = {Kind.CAPACITOR: Unit.FARAD, Kind.RESISTOR: Unit.OHM, Kind.THERMISTOR: Unit.OHM,
                Kind.FUSE: Unit.AMPERE}.get(self.kind)  # fmt: skip
        is_volt = re.fullmatch(r"[\d.,]+\s*V(DC|AC)?", word, re.IGNORECASE)
        if self.value is None and unit and not is_volt:
            self.value = read(word, unit, allow_words=False).value
        elif self.volt is None and (is_volt or re.fullmatch(r"[\d.,]+", word)):
            self.volt = read(word, Unit.VOLT, allow_words=False).value
        else:
            return False
        return True

    def _check(self) -> None:
        if self.kind is not Kind.CAPACITOR:
            if not self.line:
                self.notes.append("primary side assumed")
            self.fields["is_primary"] = self.line in ("", TRUNK)
            return
        if self.value is None:
            raise InputError("No capacitance on this line: write it like 2200u, 100n or 470p.")
        if self.value == 0:
            raise InputError("A capacitor of 0 F cannot be.")
        if self.volt is not None and not 1 <= self.volt <= 30_000:
            raise InputError(f"A capacitor rated {self.volt:g} V cannot be.")
        self._family()
        if not self.line and "safety_class" not in self.fields:
            self.notes.append("primary side assumed: name the rail, like +5")
        self.fields["is_primary"] = self.line in ("", TRUNK)

    def _family(self) -> None:
        """Fill in the family from the class or the value, and say so."""
        if "safety_class" in self.fields:
            paper = self.family is Family.SUPPRESSION_PAPER
            self.family = Family.SUPPRESSION_PAPER if paper else Family.SUPPRESSION_FILM
            if not paper:
                self.notes.append("film assumed: write paper if it is")
        elif self.family is None and self.value is not None:
            if self.value >= 1e-6:
                self.family = Family.ALUMINIUM
            else:
                self.family = Family.FILM if self.value >= 1e-9 else Family.CERAMIC
            self.notes.append(f"{self.family.value} assumed")


def _split_slashes(tokens: list[str]) -> list[str]:
    """`2200u/10V` is a value and a voltage; `-10/+50%` stays one."""
    return [part for token in tokens
            for part in ([token] if "%" in token else token.split("/")) if part]  # fmt: skip


def _rail_number(text: str) -> str:
    """`+5 V`, `+5` and `+5V` are one rail; so are `−12 V` and `-12`."""
    match = re.match(r"([+-]?)(\d+(?:[.,]\d+)?)", tidy(text))
    if not match:
        return tidy(text)
    return ("-" if match[1] == "-" else "+") + match[2].replace(",", ".")


def _mark_repeats(parsed: list[ParsedLine]) -> list[ParsedLine]:
    """Say where a designator stands twice; both are kept, since drawings do that."""
    seen: dict[str, int] = {}
    marked = []
    for line in parsed:
        if line.station:
            first = seen.setdefault(line.station.ref, line.number)
            if first != line.number:
                note = f"{line.station.ref} stands in line {first} too; both are kept"
                line = replace(line, notes=(*line.notes, note))
        marked.append(line)
    return marked
