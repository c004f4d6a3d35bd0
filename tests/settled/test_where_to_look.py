"""Stories from other benches: a complaint and readings, then whom an expert suspects and asks.

Each row of where_to_look.csv was settled on paper before it was run: the first suspicion may be any
of the groups named, the first test any of those named (none: the row is about the suspicion alone),
and why. `;` stands between the rows of a story's READINGS.csv.
"""

from __future__ import annotations

import csv
from pathlib import Path
from typing import Any

import pytest

from hale_rail.cli._case_of_files import case_of_files
from hale_rail.cli.diagnose import diagnosed
from hale_rail.core.supply.sheet import TOPOLOGIES
from hale_rail.core.supply.templates import template
from hale_rail.formats.units.unit_json import write_unit

with (Path(__file__).parent / "where_to_look.csv").open(encoding="utf-8", newline="") as file:
    STORIES = tuple(csv.DictReader(file))


def told(folder: Path, topology: str, symptom: str, rows: str) -> Any:
    """What the command says of a template's unit with these rows, `;` between them."""
    unit, readings = folder / "unit.json", folder / "readings.csv"
    unit.write_text(write_unit(template(TOPOLOGIES[topology])), encoding="utf-8")
    lines = ["target,procedure,condition,value,pair", *filter(None, rows.split(";"))]
    text = "\n".join(line.strip() + "," * (4 - line.count(",")) for line in lines)
    readings.write_text(text + "\n", encoding="utf-8")
    with case_of_files(unit, readings, symptoms=(symptom,) if symptom else ()) as found:
        return diagnosed(found)


@pytest.mark.parametrize("story", STORIES, ids=lambda s: f"{s['topology']}, {s['why'][:40]}")
def test_a_story_is_read_as_an_expert_reads_it(tmp_path: Path, story: dict[str, str]) -> None:
    found = told(tmp_path, story["topology"], story["symptom"], story["rows"])
    assert found["problems"] == []
    if story["suspects"]:
        first = found["hypotheses"][0]["id"]
        assert first in story["suspects"].split(), (story["why"], found["hypotheses"][:4])
    if story["tests"]:
        assert found["next"] is not None, (story["why"], found["sentence"])
        assert found["next"]["test"] in story["tests"].split(), story["why"]


def test_there_are_sixty_stories_at_least() -> None:
    assert len(STORIES) >= 60
    assert {s["topology"] for s in STORIES} == set(TOPOLOGIES)
