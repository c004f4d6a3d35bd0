"""Who may import whom, and what the tree promises about itself."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

import hale_rail
from hale_rail import errors

ROOT = Path(hale_rail.__file__).parent
#: layer -> layers of ours it may import, itself included
ALLOWED = {
    "core": {"core"},
    "formats": {"core", "formats", "errors"},
    "store": {"core", "store", "errors"},
    "actions": {"core", "formats", "store", "actions", "errors"},
    "web": {"core", "formats", "store", "actions", "web", "errors", ""},
    "cli": {"core", "formats", "store", "actions", "web", "demo", "cli", "errors", ""},
    "demo": {"core", "formats", "store", "actions", "demo", "errors"},
    "errors": {"core"},
}
CORE_OUTSIDE = {"quantiphy", "numpy", "scipy"}
NOT_IN_CORE = {"sqlite3", "flask", "click", "io", "os", "pathlib", "socket", "time", "urllib"}


def modules(layer: str) -> list[Path]:
    top = ROOT / layer
    return sorted(top.rglob("*.py")) if top.is_dir() else [ROOT / f"{layer}.py"]


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{path}: relative import"
            names = {f"{node.module}.{alias.name}" for alias in node.names}
            found |= names if node.module == "hale_rail" else {node.module or ""}
    return found


@pytest.mark.parametrize("layer", ALLOWED)
def test_imports_point_one_way(layer: str) -> None:
    for path in modules(layer):
        ours = {name for name in imports(path) if name.split(".")[0] == "hale_rail"}
        layers = {"" if name == "hale_rail.__version__" else name.split(".")[1] for name in ours}
        assert layers <= ALLOWED[layer], f"{path} imports {layers - ALLOWED[layer]}"


def test_core_is_pure() -> None:
    """No I/O, clock, framework or database; nothing from outside but the numeric libraries."""
    import sys

    for path in modules("core"):
        for name in imports(path):
            top = name.split(".")[0]
            assert top not in NOT_IN_CORE, f"{path} imports {name}"
            assert top in sys.stdlib_module_names or top in CORE_OUTSIDE | {"hale_rail"}, path
        called = {
            node.func.id
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
        }
        assert not called & {"open", "print", "input"}, path


def test_only_the_store_speaks_sql() -> None:
    for layer in set(ALLOWED) - {"store"}:
        for path in modules(layer):
            uses = "sqlite3" in imports(path)
            text = path.read_text(encoding="utf-8")
            has_sql = any(word in text for word in ("SELECT ", "INSERT INTO", "PRAGMA "))
            assert not has_sql, f"{path} holds SQL"
            # actions pass a transaction's connection on; they never open one
            assert not uses or (layer == "actions" and "sqlite3.connect" not in text), path


def test_the_errors_are_drawn_as_they_are() -> None:
    drawing = errors.__doc__ or ""
    drawn = [line.strip("│├└─ ").split()[0] for line in drawing.splitlines() if "Error" in line]
    assert sorted(drawn[1:] if drawn[0] == "Every" else drawn) == sorted(errors.__all__)
    for name in errors.__all__:
        assert issubclass(getattr(errors, name), errors.HaleRailError)


def test_pages_carry_no_inline_script_or_style() -> None:
    """The Content-Security-Policy forbids them; a template that uses one would silently fail."""
    for path in (ROOT / "web" / "templates").rglob("*.html"):
        text = path.read_text(encoding="utf-8")
        assert "<style" not in text and " style=" not in text and " onclick=" not in text, path
        for line in text.splitlines():
            assert "<script" not in line or "src=" in line, path


def test_nothing_is_fetched_from_elsewhere() -> None:
    static = ROOT / "web" / "static"
    ours = [*static.glob("*.css"), *static.glob("*.js"), *(ROOT / "web").rglob("*.html")]
    for path in ours:
        assert "http://" not in path.read_text(encoding="utf-8"), path
        assert "https://" not in path.read_text(encoding="utf-8"), path
    for vendored in (*static.glob("vendor/*"), *static.glob("fonts/*.woff2")):
        folder = vendored if vendored.is_dir() else vendored.parent
        assert list(folder.glob("LICENSE*")), vendored


def test_modules_stay_short() -> None:
    for path in [*ROOT.rglob("*.py"), *Path(__file__).parent.rglob("*.py")]:
        assert len(path.read_text(encoding="utf-8").splitlines()) <= 500, path
