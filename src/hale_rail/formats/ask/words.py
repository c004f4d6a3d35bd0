"""The words of a question asked in one line, common to all that may be asked."""

from __future__ import annotations

import re

from hale_rail.core.errors import InputError
from hale_rail.core.procedures import Condition
from hale_rail.core.quantities import tidy
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.formats.units.parts_text import split_words
from hale_rail.formats.units.rails_text import rail_key

#: what would be understood, one example a topic
EXAMPLES = (
    "2200u 10V esr 0.08",
    "2200u 10V C 1650u lifted",
    "104 250V X2 92n crazed",
    "fuse 3.15A OL",
    "rail +5 4.93 at 9A",
    "ripple 80m on +5",
    "bleed 220u 336V",
    "+5 to ground 0.4",
    "470u 25V",
)
_LONGEST = 200
_CONDITIONS = (
    (r"\b(?:one )?(?:leg )?lifted\b|\bout[- ]of[- ]circuit\b|\bremoved\b", Condition.LIFTED),
    (r"\bin[- ]?(?:circuit|situ)\b", Condition.IN_CIRCUIT),
)
_RAIL = re.compile(r"([+-])\s?(\d+(?:[.,]\d+)?)\s?V?", re.IGNORECASE)
_REGULATION = {
    "raw": Regulation.RAW,
    "unregulated": Regulation.RAW,
    "linear": Regulation.LINEAR,
    "switching": Regulation.MAIN,
}


def not_understood(what: str) -> InputError:
    """The refusal of a word, with what would be understood."""
    return InputError(f"{what} Write for example: {' · '.join(EXAMPLES)}")


def words_of(text: str) -> list[str]:
    """A question in words, numbers and their units joined; raises InputError for none, too many."""
    clean = tidy(re.sub(r"\s*[=:]\s*", " ", text))
    clean = re.sub(r"(?i)\blooks (?=sound|good|fine)", "", clean)
    if not clean:
        raise not_understood("Nothing is asked.")
    if len(clean) > _LONGEST:
        raise InputError(f"At most {_LONGEST} characters: ask one thing at a time.")
    return split_words(re.sub(r"(?<=\d)\s*(m|k|M)\s*ohms?\b", r"\1Ω", clean))


def taken_condition(text: str) -> tuple[str, Condition | None]:
    """The text without the words that say how it was read, and what they said."""
    found = None
    for pattern, condition in _CONDITIONS:
        shorter = re.sub(pattern, " ", text, flags=re.IGNORECASE)
        if shorter != text:
            if found:
                raise InputError("Lifted, or in circuit? Leave one out.")
            text, found = shorter, condition
    return text, found


def take_rail(words: list[str]) -> Rail | None:
    """The first rail among the words, taken out of them with what says how it is held."""
    matches = (_RAIL.fullmatch(word) for word in words)
    match = next((match for match in matches if match), None)
    if match is None:
        return None
    words.remove(match.string)
    volt = float(f"{match[1]}{match[2].replace(',', '.')}")
    if not 0 < abs(volt) <= 1000:
        raise InputError(f"No rail has {volt:g} V.")
    held = Regulation.MAIN
    for word in [word for word in words if word.lower() in _REGULATION]:
        held = _REGULATION[word.lower()]
        words.remove(word)
    return Rail(rail_key(volt), volt, held)


def take(words: list[str], *meant: str) -> bool:
    """True where one of these words is among them; it is taken out."""
    for word in words:
        if word.lower() in meant:
            words.remove(word)
            return True
    return False
