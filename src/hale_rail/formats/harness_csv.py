"""Reads the two ends of a harness, a source's rails and a connector's pins, and writes its plan."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from hale_rail.core.errors import InputError
from hale_rail.core.machine.harness import Feed, Harness, Pin, PinKind, SignalUse, rail_words
from hale_rail.core.quantities import Unit, read, show
from hale_rail.formats.fields import Fields, read_list, table_text, yes_no

SOURCE = ("rail_v", "amps", "conductors", "awg", "pin_amps")
TARGET = ("pin", "kind", "rail_v", "amps")
_GAUGE = re.compile(r"(?:awg\s*|#\s*)?(?:(\d{1,2})|([1-4])/0)", re.IGNORECASE)
_LONGEST = 16
_KINDS = {
    "gnd": "ground", "com": "ground", "return": "ground", "n/c": "nc", "n.c.": "nc",
    "not connected": "nc", "": "rail",
}  # fmt: skip
_GROUNDS = ("ground", "gnd", "com", "0v", "0 v", "return")


def read_source(text: str) -> list[Feed]:
    """A source's rails, ground as rail 0; raises InputError with the first line that cannot be.

    Further columns: `min_amps` the least load it wants, `isolated` yes or no.
    """
    return read_list(text, "The source", SOURCE, lambda _, fields: _feed(fields))


def read_target(text: str) -> list[Pin]:
    """A connector's pins in order; raises InputError with the first line that cannot be.

    A further column: `use` of a signal (power-good, remote-on, tick, sense).
    """
    seen: set[str] = set()

    def parse(_: int, fields: Fields) -> Pin:
        pin = _pin(fields)
        if pin.name.casefold() in seen:
            raise InputError(f"pin {pin.name} stands twice")
        seen.add(pin.name.casefold())
        return pin

    return read_list(text, "The target", TARGET[:2], parse)


def _volts(text: str) -> float:
    return 0.0 if text.lower() in _GROUNDS else read(text, Unit.VOLT, allow_words=False).value


def _amps(fields: Mapping[str, str], name: str) -> float | None:
    text = fields.get(name, "")
    if not text:
        return None
    value = read(text, Unit.AMPERE, allow_words=False).value
    if value < 0:
        raise InputError(f"{name} is a current without a sign, not “{text}”")
    return value


def _feed(fields: Mapping[str, str]) -> Feed:
    volt, amps, contact = _volts(fields["rail_v"]), _amps(fields, "amps"), _amps(fields, "pin_amps")
    if volt and amps is None:
        raise InputError("amps is wanted: what the rail gives")
    if not contact:
        raise InputError("pin_amps is wanted, above 0: what one contact carries")
    try:
        conductors = int(fields["conductors"])
    except ValueError:
        conductors = 0
    if not 1 <= conductors <= 200:
        raise InputError(f"conductors is a count from 1 on, not “{fields['conductors']}”")
    awg, least = _gauge(fields["awg"]), _amps(fields, "min_amps")
    return Feed(volt, amps, conductors, awg, contact, least, yes_no(fields, "isolated"))


def _gauge(text: str) -> int:
    found = _GAUGE.fullmatch(text.strip())
    if found is None or (found[1] and int(found[1]) > 40):
        raise InputError(f"awg is a gauge from 4/0 to 40, not “{text}”")
    return int(found[1]) if found[1] else 1 - int(found[2])


def _pin(fields: Mapping[str, str]) -> Pin:
    name, word = fields["pin"], fields["kind"].lower()
    if not name or len(name) > _LONGEST:
        raise InputError(f"pin is a name of at most {_LONGEST} letters")
    code = _KINDS.get(word, word)
    kind = next((kind for kind in PinKind if kind.value == code), None)
    if kind is None:
        raise InputError(f"kind is rail, ground, signal or nc, not “{fields['kind']}”")
    amps, typed = _amps(fields, "amps"), fields.get("rail_v", "")
    if kind is PinKind.RAIL:
        if not typed or not (volt := _volts(typed)):
            raise InputError("rail_v is wanted of a rail: its volts, other than 0")
        return Pin(name, kind, volt, amps)
    if kind is PinKind.GROUND and typed and _volts(typed):
        raise InputError(f"a ground pin is at 0 V, not “{typed}”")
    if kind is PinKind.GROUND:
        return Pin(name, kind, 0.0, amps)
    return Pin(name, kind, None, amps, _use(fields.get("use", "")))


def _use(text: str) -> SignalUse | None:
    word = text.lower().replace(" ", "-")
    found = next((use for use in SignalUse if use.value == word), None)
    if word and found is None:
        known = ", ".join(use.value for use in SignalUse)
        raise InputError(f"use is {known} or empty, not “{text}”")
    return found


def harness_json(found: Harness) -> dict[str, Any]:
    """The plan as the command prints it: volts, amperes, drops in mV."""
    return {
        "wires": [
            {
                "pin": wire.pin.name,
                "rail_v": wire.pin.rail_v,
                "conductors": wire.conductors,
                "drop_mv": wire.drop_v * 1e3 if wire.drop_v is not None else None,
                "amps": wire.amps,
                "source_v": wire.rail_v,
            }
            for wire in found.wires
        ],
        "missing": [{"rail_v": volt, "advice": text} for volt, text in found.missing],
        "warnings": list(found.warnings),
        "checks": check_words(found),
        "continuity": [
            {"one": joint.one, "other": joint.other, "joined": joint.is_joined}
            for joint in found.joints
        ],
        "volts": [
            {"pin": e.pin, "rail_v": e.rail_v, "low_v": e.low_v, "high_v": e.high_v}
            for e in found.expected
        ],
    }


def check_words(found: Harness) -> list[str]:
    """What is checked before the board is connected, in order: continuity, then every pin."""
    joints = [
        f"{joint.one} to {joint.other}: {'connected, below 1 Ω' if joint.is_joined else 'apart'}"
        for joint in found.joints
    ]
    source = "source: its remote-on strapped to ground where it has one, its least load in place"
    return [*joints, source, *(f"pin {e.pin}: {expected_words(e.rail_v, e.low_v, e.high_v)}, "
                       "source on, board not connected" for e in found.expected)]  # fmt: skip


def expected_words(rail_v: float | None, low_v: float, high_v: float) -> str:
    """What a pin is to read: `+5 V, 4.75 V to 5.25 V`."""
    if rail_v:
        low, high = show(low_v, Unit.VOLT, 4), show(high_v, Unit.VOLT, 4)
        return f"{rail_words(rail_v)}, {low} to {high}"
    if rail_v is not None:
        return f"ground, at most {show(high_v, Unit.VOLT)} either way"
    return f"no rail, at most {show(high_v, Unit.VOLT)}"


def wiring_csv(found: Harness) -> str:
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
        for wire in found.wires
    ]
    return table_text(("pin", "rail_v", "source_v", "conductors", "amps", "drop_mv"), rows)
