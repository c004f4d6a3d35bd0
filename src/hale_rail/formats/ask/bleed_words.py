"""Reads a bleed-down: `bleed 220u 336V`, `discharge 4700u 50 V 100R`."""

from __future__ import annotations

from hale_rail.core.ask.bleed import BleedQuestion
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read
from hale_rail.formats.ask.words import take, words_of

#: a plain number is volts; a prefix alone is read as the first unit that may have it
_UNITS = (Unit.FARAD, Unit.OHM, Unit.VOLT)
_WANTED = "Write the farads and the volts across it: bleed 220u 336V."


def is_bleed(words: list[str]) -> bool:
    """True for a question that begins with it."""
    return words[0].lower() in ("bleed", "discharge")


def read_bleed(text: str) -> BleedQuestion:
    """Farads, volts, and ohms where they are said; raises InputError for what is none of them."""
    words = words_of(text)[1:]
    take(words, "through", "with")
    take(words, "at", "from")
    known: dict[Unit, float] = {}
    for word in words:
        unit = next((u for u in _UNITS if _is(word, u, known)), None)
        if unit is None and any(_is(word, u, {}) for u in _UNITS):
            raise InputError(_WANTED)
        if unit is None:
            raise InputError(f"“{word}” is not understood: write bleed 220u 336V, and 10k behind.")
        known[unit] = read(word, unit, allow_words=False).value
    if known.get(Unit.FARAD, 0) <= 0 or Unit.VOLT not in known:
        raise InputError(_WANTED)
    return BleedQuestion(known[Unit.FARAD], known[Unit.VOLT], known.get(Unit.OHM))


def _is(word: str, unit: Unit, known: dict[Unit, float]) -> bool:
    """True where a word is a quantity of a unit that was not said yet; a plain number is volts."""
    is_plain = word.replace(".", "").replace(",", "").isdecimal()
    if unit in known or (is_plain and unit is not Unit.VOLT):
        return False
    try:
        read(word, unit, allow_words=False)
    except InputError:
        return False
    return True
