"""Reads the reviewed knowledge of faults (TOML) for one topology; refuses what does not add up."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Mapping
from functools import lru_cache
from importlib import resources
from typing import Any

from msgspec import Struct

from hale_rail.core.diagnosis.effects import REGIMES
from hale_rail.core.diagnosis.knowledge import DANGERS, BenchTest, FaultGroup, Knowledge, Symptom
from hale_rail.core.diagnosis.views import LOOKS, STATES
from hale_rail.core.errors import InputError
from hale_rail.core.parts.modes import MODES
from hale_rail.core.safety.cautions import VENTS
from hale_rail.core.supply.sheet import Topology

_LETTERS = {
    Topology.LINEAR: "l", Topology.FLYBACK: "f", Topology.HALF_BRIDGE: "h", Topology.DC_FED: "d",
}  # fmt: skip
_ALL = "".join(_LETTERS.values())
#: tests whose results stand for what parts or the eye show
_OF_PARTS = ("part", "look")
Entry = Mapping[str, Any]


@lru_cache(maxsize=len(Topology))
def knowledge_for(topology: Topology) -> Knowledge:
    """The knowledge that ships, cut to a topology."""
    source = resources.files("hale_rail.knowledge") / "diagnosis.toml"
    return read_knowledge(source.read_text(encoding="utf-8"), topology)


def read_knowledge(text: str, topology: Topology) -> Knowledge:
    """Parse knowledge; raises InputError naming the entry that cannot be used."""
    try:
        tables = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise InputError(f"The knowledge is not TOML: {error}") from error
    letter = _LETTERS[topology]

    def here(name: str) -> list[Entry]:
        here = [e for e in tables.get(name, []) if letter in e.get("topologies", _ALL)]
        ids = [e["id"] for e in here]
        if len(ids) != len(set(ids)):
            raise InputError(f"A {name} is listed twice for {topology.words}.")
        return here

    return Knowledge(
        tuple(_group(entry) for entry in here("group")),
        {key: _rate(key, value) for key, value in tables.get("rates", {}).items()},
        tuple(_symptom(entry) for entry in here("symptom")),
        tuple(_test(entry) for entry in here("test")),
    )


def _rate(key: str, value: object) -> float:
    if not isinstance(value, (int, float)) or not value > 0:
        raise InputError(f"The rate of {key} is {value}: it must be above 0.")
    _fault(key)
    return float(value)


def _fault(code: str) -> str:
    mode = code.partition(":")[0]
    if mode not in MODES:
        raise InputError(f"{code} names no way to fail: {', '.join(MODES)}.")
    return code


def _group(entry: Entry) -> FaultGroup:
    return FaultGroup(
        entry["id"],
        entry["name"],
        entry["stage"],
        f"{entry['remedy']} {VENTS}" if entry.get("vents") else entry["remedy"],
        tuple(_fault(code) for code in entry["faults"]),
        entry.get("side", ""),
    )


def _symptom(entry: Entry) -> Symptom:
    regimes = tuple(entry.get("regimes", ()))
    if unknown := set(regimes) - set(REGIMES):
        raise InputError(f"Symptom {entry['id']} has unknown regimes: {', '.join(unknown)}.")
    return Symptom(
        entry["id"],
        entry["name"],
        tuple(entry.get("words", ())),
        regimes,
        dict(entry.get("states", {})),
    )


def _test(entry: Entry) -> BenchTest:
    results, points = tuple(entry["results"]), dict(entry.get("points", {}))
    name = entry["id"]
    if not 2 <= len(results) == len(set(results)):
        raise InputError(f"Test {name} needs two results or more.")
    if entry["danger"] not in DANGERS or not entry["minutes"] > 0:
        raise InputError(f"Test {name}: danger is {', '.join(DANGERS)}; minutes above 0.")
    if points.get("reads") in _OF_PARTS:
        shows = [set(words.split()) for words in points.get("shows", ())]
        known = set(STATES) if points["reads"] == "part" else set(LOOKS)
        if len(shows) != len(results) - 1 or any(not one <= known for one in shows):
            raise InputError(f"Test {name}: `shows` needs known states for each result but one.")
    return BenchTest(
        name,
        entry["name"],
        entry["how"],
        results,
        float(entry["minutes"]),
        entry["danger"],
        points,
        bool(entry.get("gate", False)),
        tuple(entry.get("not_with", ())),
    )


class ShippedFigures(Struct, frozen=True):
    """The measured figures: how many hunts, and what came of them."""

    hunts: int
    right_first: float
    mean_tests: float
    mean_minutes: float
    unsafe_steps: int
    by_fault: Mapping[str, Mapping[str, int]]


@lru_cache(maxsize=1)
def figures() -> ShippedFigures:
    """The figures that ship."""
    source = resources.files("hale_rail.knowledge") / "figures.json"
    figures: dict[str, Any] = json.loads(source.read_text(encoding="utf-8"))
    return ShippedFigures(
        figures["hunts"],
        figures["right_first"],
        figures["mean_tests"],
        figures["mean_minutes"],
        figures["unsafe_steps"],
        figures["by_fault"],
    )
