"""Sheets to start from: one sensible unit a topology, so that a line map stands within a minute.

Values are those a unit of the kind usually has; each is meant to be corrected at the bench.
"""

from __future__ import annotations

from typing import Any

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.kinds import by_code
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import TRUNK, Rail, Regulation, Sheet, Topology

#: designator, code of its kind, line, and what else is known
Row = tuple[str, str, str, dict[str, Any]]

_AL = Family.ALUMINIUM
_PART_FIELDS = Part.__struct_fields__


def make_part(number: int, ref: str, kind: str, line: str, order: int, **known: Any) -> Part:
    """A part from what is known of it, its marking's fields among the others by name."""
    part_kind = by_code(kind)
    own = {name: value for name, value in known.items() if name in _PART_FIELDS}
    return Part(number, ref, part_kind, line, order, part_kind.marking.of(known), **own)


def _parts(rows: list[Row]) -> tuple[Part, ...]:
    """Number the rows and place each after the one before it on its line."""
    counts: dict[str, int] = {}
    made = []
    for number, (ref, kind, line, more) in enumerate(rows, start=1):
        counts[line] = counts.get(line, 0) + 10
        made.append(make_part(number, ref, kind, line, counts[line], **more))
    return tuple(made)


def _cap(farad: float, volt: float, **more: Any) -> dict[str, Any]:
    return {"value": farad, "volt": volt, "family": _AL, **more}


def _x2(farad: float) -> dict[str, Any]:
    family = Family.SUPPRESSION_PAPER
    more = {"safety_class": "X2", "role": "suppressor-x", "is_primary": True}
    return {"value": farad, "volt": 250.0, "family": family, **more}


_PRIMARY: dict[str, Any] = {"is_primary": True}


def _offline_trunk(bulk: list[Row]) -> list[Row]:
    return [
        ("J1", "inlet", TRUNK, _PRIMARY),
        ("F1", "fuse", TRUNK, {"value": 2.0, **_PRIMARY}),
        ("S1", "switch", TRUNK, _PRIMARY),
        ("CX1", "capacitor", TRUNK, _x2(100e-9)),
        ("L1", "filter", TRUNK, _PRIMARY),
        ("RT1", "thermistor", TRUNK, {"value": 10.0, **_PRIMARY}),
        ("BR1", "bridge", TRUNK, _PRIMARY),
        *bulk,
        ("Q1", "transistor", TRUNK, _PRIMARY),
        ("T1", "transformer", TRUNK, _PRIMARY),
    ]


def _bulk(farad: float, volt: float, **more: Any) -> dict[str, Any]:
    return _cap(farad, volt, is_primary=True, role="bulk", **more)


def _start(ref: str) -> Row:
    """The capacitor that feeds the control until the supply runs."""
    return ref, "capacitor", TRUNK, _cap(47e-6, 35.0, role="start-up", is_primary=True)


def _output(key: str, rectifier: str, caps: list[tuple[str, float, float]]) -> list[Row]:
    """A switched rail: rectifier, choke, filter bank, numbered like its first capacitor."""
    bank = "out" if len(caps) > 1 else ""
    number = caps[0][0].removeprefix("C")
    return [
        (f"D{number}", rectifier, key, {}),
        (f"L{number}", "choke", key, {}),
        *[
            (ref, "capacitor", key, _cap(farad, volt, role="output-filter", bank=bank))
            for ref, farad, volt in caps
        ],
    ]


def _joint(rails: tuple[str, ...]) -> list[Row]:
    return [
        ("P1", "connector", "", {"rails": rails}),
        ("Main board", "board", "", {"rails": rails, "board": "P1"}),
    ]


def _flyback() -> Sheet:
    rails = (
        Rail("+5 V", 5.0, Regulation.MAIN, 0.8, 8.0),
        Rail("+12 V", 12.0, Regulation.AUXILIARY, 0.2, 2.5),
        Rail("−12 V", -12.0, Regulation.AUXILIARY, None, 0.3),
    )
    rows = _offline_trunk([("C1", "capacitor", TRUNK, _bulk(150e-6, 400.0)), _start("C2")])
    rows += _output("+5 V", "schottky", [("C10", 2200e-6, 10.0), ("C11", 2200e-6, 10.0)])
    rows += _output("+12 V", "diode", [("C12", 1000e-6, 25.0)])
    rows += _output("−12 V", "diode", [("C13", 470e-6, 25.0)])
    rows += _joint(("+5 V", "+12 V", "−12 V"))
    return Sheet("Offline flyback", Topology.FLYBACK, rails, _parts(rows))


def _half_bridge() -> Sheet:
    rails = (
        Rail("+5 V", 5.0, Regulation.MAIN, 1.5, 15.0),
        Rail("+12 V", 12.0, Regulation.AUXILIARY, 0.5, 4.5),
        Rail("−12 V", -12.0, Regulation.AUXILIARY, None, 0.5),
        Rail("−5 V", -5.0, Regulation.LINEAR, None, 0.5),
    )
    bulk: list[Row] = [
        ("C1", "capacitor", TRUNK, _bulk(330e-6, 200.0)),
        ("C2", "capacitor", TRUNK, _bulk(330e-6, 200.0)),
        _start("C3"),
    ]
    rows = _offline_trunk(bulk)
    rows += _output("+5 V", "schottky", [("C10", 3300e-6, 10.0), ("C11", 3300e-6, 10.0)])
    rows += _output("+12 V", "diode", [("C12", 2200e-6, 16.0)])
    rows += _output("−12 V", "diode", [("C13", 470e-6, 25.0)])
    rows += _output("−5 V", "diode", [("C14", 470e-6, 16.0)])
    rows.append(("U1", "regulator", "−5 V", {}))
    rows += _joint(("+5 V", "+12 V", "−12 V", "−5 V"))
    return Sheet("Half-bridge forward", Topology.HALF_BRIDGE, rails, _parts(rows))


def _linear_rail(key: str, number: int, raw: tuple[float, float]) -> list[Row]:
    """Bridge, raw filter, regulator, output capacitor."""
    return [
        (f"BR{number}", "bridge", key, {}),
        (f"C{number}", "capacitor", key, _cap(*raw, role="raw-filter")),
        (f"U{number}", "regulator", key, {}),
        (f"C{number + 10}", "capacitor", key, _cap(10e-6, 25.0, role="output-filter")),
    ]


def _linear() -> Sheet:
    rails = (
        Rail("+5 V", 5.0, Regulation.LINEAR, None, 3.0),
        Rail("+12 V", 12.0, Regulation.LINEAR, None, 1.0),
        Rail("−5 V", -5.0, Regulation.LINEAR, None, 0.2),
    )
    rows: list[Row] = [
        ("J1", "inlet", TRUNK, _PRIMARY),
        ("F1", "fuse", TRUNK, {"value": 1.0, **_PRIMARY}),
        ("S1", "switch", TRUNK, _PRIMARY),
        ("T1", "transformer", TRUNK, _PRIMARY),
    ]
    for number, (key, raw) in enumerate(
        (("+5 V", (10e-3, 16.0)), ("+12 V", (2200e-6, 35.0)), ("−5 V", (1000e-6, 25.0))), start=1
    ):
        rows += _linear_rail(key, number, raw)
    rows += _joint(("+5 V", "+12 V", "−5 V"))
    return Sheet("Linear", Topology.LINEAR, rails, _parts(rows))


def _dc_fed() -> Sheet:
    rails = (Rail("+5 V", 5.0, Regulation.LINEAR, None, 1.0),)
    rows: list[Row] = [
        ("J1", "inlet", TRUNK, {}),
        ("S1", "switch", TRUNK, {}),
        ("D1", "diode", TRUNK, {}),
        ("C1", "capacitor", TRUNK, _cap(2200e-6, 25.0, role="raw-filter")),
        ("U1", "regulator", "+5 V", {}),
        ("C2", "capacitor", "+5 V", _cap(22e-6, 16.0, role="output-filter")),
    ]
    rows += _joint(("+5 V",))
    return Sheet("DC-fed linear", Topology.DC_FED, rails, _parts(rows))


def template(topology: Topology) -> Sheet:
    """The sheet to start from for a topology; part ids count from 1."""
    return {
        Topology.LINEAR: _linear,
        Topology.FLYBACK: _flyback,
        Topology.HALF_BRIDGE: _half_bridge,
        Topology.DC_FED: _dc_fed,
    }[topology]()
