"""Who may import whom, and what the tree promises about itself."""

from __future__ import annotations

import ast
import re
import sys
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

import hale_rail
from hale_rail import errors

ROOT = Path(hale_rail.__file__).parent
WEB = ROOT / "web"
#: layer -> layers of ours it may import, itself included
ALLOWED = {
    "core": {"core"},
    "errors": {"core"},
    "clock": set(),
    "formats": {"core", "formats", "errors"},
    "store": {"core", "store", "errors"},
    "bench": {"core", "bench", "errors"},
    "case": {"core", "formats", "store", "bench", "case", "errors", "clock"},
    "stages": {"core", "formats", "store", "bench", "case", "stages", "errors", "clock"},
    "actions": {
        "core",
        "formats",
        "store",
        "bench",
        "case",
        "stages",
        "actions",
        "errors",
        "clock",
    },
    "web": {"core", "formats", "store", "case", "stages", "actions", "web", "errors", "clock", ""},
    "cli": {
        "core",
        "formats",
        "store",
        "bench",
        "case",
        "stages",
        "actions",
        "web",
        "demo",
        "cli",
        "errors",
        "clock",
        "",
    },
    "demo": {"core", "formats", "store", "case", "actions", "demo", "errors", "clock"},
}
#: a feature's folder has the same name on every floor
FEATURES = {
    "ask", "behind", "places",
    "intake", "safety", "parts", "diagnosis", "shorts", "recap", "power", "rails", "ripple",
    "bring_up", "soak", "report", "ledger", "practice", "instruments", "workshop",
}  # fmt: skip
#: floor -> the folders beside those: what several features stand on
SHARED = {
    "core": {"procedures", "simulate", "supply"},
    "case": set(),
    "stages": {"frame"},
    "actions": set(),
    "web": {"auth", "frame", "static", "templates"},
    "web/templates": {"auth", "error", "frame"},
    "web/static/js": set(),
}
#: a name that looks like an address
SVG_NAMESPACE = "http://www.w3.org/2000/svg"
CORE_OUTSIDE = {"msgspec", "quantiphy", "numpy", "scipy"}
NOT_IN_CORE = {"sqlite3", "flask", "click", "io", "os", "pathlib", "socket", "time", "urllib"}
#: who looks only asks a case; who does goes through an action
LOOKING = ("case", "stages")


def modules(layer: str) -> list[Path]:
    """The modules of a layer, which is a folder or one module; a layer that is gone fails."""
    top = ROOT / layer
    paths = sorted(top.rglob("*.py")) if top.is_dir() else [ROOT / f"{layer}.py"]
    assert paths, layer
    return paths


@cache
def nodes(path: Path) -> tuple[ast.AST, ...]:
    """All that a module's text is made of."""
    return tuple(ast.walk(ast.parse(path.read_text(encoding="utf-8"))))


def imports(path: Path, *, by_name: bool = False) -> set[str]:
    """What a module imports; `by_name` with the names, so that a package's modules show."""
    found: set[str] = set()
    for node in nodes(path):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{path}: relative import"
            names = {f"{node.module}.{alias.name}" for alias in node.names}
            found |= names if by_name or node.module == "hale_rail" else {node.module or ""}
    return found


def ours() -> list[Path]:
    """Templates, styles and scripts that are written here."""
    static = WEB / "static"
    scripts, styles = (
        [*static.glob("*.js"), *static.glob("js/**/*.js")],
        [*static.glob("css/*.css")],
    )
    pages = [*(WEB / "templates").rglob("*.html")]
    assert len(scripts) > 20 and len(styles) > 20 and len(pages) > 90
    return [*scripts, *styles, *pages]


@pytest.mark.parametrize("layer", ALLOWED)
def test_imports_point_one_way(layer: str) -> None:
    for path in modules(layer):
        own = {name for name in imports(path) if name.split(".")[0] == "hale_rail"}
        layers = {"" if name == "hale_rail.__version__" else name.split(".")[1] for name in own}
        assert layers <= ALLOWED[layer], f"{path} imports {layers - ALLOWED[layer]}"


def test_actions_ask_stages_for_the_bench_pages_line_only() -> None:
    for path in modules("actions"):
        asked = {name for name in imports(path) if name.startswith("hale_rail.stages")}
        assert asked <= {"hale_rail.stages.frame.bench"}, path


@pytest.mark.parametrize("floor", SHARED)
def test_a_feature_has_one_name_on_every_floor(floor: str) -> None:
    written = {path for path in (ROOT / floor).rglob("*.*") if path.suffix != ".pyc"}
    folders = {path.relative_to(ROOT / floor).parts[0] for path in written if path.is_file()}
    folders = {name for name in folders if (ROOT / floor / name).is_dir()}
    assert folders - FEATURES == SHARED[floor]


def test_every_module_is_of_a_layer() -> None:
    layers = {path.stem for path in ROOT.iterdir() if path.suffix == ".py" or path.is_dir()}
    assert layers - {"__init__", "__main__", "__pycache__", "knowledge"} <= set(ALLOWED)


def test_core_is_pure() -> None:
    """No I/O, clock, framework or database; nothing from outside but numbers and records."""
    for path in modules("core"):
        for name in imports(path):
            top = name.split(".")[0]
            assert top not in NOT_IN_CORE, f"{path} imports {name}"
            assert top in sys.stdlib_module_names or top in CORE_OUTSIDE | {"hale_rail"}, path
        called = {
            node.func.id
            for node in nodes(path)
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
        }
        assert not called & {"open", "print", "input"}, path


def test_the_model_and_the_simulator_know_nothing_of_each_other() -> None:
    """Each checks the other: neither is written from the other's figures."""
    for one, other in (("core/diagnosis", "core/simulate"), ("core/simulate", "core/diagnosis")):
        files = sorted((ROOT / one).rglob("*.py"))
        assert files
        name = "hale_rail." + other.replace("/", ".")
        for path in files:
            assert name not in path.read_text(encoding="utf-8"), path


@cache
def arrows() -> dict[str, set[str]]:
    """Each of our modules with those of ours that it imports."""
    known = {
        ".".join(path.relative_to(ROOT.parent).with_suffix("").parts).removesuffix(
            ".__init__"
        ): path
        for path in ROOT.rglob("*.py")
    }
    return {
        name: {
            other if other in known else other.rpartition(".")[0]
            for other in imports(path, by_name=True)
        }
        & set(known)
        for name, path in known.items()
    }


def test_imports_go_no_rings() -> None:
    """Among our modules none comes back to itself, so that each can be read on its own."""
    assert len(arrows()) > 500
    TopologicalSorter(arrows()).prepare()


def test_the_packages_of_core_stand_on_one_another_in_one_order() -> None:
    core = {name: below for name, below in arrows().items() if name.startswith("hale_rail.core.")}
    packages: dict[str, set[str]] = {}
    for name, below in core.items():
        own = name.split(".")[2]
        others = {other.split(".")[2] for other in below & set(core)}
        packages.setdefault(own, set()).update(others - {own})
    assert len(packages) > 10
    TopologicalSorter(packages).prepare()


def test_only_the_store_speaks_sql() -> None:
    for layer in set(ALLOWED) - {"store"}:
        for path in modules(layer):
            text = path.read_text(encoding="utf-8")
            has_sql = any(word in text for word in ("SELECT ", "INSERT INTO", "PRAGMA "))
            assert not has_sql, f"{path} holds SQL"
            # a transaction's connection is passed on; only the store opens one
            uses = "sqlite3" in imports(path)
            assert not uses or (layer in ("actions", "case") and "sqlite3.connect" not in text), (
                path
            )


@pytest.mark.parametrize("layer", LOOKING)
def test_looking_writes_nothing(layer: str) -> None:
    for path in modules(layer):
        assert ".write()" not in path.read_text(encoding="utf-8"), path


def test_the_errors_are_drawn_as_they_are() -> None:
    drawing = errors.__doc__ or ""
    drawn = [line.strip("│├└─ ").split()[0] for line in drawing.splitlines() if "Error" in line]
    assert sorted(drawn[1:] if drawn[0] == "Every" else drawn) == sorted(errors.__all__)
    for name in errors.__all__:
        assert issubclass(getattr(errors, name), errors.HaleRailError)


def test_pages_carry_no_inline_script_or_style() -> None:
    """The Content-Security-Policy forbids them; a template that uses one would silently fail."""
    for path in (path for path in ours() if path.suffix == ".html"):
        text = path.read_text(encoding="utf-8")
        assert "<style" not in text, path
        assert " style=" not in text, path
        assert not re.search(r"\son[a-z]+=", text), path
        for line in text.splitlines():
            assert "<script" not in line or "src=" in line or "src=" in text, path


def test_nothing_is_fetched_from_elsewhere() -> None:
    for path in ours():
        text = path.read_text(encoding="utf-8").replace(SVG_NAMESPACE, "")
        assert "http://" not in text, path
        assert "https://" not in text, path
    static = WEB / "static"
    for vendored in (*static.glob("vendor/*"), *static.glob("fonts/*.woff2")):
        folder = vendored if vendored.is_dir() else vendored.parent
        assert list(folder.glob("LICENSE*")), vendored


def test_pages_are_written_to_be_read() -> None:
    """Lines of at most 120 characters; in styles one declaration a line."""
    for path in ours():
        lines = path.read_text(encoding="utf-8").splitlines()
        assert lines, path
        for number, line in enumerate(lines, 1):
            assert len(line) <= 120, f"{path}:{number}"
            if path.suffix == ".css" and "url(" not in line:
                bare = re.sub(r'"[^"]*"', "", line)
                assert bare.count(";") <= 1, f"{path}:{number}"


def test_modules_stay_short() -> None:
    scripts = [path for path in ours() if path.suffix == ".js"]
    for path in [*ROOT.rglob("*.py"), *Path(__file__).parent.rglob("*.py"), *scripts]:
        assert len(path.read_text(encoding="utf-8").splitlines()) <= 400, path


def class_words() -> set[str]:
    """Every word that may be a class: in class attributes, and in texts that code puts there."""
    texts: list[str] = []
    for path in ours():
        text = path.read_text(encoding="utf-8")
        if path.suffix == ".html":
            texts += re.findall(r'class="([^"]*)"', text)
            texts += re.findall(r"body_class %}([^{]*){", text)
            texts += re.findall(r"'([^']*)'", text)
        elif path.suffix == ".js":
            texts += re.findall(r"[\"'`]([^\"'`\n]*)[\"'`]", text)
    for layer in ("web", "stages", "case", "core"):
        for path in modules(layer):
            strings = [n.value for n in nodes(path) if isinstance(n, ast.Constant)]
            said = [text for text in strings if isinstance(text, str)]
            texts += [t for t in said if "class=" in t or re.fullmatch(r"[\w -]{1,60}", t)]
    return {word for text in texts for word in re.findall(r"[\w-]+", text)}


def test_every_style_is_used() -> None:
    """A class that only a stylesheet knows is dead."""
    words = class_words()
    beginnings = tuple(word for word in words if word.endswith("-") and len(word) > 3)
    named: dict[str, str] = {}
    for path in (path for path in ours() if path.suffix == ".css"):
        bare = re.sub(
            r"/\*.*?\*/|url\([^)]*\)|\"[^\"]*\"", "", path.read_text(encoding="utf-8"), flags=re.S
        )
        named |= dict.fromkeys(re.findall(r"\.([a-zA-Z][\w-]*)", bare), path.name)
    assert len(named) > 300
    dead = {n: at for n, at in named.items() if n not in words and not n.startswith(beginnings)}
    assert not dead


def test_a_drawings_paint_is_no_class_of_a_page() -> None:
    """`.middle` once made a centred word a region that scrolls."""
    css = WEB / "static" / "css"
    paints = set(
        re.findall(r"^\.drawn \.([\w-]+)", (css / "drawings.css").read_text("utf-8"), re.M)
    )
    assert len(paints) > 12
    bootstrap = next((css.parent / "vendor").glob("bootstrap-*/*.min.css"))
    for sheet in (bootstrap, *css.glob("*.css")):
        bare = set(re.findall(r"(?:^ *|[,}])\.([\w-]+)(?=\s*[,{])", sheet.read_text("utf-8"), re.M))
        assert not paints & bare - {"digits"}, sheet.name
