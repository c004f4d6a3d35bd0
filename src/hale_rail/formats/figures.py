"""Reads what the engine reached against simulated units, as it was measured."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import lru_cache
from importlib import resources
from typing import Any

from msgspec import Struct


class Figures(Struct, frozen=True):
    """The measured figures: how many hunts, and what came of them."""

    hunts: int
    right_first: float
    mean_tests: float
    mean_minutes: float
    unsafe_steps: int
    by_fault: Mapping[str, Mapping[str, int]]


@lru_cache(maxsize=1)
def figures() -> Figures:
    """The figures that ship."""
    source = resources.files("hale_rail.knowledge") / "figures.json"
    found: dict[str, Any] = json.loads(source.read_text(encoding="utf-8"))
    return Figures(
        found["hunts"],
        found["right_first"],
        found["mean_tests"],
        found["mean_minutes"],
        found["unsafe_steps"],
        found["by_fault"],
    )
