"""The look's promises: contrast in both themes, vendored files as listed."""

from __future__ import annotations

import hashlib
import re
from pathlib import Path

import pytest

import hale_rail

STATIC = Path(hale_rail.__file__).parent / "web" / "static"
TOKENS = (STATIC / "css" / "tokens.css").read_text(encoding="utf-8")
FONTS = (STATIC / "css" / "fonts.css").read_text(encoding="utf-8")
TEXT = ("ink", "muted", "accent", "good", "worn", "failed", "unproven", "replaced", "unseen")


def tokens(theme: str) -> dict[str, str]:
    block = re.search(rf'\[data-bs-theme="{theme}"\] \{{(.*?)\}}', TOKENS, re.DOTALL)
    assert block
    return dict(re.findall(r"--([a-z]+): (#[0-9a-f]{6});", block[1]))


def luminance(colour: str) -> float:
    """Relative luminance by WCAG 2."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_text_is_legible(theme: str) -> None:
    found = tokens(theme)
    for name in TEXT:
        for ground in ("paper", "panel", "wash"):
            assert contrast(found[name], found[ground]) >= 4.5, (theme, name, ground)
    for name in ("accent", "failed", "good", "worn"):
        assert contrast(found["on"], found[name]) >= 4.5, (theme, name)
    assert contrast(found["failed"], found["alarm"]) >= 4.5
    assert contrast(found["worn"], found["warn"]) >= 4.5
    assert contrast(found["track"], found["paper"]) >= 3


def test_vendored_files_are_as_listed() -> None:
    table = (STATIC / "vendored.md").read_text(encoding="utf-8")
    listed = re.findall(r"^\| (\S+) \|.*\| ([0-9a-f]{64}) \|$", table, re.MULTILINE)
    assert {name for name, _ in listed} >= {
        str(path.relative_to(STATIC)) for path in (STATIC / "fonts").glob("*.woff2")
    }
    for name, checksum in listed:
        assert hashlib.sha256((STATIC / name).read_bytes()).hexdigest() == checksum, name


def test_every_sign_the_pages_use_has_a_font_that_ships() -> None:
    """Whatever stands in a template, a script or the stylesheet lies in a face's declared range."""
    ranges = re.findall(r"unicode-range: ([^;]+);", FONTS)
    spans = [
        tuple(int(end, 16) for end in part.strip()[2:].split("-"))
        for text in ranges
        for part in text.split(",")
    ]
    sources = [
        *STATIC.parent.glob("templates/**/*.html"),
        *STATIC.glob("**/*.js"),
        *STATIC.glob("css/*.css"),
    ]
    ours = [path for path in sources if "vendor" not in path.parts]
    used = {sign for path in ours for sign in path.read_text(encoding="utf-8")} - {"\n"}
    used |= set("Ωµ−±°·×½²")
    lacking = [s for s in used if not any(span[0] <= ord(s) <= span[-1] for span in spans)]
    assert lacking == []
