"""Reads and writes a unit's sheet as UNIT.json (the open formats' contract)."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from hale_rail.core.behind.pins import CHIP_ROLES
from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.kinds import board, by_code, capacitor, chips, connector, fuse
from hale_rail.core.parts.markings import (
    FUSE_SPEEDS,
    FuseMarking,
    Winding,
    WindingMarking,
)
from hale_rail.core.parts.part import Part, PartKind
from hale_rail.core.quantities import Unit, rated_volts, tidy
from hale_rail.core.recap.needs import ROLES
from hale_rail.core.supply.sheet import (
    REGULATIONS,
    TOPOLOGIES,
    TRUNK,
    Rail,
    Regulation,
    Sheet,
    Topology,
    logic_rail,
)
from hale_rail.formats.json_fields import JsonObject, read_object
from hale_rail.formats.units.chip_fields import read_chip, written_chip
from hale_rail.formats.units.marked_values import marked_farad
from hale_rail.formats.units.part_words import find_rail

MOST_PARTS, MOST_RAILS = 2000, 40
_LONGEST_NAME = 24
_YEARS = (1900, 2100)
_JOINTS = (connector.KIND, board.KIND)
_CLASSES = ("X1", "X2", "Y1", "Y2")
_PURPOSES = ("repair", "preventive")
#: roles of parts: those of capacitors, and what else is told of a part's place
ROLE_WORDS = (*ROLES, "across-switch", "fast", *CHIP_ROLES)
_UNIT_KEYS = ("name", "topology", "mains_v", "mains_hz", "year", "purpose", "self_loaded", "rails",
              "parts")  # fmt: skip
_RAIL_KEYS = ("key", "nominal_v", "kind", "regulation", "load_min_a", "load_max_a", "tolerance",
              "ripple_mv", "ohm_isolated", "ohm_attached", "trimmer", "guards")  # fmt: skip
_PART_KEYS = ("ref", "kind", "line", "value", "volt", "family", "class", "role", "bank", "board",
              "tolerance", "grade", "year", "material", "bleeder_for", "primary", "rails",
              "windings", "fuse", "package", "bits", "active", "pins", "note")  # fmt: skip
_MATERIALS = ("silicon", "germanium", "darlington")


def read_unit(text: str, known: Sequence[Rail] = (), problems: list[str] | None = None) -> Sheet:
    """A sheet from its JSON; its parts may stand on `known` rails besides its own.

    Roles and keys that mean nothing are named in `problems`, or refused where that is None. Raises
    InputError saying what cannot be, and where.
    """
    unit = read_object(text, "unit")
    told: list[str] = []
    _name_strangers(unit, _UNIT_KEYS, told)
    topology = TOPOLOGIES.get(unit.text("topology"))
    if topology is None:
        raise InputError(f"the unit: topology is one of {', '.join(TOPOLOGIES)}.")
    rails = _rails(unit, topology, told)
    all_rails = (*rails, *(r for r in known if find_rail(rails, r.key) is None))
    parts = _parts(unit, all_rails, topology, told)
    if told and problems is None:
        raise InputError(told[0])
    if problems is not None:
        problems += told
    year = unit.whole("year", *_YEARS)
    return Sheet(
        unit.text("name") or "Unit",
        topology,
        rails,
        parts,
        unit.number("mains_v", Unit.VOLT),
        unit.number("mains_hz", None),
        year,
        unit.choice("purpose", _PURPOSES),
        bool(unit.yes_no("self_loaded")),
    )


def _name_strangers(entry: JsonObject, known: Collection[str], told: list[str]) -> None:
    """Name the keys of an entry that mean nothing."""
    told += [
        f"{entry.where}: “{key[:30]}” is not a key of this file; known are {', '.join(known)}."
        for key in entry.data
        if key not in known
    ]


def _rails(unit: JsonObject, topology: Topology, told: list[str]) -> tuple[Rail, ...]:
    usual = Regulation.AUXILIARY if topology.is_switching else Regulation.LINEAR
    rails: list[Rail] = []
    for entry in unit.entries("rails", MOST_RAILS):
        _name_strangers(entry, _RAIL_KEYS, told)
        key = entry.text("key")
        nominal = entry.number("nominal_v", Unit.VOLT)
        if not key or not nominal:
            raise entry.wrong("key and nominal_v", "are needed, and a nominal that is not 0 V")
        if any(tidy(rail.key) == tidy(key) for rail in rails):
            raise entry.wrong("key", f"“{key}” is listed twice")
        regulation = entry.choice("regulation", list(REGULATIONS), usual=usual.code)
        rail = Rail(
            key,
            nominal,
            REGULATIONS[regulation],
            entry.above_zero("load_min_a", Unit.AMPERE),
            entry.above_zero("load_max_a", Unit.AMPERE),
            entry.tolerance(),
            entry.above_zero("ripple_mv", None),
            entry.above_zero("ohm_isolated", Unit.OHM),
            entry.above_zero("ohm_attached", Unit.OHM),
            trimmer=entry.text("trimmer")[:_LONGEST_NAME],
            guards=entry.text("guards")[:_LONGEST_NAME],
            is_ac=entry.choice("kind", ("dc", "ac"), usual="dc") == "ac",
        )
        if rail.is_ac and rail.nominal_v < 0:
            raise entry.wrong("nominal_v", "of an AC rail has no sign")
        rails.append(rail)
    return tuple(rails)


def _parts(
    unit: JsonObject, rails: Sequence[Rail], topology: Topology, told: list[str]
) -> tuple[Part, ...]:
    entries = unit.entries("parts", MOST_PARTS)
    boards = {e.text("ref"): e.text("board") for e in entries if e.text("kind") == board.KIND.code}
    made = []
    for place, entry in enumerate(entries, start=1):
        ref = entry.text("ref")
        if not ref:
            raise entry.wrong("ref", "is needed")
        entry.where = f"{entry.where} ({ref})"
        _name_strangers(entry, _PART_KEYS, told)
        role = entry.text("role")
        if role and role not in ROLE_WORDS:
            told.append(
                f"{entry.where}: role “{role[:30]}” is not one of {', '.join(ROLE_WORDS)}; "
                "left out."
            )
            entry.data = {**entry.data, "role": None}
        made.append(_part(entry, ref, place, rails, boards, topology))
    return tuple(made)


def _part(
    entry: JsonObject,
    ref: str,
    place: int,
    rails: Sequence[Rail],
    boards: Mapping[str, str],
    topology: Topology,
) -> Part:
    try:
        kind = by_code(entry.text("kind"))
    except InputError as error:
        raise InputError(f"{entry.where}: {error}") from error
    line = _line(entry, kind, rails)
    behind = entry.text("board")
    is_primary = entry.yes_no("primary")
    if is_primary is None and line == TRUNK and topology is not Topology.DC_FED:
        is_primary = True
    return Part(
        place,
        ref,
        kind,
        line,
        place * 10,
        kind.marking.of(_known(entry, kind, rails)),
        entry.text("role"),
        entry.text("bank"),
        boards.get(behind) or behind,
        entry.whole("year", *_YEARS),
        is_primary,
        entry.text("note"),
    )


def _line(entry: JsonObject, kind: PartKind, rails: Sequence[Rail]) -> str:
    """`main`, a rail's key, or "" for a joint."""
    line = entry.text("line")
    if kind in _JOINTS:
        return ""
    if not line and not kind.shares_node:
        logic = logic_rail(rails)
        return logic.key if logic else TRUNK
    if line in ("", TRUNK):
        return TRUNK
    rail = find_rail(rails, line)
    if rail is None:
        raise entry.wrong("line", f"“{line}” is neither main nor a rail of this unit")
    return rail.key


def _known(entry: JsonObject, kind: PartKind, rails: Sequence[Rail]) -> dict[str, Any]:
    """What is marked on the part, by the names its marking has."""
    family = entry.choice("family", [f.value for f in Family])
    known: dict[str, Any] = {
        "value": _value(entry, kind, Family(family) if family else None),
        "volt": entry.above_zero("volt", Unit.VOLT),
        "tolerance": entry.tolerance(),
        "safety_class": entry.choice("class", _CLASSES),
        "material": entry.choice("material", _MATERIALS),
        "bleeder_for": entry.text("bleeder_for"),
        "rails": _joined_rails(entry, rails),
        "windings": _windings(entry),
    }
    if kind is fuse.KIND:
        known.update(_fuse(entry, known))
    if kind is chips.CHIP:
        known.update(read_chip(entry, [rail.key for rail in rails]))
    value = entry.data.get("value")
    if known["volt"] is None and isinstance(value, str) and kind is capacitor.KIND:
        known["volt"] = rated_volts(value)
    if family:
        known["family"] = Family(family)
    grade = entry.choice("grade", [g.value for g in Grade])
    known["grade"] = Grade(grade) if grade else None
    return known


def _fuse(entry: JsonObject, known: Mapping[str, Any]) -> dict[str, Any]:
    """A fuse's rating, under a key of its own or beside `value` and `volt`."""
    own = entry.data.get("fuse")
    if own is None:
        return {}
    if not isinstance(own, dict):
        raise entry.wrong("fuse", "is amps, speed and volts")
    one = JsonObject(own, f"{entry.where}, fuse")
    return {
        "value": one.above_zero("amps", Unit.AMPERE) or known["value"],
        "volt": one.above_zero("volts", Unit.VOLT) or known["volt"],
        "speed": one.choice("speed", FUSE_SPEEDS) or None,
    }


def _value(entry: JsonObject, kind: PartKind, family: Family | None) -> float | None:
    if kind.value_unit is None:
        return None
    value = entry.data.get("value")
    if kind is capacitor.KIND and isinstance(value, str) and value.strip():
        try:
            return marked_farad(value, family)[0] or None
        except InputError as error:
            raise entry.wrong("value", f"cannot be read: {str(error).rstrip('.')}") from error
    figure = entry.above_zero("value", kind.value_unit)
    if figure is not None and not figure <= kind.value_unit.high:
        raise entry.wrong("value", f"is in {kind.value_unit.symbol}, and none is that large")
    return figure


def _joined_rails(entry: JsonObject, rails: Sequence[Rail]) -> tuple[str, ...]:
    joined_rails = entry.data.get("rails") or []
    if not isinstance(joined_rails, list) or any(
        not isinstance(name, str) for name in joined_rails
    ):
        raise entry.wrong("rails", "is a list of rail keys")
    joined = []
    for name in joined_rails:
        rail = find_rail(rails, name)
        if rail is None:
            raise entry.wrong("rails", f"“{name}” is not a rail of this unit")
        joined.append(rail.key)
    return tuple(joined)


def _windings(entry: JsonObject) -> tuple[Winding, ...] | None:
    windings = [
        Winding(one.text("line"), one.above_zero("ohms", Unit.OHM) or 0.0)
        for one in entry.entries("windings", MOST_RAILS)
    ]
    return tuple(w for w in windings if w.ohm) or None


def write_unit(sheet: Sheet) -> str:
    """A sheet as JSON, which `read_unit` reads back."""
    data = {
        "name": sheet.name,
        "topology": sheet.topology.code,
        "mains_v": sheet.mains_v,
        "mains_hz": sheet.mains_hz,
        "year": sheet.year,
        "purpose": sheet.purpose or None,
        "self_loaded": sheet.is_self_loaded,
        "rails": [_written_rail(rail) for rail in sheet.rails],
        "parts": [_written_part(part) for part in sheet.in_power_order],
    }
    return json.dumps(data, ensure_ascii=False, indent=2) + "\n"


def _written_rail(rail: Rail) -> dict[str, Any]:
    return {
        "key": rail.key,
        "nominal_v": rail.nominal_v,
        "regulation": rail.regulation.code,
        "load_min_a": rail.load_min_a,
        "load_max_a": rail.load_max_a,
        "tolerance": _shares(rail.tolerance),
        "ripple_mv": rail.ripple_mv,
        "ohm_isolated": rail.ohm_isolated,
        "ohm_attached": rail.ohm_attached,
        "trimmer": rail.trimmer or None,
        "guards": rail.guards or None,
        "kind": "ac" if rail.is_ac else "dc",
    }


def _written_fuse(part: Part) -> dict[str, Any] | None:
    marking = part.marking
    if not isinstance(marking, FuseMarking) or not marking.speed:
        return None
    return {"amps": marking.ampere, "speed": marking.speed, "volts": marking.volt}


def _shares(tolerance: tuple[float, float] | None) -> list[float] | None:
    return [-tolerance[0], tolerance[1]] if tolerance else None


def _written_part(part: Part) -> dict[str, Any]:
    """A part; what is not known or not its kind's is left out."""
    cap = part.capacitor
    windings = part.marking.windings if isinstance(part.marking, WindingMarking) else ()
    joins = part.chip.rails if part.chip else part.rails
    known: dict[str, Any] = {
        "ref": part.ref,
        "kind": part.kind.code,
        "line": part.line or (joins[0] if joins else TRUNK),
        "value": part.value,
        "volt": part.volt,
        "family": cap.family.value if cap and cap.family else None,
        "class": part.safety_class,
        "role": part.role,
        "bank": part.bank,
        "board": part.board,
        "tolerance": _shares(part.tolerance),
        "grade": cap.grade.value if cap else None,
        "year": part.year,
        "material": getattr(part.marking, "material", ""),
        "bleeder_for": part.bleeder_for,
        "primary": part.is_primary,
        "rails": list(joins),
        "fuse": _written_fuse(part),
        **written_chip(part),
        "windings": [{"line": w.line, "ohms": w.ohm} for w in windings],
        "note": part.note,
    }
    return {name: value for name, value in known.items() if value not in (None, "", [])}
