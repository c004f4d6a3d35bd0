"""Reads the reviewed knowledge of faults (TOML) for one topology; refuses what does not add up."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from functools import lru_cache
from importlib import resources
from typing import Any

from hale_rail.core.diagnosis.knowledge import (
    DANGERS,
    BenchTest,
    Hypothesis,
    Knowledge,
    Symptom,
)
from hale_rail.core.errors import InputError
from hale_rail.core.safety.cautions import VENTS
from hale_rail.core.supply.sheet import Topology

_LETTERS = {
    Topology.LINEAR: "l", Topology.FLYBACK: "f", Topology.HALF_BRIDGE: "h", Topology.DC_FED: "d",
}  # fmt: skip
_ALL = "".join(_LETTERS.values())
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
        raise InputError(f"The knowledge is no TOML: {error}") from error
    letter = _LETTERS[topology]
    known = {entry["id"] for entry in tables.get("hypothesis", [])}

    def here(name: str) -> list[Entry]:
        found = [e for e in tables.get(name, []) if letter in e.get("topologies", _ALL)]
        ids = [e["id"] for e in found]
        if len(ids) != len(set(ids)):
            raise InputError(f"A {name} stands twice for {topology.words}.")
        return found

    return Knowledge(
        tuple(_hypothesis(entry) for entry in here("hypothesis")),
        tuple(_symptom(entry, known) for entry in here("symptom")),
        tuple(_test(entry, known) for entry in here("test")),
    )


def _hypothesis(entry: Entry) -> Hypothesis:
    return Hypothesis(
        entry["id"],
        entry["name"],
        entry["stage"],
        float(entry["weight"]),
        f"{entry['remedy']} {VENTS}" if entry.get("vents") else entry["remedy"],
        tuple(entry["faults"]),
        entry.get("side", ""),
    )


def _symptom(entry: Entry, known: set[str]) -> Symptom:
    given, why = _given(entry, known)
    return Symptom(
        entry["id"],
        entry["name"],
        _share(entry["usual"], entry["id"]),
        {key: _share(value, entry["id"]) for key, value in given.items()},
        dict(entry.get("states", {})),
        tuple(entry.get("words", ())),
        why,
    )


def _test(entry: Entry, known: set[str]) -> BenchTest:
    results, said = tuple(entry["results"]), tuple(entry["said"])
    name, count = entry["id"], len(results)
    if not 2 <= count == len(said) == len(set(results)):
        raise InputError(f"Test {name} needs two results and more, each with its words.")
    if entry["danger"] not in DANGERS or not entry["minutes"] > 0:
        raise InputError(f"Test {name}: danger is {', '.join(DANGERS)}; minutes above 0.")
    given, why = _given(entry, known)
    return BenchTest(
        name,
        entry["name"],
        entry["how"],
        results,
        said,
        float(entry["minutes"]),
        entry["danger"],
        _shares(entry["usual"], name, count),
        {key: _shares(value, name, count) for key, value in given.items()},
        dict(entry.get("points", {})),
        bool(entry.get("gate", False)),
        {key: tuple(wanted) for key, wanted in entry.get("after", {}).items()},
        tuple(entry.get("not_with", ())),
        why,
    )


def _given(entry: Entry, known: set[str]) -> tuple[dict[str, Any], dict[str, str]]:
    """What each hypothesis gives, and the word why."""
    unknown = set(entry["given"]) - known
    if unknown:
        raise InputError(f"{entry['id']} names {', '.join(sorted(unknown))}, which is no fault.")
    for key, value in entry["given"].items():
        if not isinstance(value, list) or len(value) != 2 or not str(value[1]).strip():
            raise InputError(f"{entry['id']}: {key} needs its chance and a word why.")
    return (
        {key: value[0] for key, value in entry["given"].items()},
        {key: str(value[1]) for key, value in entry["given"].items()},
    )


def _share(value: object, name: str) -> float:
    if not isinstance(value, (int, float)) or not 0 < value < 1:
        raise InputError(f"{name}: {value} is no chance between 0 and 1.")
    return float(value)


def _shares(values: Sequence[object], name: str, count: int) -> tuple[float, ...]:
    """Chances of every result; the last takes what the others leave."""
    if not isinstance(values, list) or len(values) != count - 1:
        raise InputError(f"{name}: {values} is not a chance for each result but the last.")
    shares = [_share(value, name) for value in values]
    return (*shares, _share(1 - sum(shares), name))
