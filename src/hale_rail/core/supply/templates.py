"""Sheets to start from: one sensible unit a topology, so that a line map stands within a minute.

Values are those a unit of the kind usually has; each is meant to be corrected at the bench.
"""

from __future__ import annotations

from hale_rail.core.parts.families import Family
from hale_rail.core.supply.sheet import TRUNK, Kind, Rail, Regulation, Sheet, Station, Topology

Row = tuple[str, Kind, str, dict[str, object]]

_AL = Family.ALUMINIUM


def _stations(rows: list[Row]) -> tuple[Station, ...]:
    """Number the rows and place each after the one before it on its line."""
    counts: dict[str, int] = {}
    made = []
    for number, (ref, kind, line, more) in enumerate(rows, start=1):
        counts[line] = counts.get(line, 0) + 10
        made.append(Station(number, ref, kind, line, counts[line], **more))  # type: ignore[arg-type]
    return tuple(made)


def _cap(farad: float, volt: float, **more: object) -> dict[str, object]:
    return {"value": farad, "volt": volt, "family": _AL, **more}


def _x2(farad: float) -> dict[str, object]:
    family = Family.SUPPRESSION_PAPER
    more = {"safety_class": "X2", "role": "suppressor-x", "is_primary": True}
    return {"value": farad, "volt": 250.0, "family": family, **more}


_PRIMARY: dict[str, object] = {"is_primary": True}


def _offline_trunk(bulk: list[Row]) -> list[Row]:
    return [
        ("J1", Kind.INLET, TRUNK, _PRIMARY),
        ("F1", Kind.FUSE, TRUNK, {"value": 2.0, **_PRIMARY}),
        ("S1", Kind.SWITCH, TRUNK, _PRIMARY),
        ("CX1", Kind.CAPACITOR, TRUNK, _x2(100e-9)),
        ("L1", Kind.FILTER, TRUNK, _PRIMARY),
        ("RT1", Kind.THERMISTOR, TRUNK, {"value": 10.0, **_PRIMARY}),
        ("BR1", Kind.BRIDGE, TRUNK, _PRIMARY),
        *bulk,
        ("Q1", Kind.TRANSISTOR, TRUNK, _PRIMARY),
        ("T1", Kind.TRANSFORMER, TRUNK, _PRIMARY),
    ]


def _bulk(farad: float, volt: float, **more: object) -> dict[str, object]:
    return _cap(farad, volt, is_primary=True, is_store=True, role="bulk", **more)


def _output(key: str, rectifier: Kind, caps: list[tuple[str, float, float]]) -> list[Row]:
    """A switched rail: rectifier, choke, filter bank, numbered like its first capacitor."""
    bank = "out" if len(caps) > 1 else ""
    number = caps[0][0].removeprefix("C")
    return [
        (f"D{number}", rectifier, key, {}),
        (f"L{number}", Kind.CHOKE, key, {}),
        *[
            (ref, Kind.CAPACITOR, key, _cap(farad, volt, role="output-filter", bank=bank))
            for ref, farad, volt in caps
        ],
    ]


def _joint(rails: tuple[str, ...]) -> list[Row]:
    return [
        ("P1", Kind.CONNECTOR, "", {"rails": rails}),
        ("Main board", Kind.BOARD, "", {"rails": rails, "board": "P1"}),
    ]


def _flyback() -> Sheet:
    rails = (
        Rail("+5 V", 5.0, Regulation.MAIN, 0.8, 8.0),
        Rail("+12 V", 12.0, Regulation.AUXILIARY, 0.2, 2.5),
        Rail("−12 V", -12.0, Regulation.AUXILIARY, None, 0.3),
    )
    rows = _offline_trunk([("C1", Kind.CAPACITOR, TRUNK, _bulk(150e-6, 400.0))])
    rows += _output("+5 V", Kind.SCHOTTKY, [("C10", 2200e-6, 10.0), ("C11", 2200e-6, 10.0)])
    rows += _output("+12 V", Kind.DIODE, [("C12", 1000e-6, 25.0)])
    rows += _output("−12 V", Kind.DIODE, [("C13", 470e-6, 25.0)])
    rows += _joint(("+5 V", "+12 V", "−12 V"))
    return Sheet("Offline flyback", Topology.FLYBACK, rails, _stations(rows))


def _half_bridge() -> Sheet:
    rails = (
        Rail("+5 V", 5.0, Regulation.MAIN, 1.5, 15.0),
        Rail("+12 V", 12.0, Regulation.AUXILIARY, 0.5, 4.5),
        Rail("−12 V", -12.0, Regulation.AUXILIARY, None, 0.5),
        Rail("−5 V", -5.0, Regulation.LINEAR, None, 0.5),
    )
    bulk: list[Row] = [
        ("C1", Kind.CAPACITOR, TRUNK, _bulk(330e-6, 200.0)),
        ("C2", Kind.CAPACITOR, TRUNK, _bulk(330e-6, 200.0)),
    ]
    rows = _offline_trunk(bulk)
    rows += _output("+5 V", Kind.SCHOTTKY, [("C10", 3300e-6, 10.0), ("C11", 3300e-6, 10.0)])
    rows += _output("+12 V", Kind.DIODE, [("C12", 2200e-6, 16.0)])
    rows += _output("−12 V", Kind.DIODE, [("C13", 470e-6, 25.0)])
    rows += _output("−5 V", Kind.DIODE, [("C14", 470e-6, 16.0)])
    rows.append(("U1", Kind.REGULATOR, "−5 V", {}))
    rows += _joint(("+5 V", "+12 V", "−12 V", "−5 V"))
    return Sheet("Half-bridge forward", Topology.HALF_BRIDGE, rails, _stations(rows))


def _linear_rail(key: str, number: int, raw: tuple[float, float]) -> list[Row]:
    """Bridge, raw filter, regulator, output capacitor."""
    return [
        (f"BR{number}", Kind.BRIDGE, key, {}),
        (f"C{number}", Kind.CAPACITOR, key, _cap(*raw, role="raw-filter", is_store=True)),
        (f"U{number}", Kind.REGULATOR, key, {}),
        (f"C{number + 10}", Kind.CAPACITOR, key, _cap(10e-6, 25.0, role="output-filter")),
    ]


def _linear() -> Sheet:
    rails = (
        Rail("+5 V", 5.0, Regulation.LINEAR, None, 3.0),
        Rail("+12 V", 12.0, Regulation.LINEAR, None, 1.0),
        Rail("−5 V", -5.0, Regulation.LINEAR, None, 0.2),
    )
    rows: list[Row] = [
        ("J1", Kind.INLET, TRUNK, _PRIMARY),
        ("F1", Kind.FUSE, TRUNK, {"value": 1.0, **_PRIMARY}),
        ("S1", Kind.SWITCH, TRUNK, _PRIMARY),
        ("T1", Kind.TRANSFORMER, TRUNK, _PRIMARY),
    ]
    for number, (key, raw) in enumerate(
        (("+5 V", (10e-3, 16.0)), ("+12 V", (2200e-6, 35.0)), ("−5 V", (1000e-6, 25.0))), start=1
    ):
        rows += _linear_rail(key, number, raw)
    rows += _joint(("+5 V", "+12 V", "−5 V"))
    return Sheet("Linear", Topology.LINEAR, rails, _stations(rows))


def _dc_fed() -> Sheet:
    rails = (Rail("+5 V", 5.0, Regulation.LINEAR, None, 1.0),)
    rows: list[Row] = [
        ("J1", Kind.INLET, TRUNK, {}),
        ("S1", Kind.SWITCH, TRUNK, {}),
        ("D1", Kind.DIODE, TRUNK, {}),
        ("C1", Kind.CAPACITOR, TRUNK, _cap(2200e-6, 25.0, role="raw-filter", is_store=True)),
        ("U1", Kind.REGULATOR, "+5 V", {}),
        ("C2", Kind.CAPACITOR, "+5 V", _cap(22e-6, 16.0, role="output-filter")),
    ]
    rows += _joint(("+5 V",))
    return Sheet("DC-fed linear", Topology.DC_FED, rails, _stations(rows))


def template(topology: Topology) -> Sheet:
    """The sheet to start from for a topology; station ids count from 1."""
    return {
        Topology.LINEAR: _linear,
        Topology.FLYBACK: _flyback,
        Topology.HALF_BRIDGE: _half_bridge,
        Topology.DC_FED: _dc_fed,
    }[topology]()
