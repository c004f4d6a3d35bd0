"""What the documents say of the code stays true: the picture is drawn from it, paths exist."""

from __future__ import annotations

import re
import runpy
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
DOCS = ROOT / "docs"
PACKAGE = ROOT / "src/hale_rail"
TEXTS = [
    *ROOT.glob("*.md"),
    *DOCS.glob("*.md"),
    *DOCS.glob("manual/*.md"),
    ROOT / "src/hale_rail/core/README.md",
]


def test_the_picture_of_the_structure_is_drawn_from_the_code() -> None:
    """Run `make picture` when this fails: a module or an import came or went."""
    drawn = runpy.run_path(str(DOCS / "draw_structure.py"))["draw"]()
    assert drawn == (DOCS / "structure.svg").read_text(encoding="utf-8")
    for name in ("diagnosis", "bring_up", "worker", "procedures", "workshop"):
        assert name in drawn


@pytest.mark.parametrize("path", TEXTS, ids=lambda path: str(path.relative_to(ROOT)))
def test_what_a_document_names_is_there(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    assert text.strip()
    for link in re.findall(r"\]\((?!http)([^)#]+)\)", text):
        assert (path.parent / link).exists(), link
    places = (ROOT, PACKAGE, PACKAGE / "web", PACKAGE / "web/static", path.parent)
    for name in re.findall(r"`([\w./-]+/[\w./-]*|[\w./-]+\.(?:py|css|js|toml|md))`", text):
        kept_elsewhere = name.startswith(("/", ".venv")) or name in KEPT
        assert kept_elsewhere or any((place / name).exists() for place in places), name


#: folders of the data folder, not of the tree
KEPT = {"photos/", "records/", "documents/", "backups/", "views/"}


def test_every_screenshot_is_shown_and_they_are_few() -> None:
    shown = "".join(path.read_text(encoding="utf-8") for path in TEXTS)
    shots = [shot.name for shot in (DOCS / "screenshots").iterdir()]
    assert 10 < len(shots) < 20
    assert [name for name in shots if f"screenshots/{name}" not in shown] == []


def test_the_first_texts_stay_short() -> None:
    """The README is read in a minute, the changelog in two."""
    for name, most in (("README.md", 90), ("CHANGELOG.md", 40)):
        assert len((ROOT / name).read_text(encoding="utf-8").splitlines()) <= most, name


def test_the_manual_has_a_page_in_its_list_for_each_of_its_files() -> None:
    contents = (DOCS / "manual/README.md").read_text(encoding="utf-8")
    pages = [path.name for path in DOCS.glob("manual/*.md") if path.name != "README.md"]
    assert len(pages) > 10
    assert [name for name in pages if f"({name})" not in contents] == []
