"""Judges a unit and its readings in this process, by the command's own contract."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from hale_rail.cli._case_of_files import case_of_files
from hale_rail.cli.judge import judged

_COLUMNS = ("target", "procedure", "condition", "value", "pair", "amps")
RAILS = (
    {"key": "+5 V", "nominal_v": 5, "regulation": "main"},
    {"key": "+12 V", "nominal_v": 12, "regulation": "auxiliary"},
    {"key": "−12 V", "nominal_v": -12, "regulation": "auxiliary"},
    {"key": "−5 V", "nominal_v": -5, "regulation": "linear"},
    {"key": "+24 V", "nominal_v": 24, "regulation": "auxiliary"},
)  # fmt: skip


def judge(
    *rows: str,
    parts: Sequence[Mapping[str, Any]] = (),
    rails: Sequence[Mapping[str, Any]] = RAILS,
    **unit: Any,
) -> Any:
    """What `judge` says of rows `target|procedure|condition|value|pair|amps` of a flyback."""
    sheet = {"name": "Bench unit", "topology": "flyback", "rails": rails, "parts": parts, **unit}
    lines = [",".join(_COLUMNS)]
    for row in rows:
        cells = [*row.split("|"), "", "", ""][: len(_COLUMNS)]
        lines.append(",".join(f'"{cell}"' for cell in cells))
    with tempfile.TemporaryDirectory() as folder:
        unit_file, readings = Path(folder, "unit.json"), Path(folder, "readings.csv")
        unit_file.write_text(json.dumps(sheet), encoding="utf-8")
        readings.write_text("\n".join(lines) + "\n", encoding="utf-8")
        with case_of_files(unit_file, readings) as found:
            return judged(found)


def part_of(found: Any, ref: str) -> Any:
    """What is said of one part."""
    return next(part for part in found["parts"] if part["ref"] == ref)


def rail_of(found: Any, key: str) -> Any:
    """What is said of one rail."""
    return next(rail for rail in found["rails"] if rail["key"] == key)


def words_of(part: Mapping[str, Any]) -> str:
    """All the reasons of a part as one text, spaces as one types them."""
    return " ".join(reason["text"] for reason in part["reasons"]).replace("\u00a0", " ")
