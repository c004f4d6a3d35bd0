"""Exchanged, substituted, removed: three acts as tests, what each proves, and of the spare too.

Source: docs/formulas.md, “Behind the supply”. What is concluded rests on one fault at
a time, on the spare being good, or on neither; each sentence says on which.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import TypeVar

from msgspec import Struct, field

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import tidy


class Act(Coded):
    """What was done with a part."""

    EXCHANGED = ("exchanged", "exchanged with")
    SUBSTITUTED = ("substituted", "substituted by a spare")
    REMOVED = ("removed", "removed")
    PUT_BACK = ("put-back", "the old one put back")
    TRIED = ("tried", "tried in another machine")


class Result(Coded):
    """What became of the fault."""

    GONE = ("gone", "the fault is gone")
    STAYED = ("stayed", "the fault stayed")
    MOVED = ("moved", "the fault moved with it")
    BACK = ("back", "the fault is back")
    WORKS = ("works", "it works there")
    FAILS = ("fails", "it fails there")


class Source(Coded):
    """What the other part was."""

    GOOD = ("known-good", "known good")
    STOCK = ("stock", "from stock, untested")
    SALVAGED = ("salvaged", "salvaged")
    UNKNOWN = ("", "of unknown origin")


ACTS = {act.code: act for act in Act}
RESULTS = {result.code: result for result in Result}
SOURCES = {source.code: source for source in Source}
#: the results that an act can have
RESULTS_OF = {
    Act.EXCHANGED: (Result.GONE, Result.STAYED, Result.MOVED),
    Act.SUBSTITUTED: (Result.GONE, Result.STAYED),
    Act.REMOVED: (Result.GONE, Result.STAYED),
    Act.PUT_BACK: (Result.BACK, Result.GONE),
    Act.TRIED: (Result.WORKS, Result.FAILS),
}
_ACT_WORDS = {
    **{act.code: act for act in Act},
    "e": Act.EXCHANGED, "exchange": Act.EXCHANGED, "swapped": Act.EXCHANGED,
    "swap": Act.EXCHANGED, "s": Act.SUBSTITUTED, "substitute": Act.SUBSTITUTED,
    "replaced": Act.SUBSTITUTED, "spare": Act.SUBSTITUTED, "r": Act.REMOVED, "remove": Act.REMOVED,
    "pulled": Act.REMOVED, "unplugged": Act.REMOVED, "out": Act.REMOVED,
    "put back": Act.PUT_BACK, "b": Act.PUT_BACK, "t": Act.TRIED, "elsewhere": Act.TRIED,
}  # fmt: skip
_RESULT_WORDS = {
    **{result.code: result for result in Result},
    "cured": Result.GONE, "away": Result.GONE, "still": Result.STAYED, "stays": Result.STAYED,
    "same": Result.STAYED, "unchanged": Result.STAYED, "moves": Result.MOVED, "followed":
    Result.MOVED, "returned": Result.BACK, "good": Result.WORKS, "works there": Result.WORKS,
    "bad": Result.FAILS, "fails there": Result.FAILS, "fault gone": Result.GONE,
    "no change": Result.STAYED, "nothing changed": Result.STAYED, "fault stayed": Result.STAYED,
    "moved with it": Result.MOVED, "fault moved": Result.MOVED, "fault back": Result.BACK,
}  # fmt: skip
_SOURCE_WORDS = {
    "known-good": Source.GOOD, "known good": Source.GOOD, "proven": Source.GOOD,
    "good": Source.GOOD, "good one": Source.GOOD,
    "stock": Source.STOCK, "from stock": Source.STOCK, "new": Source.STOCK,
    "untested": Source.STOCK, "salvaged": Source.SALVAGED, "salvage": Source.SALVAGED,
    "used": Source.SALVAGED,
}  # fmt: skip
_MOST = 60


class Exchange(Struct, frozen=True):
    """One act: with what part, by what, its result, and what it rests on.

    `other` the part exchanged with, or the spare's name; `where` in which machine the spare, or the
    part, was proven; `why` the reading that led here. `key` names it; `at` when it was done.
    """

    part: str
    act: Act
    result: Result
    other: str = ""
    source: Source = Source.UNKNOWN
    where: str = ""
    why: str = ""
    key: str = ""
    at: str = ""

    @property
    def words(self) -> str:
        """The act as one says it."""
        spare = f" ({self._spare_words})" if self.act is Act.SUBSTITUTED else ""
        other = f" {self.other}" if self.act is Act.EXCHANGED else ""
        where = f": {self.where}" if self.act is Act.TRIED and self.where else ""
        why = f", since {self.why}" if self.why else ""
        return f"{self.part} {self.act.words}{other}{spare}{where}: {self.result.words}{why}"

    @property
    def _spare_words(self) -> str:
        name = f"{self.other}, " if self.other else ""
        where = f", proven in {self.where}" if self.where else ""
        return f"{name}{self.source.words}{where}"

    @property
    def is_spare_good(self) -> bool:
        """True for a spare that is known to be good."""
        return self.source is Source.GOOD


class Standing(Coded):
    """Where a part stands by the acts."""

    BAD = ("bad", "bad")
    LIKELY = ("likely", "likely bad, or its contact")
    CONTACT = ("contact", "a contact")
    CLEARED = ("cleared", "not this one, if there is one fault")
    GOOD = ("good", "proven good")


class Saying(Struct, frozen=True):
    """What an act proves: a sentence, what it does not, what is next ("" for nothing), and where
    the parts stand after it; `why` the part is bad, where that is proven."""

    says: str
    but: str = ""
    next: str = ""
    standing: tuple[tuple[str, Standing], ...] = ()
    why: str = ""


_RESULT = "|".join(sorted(map(re.escape, _RESULT_WORDS), key=len, reverse=True))
_WHY = re.compile(r"\s*\b(?:since|because)\b\s*(.+)$", re.IGNORECASE)
_WHERE = re.compile(
    rf"\s*\b(?:proven (?:in|on|at)|in)\s+(.+?)(?=\s+(?:{_RESULT})\b|\s*$)", re.IGNORECASE
)
_LEAD = re.compile(r"^(?:with|by|from|a|the)\s+", re.IGNORECASE)


def read_act(part: str, text: str) -> Exchange:
    """An act as it is typed: `exchanged U21 moved`, `substituted stock stayed`, `removed gone`.

    Pieces may stand apart by `;`. `proven in X` says where the spare was proven, `since …` the
    reading that led here. Raises InputError saying what is missing.
    """
    rest = tidy(text.replace(";", " "))
    act, rest = _leading(rest)
    rest, why = _cut(rest, _WHY)
    rest, where = _cut(rest, _WHERE)
    where = where.strip(" ,:")
    result, rest = _taken(rest, _RESULT_WORDS)
    source, rest = _taken(rest, _SOURCE_WORDS)
    for _ in range(2):  # `new from stock` says it twice
        again, rest = _taken(rest, _SOURCE_WORDS)
        source = source or again
    other = _LEAD.sub("", rest).strip(" ,:")
    if where and source is None and act is Act.SUBSTITUTED:
        source = Source.GOOD
    return checked(part, act, result, other, source or Source.UNKNOWN, where, why)


def _leading(text: str) -> tuple[Act, str]:
    lower = text.lower()
    for word in sorted(_ACT_WORDS, key=len, reverse=True):
        if re.match(rf"{re.escape(word)}(?![\w-])", lower):
            return _ACT_WORDS[word], text[len(word) :].strip()
    raise InputError(
        "Say first what was done: exchanged U21 …, substituted …, removed …, put back …, tried …"
    )


def _cut(text: str, pattern: re.Pattern[str]) -> tuple[str, str]:
    match = pattern.search(text)
    if not match:
        return text, ""
    return (text[: match.start()] + " " + text[match.end() :]).strip(), match[1].strip()


T = TypeVar("T")


def _taken(text: str, words: Mapping[str, T]) -> tuple[T | None, str]:
    """The longest of some words that stands in a text, and the text without it."""
    for word in sorted(filter(None, words), key=len, reverse=True):
        match = re.search(rf"(?<![\w-]){re.escape(word)}(?![\w-])", text, re.IGNORECASE)
        if match:
            return words[word], tidy(text[: match.start()] + " " + text[match.end() :])
    return None, text


def checked(
    part: str, act: Act, result: Result | None, other: str, source: Source, where: str, why: str
) -> Exchange:
    """An act of pieces that fit one another; raises InputError saying what is missing."""
    known = RESULTS_OF[act]
    if act is Act.TRIED and result is Result.GONE:
        result = Result.WORKS
    if result is None or result not in known:
        ways = ", ".join(one.code for one in known)
        raise InputError(f"{act.code}: then say what became of it: {ways}.")
    if act is Act.EXCHANGED and (not other or other.casefold() == part.casefold()):
        raise InputError("Exchanged with which part? Write exchanged U21 moved.")
    if max(map(len, (other, where, why))) > _MOST:
        raise InputError(f"That is too long: at most {_MOST} characters a piece.")
    if act is Act.TRIED and not where:
        raise InputError("Tried in which machine? Write tried in LW-020 works.")
    if act is Act.SUBSTITUTED and source is Source.GOOD and not where:
        raise InputError("Known good, proven where? Write proven in LW-020, or stock.")
    return Exchange(part, act, result, other, source, where, why)


def says(act: Exchange) -> Saying:
    """What one act proves by itself, what it does not, and what is next."""
    return _SAYS[act.act](act)


def _bad(act: Exchange, why: str, *others: tuple[str, Standing]) -> Saying:
    """A part that is proven bad."""
    standing = ((act.part, Standing.BAD), *others)
    return Saying(f"{act.part} is bad: {why}.", standing=standing, why=why)


def _exchanged(act: Exchange) -> Saying:
    if act.result is Result.MOVED:
        return _bad(act, "the fault went along with it", (act.other, Standing.CLEARED))
    if act.result is Result.STAYED:
        text = f"Neither {act.part} nor {act.other}, if there is one fault."
        return Saying(text, "Two bad ones would look the same.", "What drives that place is next.",
                      ((act.part, Standing.CLEARED), (act.other, Standing.CLEARED)))  # fmt: skip
    return Saying(
        f"A contact was made better, or the fault depends on where {act.part} stands.",
        "Neither part is proven.",
        f"Exchange {act.part} and {act.other} back: if it stays gone, it was a contact.",
        ((act.part, Standing.CONTACT),),
    )


def _substituted(act: Exchange) -> Saying:
    if act.result is Result.GONE:
        return Saying(
            f"The old {act.part}, or its contact.",
            "Which of the two is not proven.",
            f"Put the old {act.part} back once: back with it, it is bad; still gone, it was its "
            "contact.",
            ((act.part, Standing.LIKELY),),
        )
    if act.is_spare_good:
        return Saying(
            f"Not {act.part}, if there is one fault: the spare is good, proven in {act.where}.",
            "Its socket and lines are not proven.",
            standing=((act.part, Standing.CLEARED),),
        )
    name = act.other or "the spare"
    return Saying(
        f"Nothing for sure: {name} is {act.source.words}, and may be bad itself.",
        f"{act.part} is not acquitted.",
        f"Prove {name} in a machine that runs, or use one that is known good.",
    )


def _removed(act: Exchange) -> Saying:
    if act.result is Result.GONE:
        return Saying(
            f"{act.part}, or what it loads.",
            "Which of the two is not proven.",
            f"Put another in place of {act.part}: gone still, it was {act.part}.",
            ((act.part, Standing.LIKELY),),
        )
    return Saying(
        f"Not by {act.part} alone.",
        f"{act.part} may be bad beside another fault.",
        standing=((act.part, Standing.CLEARED),),
    )


def _put_back(act: Exchange) -> Saying:
    if act.result is Result.BACK:
        return _bad(act, "the fault came back with it")
    return Saying(
        f"It was the contact of {act.part}: the old one works there again.",
        f"{act.part} itself is not bad.",
        "Clean or replace its socket, and look at its pins.",
        ((act.part, Standing.CONTACT),),
    )


def _tried(act: Exchange) -> Saying:
    if act.result is Result.WORKS:
        return Saying(f"{act.part} is good: it works in {act.where}.",
                      "Its contact and its lines here are not proven.",
                      standing=((act.part, Standing.GOOD),))  # fmt: skip
    return _bad(act, f"it fails in {act.where} too")


_SAYS = {Act.EXCHANGED: _exchanged, Act.SUBSTITUTED: _substituted, Act.REMOVED: _removed,
         Act.PUT_BACK: _put_back, Act.TRIED: _tried}  # fmt: skip
#: what a later act is weaker than
_RANK = (Standing.BAD, Standing.GOOD, Standing.LIKELY, Standing.CONTACT, Standing.CLEARED)


class Proven(Struct, frozen=True):
    """What all acts prove: each with what it says, the parts' standing, the spares that failed."""

    acts: tuple[tuple[Exchange, Saying], ...] = ()
    standing: Mapping[str, Standing] = field(default_factory=dict)
    failed_spares: tuple[tuple[Exchange, str], ...] = ()

    @property
    def bad(self) -> Mapping[str, str]:
        """The parts that are proven bad, with the act's words."""
        return {
            ref: act.words
            for act, saying in self.acts
            for ref, one in saying.standing
            if one is Standing.BAD
        }

    def of(self, ref: str) -> Standing | None:
        """Where a part stands, None where no act says."""
        return self.standing.get(ref.casefold())


def proven(acts: Sequence[Exchange]) -> Proven:
    """What acts prove together, in the order in which they were done.

    A spare with which the fault stayed, while another in the same place took it away, is a purchase
    that failed; so is one that failed when it was tried elsewhere.
    """
    told = [(act, says(act)) for act in acts]
    standing: dict[str, Standing] = {}
    for _, saying in told:
        for ref, one in saying.standing:
            standing[ref.casefold()] = _stronger(standing.get(ref.casefold()), one)
    _settle_contacts(acts, standing)
    return Proven(tuple(told), standing, tuple(_failed_spares(acts)))


def _stronger(known: Standing | None, new: Standing) -> Standing:
    return new if known is None or _RANK.index(new) <= _RANK.index(known) else known


def _settle_contacts(acts: Sequence[Exchange], standing: dict[str, Standing]) -> None:
    """The old part put back decides what a substitution left open."""
    for act in acts:
        if act.act is Act.PUT_BACK and act.result is Result.GONE:
            standing[act.part.casefold()] = Standing.CONTACT


def _failed_spares(acts: Sequence[Exchange]) -> Iterator[tuple[Exchange, str]]:
    for place, act in enumerate(acts):
        if act.act is not Act.SUBSTITUTED or act.result is not Result.STAYED:
            continue
        name = act.other or f"the spare for {act.part}"
        tried = next((one for one in acts if _fails_elsewhere(one, act.other)), None)
        if tried:
            yield act, f"{name} failed in {tried.where}: {act.source.words}."
        elif not act.is_spare_good and any(_cures(one, act.part) for one in acts[place + 1 :]):
            yield act, f"{name} was bad too, or sat badly: {act.source.words}."


def _fails_elsewhere(act: Exchange, spare: str) -> bool:
    is_it = bool(spare) and act.part.casefold() == spare.casefold()
    return is_it and act.act is Act.TRIED and act.result is Result.FAILS


def _cures(act: Exchange, part: str) -> bool:
    is_it = act.part.casefold() == part.casefold()
    return is_it and act.act is Act.SUBSTITUTED and act.result is Result.GONE
