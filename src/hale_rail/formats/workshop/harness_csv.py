"""Reads the two ends of a harness, a source's rails and a connector's pins, and writes its plan."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from hale_rail.core.bring_up.harness import Expected, Harness
from hale_rail.core.bring_up.wiring import Feed, Pin, PinKind, SignalUse, rail_words
from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit, read, show, tidy
from hale_rail.formats.tables.fields import Fields, in_file, read_list, table_text, yes_no

SOURCE = ("rail_v", "amps", "conductors", "awg", "pin_amps", "min_amps", "isolated")
TARGET = ("pin", "kind", "rail_v", "amps", "use")
#: without these a table is none
SOURCE_NEEDED, TARGET_NEEDED = SOURCE[:3], TARGET[:2]
_GAUGE = re.compile(r"(?:awg\s*|#\s*)?(?:(\d{1,2})|([1-4])/0)", re.IGNORECASE)
_LONGEST = 16
_KINDS = {
    "gnd": "ground", "com": "ground", "return": "ground", "n/c": "nc", "n.c.": "nc",
    "not connected": "nc", "": "rail", "ac": "rail", "vac": "rail",
}  # fmt: skip
_TOTAL = re.compile(r"\s*(?:in\s+)?(?:total|all)\s*$", re.IGNORECASE)
_AC = re.compile(r"\s*(?:~|(?<=[0-9\sv])ac)$", re.IGNORECASE)
_GROUNDS = ("ground", "gnd", "com", "0v", "0 v", "return")


def read_source(text: str, named: Callable[[int], str] = in_file) -> list[Feed]:
    """A source's rails, ground as rail 0; raises InputError with the first line that cannot be.

    `named` says where a line is.

    Further columns: `awg` and `pin_amps`, `min_amps` the least load it needs, `isolated` yes or no.
    """
    return read_list(text, "The source", SOURCE_NEEDED, lambda _, fields: read_feed(fields), named)


def read_target(text: str, named: Callable[[int], str] = in_file) -> list[Pin]:
    """A connector's pins in order; raises InputError with the first line that cannot be.

    `named` says where a line is.

    A further column: `use` of a signal (power-good, remote-on, tick, sense). Amperes as `6 total`
    are those of the whole rail: its pins without amperes of their own share them.
    """
    seen: set[str] = set()
    totals: dict[tuple[float | None, bool], float] = {}

    def parse(_: int, fields: Fields) -> Pin:
        pin = read_pin(fields)
        if pin.name.casefold() in seen:
            raise InputError(f"pin {pin.name} is listed twice")
        seen.add(pin.name.casefold())
        if pin.amps is not None and _TOTAL.search(fields["amps"]):
            if (pin.rail_v, pin.is_ac) in totals:
                raise InputError(f"{pin.rail_name} has two totals")
            totals[pin.rail_v, pin.is_ac] = pin.amps
            return replace(pin, amps=None)
        return pin

    return _shared(read_list(text, "The target", TARGET_NEEDED, parse, named), totals)


def _shared(pins: Sequence[Pin], totals: Mapping[tuple[float | None, bool], float]) -> list[Pin]:
    """The pins, each total shared by its rail's pins that have no amperes of their own."""
    shared = list(pins)
    for (volt, is_ac), total in totals.items():
        own = [p for p in pins if p.rail_v == volt and p.is_ac is is_ac]
        rest = total - sum(p.amps or 0.0 for p in own)
        if rest < 0:
            raise InputError(
                f"{own[0].rail_name}: its pins draw more than their total of {total:g} A"
            )
        count = sum(p.amps is None for p in own)
        shared = [
            replace(p, amps=rest / count) if p in own and p.amps is None else p for p in shared
        ]
    return shared


def _volts(text: str) -> tuple[float, bool]:
    """A rail's volts, and whether they alternate: `9 VAC`, `9 V AC`, `9~`."""
    if text.lower() in _GROUNDS:
        return 0.0, False
    bare = _AC.sub("", tidy(text))
    is_ac = bare != tidy(text)
    volt = read(bare, Unit.VOLT, allow_words=False).value
    return (abs(volt) if is_ac else volt), is_ac


def _amps(fields: Mapping[str, str], name: str) -> float | None:
    text = fields.get(name, "")
    if not text:
        return None
    value = read(text, Unit.AMPERE, allow_words=False).value
    if value < 0:
        raise InputError(f"{name} is a current without a sign, not “{text}”")
    return value


def read_feed(fields: Mapping[str, str]) -> Feed:
    """One rail of a source; raises InputError."""
    volt, is_ac = _volts(fields["rail_v"])
    amps, contact = _amps(fields, "amps"), _amps(fields, "pin_amps")
    if volt and amps is None:
        raise InputError("amps is needed: what the rail gives")
    if contact is not None and not contact:
        raise InputError("pin_amps is above 0: what one contact carries; or empty")
    try:
        conductors = int(fields["conductors"])
    except ValueError:
        conductors = 0
    if not 1 <= conductors <= 200:
        raise InputError(f"conductors is a count from 1 on, not “{fields['conductors']}”")
    awg = _gauge(fields["awg"]) if fields.get("awg") else None
    least = _amps(fields, "min_amps")
    return Feed(volt, amps, conductors, awg, contact, least, yes_no(fields, "isolated"), is_ac)


def _gauge(text: str) -> int:
    match = _GAUGE.fullmatch(text.strip())
    if match is None or (match[1] and int(match[1]) > 40):
        raise InputError(f"awg is a gauge from 4/0 to 40, not “{text}”")
    return int(match[1]) if match[1] else 1 - int(match[2])


def read_pin(fields: Mapping[str, str]) -> Pin:
    """One pin of a connector, a total taken as its own amperes; raises InputError."""
    fields = {**fields, "amps": _TOTAL.sub("", fields.get("amps", ""))}
    name, word = fields["pin"], fields["kind"].lower()
    if not name or len(name) > _LONGEST:
        raise InputError(f"pin is a name of at most {_LONGEST} characters")
    code = _KINDS.get(word, word)
    kind = next((kind for kind in PinKind if kind.value == code), None)
    if kind is None:
        raise InputError(f"kind is rail, ac, ground, signal or nc, not “{fields['kind']}”")
    amps, typed = _amps(fields, "amps"), fields.get("rail_v", "")
    volt, is_ac = _volts(typed) if typed else (0.0, False)
    if kind is PinKind.RAIL:
        if not volt:
            raise InputError("rail_v is needed for a rail: its volts, other than 0")
        is_ac = is_ac or word in ("ac", "vac")
        return Pin(name, kind, abs(volt) if is_ac else volt, amps, is_ac)
    if kind is PinKind.GROUND and volt:
        raise InputError(f"a ground pin is at 0 V, not “{typed}”")
    if kind is PinKind.GROUND:
        return Pin(name, kind, 0.0, amps)
    return Pin(name, kind, None, amps, use=_use(fields.get("use", "")))


def _use(text: str) -> SignalUse | None:
    word = text.lower().replace(" ", "-")
    signal_use = next((use for use in SignalUse if use.value == word), None)
    if word and signal_use is None:
        known = ", ".join(use.value for use in SignalUse)
        raise InputError(f"use is {known} or empty, not “{text}”")
    return signal_use


def harness_json(harness: Harness) -> dict[str, Any]:
    """The plan as the command prints it: volts, amperes, drops in mV."""
    return {
        "wires": [
            {
                "pin": wire.pin.name,
                "rail_v": wire.pin.rail_v,
                "ac": wire.pin.is_ac,
                "conductors": wire.conductors,
                "drop_mv": wire.drop_v * 1e3 if wire.drop_v is not None else None,
                "amps": wire.amps,
                "mv_per_a": wire.mv_per_a,
                "source_v": wire.rail_v,
            }
            for wire in harness.wires
        ],
        "missing": [{"rail_v": volt, "advice": text} for volt, text in harness.missing],
        "warnings": list(harness.warnings),
        "checks": check_words(harness),
        "continuity": [
            {"one": joint.one, "other": joint.other, "joined": joint.is_joined}
            for joint in harness.joints
        ],
        "volts": [
            {
                "pin": e.pin,
                "rail_v": e.rail_v,
                "low_v": e.low_v,
                "high_v": e.high_v,
                "ac": e.is_ac,
            }
            for e in harness.expected
        ],
    }


def check_words(harness: Harness) -> list[str]:
    """What is checked before the board is connected, in order: continuity, then every pin."""
    joints = [
        f"{joint.one} to {joint.other}: {'connected, below 1 Ω' if joint.is_joined else 'apart'}"
        for joint in harness.joints
    ]
    source = "source: its remote-on strapped to ground where it has one, its least load in place"
    return [*joints, source, *(f"pin {e.pin}: {expected_words(e)}, "
                       "source on, board not connected" for e in harness.expected)]  # fmt: skip


def expected_words(pin: Expected) -> str:
    """What a pin is to read: `+5 V, 4.75 V to 5.25 V`."""
    if pin.rail_v:
        low, high = show(pin.low_v, Unit.VOLT, 4), show(pin.high_v, Unit.VOLT, 4)
        return f"{rail_words(pin.rail_v, is_ac=pin.is_ac)}, {low} to {high}"
    if pin.rail_v is not None:
        return f"ground, at most {show(pin.high_v, Unit.VOLT)} either way"
    return f"no rail, at most {show(pin.high_v, Unit.VOLT)}"


def wiring_csv(harness: Harness) -> str:
    """The wiring table as CSV."""
    rows = [
        (
            wire.pin.name,
            f"{wire.pin.rail_v:g}",
            f"{wire.rail_v:g}",
            str(wire.conductors),
            "" if wire.amps is None else f"{wire.amps:g}",
            "" if wire.drop_v is None else f"{wire.drop_v * 1e3:.2f}",
        )
        for wire in harness.wires
    ]
    return table_text(("pin", "rail_v", "source_v", "conductors", "amps", "drop_mv"), rows)
