"""What the documents say of the code stays true: the picture is drawn from it, paths exist."""

from __future__ import annotations

import re
import runpy
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
DOCS = ROOT / "docs"
PACKAGE = ROOT / "src/hale_rail"
TEXTS = [ROOT / "README.md", *DOCS.glob("*.md"), ROOT / "src/hale_rail/core/README.md"]


def test_the_picture_of_the_structure_is_drawn_from_the_code() -> None:
    """Run `make picture` when this fails: a module or an import came or went."""
    drawn = runpy.run_path(str(DOCS / "draw_structure.py"))["draw"]()
    assert drawn == (DOCS / "structure.svg").read_text(encoding="utf-8")
    for name in ("diagnosis", "bring_up", "worker", "procedures", "workshop"):
        assert name in drawn


@pytest.mark.parametrize("path", TEXTS, ids=lambda path: path.name)
def test_what_a_document_names_is_there(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    for link in re.findall(r"\]\((?!http)([^)#]+)\)", text):
        assert (path.parent / link).exists(), link
    places = (ROOT, PACKAGE, PACKAGE / "web", PACKAGE / "web/static", path.parent)
    for name in re.findall(r"`([\w./-]+/[\w./-]*|[\w./-]+\.(?:py|css|js|toml|md))`", text):
        kept_elsewhere = name.startswith(("/", ".venv")) or name in KEPT
        assert kept_elsewhere or any((place / name).exists() for place in places), name


#: folders of the data folder, not of the tree
KEPT = {"photos/", "records/", "documents/", "backups/"}


def test_every_screenshot_is_shown_and_they_are_few() -> None:
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    shots = list((DOCS / "screenshots").iterdir())
    assert len(shots) < 20
    for shot in shots:
        assert f"docs/screenshots/{shot.name}" in readme, shot.name
