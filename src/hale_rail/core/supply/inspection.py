"""The look-over: what to look, smell and feel for at each station, in the order power flows.

Each finding is a code; the codes of a station's kind and their words are here.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hale_rail.core.parts.families import Family
from hale_rail.core.supply.sheet import Kind, Sheet, Station

SOUND = "none"


@dataclass(frozen=True)
class Code:
    """A finding: its code and its words; what it argues is for `hale_rail.core.parts` to say."""

    code: str
    words: str


@dataclass(frozen=True)
class Stop:
    """One stop of the round: the station, what to look for, and the codes it can get."""

    station: Station
    what: str
    codes: tuple[Code, ...]


_ALL = {
    code.code: code
    for code in (
        Code(SOUND, "looks sound"),
        Code("bulge", "bulged"),
        Code("leak", "leaking"),
        Code("crack", "cracked"),
        Code("craze", "crazed"),
        Code("burnt", "burnt"),
        Code("corroded", "corroded"),
        Code("clean-gap", "clean gap: an overload"),
        Code("blackened", "blackened: a hard short"),
        Code("discoloured", "discoloured by heat"),
        Code("joint", "cracked joint"),
        Code("perished", "perished lead"),
        Code("no-earth", "earth bond missing"),
        Code("battery-leak", "backup battery leaking"),
        Code("screws", "screws missing"),
        Code("repaired", "earlier repair"),
        Code("smell", "smells burnt"),
    )
}
_CAPACITOR = ("bulge", "leak", "crack", "craze", "burnt", "corroded", "joint", "repaired")
_HEAVY = ("burnt", "discoloured", "crack", "joint", "repaired")
_CODES = {
    Kind.INLET: ("perished", "no-earth", "burnt", "joint", "repaired"),
    Kind.FUSE: ("clean-gap", "blackened", "burnt", "repaired"),
    Kind.CAPACITOR: _CAPACITOR,
    Kind.RESISTOR: ("burnt", "discoloured", "crack", "joint", "repaired"),
    Kind.CONNECTOR: ("burnt", "corroded", "joint", "repaired"),
    Kind.BOARD: ("battery-leak", "burnt", "corroded", "screws", "repaired", "smell"),
}
_WHAT = {
    Kind.INLET: "Lead perished or nicked? Earth wire tight at the case? Pins burnt?",
    Kind.FUSE: "Hold the glass to the light: a clean gap is an overload, a blackened or silvered "
    "tube a hard short.",
    Kind.SWITCH: "Scorched contacts, a rocker that grates.",
    Kind.FILTER: "Potting cracked or run out.",
    Kind.THERMISTOR: "Split disc, brown board under it.",
    Kind.BRIDGE: "Cracked body, brown board, rings in the solder round its legs.",
    Kind.TRANSISTOR: "Cracked case, its screw loose, insulation under it; ringed joints.",
    Kind.MOSFET: "Cracked case, its screw loose, insulation under it; ringed joints.",
    Kind.DIODE: "Brown board round it, ringed joints.",
    Kind.SCHOTTKY: "Heatsink fast, ringed joints at its legs.",
    Kind.REGULATOR: "Heatsink fast, ringed joints, brown board.",
    Kind.RESISTOR: "Burnt, bleached bands, stood off its board.",
    Kind.CHOKE: "Varnish charred, winding loose.",
    Kind.TRANSFORMER: "Charred wrap, smell of varnish, cracked joints under its weight.",
    Kind.CONNECTOR: "Brown housing, dull or loose pins, cracked joints.",
    Kind.BOARD: "Backup battery leaking? Screws missing, wires added, parts changed before?",
}
_CAP_WHAT = {
    Family.SUPPRESSION_PAPER: "Crazed, split or sooty epoxy; smell it.",
    Family.SUPPRESSION_FILM: "Split box, soot.",
    Family.TANTALUM: "Scorched or split bead; on three legs or two, the right way round?",
    Family.FILM: "Split or scorched body.",
    Family.CERAMIC: "Cracked body.",
}


def codes_for(station: Station) -> tuple[Code, ...]:
    """What can be found at a station; sound first."""
    names = _CODES.get(station.kind, _HEAVY)
    return tuple(_ALL[name] for name in (SOUND, *names))


def toggled(seen: Sequence[str], code: str) -> tuple[str, ...]:
    """The findings after one is pressed: added or taken back; sound stands alone."""
    if code == SOUND:
        return (SOUND,) if SOUND not in seen else ()
    others = tuple(c for c in seen if c not in (code, SOUND))
    return others if code in seen else (*others, code)


def inspection_round(sheet: Sheet) -> Sequence[Stop]:
    """Every station in the order power flows, with what to look for there."""
    stops = []
    for station in sheet.in_power_order:
        what = _WHAT.get(station.kind, "")
        if station.kind is Kind.CAPACITOR:
            usual = "Domed top, crust at the seal, brown on the board under it."
            what = _CAP_WHAT.get(station.family, usual) if station.family else usual
        stops.append(Stop(station, what, codes_for(station)))
    return stops
