"""Reads a part and what was read of it: `2200u 10V esr 0.08`, `fuse 3.15A OL`, `Q B-E 0.65`."""

from __future__ import annotations

import re
from collections.abc import Sequence

from msgspec.structs import replace

from hale_rail.core.ask.answer import Question
from hale_rail.core.ask.parts import ANY, PartQuestion, PartReading, UnmarkedQuestion
from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import (
    KINDS,
    battery,
    by_code,
    by_letters,
    capacitor,
    fuse,
    resistor,
)
from hale_rail.core.parts.looks import BY_CODE, FINDINGS
from hale_rail.core.parts.part import Ask, Part, PartKind
from hale_rail.core.procedures import (
    BATTERY,
    BREAKDOWN,
    CAPACITANCE,
    DIODE,
    ESR,
    LEAKAGE,
    OHMS,
    TRANSFER,
    Condition,
    Procedure,
    Subject,
)
from hale_rail.core.quantities import Unit
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Pair
from hale_rail.formats.ask.words import not_understood, take_rail, taken_condition, words_of
from hale_rail.formats.units.part_words import KIND_WORDS, read_words

_NOUNS = {
    **{word: kind.code for kind in KINDS for word in (kind.code, kind.name)},
    **KIND_WORDS,
    "cap": "capacitor", "bjt": "transistor", "npn": "transistor", "pnp": "transistor",
    "inductor": "choke", "rectifier": "diode",
}  # fmt: skip
_READ = {
    "c": CAPACITANCE, "cap": CAPACITANCE, "capacitance": CAPACITANCE, "esr": ESR,
    "leak": LEAKAGE, "leaks": LEAKAGE, "leakage": LEAKAGE, "ohms": OHMS, "ohm": OHMS,
    "resistance": OHMS, "drop": DIODE, "junction": DIODE, "breakdown": BREAKDOWN,
    "transfer": TRANSFER,
}  # fmt: skip
_FILLERS = ("reads", "read", "shows", "measures", "measured", "is", "and", "with", "reversed",
            "forward", "new", "marked")  # fmt: skip
_SEEN = {
    **{code: code for code in BY_CODE if code not in ("none", "leak", "hot")},
    **{finding.words: finding.code for finding in FINDINGS},
    "bulging": "bulge", "domed": "bulge", "leaking": "leak", "cracked": "crack", "split": "crack",
    "crazed": "craze", "crazing": "craze", "burned": "burnt", "scorched": "burnt",
    "sooty": "burnt", "corrosion": "corroded", "venting": "vented", "sound": "none",
}  # fmt: skip
_VALUE = re.compile(r"[<>~]?[\d.,]+\S*|ol|short|shorted|open|beeps?|conducts|dark", re.IGNORECASE)
_FARAD = re.compile(r"[\d.,]+\s*(?:[pnuµm]\d*f?|mfd|f)|\d+[pnuµ]\d+f?", re.IGNORECASE)
_OHM = re.compile(
    r"[\d.,]+\s*(?:k|M|R|Ω|kΩ|MΩ|ohms?|mΩ|mohms?)|\d+[kKMRr]\d+|[Rr]\d+|ol", re.IGNORECASE
)
_AMPERE = re.compile(r"[\d.,]+\s*[uµmn]a", re.IGNORECASE)
_PLAIN = re.compile(r"[\d.,]+")
_DROP = re.compile(r"(?:0?[.,]\d+|[01][.,]\d+)V?|\d{2,3}(?:mV)?|ol|open", re.IGNORECASE)
_COUNT = re.compile(r"(\d{1,2})\s*[x×*](.*)", re.IGNORECASE)
_REF = re.compile(r"([A-Za-z]{1,3})\d{1,4}[A-Za-z]?")
_TYPE_NAME = re.compile(r"(?=.*\d)(?=.*[A-Za-z])[A-Za-z0-9-]{4,16}")
#: four figures or more on a kind that has no value are its name
_NUMERIC_NAME = re.compile(r"\d{4,6}")
_PIN_WORDS = {"~1": ("ac1",), "~2": ("ac2",), "-": ("minus",), "+": ("plus",)}


def read_part(text: str) -> Question:
    """A part with its readings.

    Raises InputError for a word that means nothing, with what would be understood.
    """
    rest, condition = taken_condition(text)
    return _Reader(words_of(rest), condition).question()


class _Reader:
    """Collects what the words of one question say."""

    def __init__(self, words: list[str], condition: Condition | None) -> None:
        self.condition = condition or Condition.IN_CIRCUIT
        self.says_where = condition is not None
        self.ref = ""
        self.count = 1
        self.seen: list[str] = []
        self.typed: list[tuple[Procedure, Pair | None, str]] = []
        self.assumed: list[str] = []
        self.words = self._without_count(words)
        self.kind = self._kind()

    def question(self) -> Question:
        """The part, or a capacitor's reading whose value nobody said."""
        self._take_seen()
        self._take_read()
        rail = take_rail(self.words)
        self.words = [word for word in self.words if word.lower() not in _FILLERS]
        if not self.words and self.kind is capacitor.KIND:
            return self._without_value()
        part = self._part([rail] if rail else [])
        return PartQuestion(
            part,
            tuple(self._reading(part, *one) for one in self.typed),
            tuple(self.seen),
            self.condition,
            self.count,
            tuple(self.assumed),
            self.says_where,
        )

    def _without_count(self, words: list[str]) -> list[str]:
        """`3x2200u`, `3 x 2200u`: like parts in parallel."""
        joined = re.sub(r"(?i)^(\d{1,2}) ?[x×] ?", r"\1x", " ".join(words))
        match = _COUNT.fullmatch(joined)
        if match is None:
            return words
        self.count = int(match[1])
        if not 1 <= self.count <= 20:
            raise InputError("A bank has 2 to 20 parts.")
        return words_of(match[2])

    def _kind(self) -> PartKind:
        """The kind by a noun or designator, which are taken out; else by what is read of it."""
        for word in self.words:
            code = _NOUNS.get(word.lower())
            if code and not (word.lower() == "cap" and self._is_read_word(word)):
                self.words.remove(word)
                return by_code(code)
        match = _REF.fullmatch(self.words[0])
        kind = by_letters(match[1]) if match and len(self.words) > 1 else None
        if kind and not _FARAD.fullmatch(self.words[0]):
            self.ref = self.words.pop(0).upper()
            return kind
        if any(_OHM.fullmatch(word) for word in self.words[:1]) and not self._says_capacitor():
            return resistor.KIND
        return capacitor.KIND

    def _says_capacitor(self) -> bool:
        return any(
            _READ.get(word.lower()) in (CAPACITANCE, ESR, LEAKAGE) or _FARAD.fullmatch(word)
            for word in self.words
        )

    def _is_read_word(self, word: str) -> bool:
        place = self.words.index(word)
        return place + 1 < len(self.words) and bool(_FARAD.fullmatch(self.words[place + 1]))

    def _take_seen(self) -> None:
        """What the eye found; raises InputError for what is not found at such a part."""
        for word in list(self.words):
            code = _SEEN.get(word.lower())
            if code is None:
                continue
            if code != "none" and code not in self.kind.findings:
                known = ", ".join(BY_CODE[c].words for c in self.kind.findings)
                raise InputError(f"“{word}” is not seen at a {self.kind.name}; {known} are.")
            self.words.remove(word)
            self.seen.append(code)

    def _take_read(self) -> None:
        """Every reading that its word names, before or behind the figure; and pairs of pins."""
        place = 0
        while place < len(self.words):
            pair = self._pair(self.words[place])
            procedure = _READ.get(self.words[place].lower())
            if pair or procedure:
                self._take_figures(place, procedure or DIODE, pair)
                place = 0
            else:
                place += 1

    def _take_figures(self, place: int, procedure: Procedure, pair: Pair | None) -> None:
        word = self.words.pop(place)
        figures = self._behind(place)
        before = self.words[place - 1] if place else ""
        if not figures and _VALUE.fullmatch(before) and before[-1] not in "vV":
            figures = [self.words.pop(place - 1)]
        if not figures:
            raise InputError(f"{word}: the figure is missing. Write {word} and what was read.")
        if procedure is DIODE and pair is None:
            pair = self.kind.pairs[0] if self.kind.pairs else None
        ways = (pair, pair.turned) if pair else (None,)
        for way, figure in zip(ways, figures, strict=False):
            self.typed.append((procedure, way, figure))
        if len(figures) > len(ways):
            raise not_understood(f"“{figures[-1]}” is not understood.")

    def _behind(self, place: int) -> list[str]:
        """The figures behind a word, two of a pair of pins."""
        figures: list[str] = []
        most = 2 if self.kind.pairs else 1
        while place < len(self.words) and len(figures) < most:
            if not _VALUE.fullmatch(self.words[place]):
                break
            figures.append(self.words.pop(place))
        return figures

    def _pair(self, word: str) -> Pair | None:
        """Two pins of the kind, as `B-E`, `BE` or `AC1>+`."""
        spoken = word.lower()
        ways = [way for pair in self.kind.pairs for way in (pair, pair.turned)]
        exact = next((way for way in ways if spoken == way.code.lower()), None)
        loose = (p for p in self.kind.pairs if spoken in _spoken(p) | _spoken(p.turned))
        return exact or next(loose, None)

    def _part(self, rails: Sequence[Rail]) -> Part:
        """The marking that is left; what notes do not know is a reading by its unit, or refused."""
        marking, plain = self._split_plain()
        try:
            known = read_words(self.ref or ANY, self.kind, marking, rails)
        except InputError as error:
            raise not_understood(str(error)) from error
        part = known.part
        self.assumed += [text for name, text in known.assumed.items() if name != "line"]
        self.assumed += known.notes
        names = [word for word in part.note.split() if self._is_type(word)]
        left = [word for word in part.note.split() if word not in names]
        part = replace(part, note=" ".join(names))
        self._take_junction(plain)
        for word in (*left, *plain):
            self._take_left(part, word)
        if self.kind is capacitor.KIND and "craze" in self.seen:
            part = self._crazed(part)
        return part

    def _crazed(self, part: Part) -> Part:
        """Only the epoxy of metallised paper crazes."""
        marked = part.capacitor
        if marked is None or marked.family is not Family.SUPPRESSION_FILM:
            return part
        self.assumed = [text for text in self.assumed if "film assumed" not in text]
        self.assumed.append("paper, since it is crazed")
        return replace(part, marking=replace(marked, family=Family.SUPPRESSION_PAPER))

    def _split_plain(self) -> tuple[list[str], list[str]]:
        """The words of the marking, and the figures that can only be readings of this kind."""
        if self.kind is capacitor.KIND:
            return self.words, []
        marking: list[str] = []
        figures: list[str] = []
        for word in self.words:
            is_figure = bool(_VALUE.fullmatch(word)) and not word.endswith("%")
            is_name = self.kind.value_unit is None and _NUMERIC_NAME.fullmatch(word)
            is_figure = is_figure and not is_name
            is_marked = is_figure and not figures and self._is_marked(word, marking)
            (figures if is_figure and not is_marked else marking).append(word)
        return marking, figures

    def _is_marked(self, word: str, marking: Sequence[str]) -> bool:
        """True for the first figure of a kind that has one printed on it."""
        if word[0].isalpha() or any(_VALUE.fullmatch(other) for other in marking):
            return False
        if self.kind is fuse.KIND:
            return fuse.read_rating(word) is not None
        return self.kind.value_unit is not None or self.kind is battery.KIND

    def _is_type(self, word: str) -> bool:
        """True for a type's name, and for what a battery is marked with."""
        if self.kind.value_unit is None and _NUMERIC_NAME.fullmatch(word):
            return True
        return self.kind is battery.KIND or (
            self.kind is not capacitor.KIND and bool(_TYPE_NAME.fullmatch(word))
        )

    def _take_junction(self, figures: list[str]) -> None:
        """Of a part with one junction: the figures are its drop, and the other way round."""
        if len(self.kind.pairs) != 1 or self.typed:
            return
        pair = self.kind.pairs[0]
        for way in (pair, pair.turned):
            if figures and _DROP.fullmatch(figures[0]):
                self.typed.append((DIODE, way, figures.pop(0)))

    def _take_left(self, part: Part, word: str) -> None:
        """A figure that no word named: its unit says what it is, or it is asked back."""
        if self.kind is capacitor.KIND:
            self._take_of_capacitor(word)
            return
        ask = self._first_ask(part, word)
        if ask is None:
            raise not_understood(f"“{word}” is not understood.")
        self.typed.append((ask.procedure, ask.pair, word))

    def _take_of_capacitor(self, word: str) -> None:
        if _FARAD.fullmatch(word):
            self.typed.append((CAPACITANCE, None, word))
        elif _AMPERE.fullmatch(word):
            self.typed.append((LEAKAGE, None, word))
        elif word.lower() in ("short", "shorted"):
            self.typed.append((OHMS, None, "short"))
        elif _OHM.fullmatch(word) or _PLAIN.fullmatch(word):
            raise InputError(f"“{word}”: ESR or ohms? Write esr {word}, or ohms {word}.")
        else:
            raise not_understood(f"“{word}” is not understood.")

    def _first_ask(self, part: Part, word: str) -> Ask | None:
        """The first reading of its kind that is not taken and that the figure can be."""
        if not _VALUE.fullmatch(word):
            return None
        taken = {(procedure, pair) for procedure, pair, _ in self.typed}
        asks = [ask for ask in part.kind.asks(part) if (ask.procedure, ask.pair) not in taken]
        if word.lower() in ("ol", "open") and any(a.procedure is OHMS for a in asks):
            junctions = [a for a in asks if a.procedure is DIODE]
            asks = junctions if any(p is DIODE for p, _, __ in self.typed) else asks
        is_volt = bool(re.fullmatch(r"0?[.,]\d+V?|[\d.,]+m?V", word, re.IGNORECASE))
        wanted = [ask for ask in asks if ask.procedure.unit is Unit.VOLT] if is_volt else []
        extras = [ask for ask in part.all_asks if ask.procedure in (BATTERY, BREAKDOWN)]
        if part.kind.value_unit is Unit.VOLT:
            return next(iter([*extras, *asks]), None)
        return next(iter([*wanted, *asks, *extras]), None)

    def _reading(
        self, part: Part, procedure: Procedure, pair: Pair | None, figure: str
    ) -> PartReading:
        """One reading as its procedure understands it; raises InputError naming it."""
        if Ask(procedure, pair) not in part.all_asks:
            across = [a for a in part.all_asks if a.procedure is procedure]
            if not across:
                raise InputError(f"A {part.kind.name} has no {procedure.label} to read.")
            pair = across[0].pair
        marked = part.capacitor
        subject = Subject(
            part.kind.name,
            rated_v=part.volt,
            marked_farad=self.count * marked.farad if marked and marked.farad else None,
            is_blocking=pair in part.kind.blocking if pair else False,
        )
        where = self.condition if self.condition in procedure.conditions else Condition.NONE
        try:
            meant = procedure.understand(figure, where, subject)
        except InputError as error:
            raise InputError(f"{procedure.label}: {error}") from error
        return PartReading(procedure, meant, figure, pair)

    def _without_value(self) -> Question:
        """A capacitor's readings alone, whose value nobody said."""
        if not self.typed:
            raise not_understood("Of what? Write the part's value and volts in front.")
        subject, where = Subject("capacitor"), self.condition
        readings = [PartReading(p, p.understand(t, where, subject), t) for p, _, t in self.typed]
        return UnmarkedQuestion(tuple(readings), where)


def _spoken(pair: Pair) -> set[str]:
    """How a pair of pins is written: `b-e`, `be`, `b>e`, `ac1-+`."""
    firsts = (pair.plus.lower(), *_PIN_WORDS.get(pair.plus, ()))
    seconds = (pair.minus.lower(), *_PIN_WORDS.get(pair.minus, ()))
    return {f"{a}{between}{b}" for a in firsts for b in seconds for between in ("-", ">", "", "/")}
