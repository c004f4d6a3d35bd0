"""Reads and writes what one part is in the words of notes: `2200u 10V +5 out bank A`."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds import (
    battery,
    by_code,
    capacitor,
    chips,
    fuse,
    regulator,
    trimmer,
)
from hale_rail.core.parts.markings import FUSE_SPEEDS, FuseMarking
from hale_rail.core.parts.part import Part, PartKind
from hale_rail.core.quantities import Unit, read, tidy
from hale_rail.core.supply.sheet import TRUNK, Rail, logic_rail
from hale_rail.formats.tables.fields import tolerance
from hale_rail.formats.units.chip_words import (
    ROLE_WORDS,
    ChipWords,
    role_word,
    takes_chip,
    write_chip,
)
from hale_rail.formats.units.marked_values import marked_farad

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
          "fast": "fast", "across-switch": "across-switch"}  # fmt: skip
#: kinds that stand on boards, whose rail is the logic's where none is said
_OF_BOARDS = (chips.CHIP, chips.SOCKET, chips.CRYSTAL, battery.KIND)
_CLASSES = ("X1", "X2", "Y1", "Y2")
#: a class of which only the letter is known is taken at its usual number
_BARE_CLASSES = {"X": "X2", "Y": "Y2"}
#: words that say what kind a part is, whatever its letters
KIND_WORDS = {
    "scr": "scr", "thyristor": "scr", "crowbar": "scr", "schottky": "schottky", "zener": "zener",
    "mosfet": "mosfet", "fet": "mosfet", "opto": "optocoupler", "optocoupler": "optocoupler",
    "regulator": "regulator", "reg": "regulator", "controller": "controller", "pwm": "controller",
    "chip": "chip", "logic": "chip", "ram": "chip", "rom": "chip", "eprom": "chip", "cpu": "chip",
    "dram": "chip", "sram": "chip", "gate": "chip", "socket": "socket", "crystal": "crystal",
    "xtal": "crystal", "battery": "battery", "trimmer": "trimmer", "trimpot": "trimmer",
    "pot": "trimmer", "relay": "relay", "lamp": "lamp", "lead": "lead", "cord": "lead",
    "varistor": "varistor", "mov": "varistor", "ntc": "thermistor", "thermistor": "thermistor",
    "bridge": "bridge", "coil": "coil", "connector": "connector", "inlet": "inlet",
}  # fmt: skip
#: a numeric type name: of fixed regulators, and of logic
_REGULATOR_NAME = re.compile(r"[A-Za-z]{0,3}7[89][A-Za-z]{0,2}\d{2}[A-Za-z]{0,3}")
_CHIP_NAME = re.compile(r"[A-Za-z]{0,3}\d{2,5}[A-Za-z]{0,4}\d{0,4}[A-Za-z]{0,3}(?:-\d+)?")
_UNIT_LIKE = re.compile(r"farad|ohm|volt|amp|henr|^[pnumµ][fF][a-z]+$|^(?:nano|pico|micro|milli)")
_VOLTS = r"~?[\d.,]+\s*k?V(?:olts?|DC|AC|~)?|[\d.,]+~|\d+[kK]V\d+"
_LOW_ESR = ("low-esr", "lowesr", "low-z", "lowz", "low-impedance")
#: what a value is written with, by unit: scale and letter
_WRITTEN = {Unit.FARAD: (1e6, "u"), Unit.AMPERE: (1.0, "A"), Unit.VOLT: (1.0, "V"),
            Unit.HERTZ: (1e-6, "MHz")}  # fmt: skip
_OHMS_WRITTEN = (1.0, "R")


def write_part(part: Part) -> str:
    """A part's marking as one would write it in notes, without designator and remark.

    `read_words` understands it back, but for a role that notes have no word for.
    """
    words = [_value_words(part), f"{part.volt:g}V" if part.volt else "", part.safety_class]
    words.append(part.marking.speed if isinstance(part.marking, FuseMarking) else "")
    if part.family and part.family is not Family.SUPPRESSION_FILM:
        words.append(next(word for word, f in _FAMILIES.items() if f is part.family))
    words.append(next((word for word, role in _ROLES.items() if role == part.role), ""))
    words += write_chip(part, "main" if part.line == TRUNK else part.line.replace(" V", ""))
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
    """A part from the words of notes, and whether they say where it is.

    `notes`: how a word was understood; `assumed`: what was taken for granted, by `line` or
    `family`; `says_kind`: a word says what kind it is, not its letters alone.
    """

    part: Part
    notes: tuple[str, ...]
    says_line: bool
    assumed: Mapping[str, str]
    says_kind: bool = False


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
        self.says_kind = False
        self.logic = logic_rail(rails)
        self.rails = {rail_number(rail.key): rail.key for rail in rails}
        self.line = ""
        self.place: dict[str, Any] = {}
        self.known: dict[str, Any] = {}
        self.rest: list[str] = []
        self.notes: list[str] = []
        self.assumed: dict[str, str] = {}

    def read(self, tokens: Sequence[str]) -> ReadPart:
        """The part these words describe."""
        split = _split_slashes(tokens)
        self._take_kind(split)
        words = iter(self._take_chip(split))
        last = ""
        for word in words:
            if self._is_stranger(last, word):
                raise InputError(
                    f"“{last} {word}”: {word} is not a unit. Write the value with its unit, like "
                    f"{last}n or {last}u, and notes behind a word that means something."
                )
            last = word
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
        return ReadPart(part, tuple(self.notes), bool(self.line), self.assumed, self.says_kind)

    def _is_stranger(self, last: str, word: str) -> bool:
        """True for a word behind a capacitor's bare number that looks like a unit and is none."""
        is_value = self.known.get("value") == last and re.fullmatch(r"[\d.,]+", last)
        return bool(self.is_capacitor and is_value and _UNIT_LIKE.search(word))

    @property
    def is_capacitor(self) -> bool:
        """True for a capacitor."""
        return self.kind is capacitor.KIND

    def _take_chip(self, words: Sequence[str]) -> Sequence[str]:
        """What is said of a chip by its role; returns the words that are left."""
        role = role_word(words)
        is_other = self.says_kind and self.kind is not chips.CHIP
        if is_other or not takes_chip(self.kind.code, self.ref):
            return words
        if not role and self.kind is not chips.CHIP:
            return words
        chip = ChipWords(role)
        if role:
            self.kind, self.says_kind = chips.CHIP, True
            self.place["role"] = chip.role.code if chip.role else ""
        rest = chip.left(words, self._rail_of)
        self.known.update(chip.known)
        if chip.rails:
            self.known["rails"] = tuple(dict.fromkeys(chip.rails))
            self.line = self.line or chip.rails[0]
        return rest

    def _rail_of(self, word: str) -> str:
        return self.rails.get(rail_number(word), "") if word[0] in "+-" else ""

    def _take_kind(self, words: Sequence[str]) -> None:
        """The kind that a word says, or a numeric type name behind a U."""
        kind = next((w for w in words if w.lower() in KIND_WORDS), "")
        if kind and not self.is_capacitor:
            self.kind, self.says_kind = by_code(KIND_WORDS[kind.lower()]), True
        elif self.kind is regulator.KIND:
            self._take_type(words)

    def _take_type(self, words: Sequence[str]) -> None:
        """What a U or a VR is by the name or value behind it; without one, a regulator."""
        first = words[0] if words else ""
        if _REGULATOR_NAME.fullmatch(first):
            self.says_kind = True
        elif self.ref.startswith("VR") and re.fullmatch(r"\d[\d.,]*[kKMR]?\d*", first):
            self.kind, self.says_kind = trimmer.KIND, True
        elif first and first[:1] not in "+-" and _CHIP_NAME.fullmatch(first):
            self.kind = chips.CHIP
            self.notes.append("a chip by its name: write regulator if it is one")

    def _take(self, word: str) -> bool:
        """Use one word; False when it means nothing to a parts list."""
        if self.kind is fuse.KIND and self._take_fuse(word):
            return True
        if self.says_kind and word.lower() in KIND_WORDS:
            return True
        return self._take_of_capacitor(word) or self._take_place(word) or self._take_number(word)

    def _take_fuse(self, word: str) -> bool:
        """`T4A`, `1.6AT`; a speed of its own."""
        rating = fuse.read_rating(word)
        if rating:
            self.known["value"] = rating.ampere
            if rating.speed:
                self.known["speed"] = rating.speed
        elif word.upper() in FUSE_SPEEDS:
            self.known["speed"] = word.upper()
        else:
            return False
        return True

    def _take_of_capacitor(self, word: str) -> bool:
        lower = word.lower()
        if self.is_capacitor and self._take_class(word.upper()):
            pass
        elif lower in _FAMILIES and self.is_capacitor:
            self.known["family"] = _FAMILIES[lower]
        elif lower == "store":  # value and rating say that now
            pass
        elif lower in _LOW_ESR:
            self.known["grade"] = Grade.LOW
        else:
            return False
        return True

    def _take_class(self, word: str) -> bool:
        """`X2`, a bare `Y`, `X1/Y2`: of two that of its designator, else the one to earth."""
        words = word.split("/")
        if not all(one in (*_CLASSES, *_BARE_CLASSES) for one in words):
            return False
        wanted = self.ref[1:2] if self.ref[1:2] in ("X", "Y") else "Y"
        text = next((one for one in words if one.startswith(wanted)), words[0])
        if text in _BARE_CLASSES:
            self.notes.append(f"class {text}: {_BARE_CLASSES[text]} assumed")
        self.known["safety_class"] = _BARE_CLASSES.get(text, text)
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
        if not re.match(r"[\d.,]|~\d|[RrpnuµVv]\d", word):
            if word[0] in "+-" and word[1:2].isdigit():
                have = ", ".join(self.rails.values())
                raise InputError(f"No rail {word} here ({have}): the line “rail {word}” adds it.")
            return False
        return self._take_quantity(word, has_value)

    def _take_quantity(self, word: str, has_value: bool) -> bool:
        unit = self.kind.value_unit
        is_volt = re.fullmatch(_VOLTS, word, re.IGNORECASE)
        if not self._has_numbers:
            return False
        if not has_value and unit and (unit is Unit.VOLT or not is_volt):
            is_marked = unit is Unit.FARAD  # read with its family, which may come later
            self.known["value"] = word if is_marked else read(word, unit, allow_words=False).value
        elif "volt" not in self.known and (is_volt or re.fullmatch(r"[\d.,]+", word)):
            self.known["volt"] = read(_plain_volts(word), Unit.VOLT, allow_words=False).value
        else:
            return False
        return True

    @property
    def _has_numbers(self) -> bool:
        """False for kinds on which a number is a type's name: it stays in the note."""
        return self.kind.value_unit is not None

    def _check(self) -> None:
        if self.is_capacitor and self.ref[:2] in ("CX", "CY") and "safety_class" not in self.known:
            self.known["safety_class"] = _BARE_CLASSES[self.ref[1]]
            self.assumed["safety_class"] = f"{_BARE_CLASSES[self.ref[1]]} assumed by its designator"
        if not self.is_capacitor:
            if not self.line and self.kind in _OF_BOARDS and self.logic:
                self.line = self.logic.key
                self.assumed["line"] = f"on {self.line} assumed"
            elif not self.line:
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
            raise InputError("A capacitor cannot have 0 F.")
        if volt is not None and not 1 <= volt <= 30_000:
            raise InputError(f"No capacitor is rated {volt:g} V.")
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


def _plain_volts(word: str) -> str:
    """`~305V`, `305V~` and `275~` as volts."""
    return word.strip("~") if word.strip("~")[-1:].isalpha() else f"{word.strip('~')}V"


def _split_slashes(tokens: Sequence[str]) -> list[str]:
    """`2200u/10V` is a value and a voltage; `-10/+50%` and `X1/Y2` stay one."""
    return [part for token in tokens
            for part in ([token] if _is_whole(token) else token.split("/"))
            if part]  # fmt: skip


def _is_whole(token: str) -> bool:
    return "%" in token or _is_class(token) or token.lower() in ROLE_WORDS


def _is_class(token: str) -> bool:
    return bool(re.fullmatch(r"[XY][12]?/[XY][12]?", token.upper()))


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
