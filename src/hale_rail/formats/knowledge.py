"""Reads the reviewed knowledge of faults (TOML) for one topology; refuses what does not add up."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import lru_cache
from importlib import resources
from typing import Any

from hale_rail.core.diagnosis.engine import DANGERS, BenchTest, Hypothesis, Knowledge, Symptom
from hale_rail.core.errors import InputError
from hale_rail.core.supply.sheet import Topology

_LETTERS = {
    Topology.LINEAR: "l", Topology.FLYBACK: "f", Topology.HALF_BRIDGE: "h", Topology.DC_FED: "d",
}  # fmt: skip


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
        raise InputError(f"The knowledge is no TOML: {error}") from error
    letter = _LETTERS[topology]
    known = {entry["id"] for entry in tables.get("hypothesis", [])}
    hypotheses = tuple(
        Hypothesis(h["id"], h["name"], h["stage"], float(h["weight"]), h["remedy"],
                   tuple(h["kinds"]))
        for h in tables.get("hypothesis", [])
        if letter in h["topologies"]
    )  # fmt: skip
    symptoms = tuple(
        Symptom(s["id"], s["name"], _share(s["usual"], s["id"]), _given(s, known))
        for s in tables.get("symptom", [])
    )
    tests = tuple(
        _test(t, known) for t in tables.get("test", []) if letter in t.get("topologies", "lfhd")
    )
    return Knowledge(hypotheses, symptoms, tests)


def _test(entry: Mapping[str, Any], known: set[str]) -> BenchTest:
    results, said = tuple(entry["results"]), tuple(entry["said"])
    points = dict(entry.get("points", {}))
    if len(results) != 2 or len(said) != 2 or results[0] == results[1]:
        raise InputError(f"Test {entry['id']} needs two results, each with its words.")
    if entry["danger"] not in DANGERS or not entry["minutes"] > 0:
        raise InputError(f"Test {entry['id']}: danger is {', '.join(DANGERS)}; minutes above 0.")
    if any(points.get(verdict, results[0]) not in results for verdict in ("failed", "good")):
        raise InputError(f"Test {entry['id']}: a verdict answers with no result of it.")
    return BenchTest(
        entry["id"], entry["name"], entry["how"], results, said, float(entry["minutes"]),
        entry["danger"], _share(entry["usual"], entry["id"]), _given(entry, known), points,
    )  # fmt: skip


def _given(entry: Mapping[str, Any], known: set[str]) -> dict[str, float]:
    unknown = set(entry["given"]) - known
    if unknown:
        raise InputError(f"{entry['id']} names {', '.join(sorted(unknown))}, which is no fault.")
    return {key: _share(value, entry["id"]) for key, value in entry["given"].items()}


def _share(value: float, name: str) -> float:
    if not 0 < value < 1:
        raise InputError(f"{name}: {value} is no chance between 0 and 1.")
    return float(value)
