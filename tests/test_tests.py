"""A test asserts at its own level: not only under an `if`, nor only in a loop over what was
computed, which may be empty."""

from __future__ import annotations

import ast
from collections.abc import Iterator, Sequence
from pathlib import Path

import pytest

HERE = Path(__file__).parent
FILES = sorted(HERE.rglob("test_*.py"))
#: calls whose loop runs as often as what they are given has entries
_OVER = {"enumerate", "zip", "reversed", "sorted", "list", "tuple", "pairwise", "product", "range",
         "permutations", "combinations", "items", "values", "keys"}  # fmt: skip


def is_full(iterated: ast.expr, helpers: frozenset[str]) -> bool:
    """True for what cannot be empty: a literal with entries, a constant by its name, a range, and
    what a helper gives that asserts."""
    match iterated:
        case ast.Tuple() | ast.List() | ast.Set():
            return bool(iterated.elts)
        case ast.Dict():
            return bool(iterated.keys)
        case ast.Constant():
            return bool(iterated.value)
        case ast.Name(id=name) | ast.Attribute(attr=name):
            return name.isupper() or name[0].isupper()
        case ast.BinOp():
            return is_full(iterated.left, helpers) or is_full(iterated.right, helpers)
        case ast.Subscript():
            return is_full(iterated.value, helpers)
        case ast.GeneratorExp(generators=[one]):
            return is_full(one.iter, helpers)
        case ast.Call(func=ast.Name(id=name)) if name in {"range", *helpers}:
            return True
        case ast.Call(func=ast.Name(id=name) | ast.Attribute(attr=name)) if name in _OVER:
            given = iterated.args or [getattr(iterated.func, "value", iterated)]
            return all(is_full(one, helpers) for one in given if one is not iterated)
    return False


def asserts(body: Sequence[ast.stmt], helpers: frozenset[str]) -> bool:
    """True where one of these statements asserts whenever it is reached."""
    return any(_asserts(one, helpers) for one in body)


def _asserts(one: ast.stmt, helpers: frozenset[str]) -> bool:
    match one:
        case ast.Assert():
            return True
        case ast.With():
            is_raising = any("raises" in ast.unparse(item.context_expr) for item in one.items)
            return is_raising or asserts(one.body, helpers)
        case ast.Try():
            return asserts([*one.body, *one.finalbody, *one.orelse], helpers)
        case ast.For():
            return is_full(one.iter, helpers) and asserts(one.body, helpers)
        case ast.If():
            return asserts(one.body, helpers) and asserts(one.orelse, helpers)
        case ast.Expr(value=ast.Call()) | ast.Assign(value=ast.Call()):
            called = ast.unparse(one.value.func)
            return "expect(" in called or called.split(".")[-1] in helpers
    return False


def functions(tree: ast.Module) -> Iterator[ast.FunctionDef]:
    return (one for one in ast.walk(tree) if isinstance(one, ast.FunctionDef))


def helpers_of(trees: Sequence[ast.Module]) -> frozenset[str]:
    """Names of functions that assert by themselves, or by calling one that does."""
    known: frozenset[str] = frozenset()
    while True:
        more = {f.name for tree in trees for f in functions(tree) if asserts(f.body, known)}
        if more <= known:
            return known
        known |= more


@pytest.fixture(scope="module")
def shared() -> frozenset[str]:
    """What modules without tests of their own give to tests."""
    others = [path for path in HERE.rglob("*.py") if path not in FILES]
    return helpers_of([ast.parse(path.read_text(encoding="utf-8")) for path in others])


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(HERE)))
def test_a_test_asserts_whatever_it_finds(path: Path, shared: frozenset[str]) -> None:
    tree = ast.parse(path.read_text(encoding="utf-8"))
    known = shared | helpers_of([tree])
    tests = [one for one in functions(tree) if one.name.startswith("test_")]
    empty = [f"{one.name}, line {one.lineno}" for one in tests if not asserts(one.body, known)]
    assert not empty
