"""Reads and says a rail as people write it among their parts: `rail +24 0.5..2A aux 10% 100mV`."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read, show, tidy
from hale_rail.core.ranges import read_span
from hale_rail.core.supply.sheet import Rail, Regulation
from hale_rail.formats.tables.fields import tolerance

WORD = "rail"
_MOST_V = 1000.0
#: what a sound unit reads to ground, by the word before its ohms
_SIDES = {"isolated": "ohm_isolated", "attached": "ohm_attached"}
#: words that are followed by a name
_NAMED = ("trimmer", "guards")
_REF = re.compile(r"[A-Za-z0-9_.-]{1,12}")
_VOLT = re.compile(r"([+-]?)(\d+(?:[.,]\d+)?)V?", re.IGNORECASE)
_AC_VOLT = re.compile(r"~?\+?(\d+(?:[.,]\d+)?)\s*(?:V\s*(?:AC|~)|VAC|~)", re.IGNORECASE)
_REGULATION = {
    "main": Regulation.MAIN,
    **dict.fromkeys(("aux", "auxiliary"), Regulation.AUXILIARY),
    **dict.fromkeys(("linear", "post", "regulated"), Regulation.LINEAR),
    **dict.fromkeys(("raw", "unregulated"), Regulation.RAW),
}


def rail_key(volt: float) -> str:
    """A rail's name by its volts: `+5 V`, `−12 V`."""
    return f"{'−' if volt < 0 else '+'}{abs(volt):g} V"


def read_rail(words: Sequence[str], rails: Sequence[Rail]) -> Rail:
    """A rail from the words behind `rail`; one the unit has already is corrected where named.

    Raises InputError for a rail that cannot be, or a word that means nothing.
    """
    match = _VOLT.fullmatch(tidy(words[0])) if words else None
    alternating = _AC_VOLT.fullmatch(tidy(words[0])) if words else None
    if alternating:
        return _read_ac(alternating, words[1:], rails)
    if match is None:
        raise InputError("Write a rail by its volts and amperes: rail +24 2A.")
    volt = float(f"{match[1]}{match[2].replace(',', '.')}")
    if not 0 < abs(volt) <= _MOST_V:
        raise InputError(f"No rail has {volt:g} V.")
    key = rail_key(volt)
    old = next((rail for rail in rails if rail.key == key), None)
    is_switching = any(rail.regulation.is_switching for rail in rails)
    usual = Regulation.AUXILIARY if is_switching else Regulation.LINEAR
    return read_rail_words(old or Rail(key, volt, usual), words[1:])


def _read_ac(match: re.Match[str], words: Sequence[str], rails: Sequence[Rail]) -> Rail:
    """A rail of alternating volts, `9VAC` or `9V~`: a winding, so nothing regulates it."""
    volt = float(match[1].replace(",", "."))
    if not 0 < volt <= _MOST_V:
        raise InputError(f"No rail has {volt:g} V.")
    key = f"{volt:g} V AC"
    old = next((rail for rail in rails if rail.key == key), None)
    return read_rail_words(old or Rail(key, volt, Regulation.RAW, is_ac=True), words)


def read_rail_words(rail: Rail, words: Sequence[str]) -> Rail:
    """The rail with what the words say of it; raises InputError for one that means nothing."""
    rail_words = iter(words)
    for word in rail_words:
        side = _SIDES.get(word.lower())
        if word.lower() in _NAMED:
            rail = _named(rail, word.lower(), next(rail_words, ""))
            continue
        if side is None:
            rail = _with(rail, word)
            continue
        ohm = read(next(rail_words, ""), Unit.OHM, allow_words=False).value
        if ohm <= 0:
            raise InputError(f"A sound rail {word} reads more than 0 Ω.")
        known: dict[str, Any] = {side: ohm}
        rail = replace(rail, **known)
    return rail


def _named(rail: Rail, word: str, name: str) -> Rail:
    """The rail with its trimmer's designator, or the rail it guards; raises InputError."""
    if word == "trimmer":
        if not _REF.fullmatch(name):
            raise InputError("Name the trimmer behind the word: trimmer VR1.")
        return replace(rail, trimmer=name)
    match = _VOLT.fullmatch(tidy(name))
    if match is None:
        raise InputError("Name the rail that must not be there without it: guards +12.")
    return replace(rail, guards=rail_key(float(f"{match[1]}{match[2].replace(',', '.')}")))


def write_rail(rail: Rail) -> str:
    """A rail's marking as one would write it in notes; `read_rail_words` understands it back."""
    words = [rail.regulation.code]
    if rail.load_max_a:
        least = f"{rail.load_min_a:.12g}.." if rail.load_min_a else ""
        words.append(f"{least}{rail.load_max_a:.12g}A")
    if rail.tolerance:
        low, high = (f"{100 * share:.12g}" for share in rail.tolerance)
        words.append(f"-{low}/+{high}%")
    words.append(f"{rail.ripple_mv:.12g}mV" if rail.ripple_mv else "")
    for word, name in _SIDES.items():
        ohm = getattr(rail, name)
        words.append(f"{word} {ohm:.12g}R" if ohm else "")
    words.append(f"trimmer {rail.trimmer}" if rail.trimmer else "")
    words.append(
        f"guards {rail.guards.removesuffix(' V').replace('−', '-')}" if rail.guards else ""
    )
    return " ".join(word for word in words if word)


def _with(rail: Rail, word: str) -> Rail:
    """The rail with what one word says of it."""
    lower = word.lower()
    if lower in _REGULATION:
        return replace(rail, regulation=_REGULATION[lower])
    if word.endswith("%"):
        return replace(rail, tolerance=tolerance(word))
    if lower.endswith("mv"):
        return replace(rail, ripple_mv=1e3 * read(word, Unit.VOLT, allow_words=False).value)
    if lower.endswith("a"):
        load = read_span(word, Unit.AMPERE)
        if not 0 < load.high < float("inf"):
            raise InputError(f"A load cannot be {word}.")
        least = load.value if load.is_span else rail.load_min_a
        return replace(rail, load_min_a=least, load_max_a=load.high)
    raise InputError(f"“{word}” means nothing on a rail's line: rail +24 0.5..2A aux 10% 100mV.")


def say_rail(rail: Rail) -> str:
    """A rail in a sentence, for the preview."""
    words = ["rail", rail.key + ",", "alternating" if rail.is_ac else rail.regulation.words]
    if rail.load_max_a:
        least = f"{show(rail.load_min_a, Unit.AMPERE)} to " if rail.load_min_a else "up to "
        words.append(least + show(rail.load_max_a, Unit.AMPERE))
    if rail.tolerance:
        low, high = rail.tolerance
        words.append(f"−{100 * low:g}/+{100 * high:g} %")
    if rail.ripple_mv:
        words.append(f"ripple {rail.ripple_mv:g}\u00a0mV")
    if rail.trimmer:
        words.append(f"trimmer {rail.trimmer}")
    if rail.guards:
        words.append(f"{rail.guards} must not be there without it")
    return " ".join(words)
