"""Reads a rail's volts, ripple and ohms to ground: `rail +5 4.93 at 9A`, `ripple 80m on +5`."""

from __future__ import annotations

import re

from hale_rail.core.ask.rails import GroundQuestion, RailQuestion, RippleQuestion
from hale_rail.core.errors import InputError
from hale_rail.core.procedures import GROUND, VOLTS, Condition, Subject, Understood
from hale_rail.core.quantities import Unit, read, show
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Place
from hale_rail.formats.ask.words import not_understood, take, take_rail, words_of

_LOADS = (
    (r"\b(?:no[- ]load|unloaded|idle)\b", Condition.NO_LOAD),
    (r"\b(?:on )?(?:a )?dummy(?:[- ]load)?\b", Condition.DUMMY),
    (r"\bin(?: the)?[- ]machine\b|\bloaded\b|\bfull[- ]load\b", Condition.MACHINE),
)
_PLACES = (
    (r"\b(?:at )?(?:the )?supply(?: end)?\b", Place.SUPPLY),
    (r"\b(?:at )?(?:the )?connector\b", Place.CONNECTOR),
    (r"\b(?:at )?(?:the )?far(?: end)?\b", Place.FAR),
)


#: a load's current behind the volts
_AT = re.compile(r"@|\bat\s+[\d.]")


def is_ripple(words: list[str]) -> bool:
    """True for a question that names ripple."""
    return any(word.lower() == "ripple" for word in words)


def is_ground(words: list[str]) -> bool:
    """True for a question that names ground."""
    return any(word.lower() in ("ground", "gnd") for word in words)


def is_rail(words: list[str]) -> bool:
    """True for one that begins with a rail, or with its word."""
    return words[0].lower() == "rail" or bool(re.fullmatch(r"[+-]\s?\d[\d.,]*V?", words[0], re.I))


def read_rail_volts(text: str) -> RailQuestion:
    """`rail +5 4.93 at 9A`, `-12 -11.2 no load`, `+5 4.71 far end`; raises InputError."""
    load, place, says_load = Condition.MACHINE, Place.NONE, bool(_AT.search(text))
    for pattern, condition in _LOADS:
        shorter = re.sub(pattern, " ", text, flags=re.IGNORECASE)
        if shorter != text:
            load, text, says_load = condition, shorter, True
    for pattern, where in _PLACES:
        shorter = re.sub(pattern, " ", text, flags=re.IGNORECASE)
        place, text = (where, shorter) if shorter != text else (place, text)
    words = _signed(words_of(text))
    rail = take_rail(words)
    if rail is None:
        raise not_understood("Which rail? It begins with + or −.")
    if not words:
        raise InputError(f"What was read on {rail.key}? Write {rail.key.replace(' V', '')} 4.93.")
    figure = " ".join(words)
    meant = VOLTS.understand(figure, load, Subject(rail.key, nominal_v=rail.nominal_v))
    return RailQuestion(rail, meant, load, place, says_load, figure)


def _signed(words: list[str]) -> list[str]:
    """The words behind `rail`; a rail's plain number there is a positive one."""
    rest = words[1:] if words[0].lower() == "rail" else words
    if rest and re.fullmatch(r"\d[\d.,]*V?", rest[0], re.IGNORECASE):
        return [f"+{rest[0]}", *rest[1:]]
    return rest


def read_ripple(text: str) -> RippleQuestion:
    """`ripple 80m on +5`, `ripple 1.2V on +24 raw`, `… limit 100m`; raises InputError."""
    words = words_of(text)
    take(words, "ripple")
    take(words, "on", "at", "of")
    take(words, "p-p", "pp", "pk-pk")
    rail = take_rail(words)
    if rail is None:
        raise not_understood("Ripple on which rail?")
    limit = _take_limit(words)
    if not words:
        raise InputError(f"How much ripple? Write ripple 80m on {rail.key.replace(' V', '')}.")
    volt = read(_with_unit(" ".join(words), rail), Unit.VOLT, allow_words=False)
    if not 0 <= volt.value < abs(rail.nominal_v) * 2:
        raise InputError(f"{show(volt.value, Unit.VOLT)} of ripple on {rail.key}? Check the unit.")
    meant = Understood(volt.value, volt.high, volt.resolution, show(volt.value, Unit.VOLT))
    return RippleQuestion(rail, meant, limit)


def _take_limit(words: list[str]) -> float | None:
    if not take(words, "limit"):
        return None
    if not words:
        raise InputError("The limit? Write limit 50m.")
    limit_v = read(words.pop(), Unit.VOLT, allow_words=False).value
    if limit_v <= 0:
        raise InputError("The limit is above 0 V. Write limit 50m.")
    return limit_v


def _with_unit(figure: str, rail: Rail) -> str:
    """A plain number of ripple, asked back where millivolts may be meant."""
    plain = re.fullmatch(r"(\d+(?:[.,]\d+)?)", figure)
    if plain and float(plain[1].replace(",", ".")) >= abs(rail.nominal_v) / 10:
        raise InputError(f"“{figure}”: millivolts or volts? Write {figure}m, or {figure}V.")
    return figure


def read_ground(text: str) -> GroundQuestion:
    """`+5 to ground 0.4`, `rail +12 ground 84 ohm isolated`; raises InputError."""
    words = words_of(text)
    for word in ("rail", "to", "ground", "gnd", "attached"):
        take(words, word)
    is_isolated = take(words, "isolated")
    rail = take_rail(words)
    if rail is None:
        raise not_understood("Which rail to ground?")
    if not words:
        raise InputError(f"How many ohms? Write {rail.key.replace(' V', '')} to ground 84.")
    how = Condition.ISOLATED if is_isolated else Condition.ATTACHED
    meant = GROUND.understand(" ".join(words), how, Subject(rail.key, nominal_v=rail.nominal_v))
    return GroundQuestion(rail, meant, not is_isolated, " ".join(words))
