"""Reads and writes what one part is in the words of notes: `2200u 10V +5 out bank A`."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.part import Part, PartKind
from hale_rail.core.quantities import Unit, read, tidy
from hale_rail.core.supply.sheet import TRUNK, Rail
from hale_rail.formats.fields import tolerance
from hale_rail.formats.marked_values import marked_farad

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
_CLASSES = ("X1", "X2", "Y1", "Y2")
_LOW_ESR = ("low-esr", "lowesr", "low-z", "lowz", "low-impedance")
#: what a value is written with, by unit: scale and letter
_WRITTEN = {Unit.FARAD: (1e6, "u"), Unit.AMPERE: (1.0, "A"), Unit.VOLT: (1.0, "V")}
_OHMS_WRITTEN = (1.0, "R")


def write_part(part: Part) -> str:
    """A part's marking as one would write it in notes, without designator and remark.

    `read_words` understands it back, but for a role that notes have no word for.
    """
    words = [_value_words(part), f"{part.volt:g}V" if part.volt else "", part.safety_class]
    if part.family and part.family is not Family.SUPPRESSION_FILM:
        words.append(next(word for word, f in _FAMILIES.items() if f is part.family))
    words.append(next((word for word, role in _ROLES.items() if role == part.role), ""))
    words.append("main" if part.line == TRUNK else part.line.replace(" V", ""))
    words.append(f"bank {part.bank}" if part.bank else "")
    if part.tolerance:
        low, high = part.tolerance
        words.append(f"-{100 * low:g}/+{100 * high:g}%")
    words.append("low-esr" if part.grade is Grade.LOW else "")
    words.append(f"bleeds {part.bleeder_for}" if part.bleeder_for else "")
    words.append(str(part.year) if part.year and part.value is not None else "")
    return " ".join(word for word in words if word)


def _value_words(part: Part) -> str:
    if part.value is None or part.kind.value_unit is None:
        return ""
    scale, letter = _WRITTEN.get(part.kind.value_unit, _OHMS_WRITTEN)
    return f"{part.value * scale:.12g}{letter}"


def speaks_role(role: str) -> bool:
    """True where notes have a word for a role."""
    return role in _ROLES.values()


class ReadPart(Struct, frozen=True):
    """A part from the words of notes, and whether they say where it stands.

    `notes`: how a word was understood; `assumed`: what was taken for granted, by `line` or
    `family`.
    """

    part: Part
    notes: tuple[str, ...]
    says_line: bool
    assumed: Mapping[str, str]


def read_words(ref: str, kind: PartKind, words: Sequence[str], rails: Sequence[Rail]) -> ReadPart:
    """A part from the words behind its designator.

    Words that mean nothing stay in its note. Raises InputError for what cannot be.
    """
    return _Reader(ref.upper(), kind, rails).read(words)


class _Reader:
    """Collects what the words of one line say about a part."""

    def __init__(self, ref: str, kind: PartKind, rails: Sequence[Rail]) -> None:
        self.ref = ref
        self.kind = kind
        self.is_capacitor = kind is capacitor.KIND
        self.rails = {rail_number(rail.key): rail.key for rail in rails}
        self.line = ""
        self.place: dict[str, Any] = {}
        self.known: dict[str, Any] = {}
        self.rest: list[str] = []
        self.notes: list[str] = []
        self.assumed: dict[str, str] = {}

    def read(self, tokens: Sequence[str]) -> ReadPart:
        """The part these words describe."""
        words = iter(_split_slashes(tokens))
        for word in words:
            if word.lower() == "bank":
                self.place["bank"] = next(words, "")
            elif word.lower() == "bleeds":
                self.known["bleeder_for"] = next(words, "").upper()
            elif not self._take(word):
                self.rest.append(word)
        self._check()
        part = Part(
            0, self.ref, self.kind, self.line or TRUNK, 0, self.kind.marking.of(self.known),
            is_primary=self.line in ("", TRUNK), note=" ".join(self.rest), **self.place,
        )  # fmt: skip
        return ReadPart(part, tuple(self.notes), bool(self.line), self.assumed)

    def _take(self, word: str) -> bool:
        """Use one word; False when it means nothing to a parts list."""
        return self._take_of_capacitor(word) or self._take_place(word) or self._take_number(word)

    def _take_of_capacitor(self, word: str) -> bool:
        lower = word.lower()
        if word.upper() in _CLASSES and self.is_capacitor:
            self.known["safety_class"] = word.upper()
        elif lower in _FAMILIES and self.is_capacitor:
            self.known["family"] = _FAMILIES[lower]
        elif lower == "store":  # value and rating say that now
            pass
        elif lower in _LOW_ESR:
            self.known["grade"] = Grade.LOW
        else:
            return False
        return True

    def _take_place(self, word: str) -> bool:
        lower = word.lower()
        if lower in _ROLES:
            self.place["role"] = _ROLES[lower]
        elif lower in ("main", "primary", "mains"):
            self.line = TRUNK
        elif word.endswith("%"):
            self.known["tolerance"] = tolerance(word)
        elif word[0] in "+-" and rail_number(word) in self.rails:
            self.line = self.rails[rail_number(word)]
        else:
            return False
        return True

    def _take_number(self, word: str) -> bool:
        has_value = "value" in self.known
        if re.fullmatch(r"(19[5-9]\d|20[0-3]\d)", word) and has_value:
            self.place["year"] = int(word)
            return True
        if not re.match(r"[\d.,]|[RrpnuµVv]\d", word):
            if word[0] in "+-" and word[1:2].isdigit():
                have = ", ".join(self.rails.values())
                raise InputError(f"There is no rail {word} on this unit; it has {have}.")
            return False
        return self._take_quantity(word, has_value)

    def _take_quantity(self, word: str, has_value: bool) -> bool:
        unit = self.kind.value_unit
        is_volt = re.fullmatch(r"[\d.,]+\s*V(DC|AC)?", word, re.IGNORECASE)
        if not has_value and unit and (unit is Unit.VOLT or not is_volt):
            is_marked = unit is Unit.FARAD  # read with its family, which may come later
            self.known["value"] = word if is_marked else read(word, unit, allow_words=False).value
        elif "volt" not in self.known and (is_volt or re.fullmatch(r"[\d.,]+", word)):
            self.known["volt"] = read(word, Unit.VOLT, allow_words=False).value
        else:
            return False
        return True

    def _check(self) -> None:
        if not self.is_capacitor:
            if not self.line:
                self.assumed["line"] = "primary side assumed"
            return
        text, volt = self.known.get("value"), self.known.get("volt")
        if text is None:
            raise InputError("No capacitance on this line: write it like 2200u, 100n or 470p.")
        is_film = "safety_class" in self.known
        family = self.known.get("family") or (Family.SUPPRESSION_FILM if is_film else None)
        value, hint = marked_farad(text, family)
        self.known["value"] = value
        if hint:
            self.notes.append(hint)
        if value == 0:
            raise InputError("A capacitor of 0 F cannot be.")
        if volt is not None and not 1 <= volt <= 30_000:
            raise InputError(f"A capacitor rated {volt:g} V cannot be.")
        self._family(value)
        if not self.line and "safety_class" not in self.known:
            self.assumed["line"] = "primary side assumed: name the rail, like +5"

    def _family(self, value: float) -> None:
        """Fill in the family from the class or the value, and say so."""
        family = self.known.get("family")
        if "safety_class" in self.known:
            paper = family is Family.SUPPRESSION_PAPER
            self.known["family"] = family if paper else Family.SUPPRESSION_FILM
            if not paper:
                self.assumed["family"] = "film assumed: write paper if it is"
        elif family is None:
            small = Family.FILM if value >= 1e-9 else Family.CERAMIC
            self.known["family"] = Family.ALUMINIUM if value >= 1e-6 else small
            self.assumed["family"] = f"{self.known['family'].value} assumed"


def _split_slashes(tokens: Sequence[str]) -> list[str]:
    """`2200u/10V` is a value and a voltage; `-10/+50%` stays one."""
    return [part for token in tokens
            for part in ([token] if "%" in token else token.split("/")) if part]  # fmt: skip


def find_rail(rails: Sequence[Rail], name: str) -> Rail | None:
    """The rail of a name, however its sign and spaces are written; None where none is meant.

    By its key, else by its volts where only one rail has them.
    """
    wanted = tidy(name).replace(" ", "").lower()
    exact = [r for r in rails if tidy(r.key).replace(" ", "").lower() == wanted]
    if exact or not wanted:
        return exact[0] if exact else None
    if not re.fullmatch(r"[+-]?[0-9]+(?:[.,][0-9]+)?\s*v?", wanted):
        return None
    alike = [rail for rail in rails if rail_number(rail.key) == rail_number(name)]
    return alike[0] if len(alike) == 1 else None


def rail_number(text: str) -> str:
    """`+5 V`, `+5` and `+5V` are one rail; so are `−12 V` and `-12`."""
    match = re.match(r"([+-]?)(\d+(?:[.,]\d+)?)", tidy(text))
    if not match:
        return tidy(text)
    return ("-" if match[1] == "-" else "+") + match[2].replace(",", ".")
