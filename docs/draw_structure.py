"""Draws the structure of the program from its code: `docs/structure.svg`.

A floor stands above all that it imports. Each box names what is in a floor; lines are the
imports as they are. `tests/test_docs.py` draws it again and compares, so that it cannot go stale.
"""

from __future__ import annotations

import ast
from pathlib import Path
from xml.sax.saxutils import escape

DOCS = Path(__file__).resolve().parent
ROOT = DOCS.parent / "src" / "hale_rail"
#: every floor may import these; their lines would hide the others
_EVERYWHERE = ("errors", "clock")
_BOX_W, _GAP_X, _GAP_Y, _LINE_H, _HEAD_H, _EDGE = 270, 40, 46, 17, 34, 24
_PER_LINE = 38
_STYLE = (
    "text{font:13px sans-serif;fill:#1c2730}.name{font-weight:700;font-size:16px}"
    "rect{fill:#f4f6f8;stroke:#5b6b78}path{fill:none;stroke:#8a98a4;stroke-width:1.4}"
    ".paper{fill:#fff;stroke:none}"
)


def floors() -> dict[str, list[str]]:
    """Every floor with the names of what is in it."""
    found = {}
    for path in sorted(ROOT.iterdir()):
        if path.is_dir() and (path / "__init__.py").exists():
            inside = (p for p in path.iterdir() if not p.name.startswith("_"))
            names = {p.stem for p in inside if p.suffix == ".py" or (p / "__init__.py").exists()}
            if names:
                found[path.name] = sorted(names)
    return found


def arrows(names: dict[str, list[str]]) -> dict[str, set[str]]:
    """Which floor imports which, itself and what all import left out."""
    found: dict[str, set[str]] = {}
    for name in names:
        own: set[str] = set()
        for path in (ROOT / name).rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("hale_rail"):
                    parts = (node.module or "").split(".")
                    own |= {parts[1]} if len(parts) > 1 else {alias.name for alias in node.names}
        found[name] = (own & set(names)) - {name, *_EVERYWHERE}
    return found


def levels(imports: dict[str, set[str]]) -> dict[str, int]:
    """How high each floor stands: one above the highest that it imports."""
    found: dict[str, int] = {}

    def level(name: str) -> int:
        if name not in found:
            found[name] = 1 + max((level(other) for other in imports[name]), default=-1)
        return found[name]

    for name in imports:
        level(name)
    return found


def direct(imports: dict[str, set[str]]) -> list[tuple[str, str]]:
    """The imports that no longer way implies; the picture shows the way, not each step."""

    def reached(name: str) -> set[str]:
        below = imports[name]
        return below.union(*(reached(other) for other in below)) if below else set()

    return sorted(
        (name, other)
        for name, below in imports.items()
        for other in below
        if not any(other in reached(between) for between in below - {other})
    )


def _wrapped(words: list[str]) -> list[str]:
    lines, line = [], ""
    for word in words:
        if line and len(line) + len(word) + 2 > _PER_LINE:
            lines.append(line + ",")
            line = word
        else:
            line = f"{line}, {word}" if line else word
    return [*lines, line]


def draw() -> str:
    """The picture as SVG text."""
    names = floors()
    imports = arrows(names)
    rows: dict[int, list[str]] = {}
    for name, level in levels(imports).items():
        rows.setdefault(level, []).append(name)
    texts = {name: _wrapped(words) for name, words in names.items()}
    wide = max(len(row) for row in rows.values())
    width = 2 * _EDGE + wide * _BOX_W + (wide - 1) * _GAP_X
    boxes: dict[str, tuple[float, float, float]] = {}
    y = float(_EDGE)
    for level in sorted(rows, reverse=True):
        row = sorted(rows[level])
        x = (width - len(row) * _BOX_W - (len(row) - 1) * _GAP_X) / 2
        tall = max(_HEAD_H + _LINE_H * len(texts[name]) for name in row)
        for name in row:
            boxes[name] = (x, y, _HEAD_H + _LINE_H * len(texts[name]))
            x += _BOX_W + _GAP_X
        y += tall + _GAP_Y
    return _svg(width, y - _GAP_Y + _EDGE, boxes, texts, direct(imports))


def _svg(
    width: float,
    height: float,
    boxes: dict[str, tuple[float, float, float]],
    texts: dict[str, list[str]],
    lines: list[tuple[str, str]],
) -> str:
    drawn = [
        (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:.0f} {height:.0f}" '
            f'width="{width:.0f}" role="img" aria-label="What is in it, what imports what">'
        ),
        f"<style>{_STYLE}</style>",
        f'<rect class="paper" width="{width:.0f}" height="{height:.0f}"/>',
        (
            '<marker id="tip" markerWidth="8" markerHeight="8" refX="7" refY="4" orient="auto">'
            '<path d="M1 1l6 3-6 3"/></marker>'
        ),
    ]
    for above, below in lines:
        x1, y1, h1 = boxes[above]
        x2, y2, _ = boxes[below]
        a, b = x1 + _BOX_W / 2, x2 + _BOX_W / 2
        drawn.append(
            f'<path marker-end="url(#tip)" d="M{a:.0f} {y1 + h1:.0f}'
            f'C{a:.0f} {y1 + h1 + 30:.0f} {b:.0f} {y2 - 30:.0f} {b:.0f} {y2:.0f}"/>'
        )
    for name, (x, y, tall) in boxes.items():
        drawn.append(f'<rect x="{x:.0f}" y="{y:.0f}" width="{_BOX_W}" height="{tall}" rx="4"/>')
        drawn.append(f'<text class="name" x="{x + 12:.0f}" y="{y + 22:.0f}">{name}</text>')
        for index, line in enumerate(texts[name]):
            at = y + _HEAD_H + 6 + _LINE_H * index
            drawn.append(f'<text x="{x + 12:.0f}" y="{at:.0f}">{escape(line)}</text>')
    return "\n".join([*drawn, "</svg>", ""])


if __name__ == "__main__":
    (DOCS / "structure.svg").write_text(draw(), encoding="utf-8")
